import { createReadStream, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { describe, expect, it } from 'vitest';
import { parseNdjson } from '#core/formats';
import type { HopRecord, JournalRecord } from '#core/visits';
import { decodeSegment, isVisit, segmentRows, takeSegment, VisitColumns, visitOf } from '#core/visits';
import { freshFolder } from '../testing/process.ts';
import { Columns } from './columns.ts';
import { columnsFolder, madeParts, makeParts, removeStrangeParts } from './columnFiles.ts';

const begin = Date.UTC(2026, 9, 1);
/** A journal: requests with a postback after every hundredth. */
const journalOf = (requests: number): JournalRecord[] => {
  const records: JournalRecord[] = [];
  for (let i = 0; i < requests; i++) {
    const at = begin + i * 100;
    records.push({
      seq: records.length + 1,
      kind: 'hop',
      at,
      click: '',
      link: `lnk_${i % 7}`,
      version: 1,
      branch: 'everyone',
      source: `source-${i % 11}`,
      status: 307,
      method: 'GET',
      host: 'see.nightledge.example',
      ua: `Agent ${i % 300}`,
      visitor: (i * 2_654_435_761).toString(16).padStart(16, '0').slice(-16),
      country: 'DE',
      device: 'phone',
      from: '',
      query: i % 1000 === 0 ? `kw=${i}` : '',
      lang: 'de',
      prefetch: false,
      test: false,
    });
    if (i % 100 === 99)
      records.push({
        ...{ seq: records.length + 1, kind: 'postback', at, network: 'net_h', via: 'GET' },
        ...{ query: `txn=${i}`, body: null, ip: '' },
      });
  }
  return records;
};
const stream = async function* (records: readonly JournalRecord[]): AsyncGenerator<JournalRecord> {
  for (const record of records) yield await Promise.resolve(record);
};
/** What a browser reads out of the files. */
const readBack = (dataDir: string, of: string): { hops: HopRecord[]; others: JournalRecord[] } => {
  const columns = new VisitColumns();
  const others = madeParts(dataDir, of).flatMap(({ name }) => {
    takeSegment(
      columns,
      decodeSegment(new Uint8Array(readFileSync(join(columnsFolder(dataDir), `${name}.fhs`)))),
    );
    return parseNdjson<JournalRecord>(readFileSync(join(columnsFolder(dataDir), `${name}.ndjson`), 'utf8'));
  });
  return { hops: Array.from({ length: columns.rows }, (_, row) => columns.record(row)), others };
};

describe('the journal as columns', () => {
  it('is made of whole segments, goes on where it ended, and says what the journal says', async () => {
    const dataDir = freshFolder();
    const records = journalOf(segmentRows * 2 + 500);
    const early = records.filter(({ seq }) => seq < segmentRows + 2000);
    expect((await makeParts(dataDir, 'A 0', stream(early))).length).toBe(1);
    // The second time it is given what it has seen as well.
    const parts = await makeParts(dataDir, 'A 0', stream(records));
    expect(parts.map(({ rows }) => rows)).toEqual([segmentRows, segmentRows]);
    const last = parts.at(-1)?.last ?? 0;
    const whole = records.filter(({ seq }) => seq <= last);
    const { hops, others } = readBack(dataDir, 'A 0');
    expect(hops).toEqual(whole.flatMap((record) => visitOf(record) ?? []));
    expect(others).toEqual(whole.filter((record) => !isVisit(record)));
  });

  it('is known again by its last record, and let go where the journal went on differently since', async () => {
    const dataDir = freshFolder();
    const records = journalOf(segmentRows + 10);
    const recordAt = (of: readonly JournalRecord[]) => (seq: number) =>
      Promise.resolve(of.find((record) => record.seq === seq));
    const [part] = await makeParts(dataDir, 'A 0', stream(records));
    await removeStrangeParts(dataDir, 'A 0', recordAt(records));
    expect(madeParts(dataDir, 'A 0')).toEqual([part]);
    // An older folder was put back, and other requests came.
    const others = records.map((record) => (record.seq === part?.last ? { ...record, at: begin } : record));
    await removeStrangeParts(dataDir, 'A 0', recordAt(others));
    expect(madeParts(dataDir, 'A 0')).toEqual([]);
    await makeParts(dataDir, 'A 0', stream(records));
    await removeStrangeParts(dataDir, 'A 0', recordAt(records.slice(0, 9)));
    expect(readdirSync(dataDir)).toEqual([]);
  });

  it.each<[string, () => Readable]>([
    ['is damaged there', () => Readable.from([Buffer.from('{"seq":1,"ki\u0000\n')])],
    ['is not there', () => createReadStream('/nowhere/journal')],
    ['ends before', () => Readable.from([])],
  ])('is let go where the journal %s, and the server starts', async (_, read) => {
    const dataDir = freshFolder();
    await makeParts(dataDir, 'A 0', stream(journalOf(segmentRows)));
    const columns = new Columns({
      ...{ dataDir, of: () => 'A 0', seq: () => segmentRows, read },
      log: () => undefined,
    });
    await columns.open();
    expect(columns.parts).toEqual([]);
  });

  it('tells nothing of another journal, nor where its list was cut off, and is then made again', async () => {
    const dataDir = freshFolder();
    const records = journalOf(segmentRows);
    await makeParts(dataDir, 'A 0', stream(records));
    expect(madeParts(dataDir, 'A 0').length).toBe(1);
    expect(madeParts(dataDir, 'A 5')).toEqual([]);
    const list = join(columnsFolder(dataDir), 'made.json');
    writeFileSync(list, readFileSync(list, 'utf8').slice(0, 40));
    expect(madeParts(dataDir, 'A 0')).toEqual([]);
    // Of a journal without enough for a segment nothing stays.
    expect(await makeParts(dataDir, 'A 5', stream(records.slice(0, 100)))).toEqual([]);
    expect(readdirSync(columnsFolder(dataDir))).toEqual([]);
    expect((await makeParts(dataDir, 'A 5', stream(records))).length).toBe(1);
  });
});
