import { DuckDBInstance } from '@duckdb/node-api';
import type { DuckDBConnection } from '@duckdb/node-api';
import type { Days, DimensionName } from '#core/traffic';
import type { VisitColumns } from '#core/visits';

/** The same requests in a database of columns, on one thread, in a table of its own. */
export interface VisitsDatabase {
  /** Runs a question and gives its rows. */
  readonly ask: (sql: string) => Promise<readonly (readonly unknown[])[]>;
  readonly close: () => void;
}

/** Columns of the table by what requests are told apart by. */
export const databaseColumns = {
  link: 'link',
  source: 'source',
  page: '"from"',
  country: 'country',
  language: 'lang',
  device: 'device',
  branch: 'branch',
  domain: 'host',
} as const satisfies Partial<Record<DimensionName, string>>;

const fill = async (
  connection: DuckDBConnection,
  columns: VisitColumns,
  outcomeOf: (row: number) => string,
): Promise<void> => {
  await connection.run(
    'create table visits (moment bigint, visitor varchar, link varchar, source varchar, "from" varchar, country varchar, lang varchar, device varchar, branch varchar, host varchar, ua varchar, outcome varchar)',
  );
  const appender = await connection.createAppender('visits');
  for (let row = 0; row < columns.rows; row++) {
    const { at, visitor, link, source, from, country, lang, device, branch, host, ua } = columns.record(row);
    appender.appendBigInt(BigInt(at));
    for (const text of [visitor, link, source, from, country, lang, device, branch, host, ua, outcomeOf(row)])
      appender.appendVarchar(text);
    appender.endRow();
  }
  appender.closeSync();
};

/** Puts all requests into a fresh database in memory. */
export const visitsDatabase = async (
  columns: VisitColumns,
  outcomeOf: (row: number) => string,
): Promise<VisitsDatabase> => {
  const instance = await DuckDBInstance.create(':memory:', { threads: '1' });
  const connection = await instance.connect();
  await fill(connection, columns, outcomeOf);
  return {
    ask: async (sql) => (await connection.runAndReadAll(sql)).getRows(),
    close: () => {
      connection.closeSync();
      instance.closeSync();
    },
  };
};

/** The days as a table of the database: it looks a day of a zone up, and does not compute it. */
export const daysTable = ({ names, starts }: Days): string =>
  `create or replace table days as select * from (values ${names
    .map((_, i) => `(${i}, ${starts[i]}, ${starts[i + 1]})`)
    .join(',')}) t(day, first, until)`;
