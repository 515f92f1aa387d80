import type { Network } from '#core/catalogue';
import { newId, newSecret } from '../data/random.ts';

/** A network of one's own, with keys of its own and a postback of which nothing is known yet. */
export const newNetwork = (known: Omit<Network, 'id' | 'postback'>): Network => ({
  ...known,
  id: newId('net'),
  postback: {
    key: newSecret(),
    pixelKey: newSecret(),
    placeholders: {},
    fields: {},
    statuses: {},
    amounts: 'replace',
  },
});
