import type { BadRow, Cost, CostBasis, DateOrder, Problem } from '#core/catalogue';
import { addTo, element, fingerprint, foldText } from '#core/catalogue';
import type { ReportTable } from '#core/conversions';
import {
  currencyIn,
  dateParts,
  inferDateOrder,
  inferDecimal,
  isSpreadsheetDay,
  knownCurrency,
  orderWords,
  readDecimal,
  readMoment,
} from '#core/values';

/** What a person answered of a seller's file. Columns are named by their headings. */
export interface CostFileChoices {
  readonly amount?: string;
  /** What an amount of a row is for. */
  readonly per?: Exclude<CostBasis, 'share'>;
  /** The source all of it is of, or the column that names the source of each row. */
  readonly source?: { readonly name: string } | { readonly column: string };
  /** First day, or the only one. */
  readonly day?: string;
  /** First and last day of all rows, where no column tells it. */
  readonly span?: { readonly from: string; readonly until: string };
  readonly dates?: DateOrder;
  readonly decimal?: '.' | ',';
}

/** What a seller's file leaves open. */
export type CostFileQuestion = 'amount' | 'source' | 'day' | 'span' | 'dates' | 'decimal';

/** A cost as a row of a file states it. */
export interface CostRow {
  /** By what the row is known: its content, and how often that occurred in the file before. */
  readonly key: string;
  /** Line in the file, from 1. */
  readonly line: number;
  readonly cost: Omit<Cost, 'id'>;
}

export interface CostFileReading {
  readonly asks: readonly CostFileQuestion[];
  /** Headings of the columns that can be each. */
  readonly candidates: {
    readonly amount: readonly string[];
    readonly source: readonly string[];
    readonly day: readonly string[];
  };
  /** Days as they stand in the file; none where it is not known which column holds them. */
  readonly days: readonly string[];
  /** How it is read: the heading of the amounts, and what they are for. */
  readonly amount: string;
  readonly per: Exclude<CostBasis, 'share'>;
  readonly rows: readonly CostRow[];
  /** Rows of nothing paid. */
  readonly free: number;
  /** Lines that say what all others come to, with whether they do. */
  readonly totals: readonly { readonly line: number; readonly agrees: boolean }[];
  readonly bad: readonly BadRow[];
}

/** A table of a file, with the lines that are none of its rows. */
export interface CostTable extends ReportTable {
  readonly aside?: readonly {
    readonly line: number;
    readonly cells: readonly string[];
    readonly why: string;
  }[];
}

/** Headings as sellers of visits write them, without accents; common practice. */
const headings = {
  click: /\bcpc\b|(?:per|pro|par|por|je)[ _-]?(?:click|klick|clic)/,
  thousand: /\bcpm\b|\btkp\b|\bmille\b|(?:per|pro|par|por)[ _-]?(?:thousand|1[., ]?000|tausend)/,
  paid: /cost|spen[dt]|amount|charge|price|paid|kosten|ausgabe|betrag|preis|cout|depense|montant|importe|gasto|costo|spesa|bedrag|uitgave/,
  /** Numbers that are no money paid. */
  other:
    /budget|\bbid\b|gebot|limit|balance|saldo|\bvat\b|\btax|mwst|steuer|discount|rabatt|revenue|earn|conver|impress|\bviews?\b|visit|\bctr\b|%|\bid\b|number|nummer|rate\b|cpa|roi|roas/,
  clicks: /click|klick|clic/,
  until: /\bend|until|\bto\b|\bbis\b|\bfin\b|hasta|fine\b|\btot\b|last/,
  day: /dat|day|tag|jour|fecha|dia|giorno|dag|\bstart|from|\bvon\b/,
  source: /source|quelle|campaign|kampagne|campagne|campana|campagna|mailing|newsletter|advert|\bad\b/,
  placement: /placement|\bzone|\bsite\b|publisher|\bslot|widget|platz|emplacement/,
} as const;

const filledOf = (cells: readonly string[]): string[] => cells.filter((cell) => cell.trim() !== '');
const most = (cells: readonly string[], is: (cell: string) => boolean): boolean => {
  const filled = filledOf(cells);
  return filled.length > 0 && filled.filter(is).length > filled.length / 2;
};
const isNumber = (cell: string): boolean =>
  readDecimal(cell, '.') !== undefined || readDecimal(cell, ',') !== undefined;
/** The only one of a list; undefined where there are none or several. */
const only = (list: readonly number[]): number | undefined => (list.length === 1 ? list[0] : undefined);

interface CostColumns {
  readonly days: readonly number[];
  readonly day: number | undefined;
  readonly until: number | undefined;
  readonly amounts: readonly number[];
  readonly amount: number | undefined;
  readonly currency: number | undefined;
  readonly texts: readonly number[];
  readonly source: number | undefined;
  readonly placement: number | undefined;
}

