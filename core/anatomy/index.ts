export type { Anatomy, ReadPair } from './read.ts';
export { fillSlots, proposeTitle, readLink } from './read.ts';
export type { RoleGuess } from './roles.ts';
export type { KnownNetwork } from './shipped.ts';
export { knownNetworks } from './shipped.ts';
export type { Pair, Part, Split } from './split.ts';
export { decodeValue, fillParameters, hostOf, splitLink } from './split.ts';
