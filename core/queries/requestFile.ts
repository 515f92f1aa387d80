import { dayIn } from '#core/hop';
import type { DimensionName } from '#core/traffic';
import { daysOf, dimensionNames, holdsAt, valueAt } from '#core/traffic';
import type { Dataset } from './dataset.ts';
import type { TrafficQuestion } from './traffic.ts';
import { dimensionsOf } from './trafficDimensions.ts';
import { visitIn } from './visits.ts';

/** The forms in which requests are given out: a line of JSON each, or columns for any engine. */
export const requestForms = ['ndjson', 'parquet'] as const;
export type RequestForm = (typeof requestForms)[number];

/** Rows of the requests of some days that fit what is asked, whatever became of them. */
const rowsOf = (data: Dataset, { from, to, where: asked }: Omit<TrafficQuestion, 'by'>): number[] => {
  const { columns } = data.journal;
  const dimension = dimensionsOf(data);
  const where = asked.map(({ of, ...rest }) => ({ ...rest, of: dimension(of) }));
  const { starts, names } = daysOf(data.zone, from, to);
  const [first, until] = [starts[0] ?? Infinity, starts[names.length] ?? -Infinity];
  const rows: number[] = [];
  for (let row = 0; row < columns.rows; row++) {
    const at = columns.at(row);
    if (at < first || at >= until) continue;
    if (where.every((condition) => holdsAt(condition, valueAt(condition.of, columns, row)))) rows.push(row);
  }
  return rows;
};

/** Fields of a request that are given out as they stand in the journal. */
const ownFields = [
  'seq',
  'click',
  'version',
  'status',
  'method',
  'host',
  'ua',
  'visitor',
  'query',
  'prefetch',
  'test',
] as const;
const fieldTypes: Readonly<Record<string, 'INT64' | 'INT32' | 'BOOLEAN'>> = {
  seq: 'INT64',
  version: 'INT64',
  status: 'INT32',
  prefetch: 'BOOLEAN',
  test: 'BOOLEAN',
};

/** Columns of the Apache Parquet format: the fields of the journal, the moment and its day in the person's zone, the outcome, and every breakdown by its name. */
const parquetOf = async (data: Dataset, rows: readonly number[]): Promise<Uint8Array<ArrayBuffer>> => {
  // Loaded when a file is asked for: no screen needs it before.
  const { parquetWriteBuffer } = await import('hyparquet-writer');
  const visits = rows.map((row) => visitIn(data, row));
  const dimension = dimensionsOf(data);
  const byDimension = (name: DimensionName) => {
    const of = dimension(name);
    return rows.map((row) => valueAt(of, data.journal.columns, row));
  };
  return new Uint8Array(
    parquetWriteBuffer({
      columnData: [
        // Not called as in the journal: `at` and `from` are words of SQL.
        { name: 'moment', type: 'TIMESTAMP', data: visits.map(({ hop }) => new Date(hop.at)) },
        { name: 'day', type: 'STRING', data: visits.map(({ hop }) => dayIn(data.zone, hop.at)) },
        { name: 'referrer', type: 'STRING', data: visits.map(({ hop }) => hop.from) },
        { name: 'outcome', type: 'STRING', data: visits.map(({ outcome }) => outcome) },
        ...ownFields.map((name) => ({
          name,
          type: fieldTypes[name] ?? ('STRING' as const),
          data: visits.map(
            ({ hop }) => (fieldTypes[name] === 'INT64' ? BigInt(hop[name] as number) : hop[name]), // those are numbers
          ),
        })),
        ...dimensionNames.map((name) => ({ name, type: 'STRING' as const, data: byDimension(name) })),
      ],
    }),
  );
};

/**
 * The requests of some days that fit what is asked, as a file: as NDJSON the journal's own records, each with what became of it; as
 * Parquet the same with every breakdown as a column, under the name it is asked by.
 */
export const requestFile = async (
  data: Dataset,
  question: Omit<TrafficQuestion, 'by'>,
  form: RequestForm,
): Promise<Uint8Array<ArrayBuffer>> => {
  const rows = rowsOf(data, question);
  if (form === 'parquet') return parquetOf(data, rows);
  const lines = rows.map((row) => {
    const { hop, outcome } = visitIn(data, row);
    return `${JSON.stringify({ ...hop, outcome })}\n`;
  });
  return new TextEncoder().encode(lines.join(''));
};
