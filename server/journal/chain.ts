import { createHash } from 'node:crypto';
import type { FileHandle } from 'node:fs/promises';
import { open, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import pLimit from 'p-limit';
import * as v from 'valibot';
import type { KeptSeal } from '#core/catalogue';
import { syncFolder } from '../dataDir.ts';

const hash = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/));
const whole = v.pipe(v.number(), v.safeInteger(), v.minValue(0));
const base = {
  /** Milliseconds since 1970 UTC. */
  at: v.number(),
  /** The hash of the line before; of the first line, that of the journal's identity. */
  before: hash,
};

/** What a file of the journal held when it was sealed: so many bytes from its beginning, and their SHA-256. */
const seal = v.strictObject({
  kind: v.literal('seal'),
  ...base,
  file: v.string(),
  /** The `seq` of its first record, and of the last one that is sealed. */
  first: whole,
  last: whole,
  bytes: whole,
  sha256: hash,
});

/** A file that took the place of removed ones, and what it held when it did. */
const removedPart = v.strictObject({ file: v.string(), bytes: whole, sha256: hash });
export type RemovedPart = v.InferOutput<typeof removedPart>;

/** Sealed files that went because the person keeps no more than so many months, and what stays of them. */
const removal = v.strictObject({
  kind: v.literal('removed'),
  ...base,
  files: v.array(v.string()),
  first: whole,
  last: whole,
  /** Requests before this moment are daily counts now; milliseconds since 1970 UTC. */
  until: v.number(),
  kept: removedPart,
  counts: removedPart,
});

/** A backup was put back: what was written between it and this line is not in this journal. */
const restoration = v.strictObject({
  kind: v.literal('restored'),
  ...base,
  /** When the backup was made. */
  from: v.number(),
});

const chainLine = v.variant('kind', [seal, removal, restoration]);
export type ChainLine = v.InferOutput<typeof chainLine>;
export type Seal = v.InferOutput<typeof seal>;
export type Removal = v.InferOutput<typeof removal>;
export type Restoration = v.InferOutput<typeof restoration>;
/** A line before it has its place in the chain. */
type ChainDraft = ChainLine extends infer L ? (L extends ChainLine ? Omit<L, 'before'> : never) : never;

/** SHA-256 in hex. */
export const sha256 = (content: string | Buffer): string =>
  createHash('sha256').update(content).digest('hex');

/** The name of the chain's file in the folder of the journal. */
export const chainName = 'chain.ndjson';

/** One line of the chain as it stands in its file. */
export interface ReadLine {
  /** Its place, counted from 1. */
  readonly number: number;
  /** SHA-256 of its bytes without the line break: what is kept elsewhere as *the seal*. */
  readonly hash: string;
  /** Undefined where it cannot be read. */
  readonly line: ChainLine | undefined;
}

/** The lines of a chain, and how many bytes at its end are no whole line: a crash leaves such. */
export const readChain = (content: Buffer): { readonly lines: ReadLine[]; readonly torn: number } => {
  const lines: ReadLine[] = [];
  let start = 0;
  for (let end = content.indexOf(10); end >= 0; end = content.indexOf(10, start)) {
    const bytes = content.subarray(start, end);
    let line: ChainLine | undefined;
    try {
      const parsed = v.safeParse(chainLine, JSON.parse(bytes.toString('utf8')));
      if (parsed.success) line = parsed.output;
    } catch {
      // It is told by whoever verifies.
    }
    lines.push({ number: lines.length + 1, hash: sha256(bytes), line });
    start = end + 1;
  }
  return { lines, torn: content.length - start };
};

/** The newest seal of a chain, as it is kept elsewhere; undefined where it seals nothing. */
export const newestSealOf = (content: Buffer): KeptSeal | undefined => {
  let seq: number | undefined;
  let newest: KeptSeal | undefined;
  for (const { line, hash: of } of readChain(content).lines) {
    if (line?.kind === 'seal') seq = Math.max(line.last, seq ?? 0);
    if (line && seq !== undefined) newest = { hash: of, seq, at: line.at };
  }
  return newest;
};

