import ExcelJS from 'exceljs';
import Papa from 'papaparse';
import { TZDate } from '@date-fns/tz';
import type { Dialect, DrawnFile, Truth, TruthRow } from './dialects.ts';
import { exponent, numbers } from './dialects.ts';
import type { Column, Language } from './dialectWords.ts';
import { aroundWords } from './dialectWords.ts';

const two = (n: number) => String(n).padStart(2, '0');

/** The clock of a zone at a moment, by `date-fns`. */
const clockIn = (zone: string, at: number) => {
  const date = new TZDate(at, zone);
  return {
    y: date.getFullYear(),
    m: date.getMonth() + 1,
    d: date.getDate(),
    h: date.getHours(),
    min: date.getMinutes(),
    s: date.getSeconds(),
  };
};

const clockText = ({ h, min, s }: ReturnType<typeof clockIn>) => `${two(h)}:${two(min)}:${two(s)}`;

const dateText = (dialect: Dialect, at: number): string => {
  const clock = clockIn(dialect.zone, at);
  const { y, m, d, h, min } = clock;
  const day = `${y}-${two(m)}-${two(d)}`;
  switch (dialect.dates) {
    case 'iso day':
      return day;
    case 'iso time':
      return `${day} ${clockText(clock)}`;
    case 'iso Z':
      return `${new Date(at).toISOString().slice(0, 19)}Z`;
    case 'iso offset': {
      // Not that of the network's zone, as when another of its machines writes it.
      const shifted = new Date(at + 345 * 60_000).toISOString();
      return `${shifted.slice(0, 19)}+05:45`;
    }
    case 'd.m.y':
      return `${two(d)}.${two(m)}.${y}`;
    case 'd/m/y':
      return `${d}/${m}/${y}`;
    case 'm/d/y':
      return `${two(m)}/${two(d)}/${y}`;
    case 'd.m.yy':
      return `${two(d)}.${two(m)}.${two(y % 100)}`;
    case 'd month y':
      return new Intl.DateTimeFormat(dialect.language, {
        day: 'numeric',
        month: 'long',
        year: 'numeric',
        timeZone: dialect.zone,
      }).format(at);
    case '12 hours': {
      const date = dialect.language === 'en' ? `${m}/${d}/${y}` : `${d}/${m}/${y}`;
      return `${date} ${h % 12 || 12}:${two(min)} ${h < 12 ? 'AM' : 'PM'}`;
    }
    case 'time apart':
      return `${two(d)}/${two(m)}/${y}`;
    case 'unix s':
      return String(Math.floor(at / 1000));
    case 'unix ms':
      return String(at);
  }
};

const signs: Readonly<Record<Dialect['currency'], string>> = {
  EUR: '€',
  USD: '$',
  GBP: '£',
  JPY: '¥',
  KWD: 'KWD ',
};

const moneyText = (dialect: Dialect, minor: number): string => {
  const places = exponent[dialect.currency];
  const digits = String(Math.abs(minor)).padStart(places + 1, '0');
  const whole = places === 0 ? digits : digits.slice(0, -places);
  const fraction = places === 0 ? '' : digits.slice(-places);
  const group =
    {
      '1,234.50': ',',
      '1.234,50': '.',
      "1'234.50": "'",
      '1\u00A0234,50': '\u00A0',
      '1\u202F234,50': '\u202F',
      'sign 1,234.50': ',',
      '1.234,50 code': '.',
    }[dialect.money as string] ?? '';
  const decimal = /,50/.test(dialect.money) ? ',' : '.';
  const text = `${whole.replace(/\B(?=(?:\d{3})+$)/g, group)}${fraction === '' ? '' : decimal + fraction}`;
  const signed =
    minor >= 0
      ? text
      : { '-3.00': `-${text}`, '3.00-': `${text}-`, '(3.00)': `(${text})`, '\u22123.00': `\u2212${text}` }[
          dialect.minus
        ];
  if (dialect.money.startsWith('sign')) return `${signs[dialect.currency]}${signed}`;
  return dialect.money.endsWith('code') ? `${signed} ${dialect.currency}` : signed;
};

const idText = (dialect: Dialect, click: string): string => {
  if (click === '') return '';
  switch (dialect.ids) {
    case 'alone':
      return click;
    case 'label|ID':
      return `newsletter|${click}`;
    case 'ID_label':
      return `${click}_oct_a`;
    case 'ID-2':
      return `${click}-2`;
    case 'small letters':
      return click.toLowerCase();
    case 'cut':
      return click.slice(0, 20);
  }
};

