import type { Link, Network, Program } from '#core/catalogue';
import { networkRecord } from '../index.ts';

/** A network that ships, as one of the register's. */
export const networkOf = (name: string): Network =>
  networkRecord(name, 'net_a', { key: 'a'.repeat(24), pixelKey: 'b'.repeat(24) });

/** A joined program of that network. */
export const programRecord = (more: Partial<Program> = {}): Program => ({
  id: 'prg_polehouse',
  network: 'net_a',
  name: 'Polehouse Optics',
  code: '2093',
  hosts: ['polehouse.example'],
  state: 'joined',
  ...more,
});

/** A link with little more than its destination. */
export const linkRecord = (more: Partial<Link> & Pick<Link, 'destination'>): Link => ({
  id: 'lnk_a',
  domain: 'dom_a',
  slug: 'a',
  aliases: [],
  title: 'A',
  asText: [],
  hop: {},
  marks: {},
  notes: '',
  createdAt: 0,
  ...more,
});
