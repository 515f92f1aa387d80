import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import * as v from 'valibot';
import { pushTo } from '#core/catalogue';
import { journalRecord } from '#core/visits';
import type { ReadLine, Removal, Restoration, Seal } from './chain.ts';
import { chainName, contentIfThere, readChain, sha256 } from './chain.ts';
import { inOrder } from './files.ts';

/** A record the journal can vouch for, and when it was sealed. */
export interface Vouched {
  readonly seq: number;
  readonly at: number;
}

/** What came of verifying a journal. */
export interface Verification {
  readonly identity: string;
  /** What is wrong, each as a sentence that says where. */
  readonly problems: readonly string[];
  /** What is worth knowing and no fault. */
  readonly notes: readonly string[];
  /** Up to where every record is as it was sealed; undefined where not even the first one is. */
  readonly vouched: Vouched | undefined;
  /** Whether the seal that was given is in the chain, and what it covers; undefined where none was given. */
  readonly given?: { readonly found: boolean; readonly seq: number; readonly at: number };
  /** The newest line's hash, to be kept elsewhere. */
  readonly newest: string | undefined;
  readonly files: number;
  readonly records: number;
  /** Records behind the last seal. */
  readonly unsealed: number;
}

const when = (at: number): string => new Date(at).toISOString();
const records = (first: number, last: number): string =>
  first >= last ? `record ${first}` : `records ${first} to ${last}`;

/** What a file holds beside what was sealed of it. */
interface FileFindings {
  /** The newest seal of it that holds, and the first that does not. */
  holds: Seal | undefined;
  fails: Seal | undefined;
  /** What is wrong with its lines. */
  readonly faults: string[];
  bytes: number;
  /** SHA-256 of all of it. */
  sha256: string;
  /** The last record, and bytes behind it that are no whole line. */
  last: number;
  torn: number;
  count: number;
}

/** Most faults told of one file. */
const mostFaults = 5;

/** Reads one file: compares it with its seals, and every line with the sequence. */
const readJournalFile = async (
  path: string,
  first: number,
  seals: readonly Seal[],
): Promise<FileFindings> => {
  const hash = createHash('sha256');
  const bySize = [...seals].sort((a, b) => a.bytes - b.bytes);
  const found: FileFindings = {
    holds: undefined,
    fails: undefined,
    faults: [],
    bytes: 0,
    sha256: '',
    last: first - 1,
    torn: 0,
    count: 0,
  };
  let more = 0;
  const fault = (words: string) => {
    if (found.faults.length < mostFaults) found.faults.push(words);
    else more += 1;
  };
  const compare = () => {
    while (bySize[0]?.bytes === found.bytes) {
      const [seal] = bySize.splice(0, 1);
      if (!seal) return;
      if (hash.copy().digest('hex') !== seal.sha256) found.fails ??= seal;
      else if (!found.fails) found.holds = seal;
    }
  };
  let lineNumber = 0;
  const readLine = (line: Buffer) => {
    lineNumber += 1;
    found.count += 1;
    let parsed: unknown;
    try {
      parsed = JSON.parse(line.toString('utf8'));
    } catch {
      fault(`line ${lineNumber} is no record`);
      found.last += 1;
      return;
    }
    const record = v.safeParse(journalRecord, parsed);
    const seq =
      typeof parsed === 'object' && parsed !== null && 'seq' in parsed ? Number(parsed.seq) : Number.NaN;
    if (!record.success) fault(`line ${lineNumber} is no record of a kind that is known`);
    if (!Number.isSafeInteger(seq)) {
      found.last += 1;
      return;
    }
    if (seq > found.last + 1) fault(`${records(found.last + 1, seq - 1)} missing before line ${lineNumber}`);
    else if (seq < found.last + 1) fault(`line ${lineNumber} is record ${seq}, behind record ${found.last}`);
    found.last = seq;
  };
  let rest: Buffer[] = [];
  for await (const chunk of createReadStream(path)) {
    let part = chunk as Buffer; // a stream without encoding gives buffers
    for (let end = part.indexOf(10); end >= 0; end = part.indexOf(10)) {
      const piece = part.subarray(0, end + 1);
      readLine(rest.length > 0 ? Buffer.concat([...rest, piece]) : piece);
      rest = [];
      part = part.subarray(end + 1);
    }
    if (part.length > 0) rest.push(part);
    // Seals end where lines end, and these seldom end where a chunk does.
    let whole = chunk as Buffer;
    while (bySize[0] && bySize[0].bytes <= found.bytes + whole.length) {
      const here = bySize[0].bytes - found.bytes;
      hash.update(whole.subarray(0, here));
      found.bytes += here;
      whole = whole.subarray(here);
      compare();
    }
    hash.update(whole);
    found.bytes += whole.length;
  }
  found.torn = rest.reduce((sum, { length }) => sum + length, 0);
  if (bySize[0]) found.fails ??= bySize[0];
  found.sha256 = hash.digest('hex');
  if (more > 0) found.faults.push(`and ${more} more`);
  return found;
};

