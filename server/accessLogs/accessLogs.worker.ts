import { once } from 'node:events';
import { PassThrough } from 'node:stream';
import { parentPort, workerData } from 'node:worker_threads';
import { createGunzip } from 'node:zlib';
import { recordKinds } from '#core/catalogue';
import { logPieceBytes } from '#core/visits';
import { FollowedFolder } from '../answers/index.ts';
import { catalogueOf } from '../dataFolder.ts';
import { LinkTable } from '../feed/index.ts';
import { openCountries } from '../http/country.ts';
import { openHosting } from '../http/hosting.ts';
import type { FromIntake, IntakeData, ToIntake } from './accessLogs.ts';
import { LogIntake } from './logIntake.ts';

const { dataDir, of, seq, geoDb, hostingNetworks, testToken, reading } = workerData as IntakeData; // given by accessLogs.ts
const port = parentPort;
if (!port) throw new Error('This is a thread of the server.');
const tell = (message: FromIntake) => port.postMessage(message);

/** Records that are written together. */
const batchLines = 4000;

const linkTable = (): LinkTable => {
  const catalogue = catalogueOf(dataDir);
  const table = new LinkTable();
  for (const kind of recordKinds)
    for (const value of catalogue.all(kind))
      table.put({ kind, record: value.id, version: 0, value: { ...value } });
  return table;
};

const data = await new FollowedFolder(dataDir).now(of, seq);
const intake = new LogIntake({
  table: linkTable(),
  columns: data.journal.columns,
  rolledUpBefore: data.rolledUp.before,
  countryOf: await openCountries(geoDb),
  isHosting: openHosting(hostingNetworks),
  testToken,
  host: reading.host,
  severalFiles: reading.files > 1,
  now: Date.now,
});

/** Lines that wait to be written down, and the batch that the server is writing. */
let waiting: string[] = [];
let writing: Promise<void> | undefined;
let written: (() => void) | undefined;
/** Hands what waits to the server, once it wrote down what it had. */
const handOver = async (): Promise<void> => {
  await writing;
  if (waiting.length === 0) return;
  writing = new Promise<void>((resolve) => (written = resolve));
  tell({ kind: 'lines', lines: waiting });
  waiting = [];
};
const give = async (lines: readonly string[]): Promise<void> => {
  if (reading.dryRun) return;
  for (const line of lines) waiting.push(line);
  if (waiting.length >= batchLines) await handOver();
};
/** Waits until all that was given is on disk. */
const untilWritten = async (): Promise<void> => {
  await handOver();
  await writing;
};

const packed: readonly (readonly [string, readonly number[]])[] = [
  ['zip', [0x50, 0x4b, 3, 4]],
  ['bzip2', [0x42, 0x5a, 0x68]],
  ['xz', [0xfd, 0x37, 0x7a, 0x58]],
  ['zstd', [0x28, 0xb5, 0x2f, 0xfd]],
];
const begins = (bytes: Uint8Array, signature: readonly number[]): boolean =>
  signature.every((byte, i) => bytes[i] === byte);

/** So many bytes may wait to be read while the next piece is on its way; a report lags by as much. */
const waitingBytes = 4 * logPieceBytes;
/** Bytes that become text at once: longer texts take longer a line. */
const sliceBytes = 64 * 1024;

/** One file on its way: its bytes go in, unpacked where they are packed by gzip, and its lines come out. */
class FileIntake {
  readonly #bytes = new PassThrough({ highWaterMark: waitingBytes });
  #reading: Promise<void> | undefined;
  #failed = false;

  async take(piece: Uint8Array): Promise<void> {
    if (this.#failed || piece.byteLength === 0) return;
    this.#reading ??= this.#read(piece).catch((error: unknown) => {
      this.#failed = true;
      this.#bytes.resume();
      intake.failFile(
        `It cannot be unpacked to its end: ${error instanceof Error ? error.message : String(error)}.`,
      );
    });
    if (!this.#bytes.write(piece)) await Promise.race([once(this.#bytes, 'drain'), this.#reading]);
  }

  async end(): Promise<void> {
    this.#bytes.end();
    await this.#reading;
    if (!this.#failed) await give(intake.endFile());
    await untilWritten();
  }

  async #read(first: Uint8Array): Promise<void> {
    const other = packed.find(([, signature]) => begins(first, signature));
    if (other) {
      this.#failed = true;
      this.#bytes.resume();
      intake.failFile(`It is packed as ${other[0]}. Unpack it first, or pack it by gzip.`);
      return;
    }
    const isPacked = begins(first, [0x1f, 0x8b]);
    const decoder = new TextDecoder(begins(first, [0xff, 0xfe]) ? 'utf-16le' : 'utf-8');
    const plain = isPacked ? this.#bytes.pipe(createGunzip()) : this.#bytes;
    for await (const chunk of plain) {
      const bytes: Buffer = chunk;
      for (let from = 0; from < bytes.length; from += sliceBytes)
        await give(intake.take(decoder.decode(bytes.subarray(from, from + sliceBytes), { stream: true })));
    }
    await give(intake.take(decoder.decode()));
  }
}

let file: FileIntake | undefined;
const does: { [K in ToIntake['kind']]: (message: Extract<ToIntake, { kind: K }>) => Promise<void> } = {
  file: async ({ name }) => {
    await file?.end();
    intake.beginFile(name);
    file = new FileIntake();
  },
  piece: async ({ bytes }) => {
    await file?.take(bytes);
  },
  end: async () => {
    await file?.end();
    file = undefined;
  },
  written: () => Promise.resolve(),
};
let turn = Promise.resolve();
port.on('message', (message: ToIntake) => {
  if (message.kind === 'written') {
    written?.();
    return;
  }
  turn = turn.then(async () => {
    try {
      // One of the union's kinds with the function for it.
      await (does[message.kind] as (one: ToIntake) => Promise<void>)(message);
      tell({ kind: 'report', report: intake.report });
    } catch (error) {
      tell({ kind: 'failed', problem: error instanceof Error ? error.message : String(error) });
    }
  });
});
tell({ kind: 'ready' });