/** A cell as a program would hold it before it is written: a text, a number, or a moment of a day. */
type Cell = {
  readonly text: string;
  readonly number?: number;
  readonly at?: number;
  readonly clock?: string;
};

const cellOf = (file: DrawnFile, column: Column, row: TruthRow): Cell => {
  const { dialect } = file;
  const unit = 10 ** exponent[dialect.currency];
  const money = (minor: number): Cell => ({ text: moneyText(dialect, minor), number: minor / unit });
  const decimal = /,50/.test(dialect.money) ? ',' : '.';
  switch (column) {
    case 'txn':
      return { text: row.txn };
    case 'date':
      return { text: dateText(dialect, row.at), at: row.at };
    case 'clickDate':
      return { text: dateText(dialect, row.at - 3 * 86_400_000), at: row.at - 3 * 86_400_000 };
    case 'approvalDate':
      return { text: dateText(dialect, row.at + 9 * 86_400_000), at: row.at + 9 * 86_400_000 };
    case 'time': {
      const clock = clockText(clockIn(dialect.zone, row.at));
      return { text: clock, clock };
    }
    case 'program':
      return { text: row.program };
    case 'click':
      return { text: idText(dialect, row.click) };
    case 'status':
      return { text: row.word };
    case 'commission':
      return money(row.commission);
    case 'value':
      return money(row.value);
    case 'fee':
      return money(row.fee);
    case 'rate':
      return { text: String(row.rate).replace('.', decimal), number: row.rate };
    case 'currency':
      return { text: dialect.currency };
    case 'item':
      return { text: row.item };
    case 'coupon':
      return { text: row.coupon };
    case 'country':
      return { text: 'NL' };
  }
};

/** The last row of a file: the sums of its money, with a word, without, or with a date in it. */
const totalOf = (file: DrawnFile, rows: readonly TruthRow[], language: Language): Cell[] | undefined => {
  const { dialect } = file;
  if (dialect.totals === 'none') return undefined;
  if (dialect.totals === 'by word, a count')
    return file.columns.map(([column], i) => ({
      text:
        i === 0
          ? aroundWords[language].total
          : column === (i === 1 ? 'txn' : 'program')
            ? `${rows.length}`
            : '',
    }));
  if (dialect.totals === 'note after') return [{ text: aroundWords[language].note }];
  const unit = 10 ** exponent[dialect.currency];
  const sum = (of: (row: TruthRow) => number): Cell => {
    const minor = rows.reduce((total, row) => total + of(row), 0);
    return { text: moneyText(dialect, minor), number: Math.round(minor) / unit };
  };
  return file.columns.map(([column], i): Cell => {
    if (column === 'commission') return sum((row) => row.commission);
    if (column === 'value') return sum((row) => row.value);
    if (column === 'fee') return sum((row) => row.fee);
    if (dialect.totals === 'dated' && column === 'date')
      return cellOf(file, 'date', rows.at(-1) ?? rows[0] ?? fail());
    if (
      dialect.totals === 'by word' &&
      i === file.columns.findIndex(([one]) => !['commission', 'value', 'fee'].includes(one))
    )
      return { text: aroundWords[language].total };
    return { text: '' };
  });
};
const fail = (): never => {
  throw new Error('A file has rows.');
};

const titles = (dialect: Dialect): string[][] => {
  const { title } = aroundWords[dialect.language];
  switch (dialect.before) {
    case 'none':
      return [];
    case 'one title line':
      return [[title]];
    case 'three title lines':
      return [[title], ['Nightledge'], ['2026-10-01 – 2026-10-31']];
    case 'title and blank':
      return [[title, '2026-10'], ['']];
  }
};

const encode = (text: string, encoding: Dialect['encoding']): Uint8Array => {
  switch (encoding) {
    case 'utf-8':
      return new TextEncoder().encode(text);
    case 'utf-8 with bom':
      return new TextEncoder().encode(`\uFEFF${text}`);
    case 'utf-16le':
      return new Uint8Array(Buffer.from(`\uFEFF${text}`, 'utf16le'));
    case 'windows-1252':
      // What that encoding does not have is written plainly, as a program would.
      return new Uint8Array(
        Buffer.from(
          text
            .replaceAll('€', '\u0080')
            .replaceAll('’', '\u0092')
            .replaceAll('–', '\u0096')
            .replaceAll('\u202F', '\u00A0')
            .replaceAll('\u2212', '-'),
          'latin1',
        ),
      );
  }
};