/** The lines of a chain that follow from each other, from its beginning on, and what is wrong with the first that does not. */
const follow = (lines: readonly ReadLine[], identity: string) => {
  let end = sha256(identity);
  for (const [i, { line, hash, number }] of lines.entries()) {
    if (!line)
      return { good: lines.slice(0, i), problem: `${chainName}, line ${number}: it cannot be read.` };
    if (line.before !== end)
      return {
        good: lines.slice(0, i),
        problem:
          number === 1
            ? `${chainName}, line 1: it belongs to another journal, or lines before it were taken away.`
            : `${chainName}, line ${number}: it does not follow from the line before, so one of the two was altered, added or taken away.`,
      };
    end = hash;
  }
  return { good: [...lines], problem: undefined };
};

/**
 * Verifies a journal against its chain of seals, record by record. It changes nothing, and a server may be running on it.
 *
 * @param folder that of the journal
 * @param given a seal that was kept elsewhere: SHA-256 of a line of the chain in hex, or its first 16 digits or more
 * @throws Error with one clear line when it cannot be read
 */
export const verifyJournal = async (folder: string, given?: string): Promise<Verification> => {
  const chain = () => contentIfThere(join(folder, chainName));
  const before = await chain();
  const found = await verifyOnce(folder, given);
  // What is missing may have been removed by choice while it was looked for.
  return found.problems.length > 0 && !before.equals(await chain()) ? verifyOnce(folder, given) : found;
};

const verifyOnce = async (folder: string, given: string | undefined): Promise<Verification> => {
  const identity = await readFile(join(folder, 'identity'), 'utf8').then(
    (text) => text.trim(),
    () => {
      throw new Error(`${folder} holds no journal. Give the server's data folder with --data.`);
    },
  );
  // The chain first: what is written meanwhile is then not sealed yet, and no fault.
  const { lines, torn } = readChain(await contentIfThere(join(folder, chainName)));
  const { good, problem } = follow(lines, identity);
  const seen = new Sealed(lines, good);
  const onDisk = inOrder(await readdir(folder));
  const found = new Map<string, FileFindings>();
  for (const { name, first } of onDisk)
    found.set(name, await readJournalFile(join(folder, name), first, seen.sealsOf(name)));

  const files = judgeFiles(found, seen);
  const removals = await judgeRemovals(folder, seen.removals);
  const givenLine = given === undefined ? undefined : lines.find(({ hash }) => hash.startsWith(given));
  return {
    identity,
    problems: [
      ...(problem === undefined ? [] : [problem]),
      ...files.problems,
      ...removals.problems,
      ...(given === undefined || givenLine
        ? []
        : [
            `The seal ${given.slice(0, 16)}… is none of this chain: the chain was made anew since that seal was kept, or it was kept of another journal.`,
          ]),
    ],
    notes: [
      ...(torn > 0 ? [`${chainName} ends within a line: a seal was being written.`] : []),
      ...seen.restorations.map(
        ({ from, at }) =>
          `A backup of ${when(from)} was put back on ${when(at)}: what was written between them is here only where browsers gave it back.`,
      ),
      ...files.notes,
      ...removals.notes,
    ],
    vouched: files.vouched,
    ...(given !== undefined && {
      given: {
        found: givenLine !== undefined,
        seq: givenLine ? seen.covers(givenLine) : 0,
        at: givenLine?.line?.at ?? 0,
      },
    }),
    newest: lines.at(-1)?.hash,
    files: onDisk.length,
    records: [...found.values()].reduce((sum, { count }) => sum + count, 0),
    unsealed: files.unsealed,
  };
};

/** What a chain says of the files of its journal. */
class Sealed {
  readonly #lines: readonly ReadLine[];
  readonly #seals = new Map<string, Seal[]>();
  readonly #trusted: ReadonlySet<unknown>;
  readonly #removed = new Set<string>();
  readonly removals: Removal[] = [];
  readonly restorations: Restoration[] = [];

