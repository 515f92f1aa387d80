import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dimensionNames } from '#core/traffic';
import { outcomes } from '#core/visits';
import { readConfig } from '../server/config.ts';
import { requestsOf, trafficOf } from '../server/commands/trafficTable.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { fillSeason } from './fill.ts';

const now = Date.UTC(2026, 10, 23, 15);
const data = freshFolder();
const period = { from: '2026-10-24', to: '2026-11-22' };
const options = { data, by: 'source', where: ['device!=tablet'], now, ...period };
const path = join(data, 'requests.parquet');
let database: Awaited<ReturnType<DuckDBInstance['connect']>>;

/** What another engine reads out of the file. */
const ask = async (sql: string): Promise<string[][]> =>
  (await database.runAndReadAll(sql)).getRows().map((row) => row.map(String));

beforeAll(async () => {
  await fillSeason(readConfig({ DATA_DIR: data, PORT: String(await freePort()) }), 6000, now);
  writeFileSync(path, await requestsOf(options, path));
  database = await (await DuckDBInstance.create(':memory:')).connect();
});
afterAll(() => database.closeSync());

describe('requests as Parquet, read by DuckDB', () => {
  it.each(dimensionNames)('have the same counts and visitors by %s', async (by) => {
    const { lines } = (await trafficOf({ ...options, by })).traffic;
    const ours = lines.flatMap(({ value, requests }) =>
      outcomes.flatMap((outcome) =>
        requests[outcome] > 0 ? [[value, outcome, String(requests[outcome])]] : [],
      ),
    );
    const theirs = await ask(`select "${by}", outcome, count(*) from '${path}' group by all`);
    expect(theirs.toSorted()).toEqual(ours.toSorted());
    const visitors = await ask(
      `select "${by}", count(distinct (visitor, day)) from '${path}' where outcome = 'counted' group by all`,
    );
    expect(visitors.toSorted()).toEqual(
      lines.flatMap(({ value, visitors: count }) => (count > 0 ? [[value, String(count)]] : [])).toSorted(),
    );
  });

  it('are those of the journal, with what became of each', async () => {
    const lines = new TextDecoder().decode(await requestsOf(options, 'requests.ndjson'));
    const records = lines
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>); // lines of JSON objects
    const theirs = await ask(
      `select seq, epoch_ms(moment), click, status, host, ua, visitor, referrer, query, outcome from '${path}' order by seq`,
    );
    expect(theirs).toEqual(
      records.map((record) =>
        ['seq', 'at', 'click', 'status', 'host', 'ua', 'visitor', 'from', 'query', 'outcome'].map((name) =>
          String(record[name]),
        ),
      ),
    );
  });

  it('are asked for by a file of a form that is known', async () => {
    await expect(requestsOf(options, 'requests.xlsx')).rejects.toThrow('no file of .ndjson or .parquet');
  });
});
