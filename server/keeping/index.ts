export { startKeeping } from './keeping.ts';
