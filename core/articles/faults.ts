import type { Link } from '#core/catalogue';
import type { FindKind } from './find.ts';
import type { LinkReader, Meaning } from './meaning.ts';

/** What is wrong with a link, wherever it stands. */
export interface Fault {
  readonly kind: Extract<FindKind, 'ended' | 'dead' | 'rule' | 'nowhere' | 'not joined' | 'shop' | 'raw'>;
  /** As a sentence. */
  readonly says: string;
  /** The link that is to stand there in its place. */
  readonly to?: Link | undefined;
}

const longestShown = 300;
/** An address as it is named in a sentence. */
export const shownAddress = (address: string): string =>
  address.length > longestShown ? `${address.slice(0, longestShown - 1)}…` : address;

/** What is wrong with an address of an article, by what it is; undefined where nothing is known to be. */
export const faultOf = (reader: LinkReader, address: string, meaning: Meaning): Fault | undefined => {
  const short = shownAddress(address);
  switch (meaning.kind) {
    case 'other':
      return undefined;
    case 'not joined': {
      const { name, state } = meaning.program;
      return { kind: 'not joined', says: `${name} is ${state}: ${short} earns nothing.` };
    }
    case 'nowhere':
      return { kind: 'nowhere', says: `No link of yours is at ${short}.` };
    case 'shop':
    case 'raw':
      return { kind: meaning.kind, says: short, to: meaning.links[0] };
    case 'ours': {
      const { link, isShort } = meaning;
      const ended = reader.ended(link);
      if (ended) return { kind: 'ended', ...ended };
      const dead = reader.register.dead.get(link.id);
      if (dead !== undefined) return { kind: 'dead', says: dead };
      const forbidden = reader.forbidden(link, isShort);
      return forbidden === undefined ? undefined : { kind: 'rule', says: forbidden, to: link };
    }
  }
};
