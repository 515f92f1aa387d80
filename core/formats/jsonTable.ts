import type { OpenedTable } from './openTable.ts';
import { headings } from './csv.ts';
import { findTable } from './findTable.ts';
import { cellText, gridOf } from './tableCells.ts';

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const isObjects = (value: unknown): value is readonly Record<string, unknown>[] =>
  Array.isArray(value) && value.length > 0 && value.every(isObject);
const isLines = (value: unknown): value is readonly (readonly unknown[])[] =>
  Array.isArray(value) && value.length > 0 && value.every((line) => Array.isArray(line));

/** An object's values by their names, those inside another one by both names. */
const flat = (value: Record<string, unknown>, before = ''): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(value).flatMap(([name, inner]): [string, unknown][] =>
      isObject(inner) ? Object.entries(flat(inner, `${before}${name}.`)) : [[`${before}${name}`, inner]],
    ),
  );

/** The rows of a record: one, or one for each of the records inside it, as the items of an order. */
const rowsOf = (record: Record<string, unknown>): Record<string, unknown>[] => {
  const lists = Object.entries(record).filter(([, inner]) => isObjects(inner));
  const [only, ...others] = lists;
  if (!only || others.length > 0) return [flat(record)];
  const [name, list] = only;
  const { [name]: _, ...rest } = record;
  return isObjects(list) ? list.map((item) => ({ ...flat(rest), ...flat(item, `${name}.`) })) : [flat(rest)];
};

const tableOf = (
  list: readonly { readonly value: Record<string, unknown>; readonly line: number }[],
  format: string,
): OpenedTable => {
  const records = list.flatMap(({ value, line }) => rowsOf(value).map((values) => ({ values, line })));
  const names = [...new Set(records.flatMap(({ values }) => Object.keys(values)))];
  const rows = records.map(({ values }) => names.map((name) => cellText(values[name])));
  const lines = records.map(({ line }) => line);
  return { ok: true, format, table: { header: headings(names), rows, lines, aside: [], headerLine: 0 } };
};

/** Objects by their keys, as a list: by columns where the inner keys count the rows, else one by one, with the key. */
const listOfObject = (value: Record<string, unknown>): readonly Record<string, unknown>[] => {
  const entries = Object.entries(value);
  if (entries.length < 2 || !entries.every(([, inner]) => isObject(inner))) return [];
  const inner = entries.map(([key, of]) => [key, of as Record<string, unknown>] as const); // just tested
  const keys = Object.keys(inner[0]?.[1] ?? {});
  const isAlike = inner.every(([, of]) => Object.keys(of).join('\n') === keys.join('\n'));
  if (!isAlike || keys.length === 0) return [];
  return keys.every((key, i) => key === String(i))
    ? keys.map((key) => Object.fromEntries(inner.map(([name, of]) => [name, of[key]])))
    : inner.map(([key, of]) => ({ key, ...of }));
};

/** The longest list of records, or of lines of cells, in a JSON value, at most three levels deep. */
const longestList = (
  value: unknown,
  depth = 0,
): readonly Record<string, unknown>[] | readonly (readonly unknown[])[] => {
  if (isObjects(value) || isLines(value)) return value;
  if (!isObject(value) || depth > 3) return [];
  const byKey = listOfObject(value);
  if (byKey.length > 0) return byKey;
  const own = Object.values(value);
  const lists = own.map((inner) => longestList(inner, depth + 1));
  const longest = lists.reduce((best, list) => (list.length > best.length ? list : best), []);
  // Lines of cells may have their headings beside them.
  const width = isLines(longest) ? longest[0]?.length : undefined;
  const names = own.find(
    (inner) =>
      Array.isArray(inner) && inner.length === width && inner.every((name) => typeof name === 'string'),
  );
  return isLines(longest) && Array.isArray(names) ? [names, ...longest] : longest;
};

const noRows: OpenedTable = { ok: false, message: 'This is JSON without a list of rows in it.' };

const readLines = (text: string): OpenedTable => {
  const records: { value: Record<string, unknown>; line: number }[] = [];
  for (const [i, line] of text.split(/\r?\n/).entries()) {
    if (line.trim() === '') continue;
    try {
      const value: unknown = JSON.parse(line);
      if (!isObject(value)) throw new Error('no object');
      records.push({ value, line: i + 1 });
    } catch {
      return { ok: false, message: `Line ${i + 1} is no JSON object. Each line has to be one.` };
    }
  }
  return tableOf(records, 'JSON lines');
};

/** Reads JSON: a list of records or of lines of cells, alone or inside of objects, or a record in each line. */
export const readJson = (text: string): OpenedTable => {
  let whole: unknown;
  try {
    whole = JSON.parse(text);
  } catch {
    return readLines(text);
  }
  const list = longestList(whole);
  if (isLines(list)) {
    const table = findTable(gridOf(list.map((line) => line.map(cellText))));
    return table.rows.length === 0 ? noRows : { ok: true, format: 'JSON', table };
  }
  if (list.length > 0)
    return tableOf(
      list.map((value, i) => ({ value, line: i + 1 })),
      'JSON',
    );
  return isObject(whole) ? tableOf([{ value: whole, line: 1 }], 'JSON') : noRows;
};
