import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream, existsSync } from 'node:fs';
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { finished, pipeline } from 'node:stream/promises';
import { createGunzip } from 'node:zlib';
import { extract } from 'tar-stream';
import * as v from 'valibot';
import { check, firstProblem } from '#core/catalogue';
import { dataFormat, giveToOwner, lockFolder, readIfThere, replaceFile, syncFolder } from '../dataDir.ts';
import { isErased, readErasures } from '../erasures.ts';
import { Chain, verifyJournal } from '../journal/index.ts';
import type { Manifest } from './contents.ts';
import { isContent, manifest, manifestName, placesOf, sumsName } from './contents.ts';

/** Where a backup is unpacked and checked, in the data folder itself: only there its files can take their places at once. */
const workName = 'restoring';
/** Once this stands in it, the restore is carried through, by whoever comes next if need be. */
const planName = 'plan.json';

const plan = v.strictObject({
  /** What takes its place in the data folder. */
  places: v.array(v.string()),
  /** The folder that what was there before goes into. */
  aside: v.string(),
});

export interface RestoreOptions {
  readonly data: string;
  readonly from: string;
  /** Put it back although its journal is not what was sealed. */
  readonly evenIfBroken: boolean;
  /** Put it back although the folder holds another server's data. */
  readonly evenIfOther: boolean;
  /** A file of erasures made elsewhere since, such as that of the folder the backup was made of. */
  readonly erasures?: string | undefined;
  /** Milliseconds since 1970 UTC. */
  readonly now: number;
}

export interface Restored {
  readonly manifest: Manifest;
  readonly records: number;
  /** The folder with what was there before; undefined where nothing was. */
  readonly aside: string | undefined;
  /** Mail addresses that were put back, and those that were erased again. */
  readonly mailAddresses: number;
  readonly erasedAgain: number;
  /** What is wrong with it, where it was put back all the same. */
  readonly problems: readonly string[];
}

/** Unpacks a backup and holds every entry against its sum; gives the names of what it holds. */
const unpack = async (from: string, into: string): Promise<string[]> => {
  const sums = new Map<string, string>();
  let told = '';
  const archive = extract();
  archive.on('entry', (header, stream, next) => {
    const take = async () => {
      const { name, type } = header;
      if (type !== 'file' || !(name === manifestName || name === sumsName || isContent(name)))
        throw new Error(`it holds "${name}", which no backup of Fernhop does`);
      if (sums.has(name)) throw new Error(`it holds ${name} twice`);
      if (name === sumsName) {
        const pieces: Buffer[] = [];
        for await (const piece of stream) pieces.push(piece as Buffer); // a stream without encoding gives buffers
        told = Buffer.concat(pieces).toString('utf8');
        return;
      }
      const path = join(into, name);
      await mkdir(dirname(path), { recursive: true, mode: 0o700 });
      const hash = createHash('sha256');
      stream.on('data', (piece: Buffer) => hash.update(piece));
      await pipeline(stream, createWriteStream(path, { mode: 0o600, flush: true }));
      sums.set(name, hash.digest('hex'));
    };
    take().then(
      () => next(),
      (error: unknown) => archive.destroy(error instanceof Error ? error : new Error(String(error))),
    );
  });
  const read = pipeline(createReadStream(from), createGunzip(), archive);
  await Promise.all([read, finished(archive)]);
  const expected = [...sums].map(([name, sum]) => `${sum}  ${name}\n`).join('');
  if (told === '') throw new Error('it ends before its sums: it is not whole');
  if (told !== expected) {
    const lines = new Set(told.split('\n'));
    const wrong = [...sums].find(([name, sum]) => !lines.has(`${sum}  ${name}`));
    throw new Error(
      wrong ? `${wrong[0]} is not what was backed up: its sum is another` : 'something of it is missing',
    );
  }
  return [...sums.keys()].filter((name) => name !== manifestName);
};

const readManifest = async (path: string): Promise<Manifest> => {
  const read = check(manifest, JSON.parse(await readFile(path, 'utf8')));
  if (!read.ok) throw new Error(`its ${manifestName} cannot be read: ${firstProblem(read)}`);
  const { format } = read.value;
  if (format > dataFormat)
    throw new Error(
      `it is in format ${format}, and this Fernhop reads up to format ${dataFormat}. Install the version that wrote it, or a newer one`,
    );
  return read.value;
};

/** Reads every change of a feed, as the server will. */
const checkFeed = async (path: string): Promise<void> => {
  const text = await readFile(path, 'utf8');
  for (const [i, line] of text.split('\n').entries())
    if (line !== '')
      try {
        JSON.parse(line);
      } catch {
        throw new Error(`changes.ndjson, line ${i + 1}, is no change`);
      }
};