/** The content of a file; empty where there is none. */
export const contentIfThere = (path: string): Promise<Buffer> =>
  readFile(path).catch((error: unknown) => {
    if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return Buffer.alloc(0);
    throw error;
  });

/**
 * Seals of the journal's files, each resting on the one before, in `chain.ndjson`. Whoever changes a sealed byte has to
 * make every later line anew, and then no seal that was kept elsewhere is in the chain any more.
 */
export class Chain {
  readonly #handle: FileHandle;
  readonly #inTurn = pLimit(1);
  /** The newest seal of each file. */
  readonly #seals = new Map<string, Seal>();
  readonly #removed = new Set<string>();
  readonly #removals: Removal[] = [];
  readonly #hashes = new Set<string>();
  #bytes: number;
  #end: string;
  #newest: KeptSeal | undefined;

  private constructor(handle: FileHandle, identity: string, content: Buffer) {
    this.#handle = handle;
    const { lines, torn } = readChain(content);
    this.#bytes = content.length - torn;
    this.#end = lines.at(-1)?.hash ?? sha256(identity);
    for (const { line, hash: of } of lines) {
      this.#hashes.add(of);
      if (line) this.#note(line, of);
    }
  }

  /** Opens the chain of a journal's folder; what a crash tore off its last line is cut off. */
  static async open(folder: string, identity: string): Promise<Chain> {
    const path = join(folder, chainName);
    const content = await contentIfThere(path);
    const handle = await open(path, content.length > 0 ? 'r+' : 'w+', 0o600);
    const chain = new Chain(handle, identity, content);
    if (chain.#bytes < content.length) await handle.truncate(chain.#bytes);
    await handle.sync();
    await syncFolder(folder);
    return chain;
  }

  /** The newest seal: what is to be kept elsewhere. Undefined in a journal without records. */
  get newest(): KeptSeal | undefined {
    return this.#newest;
  }

  /** The newest seal of a file. */
  sealOf(file: string): Seal | undefined {
    return this.#seals.get(file);
  }

  /** The newest seals of all files that were not removed by choice. */
  get sealed(): Seal[] {
    return [...this.#seals.values()].filter(({ file }) => !this.#removed.has(file));
  }

  /** True for the hash of one of its lines. */
  has(of: string): boolean {
    return this.#hashes.has(of);
  }

  isRemoved(file: string): boolean {
    return this.#removed.has(file);
  }

  /** What was removed by choice, oldest first. */
  get removals(): readonly Removal[] {
    return this.#removals;
  }

  /**
   * Adds a line; resolves once it is on disk.
   *
   * @throws Error where the disk did not take it; then the chain is as it was
   */
  add(draft: ChainDraft): Promise<void> {
    return this.#inTurn(async () => {
      const line: ChainLine = { ...draft, before: this.#end };
      const bytes = Buffer.from(`${JSON.stringify(line)}\n`);
      try {
        const { bytesWritten } = await this.#handle.write(bytes, 0, bytes.length, this.#bytes);
        if (bytesWritten < bytes.length) throw new Error('The disk took a part of a seal only.');
        await this.#handle.datasync();
      } catch (error) {
        await this.#handle.truncate(this.#bytes).catch(() => undefined);
        throw error;
      }
      this.#bytes += bytes.length;
      this.#end = sha256(bytes.subarray(0, -1));
      this.#hashes.add(this.#end);
      this.#note(line, this.#end);
    });
  }

  #note(line: ChainLine, of: string): void {
    if (line.kind === 'seal' && line.bytes >= (this.#seals.get(line.file)?.bytes ?? 0))
      this.#seals.set(line.file, line);
    if (line.kind === 'removed') {
      this.#removals.push(line);
      for (const file of line.files) this.#removed.add(file);
    }
    const seq = line.kind === 'seal' ? Math.max(line.last, this.#newest?.seq ?? 0) : this.#newest?.seq;
    if (seq !== undefined) this.#newest = { hash: of, seq, at: line.at };
  }

  async close(): Promise<void> {
    await this.#inTurn(() => this.#handle.close());
  }
}
