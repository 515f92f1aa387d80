import { expose } from 'comlink';
import type { FeedEncoding, FeedHead, UnreadRow } from '#core/formats';
import { openFeed, readFeed, writeTable } from '#core/formats';
import type { FeedChoices, FeedProduct, FeedReading, ProductIndex } from '#core/placing';
import { makeProductFinder, makeProductIndex, makeProductReader, readFeedColumns } from '#core/placing';
import type { FeedAbout } from './feedStore.ts';
import { allFeeds, dropFeed, feedData, keepFeed, lineAt, makeLines } from './feedStore.ts';

/** How a file looks, how it would be read, and what its first products are then. */
export interface FeedLook {
  readonly format: string;
  readonly encoding: FeedEncoding;
  readonly broken: number;
  readonly header: readonly string[];
  /** What stands under each heading in the first row that has something there. */
  readonly examples: readonly string[];
  readonly reading: FeedReading;
  readonly first: readonly FeedProduct[];
}

/** What came of reading a whole file. */
export interface FeedSummary {
  readonly products: number;
  readonly unread: number;
  readonly shownUnread: readonly UnreadRow[];
  /** How many products lack something that could not be read, and the first reasons. */
  readonly doubts: number;
  readonly shownDoubts: readonly string[];
}

/** A product that was found in a feed. */
export interface FoundProduct {
  readonly program: string;
  readonly row: number;
  readonly product: FeedProduct;
}

/** What a product that was picked is known by. */
export interface PickedProduct {
  readonly id: string;
  readonly program: string;
  readonly name: string;
  readonly code: string;
  readonly page: string;
}

const [shownUnread, shownDoubts, firstProducts] = [12, 5, 3];
/** More rows that could not be read are counted, and not kept. */
const mostUnread = 100_000;
const unzipped = (file: Blob): ReadableStream<Uint8Array> =>
  file.stream().pipeThrough(new DecompressionStream('gzip'));

let file: Blob | undefined;
let isPacked = false;
let head: FeedHead | undefined;
let usual = '';
let zone = 'UTC';
let pending: { readonly summary: FeedSummary; readonly data: Parameters<typeof keepFeed>[1] } | undefined;

async function* bytesOf(blob: Blob): AsyncGenerator<Uint8Array> {
  const reader = (isPacked ? unzipped(blob) : blob.stream()).getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    yield value;
  }
}
const lookWith = (choices: FeedChoices): FeedLook => {
  if (!head) throw new Error('No file was opened.');
  const { header, sample, format, encoding, broken } = head;
  const reading = readFeedColumns(header, sample, usual, choices);
  const read = makeProductReader(header, reading, zone);
  const first = sample.slice(0, 200).flatMap((cells) => {
    const found = read(cells);
    return found.ok ? [found.product] : [];
  });
  return {
    format,
    encoding,
    broken,
    header,
    examples: header.map(
      (_, i) => sample.find((row) => (row[i] ?? '').trim() !== '')?.[i]?.slice(0, 120) ?? '',
    ),
    reading,
    first: first.slice(0, firstProducts),
  };
};

/** The index of a feed in memory; let go where another window brought a newer one. */
const loaded = new Map<
  string,
  {
    readonly at: number;
    readonly index: ProductIndex;
    readonly find: ReturnType<typeof makeProductFinder>;
    readonly line: (row: number) => Promise<FeedProduct>;
  }
>();
const load = async ({ program, at }: FeedAbout) => {
  const known = loaded.get(program);
  if (known?.at === at) return known;
  const data = await feedData(program);
  if (!data) return undefined;
  const { lines, starts, index } = data;
  const found = {
    at,
    index,
    find: makeProductFinder(index),
    line: (row: number) => lineAt(lines, starts, row),
  };
  loaded.set(program, found);
  return found;
};

