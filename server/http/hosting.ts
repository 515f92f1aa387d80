import { readFileSync } from 'node:fs';
import ipaddr from 'ipaddr.js';
import { element } from '#core/catalogue';
import { builtFile } from '../built.ts';
import { bareAddress } from './address.ts';

/** Addresses that are remembered: the same ones ask again and again, machines above all. */
const mostKnown = 10_000;

/** Whether an address belongs to a hosting network, where machines stand and hardly ever people; undefined where nobody can tell. */
export type IsHosting = (address: string) => boolean | undefined;

/** Ranges of addresses, in their order, each of some words of 32 bits. */
interface Ranges {
  readonly width: 1 | 4;
  readonly from: Uint32Array;
  readonly until: Uint32Array;
  /** The autonomous system that announces each. */
  readonly numbers: Uint32Array;
}

/** The table that the build makes: see `scripts/asTable.mjs`. */
interface AsTable {
  readonly hosting: ReadonlySet<number>;
  readonly kinds: readonly [four: Ranges, six: Ranges];
}

const readTable = (file: Uint8Array<ArrayBuffer>): AsTable => {
  const words = new Uint32Array(file.buffer, file.byteOffset, file.byteLength / 4);
  let at = 0;
  const take = (count: number): Uint32Array => {
    if (at + count > words.length)
      throw new Error('The table of AS numbers ends too early. Build Fernhop again.');
    return words.subarray(at, (at += count));
  };
  const count = (): number => element(take(1)[0]);
  const ranges = (width: 1 | 4): Ranges => {
    const all = count();
    return { width, from: take(all * width), until: take(all * width), numbers: take(all) };
  };
  return { hosting: new Set(take(count())), kinds: [ranges(1), ranges(4)] };
};

const compare = (bounds: Uint32Array, n: number, width: number, address: Uint32Array): number => {
  for (let i = 0; i < width; i++) {
    const difference = element(bounds[n * width + i]) - element(address[i]);
    if (difference !== 0) return difference;
  }
  return 0;
};

/** The autonomous system of an address; undefined where nobody announces it. */
const numberOf = ({ width, from, until, numbers }: Ranges, address: Uint32Array): number | undefined => {
  let [low, high] = [0, numbers.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (compare(from, middle, width, address) <= 0) low = middle + 1;
    else high = middle;
  }
  return low > 0 && compare(until, low - 1, width, address) >= 0 ? numbers[low - 1] : undefined;
};

const wordsOf = (bytes: readonly number[]): Uint32Array => {
  const view = new DataView(Uint8Array.from(bytes).buffer);
  return Uint32Array.from({ length: bytes.length / 4 }, (_, i) => view.getUint32(i * 4));
};

/** What a person says of hosting networks beside the table. */
interface OwnNetworks {
  readonly numbers: ReadonlyMap<number, boolean>;
  readonly ranges: readonly {
    readonly block: [ipaddr.IPv4 | ipaddr.IPv6, number];
    readonly isHosting: boolean;
  }[];
}

/**
 * Reads a person's own list: an AS number (`AS64500`) or a block of addresses (`203.0.113.0/24`) a line; with `!` in front it is none.
 *
 * @throws Error naming the line that is neither
 */
export const readHostingList = (text: string): OwnNetworks => {
  const numbers = new Map<number, boolean>();
  const ranges: { block: [ipaddr.IPv4 | ipaddr.IPv6, number]; isHosting: boolean }[] = [];
  for (const [n, line] of text.split(/\r?\n/).entries()) {
    const said = line.replace(/#.*/, '').trim();
    if (said === '') continue;
    const isHosting = !said.startsWith('!');
    const what = said.replace(/^!\s*/, '');
    const number = /^AS(\d{1,10})$/i.exec(what)?.[1];
    if (number !== undefined) numbers.set(Number(number), isHosting);
    else if (ipaddr.isValidCIDR(what)) ranges.push({ block: ipaddr.parseCIDR(what), isHosting });
    else
      throw new Error(
        `Line ${n + 1} of the list of hosting networks, “${said.slice(0, 60)}”, is neither an AS number such as AS64500 nor a block of addresses such as 203.0.113.0/24.`,
      );
  }
  return { numbers, ranges };
};

const isIn = (
  address: ipaddr.IPv4 | ipaddr.IPv6,
  [net, bits]: [ipaddr.IPv4 | ipaddr.IPv6, number],
): boolean => address.kind() === net.kind() && address.match(net as never, bits); // of the same kind, as was just seen

const textOf = (path: string): string => {
  try {
    return readFileSync(path, 'utf8');
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    throw new Error(
      `The list of hosting networks that HOSTING_NETWORKS names cannot be read (${why}). Name another file, or “none”.`,
      { cause: error },
    );
  }
};

/**
 * Opens what tells hosting networks: the table that ships, and the person's own list over it.
 *
 * @param path of the list; `none` where nothing is to be looked up
 * @throws Error when the list cannot be read
 */
export const openHosting = (path: string | undefined): IsHosting => {
  if (path === 'none') return () => undefined;
  const own = path === undefined ? undefined : readHostingList(textOf(path));
  const file = readFileSync(builtFile('asTable.bin'));
  const { hosting, kinds } = readTable(Uint8Array.from(file));
  const find: IsHosting = (text) => {
    if (!ipaddr.isValid(text)) return undefined;
    const address = ipaddr.parse(text);
    const said = own?.ranges.findLast(({ block }) => isIn(address, block));
    if (said) return said.isHosting;
    const number = numberOf(kinds[address.kind() === 'ipv4' ? 0 : 1], wordsOf(address.toByteArray()));
    if (number === undefined) return undefined;
    return own?.numbers.get(number) ?? hosting.has(number);
  };
  const known = new Map<string, boolean | undefined>();
  return (address) => {
    if (known.has(address)) return known.get(address);
    if (known.size >= mostKnown) known.clear();
    const found = find(bareAddress(address));
    known.set(address, found);
    return found;
  };
};
