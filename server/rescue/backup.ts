import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { open, rename, rm } from 'node:fs/promises';
import { dirname, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { createGzip } from 'node:zlib';
import { pack } from 'tar-stream';
import { dataFormat, dataFormatOf, syncFolder } from '../dataDir.ts';
import { newestSealOf } from '../journal/index.ts';
import type { Content, Manifest } from './contents.ts';
import { closeContents, manifestName, openContents, sumsName } from './contents.ts';

export interface BackupOptions {
  readonly data: string;
  readonly to: string;
  /** Take along the mail addresses that visitors left. */
  readonly mailAddresses: boolean;
  /** Milliseconds since 1970 UTC. */
  readonly now: number;
}

export interface Backup {
  readonly manifest: Manifest;
  readonly files: number;
  /** Bytes of what it holds, and of the file itself. */
  readonly bytes: number;
  readonly packed: number;
}

const chunkBytes = 256 * 1024;

/** How often it is begun again where a file went while it was opened: the server may just have removed old ones. */
const tries = 3;

const openAgain = async (options: BackupOptions): Promise<Content[]> => {
  for (let left = tries; ; left--)
    try {
      return await openContents(options.data, options.mailAddresses);
    } catch (error) {
      if (left > 1 && error instanceof Error && 'code' in error && error.code === 'ENOENT') continue;
      throw new Error(
        `${options.data} cannot be read: ${error instanceof Error ? error.message : String(error)}. Give the server's data folder with --data.`,
        { cause: error },
      );
    }
};

const readAll = async ({ handle, bytes }: Content): Promise<Buffer> => {
  const content = Buffer.alloc(bytes);
  await handle.read(content, 0, bytes, 0);
  return content;
};

/**
 * Writes a backup of a data folder, while a server may be running on it: a compressed tar archive with the journal, its chain
 * and the change feed, without salt, secret and key. It is written beside its name first, so that a backup of before stays
 * until the new one is whole.
 *
 * @throws Error with one clear line; then nothing of it is left
 */
export const makeBackup = async (options: BackupOptions): Promise<Backup> => {
  const format = dataFormatOf(options.data) ?? dataFormat;
  const contents = await openAgain(options);
  const to = resolve(options.to);
  const unfinished = `${to}.unfinished`;
  try {
    const text = async (name: string) => {
      const content = contents.find((each) => each.name === name);
      return content ? readAll(content) : Buffer.alloc(0);
    };
    const seal = newestSealOf(await text('journal/chain.ndjson'));
    const manifest: Manifest = {
      what: 'a backup of Fernhop',
      format,
      identity: (await text('journal/identity')).toString('utf8').trim(),
      at: options.now,
      ...(seal && { seal }),
      mailAddresses: options.mailAddresses,
    };
    const archive = pack();
    const file = createWriteStream(unfinished, { mode: 0o600, flush: true });
    const written = pipeline(archive, createGzip(), file);
    // Whatever ends the writing ends the reading too; it is awaited below.
    written.catch((error: unknown) => archive.destroy(error instanceof Error ? error : undefined));
    await Promise.all([written, fill(archive, contents, manifest)]);
    await rename(unfinished, to);
    await syncFolder(dirname(to));
    const handle = await open(to, 'r');
    const { size } = await handle.stat();
    await handle.close();
    return {
      manifest,
      files: contents.length,
      bytes: contents.reduce((sum, { bytes }) => sum + bytes, 0),
      packed: size,
    };
  } catch (error) {
    await rm(unfinished, { force: true });
    throw new Error(
      `The backup was not written: ${error instanceof Error ? error.message : String(error)}. What was at ${options.to} before is as it was.`,
      { cause: error },
    );
  } finally {
    await closeContents(contents);
  }
};

const fill = async (
  archive: ReturnType<typeof pack>,
  contents: readonly Content[],
  manifest: Manifest,
): Promise<void> => {
  const sums: string[] = [];
  const header = (name: string, size: number) => ({ name, size, mode: 0o600, mtime: new Date(manifest.at) });
  const addText = (name: string, text: string): Promise<void> => {
    const bytes = Buffer.from(text);
    sums.push(`${createHash('sha256').update(bytes).digest('hex')}  ${name}\n`);
    return new Promise((done, failed) =>
      archive.entry(header(name, bytes.length), bytes, (error) => (error ? failed(error) : done())),
    );
  };
  await addText(manifestName, `${JSON.stringify(manifest)}\n`);
  for (const { name, bytes, handle } of contents) {
    const hash = createHash('sha256');
    const pieces = async function* () {
      for (let at = 0; at < bytes;) {
        const want = Math.min(chunkBytes, bytes - at);
        const { buffer, bytesRead } = await handle.read(Buffer.alloc(want), 0, want, at);
        if (bytesRead === 0) throw new Error(`${name} became shorter while it was read; try again`);
        const piece = buffer.subarray(0, bytesRead);
        hash.update(piece);
        at += bytesRead;
        yield piece;
      }
    };
    await pipeline(pieces, archive.entry(header(name, bytes)));
    sums.push(`${hash.digest('hex')}  ${name}\n`);
  }
  await addText(sumsName, sums.join(''));
  archive.finalize();
};