const api = {
  /**
   * Opens a file, and says how it would be read.
   *
   * @param currency that a sign of several most likely means
   */
  open: async (
    picked: File,
    currency: string,
    ownZone: string,
    encoding?: FeedEncoding,
  ): Promise<FeedLook | { readonly problem: string }> => {
    head = undefined;
    pending = undefined;
    file = picked;
    usual = currency;
    zone = ownZone;
    const [first, second] = new Uint8Array(await picked.slice(0, 2).arrayBuffer());
    isPacked = first === 0x1f && second === 0x8b;
    try {
      const opened = await openFeed(() => bytesOf(picked), encoding);
      if (!opened.ok) return { problem: opened.message };
      ({ head } = opened);
      return lookWith({});
    } catch (error) {
      return {
        problem: `This file cannot be read: ${error instanceof Error ? error.message : String(error)}. It may have been cut off; download it again.`,
      };
    }
  },
  /** How it would be read with what a person said. */
  look: lookWith,
  /** Reads the whole file; what comes of it waits until it is kept. */
  read: async (choices: FeedChoices, onProgress: (products: number) => void): Promise<FeedSummary> => {
    if (!file || !head) throw new Error('No file was opened.');
    const opened = file;
    const read = makeProductReader(head.header, lookWith(choices).reading, zone);
    const lines = makeLines();
    const index = makeProductIndex();
    const bad: UnreadRow[] = [];
    const reasons: string[] = [];
    let [products, unread, doubts] = [0, 0, 0];
    const setAside = (row: UnreadRow) => {
      unread += 1;
      if (bad.length < mostUnread) bad.push(row);
    };
    const delimiter = head.delimiter ?? ' | ';
    for await (const batch of readFeed(() => bytesOf(opened), head)) {
      for (const row of batch.unread) setAside(row);
      for (const { line, cells } of batch.rows) {
        const found = read(cells);
        if (!found.ok) {
          setAside({ line, text: cells.join(delimiter).slice(0, 4000), why: found.why });
          continue;
        }
        if (found.doubt !== '') {
          doubts += 1;
          if (reasons.length < shownDoubts) reasons.push(`${found.product.name}: ${found.doubt}.`);
        }
        lines.add(found.product);
        index.add(found.product);
        products += 1;
      }
      onProgress(products);
    }
    const summary = {
      products,
      unread,
      shownUnread: bad.slice(0, shownUnread),
      doubts,
      shownDoubts: reasons,
    };
    const table = writeTable(
      ['Line', 'Why', 'Row'],
      bad.map(({ line, why, text }) => [line, why, text]),
    );
    pending = {
      summary,
      data: { ...lines.build(), index: index.build(), unread: new Blob([table], { type: 'text/csv' }) },
    };
    return summary;
  },
  /** Keeps what was read as the feed of a program, in the place of an earlier one. */
  keep: async (program: string, name: string, at: number): Promise<void> => {
    if (!pending || !head) throw new Error('Nothing was read.');
    const { summary, data } = pending;
    const { products, unread } = summary;
    await keepFeed({ program, file: name, at, format: head.format, products, unread }, data);
    pending = undefined;
    file = undefined;
  },
  feeds: allFeeds,
  drop: async (program: string): Promise<void> => {
    loaded.delete(program);
    await dropFeed(program);
  },
  /** The rows of a kept feed that could not be read, as CSV. */
  unread: async (program: string): Promise<Blob | undefined> => (await feedData(program))?.unread,
  /** Finds products in every feed by words or codes: how many there are, and the first of them. */
  find: async (
    text: string,
    most: number,
  ): Promise<{ readonly count: number; readonly found: readonly FoundProduct[] }> => {
    const feeds = await Promise.all(
      (await allFeeds()).map(async (about) => ({ about, held: await load(about) })),
    );
    let count = 0;
    const found: FoundProduct[] = [];
    for (const { about, held } of feeds) {
      if (!held) continue;
      const hits = held.find(text, most);
      count += hits.count;
      const room = hits.rows.slice(0, most - found.length);
      found.push(
        ...(await Promise.all(
          room.map(async (row) => ({ program: about.program, row, product: await held.line(row) })),
        )),
      );
    }
    return { count, found };
  },
  /** What the feeds say now of products that were picked: by their code at their shop, else by their page. */
  again: async (
    picked: readonly PickedProduct[],
  ): Promise<{ readonly id: string; readonly product: FeedProduct }[]> => {
    const feeds = new Map((await allFeeds()).map((about) => [about.program, about]));
    const found: { id: string; product: FeedProduct }[] = [];
    for (const { id, program, name, code, page } of picked) {
      const about = feeds.get(program);
      const held = about && (await load(about));
      if (!held) continue;
      const rows = await Promise.all(held.find(code === '' ? name : code, 40).rows.map(held.line));
      const same = rows.filter((row) => (code === '' ? row.page === page : row.code === code));
      // Of several with one code it is the one with its page; else nobody knows which.
      const one = same.length === 1 ? same[0] : same.find((row) => row.page === page);
      if (one) found.push({ id, product: one });
    }
    return found;
  },
};
export type FeedsWorker = typeof api;

expose(api);