const writeCsv = (
  lines: readonly (readonly string[])[],
  dialect: Dialect,
  random: () => number,
): Uint8Array => {
  const told = /^sep=(.)$/.exec(dialect.delimiter)?.[1];
  const text = Papa.unparse(
    lines.map((line) => [...line]),
    {
      delimiter: told ?? dialect.delimiter,
      quotes: random() < 0.5,
      newline: random() < 0.5 ? '\n' : '\r\n',
    },
  );
  return encode(told ? `sep=${told}\n${text}` : text, dialect.encoding);
};

const writeWorkbook = async (
  file: DrawnFile,
  before: string[][],
  heads: string[],
  cells: readonly (readonly Cell[])[],
) => {
  const { dialect } = file;
  const book = new ExcelJS.Workbook();
  const since1904 = dialect.format.includes('1904');
  if (since1904) book.properties.date1904 = true;
  const sheet = book.addWorksheet('Report');
  for (const line of [...before, heads]) sheet.addRow(line);
  const withClock = !(
    dialect.dates === 'iso day' ||
    /^d[./]/.test(dialect.dates) ||
    /^m/.test(dialect.dates) ||
    dialect.dates === 'time apart'
  );
  for (const line of cells) {
    const row = sheet.addRow([]);
    for (const [i, cell] of line.entries()) {
      const to = row.getCell(i + 1);
      if (cell.at !== undefined) {
        const { y, m, d, h, min, s } = clockIn(dialect.zone, cell.at);
        const shown = withClock
          ? new Date(Date.UTC(y, m - 1, d, h, min, s))
          : new Date(Date.UTC(y, m - 1, d));
        const first = since1904 ? Date.UTC(1904, 0, 1) : Date.UTC(1899, 11, 30);
        if (dialect.format.endsWith('without date formats'))
          to.value = (shown.getTime() - first) / 86_400_000;
        else {
          to.value = shown;
          to.numFmt = withClock ? 'dd/mm/yyyy hh:mm:ss' : 'dd/mm/yyyy';
        }
      } else if (cell.number !== undefined) to.value = cell.number;
      else if (cell.text !== '') to.value = cell.text;
    }
  }
  return new Uint8Array(await book.xlsx.writeBuffer());
};

const escaped = (text: string) => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
const writePage = (before: string[][], heads: string[], cells: readonly (readonly Cell[])[]): string => {
  const row = (list: readonly string[], tag: string) =>
    `<tr>${list.map((text) => `<${tag}>${escaped(text)}</${tag}>`).join('')}</tr>`;
  return `<html><head><meta charset="utf-8"></head><body><table>\n${[
    ...before.map((line) => row(line, 'td')),
    row(heads, heads.length % 2 === 0 ? 'th' : 'td'),
    ...cells.map((line) =>
      row(
        line.map(({ text }) => text),
        'td',
      ),
    ),
  ].join('\n')}\n</table></body></html>`;
};

/** Objects as an interface of programs gives them: amounts as numbers or as texts. */
const objects = (heads: readonly string[], cells: readonly (readonly Cell[])[], asNumbers: boolean) =>
  cells.map((line) =>
    Object.fromEntries(
      line.map((cell, i) => [
        heads[i] ?? '',
        cell.number !== undefined && asNumbers
          ? cell.number
          : /^\d{10,13}$/.test(cell.text)
            ? Number(cell.text)
            : cell.text,
      ]),
    ),
  );

/** Writes a file in its dialect: the bytes as a person would drop them. */
export const writeFile = async (file: DrawnFile, truth: Truth, seed: number): Promise<Uint8Array> => {
  const { dialect } = file;
  const random = numbers(seed * 104_729 + 7);
  const heads = file.columns.map(([, heading]) => heading);
  const body = truth.rows.map((row) => file.columns.map(([column]) => cellOf(file, column, row)));
  const isJson = dialect.format.startsWith('json');
  const total = isJson ? undefined : totalOf(file, truth.rows, dialect.language);
  const cells = total ? [...body, total] : body;
  const before = isJson ? [] : titles(dialect);
  if (dialect.format.startsWith('xlsx')) return writeWorkbook(file, before, heads, cells);
  if (dialect.format === 'html') return encode(writePage(before, heads, cells), 'utf-8');
  if (isJson) {
    const list = objects(heads, cells, random() < 0.5);
    const text =
      dialect.format === 'json lines'
        ? list.map((one) => JSON.stringify(one)).join('\n')
        : JSON.stringify(
            dialect.format === 'json array' ? list : { status: 'ok', data: { page: 1, transactions: list } },
            null,
            1,
          );
    return encode(text, 'utf-8');
  }
  return writeCsv([...before, heads, ...cells.map((line) => line.map(({ text }) => text))], dialect, random);
};
