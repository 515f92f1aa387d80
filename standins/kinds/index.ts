import type { Kind } from '../network/kind.ts';
import { harrowmead } from './harrowmead.ts';
import { kelvane } from './kelvane.ts';
import { osprenet } from './osprenet.ts';
import { vennor } from './vennor.ts';

export { harrowmead } from './harrowmead.ts';
export { kelvane } from './kelvane.ts';
export { osprenet } from './osprenet.ts';
export { vennor } from './vennor.ts';

/** The simulated networks, each as awkward as a real one in its own way. */
export const kinds: readonly Kind[] = [harrowmead, kelvane, osprenet, vennor];
