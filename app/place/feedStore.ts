import type { DBSchema } from 'idb';
import { openDB } from 'idb';
import type { FeedProduct, ProductIndex } from '#core/placing';
import { connectionsOf } from '../sync/index.ts';

/** A shop's feed as it is kept in this browser. */
export interface FeedAbout {
  /** Whose products these are. */
  readonly program: string;
  readonly file: string;
  /** When it was brought, in milliseconds since 1970 UTC. */
  readonly at: number;
  readonly format: string;
  readonly products: number;
  readonly unread: number;
}

/** Its products as a file of lines of JSON, where each line begins, and the index by which lines are found. */
interface FeedData {
  readonly program: string;
  readonly at: number;
  readonly lines: Blob;
  readonly starts: Uint32Array;
  readonly index: ProductIndex;
  /** What could not be read, as CSV. */
  readonly unread: Blob;
}

interface Schema extends DBSchema {
  about: { key: string; value: FeedAbout };
  data: { key: string; value: FeedData };
}

let opening: ReturnType<typeof open> | undefined;
const open = () =>
  openDB<Schema>('fernhop-feeds', 1, {
    upgrade: (db) => {
      db.createObjectStore('about', { keyPath: 'program' });
      db.createObjectStore('data', { keyPath: 'program' });
    },
  });
const database = () => {
  const made = (opening ??= open());
  made.catch(() => (opening = undefined));
  return made;
};
// The storage is one for all databases of this site: where it failed, it is opened anew once nobody holds any of them.
connectionsOf('fernhop').onmessage = () => {
  void opening?.then((db) => {
    db.close();
  });
  opening = undefined;
};

/** Feeds by their program, as other windows may have changed them since. */
export const allFeeds = async (): Promise<FeedAbout[]> => (await database()).getAll('about');
export const feedData = async (program: string): Promise<FeedData | undefined> =>
  (await database()).get('data', program);

/** Keeps a feed in the place of an earlier one of the same program; both, or neither. */
export const keepFeed = async (about: FeedAbout, data: Omit<FeedData, 'program' | 'at'>): Promise<void> => {
  const tx = (await database()).transaction(['about', 'data'], 'readwrite');
  const { program, at } = about;
  await Promise.all([
    tx.objectStore('about').put(about),
    tx.objectStore('data').put({ ...data, program, at }),
    tx.done,
  ]);
};
export const dropFeed = async (program: string): Promise<void> => {
  const tx = (await database()).transaction(['about', 'data'], 'readwrite');
  await Promise.all([
    tx.objectStore('about').delete(program),
    tx.objectStore('data').delete(program),
    tx.done,
  ]);
};

const pieceBytes = 4 << 20;

/** Gathers products as lines of a file that is longer than memory should hold. */
export const makeLines = () => {
  const encoder = new TextEncoder();
  const pieces: Blob[] = [];
  let starts = new Uint32Array(1 << 16);
  let count = 0;
  let bytes = 0;
  let waiting: Uint8Array<ArrayBuffer>[] = [];
  let waitingBytes = 0;
  const flush = () => {
    pieces.push(new Blob(waiting));
    waiting = [];
    waitingBytes = 0;
  };
  const setStart = () => {
    if (count === starts.length) {
      const longer = new Uint32Array(count * 2);
      longer.set(starts);
      starts = longer;
    }
    starts[count++] = bytes;
  };
  return {
    add: (product: FeedProduct): void => {
      setStart();
      const line = encoder.encode(`${JSON.stringify(product)}\n`);
      bytes += line.length;
      waiting.push(line);
      waitingBytes += line.length;
      if (waitingBytes > pieceBytes) flush();
    },
    /** The file, and where each line begins, with its end as one more. */
    build: (): { lines: Blob; starts: Uint32Array } => {
      flush();
      setStart();
      return { lines: new Blob(pieces), starts: starts.slice(0, count) };
    },
  };
};

/** A line of such a file. */
export const lineAt = async (lines: Blob, starts: Uint32Array, row: number): Promise<FeedProduct> =>
  // What is in the file was written by `makeLines`.
  JSON.parse(await lines.slice(starts[row], starts[row + 1]).text()) as FeedProduct;