const columnsOf = (
  header: readonly string[],
  columns: readonly (readonly string[])[],
  known: ReadonlySet<string>,
  choices: CostFileChoices,
): CostColumns => {
  const places = header.map((_, i) => i);
  const cellsOf = (i: number) => element(columns[i]);
  const named = (i: number, kind: RegExp) => kind.test(foldText(element(header[i])));
  const placeOf = (heading: string | undefined, all: readonly number[]) =>
    heading === undefined ? undefined : all.find((i) => header[i] === heading);
  const days = places.filter(
    (i) =>
      most(cellsOf(i), (cell) => dateParts(cell) !== undefined) ||
      (named(i, headings.day) && most(cellsOf(i), isSpreadsheetDay)),
  );
  const until = only(days.filter((i) => named(i, headings.until)));
  const firsts = days.filter((i) => i !== until);
  const isEach = (i: number) => named(i, headings.click) || named(i, headings.thousand);
  const amounts = places.filter(
    (i) =>
      !days.includes(i) &&
      !named(i, headings.other) &&
      !named(i, headings.placement) &&
      (isEach(i) || !named(i, headings.clicks)) &&
      most(cellsOf(i), isNumber),
  );
  const paid = amounts.filter((i) => named(i, headings.paid) && !isEach(i));
  const texts = places.filter((i) => !days.includes(i) && !most(cellsOf(i), isNumber));
  const currency = texts.find((i) => {
    const filled = filledOf(cellsOf(i));
    return filled.length > 0 && filled.every((cell) => knownCurrency(cell.trim().toUpperCase()));
  });
  const words = texts.filter((i) => i !== currency && filledOf(cellsOf(i)).length > 0);
  const ofKnown = words.filter((i) => filledOf(cellsOf(i)).every((cell) => known.has(cell.trim())));
  const { source } = choices;
  const isNamed = source !== undefined && 'name' in source;
  const at = isNamed
    ? undefined
    : source
      ? placeOf(source.column, words)
      : (only(ofKnown.filter((i) => named(i, headings.source))) ?? only(ofKnown));
  return {
    days: firsts,
    day: placeOf(choices.day, firsts) ?? only(firsts),
    until,
    amounts,
    amount:
      placeOf(choices.amount, amounts) ??
      only(paid) ??
      (paid.length === 0 ? (only(amounts.filter(isEach)) ?? only(amounts)) : undefined),
    currency,
    texts: words,
    source: at,
    placement: only(
      places.filter((i) => i !== at && !days.includes(i) && i !== currency && named(i, headings.placement)),
    ),
  };
};

/** Lines of totals beside what stands above them, all of it or since the total before. */
const totalsOf = (
  { aside = [] }: CostTable,
  added: readonly { readonly line: number; readonly amount: number }[],
  decimal: '.' | ',',
): CostFileReading['totals'] => {
  let before = 0;
  return aside.flatMap(({ line, cells, why }) => {
    if (why !== 'a total') return [];
    const sumAfter = (least: number) =>
      added.reduce((sum, one) => sum + (one.line > least && one.line < line ? one.amount : 0), 0);
    const sums = [sumAfter(0), sumAfter(before)];
    before = line;
    const numbers = cells.map((cell) => Number(readDecimal(cell, decimal) ?? NaN));
    return [{ line, agrees: numbers.some((n) => sums.some((sum) => Math.abs(n - sum) < 0.005)) }];
  });
};

/**
 * Reads what a seller's file says visits cost. Amounts, days and sources are told by headings and by what stands beneath; where several
 * columns qualify, or dates or amounts could be read in two ways, it is asked, and no row is given until it is answered. A row of nothing
 * paid is counted, one below nothing is refused, and a line of totals is compared with the others instead of being added to them.
 *
 * @param sources names of the sources that are known
 * @param currency of amounts that name none
 */