  /** @param good the lines that follow from each other */
  constructor(lines: readonly ReadLine[], good: readonly ReadLine[]) {
    this.#lines = lines;
    this.#trusted = new Set(good.map(({ line }) => line));
    for (const { line } of lines)
      if (line?.kind === 'seal') pushTo(this.#seals, line.file, line);
      else if (line?.kind === 'restored') this.restorations.push(line);
      else if (line) {
        this.removals.push(line);
        for (const file of line.files) this.#removed.add(file);
      }
  }

  get names(): string[] {
    return [...this.#seals.keys()];
  }
  sealsOf(name: string): readonly Seal[] {
    return this.#seals.get(name) ?? [];
  }
  /** The seal that covers most of a file. */
  newestOf(name: string): Seal | undefined {
    return this.sealsOf(name).reduce<Seal | undefined>(
      (a, b) => (a && a.bytes >= b.bytes ? a : b),
      undefined,
    );
  }
  isTrusted(seal: Seal): boolean {
    return this.#trusted.has(seal);
  }
  isRemoved(name: string): boolean {
    return this.#removed.has(name);
  }
  /** The file that was sealed with a sum. */
  fileWith(sum: string): string | undefined {
    return [...this.#seals.values()].flat().find((seal) => seal.sha256 === sum)?.file;
  }
  /** The newest record a line of the chain covers: that of the newest seal up to it. */
  covers(line: ReadLine): number {
    return this.#lines
      .slice(0, line.number)
      .reduce((most, { line: one }) => Math.max(most, one?.kind === 'seal' ? one.last : 0), 0);
  }
}

/** How a file is not what was sealed. */
const tellAlteration = (name: string, findings: FileFindings, fails: Seal, seen: Sealed): string => {
  const other = seen.fileWith(findings.sha256);
  if (other !== undefined && other !== name)
    return `${name} holds what was sealed as ${other}: the files were exchanged.`;
  if (findings.bytes < fails.bytes)
    return `${name} was cut: it has ${findings.bytes} bytes, and ${fails.bytes} were sealed on ${when(fails.at)}. ${describe(findings)}`;
  const { bytes = 0, last = fails.first - 1 } = findings.holds ?? {};
  return `${name} was altered within bytes ${bytes} to ${fails.bytes} (${records(last + 1, fails.last)}, sealed on ${when(fails.at)}). ${describe(findings)}`;
};

/** Judges the files one after the other: up to the first that is not as it was sealed, the journal vouches. */
const judgeFiles = (found: ReadonlyMap<string, FileFindings>, seen: Sealed) => {
  const problems: string[] = [];
  const notes: string[] = [];
  const names = inOrder([...new Set([...found.keys(), ...seen.names])]);
  let vouched: Vouched | undefined;
  let unsealed = 0;
  /** Nothing was wrong so far. */
  let holds = true;
  /** The last record so far, in files that are here or were removed by choice. */
  let last: number | undefined;
  const wrong = (words: string) => {
    problems.push(words);
    holds = false;
  };
  const vouch = (seal: Seal | undefined) => {
    if (holds && seal && seen.isTrusted(seal)) vouched = { seq: seal.last, at: seal.at };
  };
  for (const [i, { name, first }] of names.entries()) {
    const newest = seen.newestOf(name);
    const findings = found.get(name);
    if (last !== undefined && first > last + 1)
      wrong(`Between the files, ${records(last + 1, first - 1)} missing before ${name}.`);
    last = Math.max(findings?.last ?? 0, newest?.last ?? 0, last ?? 0);
    if (seen.isRemoved(name)) {
      vouch(newest);
      continue;
    }
    if (!findings) {
      wrong(
        `${name} is missing${newest ? ` (${records(newest.first, newest.last)}, sealed on ${when(newest.at)})` : ''}.`,
      );
      continue;
    }
    if (findings.fails) {
      vouch(findings.holds);
      wrong(tellAlteration(name, findings, findings.fails, seen));
      continue;
    }
    vouch(newest);
    if (findings.faults.length > 0) wrong(`${name}: ${describe(findings)}`);
    const isLast = i === names.length - 1;
    if (findings.torn > 0 && !isLast) wrong(`${name} ends within a line, and files follow it.`);
    else if (findings.torn > 0)
      notes.push(
        `${name} ends within a line of ${findings.torn} bytes: a record was being written, or a crash tore it off. It was never acknowledged.`,
      );
    if (
      !newest &&
      findings.count > 0 &&
      names.slice(i + 1).some((later) => seen.sealsOf(later.name).length > 0)
    )
      wrong(`${name} was never sealed, and files after it were.`);
    unsealed += Math.max(0, findings.last - Math.max(newest?.last ?? 0, first - 1));
  }
  return { problems, notes, vouched, unsealed };
};

/** Judges what stays of files that were removed by choice. */
const judgeRemovals = async (folder: string, removals: readonly Removal[]) => {
  const problems: string[] = [];
  const notes: string[] = [];
  for (const { files, first, last, at, kept, counts } of removals) {
    notes.push(
      `Removed by choice on ${when(at)}: ${records(first, last)} in ${files.length} ${files.length === 1 ? 'file' : 'files'}. Their seals, their daily counts and every conversion stay.`,
    );
    for (const part of [kept, counts]) {
      const content = await contentIfThere(join(folder, part.file));
      if (sha256(content) === part.sha256) continue;
      const how = content.length === 0 && part.bytes > 0 ? 'missing' : 'not what it was when it was made';
      problems.push(`${part.file}, which holds what stays of removed files, is ${how}.`);
    }
  }
  return { problems, notes };
};

const describe = ({ faults }: FileFindings): string =>
  faults.length > 0
    ? `In it: ${faults.join('; ')}.`
    : 'Every line of it is a record in its place, so a value within one was altered.';