/** Erases from what is put back all that was erased since; gives how many addresses stay and how many went. */
const repeatErasures = async (
  work: string,
  texts: readonly string[],
): Promise<{ stay: number; went: number }> => {
  const lines = [...new Set(texts.flatMap((text) => text.split('\n')).filter((line) => line !== ''))];
  const erasures = readErasures(lines.join('\n'));
  if (erasures.length > 0)
    await replaceFile(
      join(work, 'erasures.ndjson'),
      erasures.map((one) => `${JSON.stringify(one)}\n`).join(''),
    );
  const path = join(work, 'waiting-list.ndjson');
  const all = (readIfThere(path) ?? '').split('\n').filter((line) => line !== '');
  const stay = all.filter((line) => {
    const { at, link } = JSON.parse(line) as { at: number; link: string }; // written by the waiting list
    return !isErased({ at, link }, erasures);
  });
  if (stay.length < all.length) await replaceFile(path, stay.map((line) => `${line}\n`).join(''));
  return { stay: stay.length, went: all.length - stay.length };
};

/**
 * Carries a restore through that was interrupted after it had begun to replace; clears one away that was interrupted before
 * that. The folder is then as the backup was, or as it was before, and nothing in between. To be called with the folder's
 * lock.
 *
 * @returns true where a restore was carried through
 */
export const finishRestore = async (folder: string): Promise<boolean> => {
  const work = join(folder, workName);
  if (!existsSync(work)) return false;
  const written = readIfThere(join(work, planName));
  if (written === undefined) {
    await rm(work, { recursive: true, force: true });
    return false;
  }
  const { places, aside } = v.parse(plan, JSON.parse(written));
  const asideFolder = join(folder, aside);
  await mkdir(asideFolder, { recursive: true, mode: 0o700 });
  for (const place of places) {
    const fresh = join(work, place);
    // Where it is not here any more, it is in its place already.
    if (!existsSync(fresh)) continue;
    const there = join(folder, place);
    if (existsSync(there)) await rename(there, join(asideFolder, place));
    await syncFolder(asideFolder);
    await rename(fresh, there);
    await syncFolder(folder);
  }
  await syncFolder(folder);
  await rm(work, { recursive: true, force: true });
  await syncFolder(folder);
  return true;
};

/**
 * Puts a backup back into a data folder on which no server runs. It is unpacked beside what is there and checked: every sum,
 * every line, the journal against its chain; only then does it take its place, and what was there goes into a folder of its
 * own. Key and salt of the folder stay. The server's next start begins a new generation, by which browsers offer again what
 * is not in the backup.
 *
 * @throws Error with one clear line; the folder is then as it was
 */
export const restoreBackup = async (options: RestoreOptions): Promise<Restored> => {
  const { data, from, now } = options;
  const unlock = await lockFolder(data);
  const work = join(data, workName);
  try {
    await finishRestore(data);
    await mkdir(work, { recursive: true, mode: 0o700 });
    const names = await unpack(from, work);
    const made = await readManifest(join(work, manifestName));
    await rm(join(work, manifestName));
    for (const needed of ['changes.ndjson', 'journal/identity'])
      if (!names.includes(needed)) throw new Error(`it holds no ${needed}`);
    await checkFeed(join(work, 'changes.ndjson'));

    const { problems, records } = await verifyJournal(join(work, 'journal'), made.seal?.hash);
    if (problems.length > 0 && !options.evenIfBroken)
      throw new Error(
        `its journal is not what was sealed: ${problems.join(' ')} Use an earlier backup, or put it back all the same with --even-if-broken`,
      );
    const before = readIfThere(join(data, 'journal/identity'))?.trim();
    if (before !== undefined && before !== made.identity && !options.evenIfOther)
      throw new Error(
        `it is of another server (${made.identity}) than the data in ${data} (${before}). Give another folder, or put it there all the same with --even-if-other`,
      );

    const more = options.erasures === undefined ? '' : await readFile(options.erasures, 'utf8');
    const { stay, went } = await repeatErasures(work, [
      readIfThere(join(work, 'erasures.ndjson')) ?? '',
      readIfThere(join(data, 'erasures.ndjson')) ?? '',
      more,
    ]);
    const chain = await Chain.open(join(work, 'journal'), made.identity);
    await chain.add({ kind: 'restored', at: now, from: made.at });
    await chain.close();
    await writeFile(join(work, 'format'), `${made.format}\n`, { mode: 0o600, flush: true });

    const places = placesOf([
      ...names,
      'format',
      ...(existsSync(join(work, 'erasures.ndjson')) ? ['erasures.ndjson'] : []),
    ]);
    const hadAny = places.some((place) => existsSync(join(data, place)));
    const aside = `before-restore-${new Date(now).toISOString().replace(/[:.]/g, '-')}`;
    giveToOwner(data, workName);
    await syncFolder(join(work, 'journal'));
    await syncFolder(work);
    await replaceFile(join(work, planName), JSON.stringify({ places, aside }));
    await finishRestore(data);
    if (!hadAny) await rm(join(data, aside), { recursive: true, force: true });
    return {
      manifest: made,
      records,
      aside: hadAny ? join(data, aside) : undefined,
      mailAddresses: stay,
      erasedAgain: went,
      problems,
    };
  } catch (error) {
    // With its plan written it is carried through by the next start, or by the next restore.
    if (!existsSync(join(work, planName))) await rm(work, { recursive: true, force: true });
    throw new Error(`${from} was not put back: ${error instanceof Error ? error.message : String(error)}.`, {
      cause: error,
    });
  } finally {
    unlock();
  }
};