export const readCostFile = (
  table: CostTable,
  sources: readonly string[],
  currency: string,
  choices: CostFileChoices = {},
): CostFileReading => {
  const { header, rows } = table;
  const columns = header.map((_, i) => rows.map((row) => row[i] ?? ''));
  const known = new Set(sources);
  const at = columnsOf(header, columns, known, choices);
  const cells = (i: number | undefined) => (i === undefined ? [] : element(columns[i]));
  const cellOf = (row: readonly string[], i: number | undefined) =>
    i === undefined ? '' : (row[i] ?? '').trim();
  const heading = header[at.amount ?? -1] ?? '';
  const usual = currencyIn(/[(\s]([^()\s]+)\)?$/.exec(heading)?.[1] ?? '', currency) ?? currency;
  const currencyOf = (row: readonly string[]): string =>
    cellOf(row, at.currency).toUpperCase() || (currencyIn(cellOf(row, at.amount), currency) ?? usual);
  const folded = foldText(heading);
  const per =
    choices.per ??
    (headings.click.test(folded) ? 'click' : headings.thousand.test(folded) ? 'thousand' : 'all');
  const dates = choices.dates ?? inferDateOrder([...cells(at.day), ...cells(at.until)]).order;
  const decimal = choices.decimal ?? inferDecimal(cells(at.amount), (i) => currencyOf(rows[i] ?? []));
  const asks: CostFileQuestion[] = [];
  if (at.amount === undefined) asks.push('amount');
  else if (decimal === undefined && cells(at.amount).some((cell) => /[.,]/.test(cell))) asks.push('decimal');
  const name = choices.source && 'name' in choices.source ? choices.source.name : undefined;
  if (at.source === undefined && name === undefined) asks.push('source');
  if (at.day === undefined && at.days.length > 1) asks.push('day');
  else if (at.day === undefined && choices.span === undefined) asks.push('span');
  else if (at.day !== undefined && dates === undefined) asks.push('dates');

  const found: CostRow[] = [];
  const bad: BadRow[] = [];
  const added: { line: number; amount: number }[] = [];
  const seen = new Map<string, number>();
  let free = 0;
  const dayOf = (cell: string): string | undefined => {
    const moment = readMoment(cell, '', dates ?? 'ymd', 'UTC', table.since1904);
    return moment === undefined ? undefined : new Date(moment).toISOString().slice(0, 10);
  };
  for (const [i, row] of asks.length > 0 ? [] : rows.entries()) {
    const line = element(table.lines[i]);
    const amount = readDecimal(cellOf(row, at.amount), decimal ?? '.');
    const day = cellOf(row, at.day);
    const problems: Problem[] = [];
    const from = choices.span && at.day === undefined ? choices.span.from : dayOf(day);
    const lastCell = cellOf(row, at.until);
    const last = at.until === undefined ? undefined : dayOf(lastCell);
    const until = choices.span && at.day === undefined ? choices.span.until : (last ?? from);
    const source = name ?? cellOf(row, at.source);
    const money = currencyOf(row);
    const refuse = (path: string, message: string) => problems.push({ path, message });
    if (from === undefined) refuse('from', `“${day}” is no date, read as ${orderWords[dates ?? 'ymd']}.`);
    if (at.until !== undefined && last === undefined)
      refuse('until', `“${lastCell}” is no date, read as ${orderWords[dates ?? 'ymd']}.`);
    if (from !== undefined && until !== undefined && until < from)
      refuse('until', `Its last day, ${until}, lies before its first, ${from}.`);
    if (amount === undefined) refuse('amount', `“${cellOf(row, at.amount)}” is no amount.`);
    else if (amount.startsWith('-'))
      refuse(
        'amount',
        `${amount} is below nothing. What a seller gives back is no cost: note what was paid.`,
      );
    else if (!/^\d{1,7}(?:\.\d{1,9})?$/.test(amount))
      refuse('amount', `${amount} is finer or larger than a cost can be.`);
    if (!knownCurrency(money)) refuse('currency', `${money} is no currency there is.`);
    if (source === '') refuse('source', 'It names no source.');
    else if (!/^[A-Za-z0-9][A-Za-z0-9_-]{0,63}$/.test(source))
      refuse(
        'source',
        `“${source}” cannot be a source of a link: letters, digits, - and _ only. Say which source it is.`,
      );
    if (problems.length > 0 || from === undefined || amount === undefined) {
      bad.push({ line, cells: row, problems });
      continue;
    }
    added.push({ line, amount: Number(amount) });
    if (Number(amount) === 0) {
      free += 1;
      continue;
    }
    const placement = cellOf(row, at.placement);
    const note = at.texts
      .filter((n) => n !== at.source && n !== at.placement)
      .map((n) => cellOf(row, n).replace(/\s+/g, ' '))
      .filter((one) => one !== '')
      .join(' · ')
      .slice(0, 500);
    const content = fingerprint(JSON.stringify([source, placement, from, until, amount, money, per, note]));
    addTo(seen, content);
    found.push({
      key: `${content}-${seen.get(content) ?? 1}`,
      line,
      cost: {
        of: placement === '' ? { kind: 'source', source } : { kind: 'placement', source, placement },
        ...{ per, amount, currency: money, from },
        ...(until !== undefined && { until }),
        note,
        row: `${content}-${seen.get(content) ?? 1}`,
      },
    });
  }
  const headingsOf = (list: readonly number[]) => list.map((i) => element(header[i]));
  return {
    asks,
    candidates: {
      amount: headingsOf(at.amounts),
      source: headingsOf(at.texts),
      day: headingsOf(at.days),
    },
    days: cells(at.day),
    amount: heading,
    per,
    rows: found,
    free,
    totals: asks.length > 0 ? [] : totalsOf(table, added, decimal ?? '.'),
    bad,
  };
};
