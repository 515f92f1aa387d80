export type { PlaceScript } from './placeScript.ts';
export { Scripts } from './scripts.ts';
