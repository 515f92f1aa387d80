import type { BadRow, DateOrder, Network, Payment, Problem } from '#core/catalogue';
import { addTo, element, fingerprint, foldText } from '#core/catalogue';
import {
  currencyIn,
  dateParts,
  inferDateOrder,
  inferDecimal,
  knownCurrency,
  orderWords,
  readMoment,
  readReportAmount,
} from '#core/values';
import type { ReportTable } from './report.ts';

/** What a person answered of a bank's file: headings of the columns of day and amount, and how both are written. */
export interface BankChoices {
  readonly day?: string;
  readonly amount?: string;
  readonly dates?: DateOrder;
  readonly decimal?: '.' | ',';
}

/** What a bank's file leaves open. */
export type BankQuestion = 'day' | 'amount' | 'dates' | 'decimal';

/** Money that arrived, as a bank's file states it. */
export interface BankRow extends Pick<Payment, 'day' | 'amount' | 'currency'> {
  /** By what the row is known: its content, and how often that occurred in the file before. */
  readonly key: string;
  /** Line in the file, from 1. */
  readonly line: number;
  /** Everything else that stands in the row: who paid, and what for. */
  readonly text: string;
  /** ID of the network whose name stands in it; empty where none or several do. */
  readonly network: string;
}

export interface BankReading {
  readonly asks: readonly BankQuestion[];
  /** Headings of the columns that can be the day, and the amount. */
  readonly candidates: { readonly day: readonly string[]; readonly amount: readonly string[] };
  /** Days as they stand in the file; none where it is not known which column holds them. */
  readonly days: readonly string[];
  /** How it is read. */
  readonly dates: DateOrder;
  readonly decimal: '.' | ',';
  readonly rows: readonly BankRow[];
  /** How many rows are of money that left. */
  readonly left: number;
  readonly bad: readonly BadRow[];
}

/** Headings as banks write them, without accents; common practice. The day of entry comes before that on which it counts. */
const headings = {
  booked: /book|buchung|posted|posting|boek|comptab|contab|operaci|operation|entered/,
  in: /credit|paid in|money in|received|incoming|haben|gutschrift|eingang|abono|haber|ingreso|entrat|avere|\bbij\b|ontvangen/,
  out: /debit|paid out|money out|withdraw|outgoing|\bsoll\b|lastschrift|ausgang|cargo|uscit|\bdare\b|uitgaven/,
  amount: /amount|betrag|umsatz|montant|importe|importo|bedrag/,
  balance: /balance|saldo|solde|kontostand/,
  /** Numbers that are no money. */
  number:
    /iban|account|konto|compte|cuenta|rekening|\bbic\b|swift|number|nummer|\bnr\b|\bno\b|reference|referenz|customer|\bid\b/,
  fee: /\bfee|charge|gebuhr|frais|comisi|kosten/,
  day: /dat|day|tag|jour|fecha|dia/,
} as const;

/** Whether a cell of a column of signs says that money arrived. */
const arrives = (cell: string): boolean | undefined => {
  const word = cell.trim().toLowerCase();
  if (['+', 'c', 'cr', 'crdt', 'credit', 'h', 'haben', 'bij'].includes(word)) return true;
  return ['-', '−', 'd', 'dr', 'dbit', 'debit', 's', 'soll', 'af'].includes(word) ? false : undefined;
};

/** A day in ISO 8601's basic form, `20261120`, with the signs between its parts. */
const withSigns = (cell: string): string =>
  cell.trim().replace(/^((?:19|20)\d\d)(0[1-9]|1[0-2])([0-3]\d)$/, '$1-$2-$3');

const filledOf = (cells: readonly string[]): string[] => cells.filter((cell) => cell.trim() !== '');
const most = (cells: readonly string[], is: (cell: string) => boolean): boolean => {
  const filled = filledOf(cells);
  return filled.length > 0 && filled.filter(is).length > filled.length / 2;
};
const isMoney = (cell: string): boolean =>
  readReportAmount(cell, '.', 'KWD') !== undefined || readReportAmount(cell, ',', 'KWD') !== undefined;

/** The column of a kind: the one a person chose, else the only one left by the first test that leaves any. */
const columnOf = (
  header: readonly string[],
  all: readonly number[],
  choice: string | undefined,
  tests: readonly ((heading: string) => boolean)[],
): number | undefined => {
  if (choice !== undefined) return all.find((i) => header[i] === choice);
  for (const test of [...tests, () => true]) {
    const left = all.filter((i) => test(element(header[i])));
    if (left.length === 1) return left[0];
    if (left.length > 1) return undefined;
  }
  return undefined;
};

/** Words of a text in lower case, without accents and signs, parted by single spaces. */
const wordsOf = (text: string): string =>
  foldText(text)
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();

/** Where a bank's file has what; undefined where no column is it, or several may be. */
interface BankColumns {
  readonly days: readonly number[];
  readonly amounts: readonly number[];
  readonly day: number | undefined;
  /** What arrived, where it has a column of its own; else what moved. */
  readonly amount: number | undefined;
  /** What left, where it has a column of its own. */
  readonly out: number | undefined;
  /** Whether it arrived or left, in a sign or word. */
  readonly sign: number | undefined;
  readonly currency: number | undefined;
  /** Columns that say who paid and what for. */
  readonly words: readonly number[];
}

const bankColumns = (
  header: readonly string[],
  columns: readonly (readonly string[])[],
  choices: BankChoices,
): BankColumns => {
  const places = header.map((_, i) => i);
  const cellsOf = (i: number) => element(columns[i]);
  const named = (i: number, ...kinds: readonly RegExp[]) =>
    kinds.some((kind) => kind.test(foldText(element(header[i]))));
  const all = (i: number, is: (cell: string) => boolean) => {
    const filled = filledOf(cellsOf(i));
    return filled.length > 0 && filled.every(is);
  };
  const days = places.filter((i) => most(cellsOf(i), (cell) => dateParts(cell) !== undefined));
  const money = places.filter(
    (i) => !days.includes(i) && !named(i, headings.number) && most(cellsOf(i), isMoney),
  );
  const side = (kind: RegExp, other: RegExp) =>
    money.filter((i) => named(i, kind) && !named(i, other, headings.balance));
  const [arrived, left] = [side(headings.in, headings.out), side(headings.out, headings.in)];
  const isSplit = arrived.length === 1 && left.length === 1;
  const amounts = isSplit
    ? arrived
    : money.filter((i) => !named(i, headings.balance, headings.fee, headings.out));
  const rest = places.filter((i) => !days.includes(i) && !money.includes(i));
  const sign = rest.find((i) => all(i, (cell) => arrives(cell) !== undefined));
  const currency = rest.find((i) => all(i, (cell) => knownCurrency(cell.trim().toUpperCase())));
  return {
    days,
    amounts,
    day: columnOf(header, days, choices.day, [(name) => headings.booked.test(foldText(name))]),
    amount: columnOf(header, amounts, choices.amount, [(name) => headings.amount.test(foldText(name))]),
    out: isSplit ? left[0] : undefined,
    sign,
    currency,
    words: rest.filter((i) => i !== sign && i !== currency),
  };
};

/**
 * Reads what arrived from a bank's file. Day and amount are told by headings and by what stands beneath; where two columns
 * qualify, or dates or amounts could be read in two ways, it is asked, and no row is given until it is answered. Of money that
 * left only the number of rows is told.
 *
 * @param currency of amounts that name none
 */
export const readBank = (
  table: ReportTable,
  networks: readonly Pick<Network, 'id' | 'name'>[],
  currency: string,
  choices: BankChoices = {},
): BankReading => {
  const { header, rows } = table;
  const columns = header.map((name, i) => {
    const cells = rows.map((row) => row[i] ?? '');
    return headings.day.test(foldText(name)) ? cells.map(withSigns) : cells;
  });
  const at = bankColumns(header, columns, choices);
  const cellOf = (row: readonly string[], i: number | undefined) =>
    i === undefined ? '' : (row[i] ?? '').trim();
  // A heading such as “Amount (EUR)” or “Betrag in €” tells it for all.
  const headingWord = /[(\s]([^()\s]+)\)?$/.exec(header[at.amount ?? -1] ?? '')?.[1] ?? '';
  const usual = currencyIn(headingWord, currency) ?? currency;
  const currencyOf = (row: readonly string[]): string =>
    cellOf(row, at.currency).toUpperCase() || (currencyIn(cellOf(row, at.amount), currency) ?? usual);
  const cells = (i: number | undefined) => (i === undefined ? [] : element(columns[i]));
  const dates = choices.dates ?? inferDateOrder(cells(at.day)).order;
  const decimal =
    choices.decimal ??
    inferDecimal([...cells(at.amount), ...cells(at.out)], (i) => currencyOf(rows[i % rows.length] ?? []));
  const asks: BankQuestion[] = [];
  if (at.day === undefined) asks.push('day');
  else if (dates === undefined) asks.push('dates');
  if (at.amount === undefined) asks.push('amount');
  else if (decimal === undefined && cells(at.amount).some((cell) => /[.,]/.test(cell))) asks.push('decimal');

  const found: BankRow[] = [];
  const bad: BadRow[] = [];
  let left = 0;
  const seen = new Map<string, number>();
  const names = networks.map(({ id, name }) => ({ id, words: ` ${wordsOf(name)} ` }));
  for (const [i, row] of asks.length > 0 ? [] : rows.entries()) {
    const money = currencyOf(row);
    const moment = readMoment(withSigns(cellOf(row, at.day)), '', dates ?? 'ymd', 'UTC');
    const isOut =
      arrives(cellOf(row, at.sign)) === false ||
      (at.out !== undefined && cellOf(row, at.amount) === '' && cellOf(row, at.out) !== '');
    const amount = isOut ? 0 : readReportAmount(cellOf(row, at.amount), decimal ?? '.', money);
    if (moment === undefined || amount === undefined) {
      const problems: Problem[] = [];
      if (moment === undefined)
        problems.push({
          path: 'day',
          message: `“${cellOf(row, at.day)}” is no date, read as ${orderWords[dates ?? 'ymd']}.`,
        });
      if (amount === undefined)
        problems.push({ path: 'amount', message: `“${cellOf(row, at.amount)}” is no amount in ${money}.` });
      bad.push({ line: element(table.lines[i]), cells: row, problems });
      continue;
    }
    if (amount <= 0) {
      left += 1;
      continue;
    }
    const day = new Date(moment).toISOString().slice(0, 10);
    const text = at.words
      .map((n) => cellOf(row, n).replace(/\s+/g, ' '))
      .filter((one) => one !== '')
      .join(' · ');
    const content = fingerprint(JSON.stringify([day, amount, money, text]));
    addTo(seen, content);
    const said = ` ${wordsOf(text)} `;
    const [whose, ...others] = names.filter(({ words }) => said.includes(words));
    found.push({
      key: `${content}-${seen.get(content) ?? 1}`,
      line: element(table.lines[i]),
      day,
      amount,
      currency: money,
      text,
      network: whose && others.length === 0 ? whose.id : '',
    });
  }
  const headingsOf = (list: readonly number[]) => list.map((i) => element(header[i]));
  return {
    asks,
    candidates: { day: headingsOf(at.days), amount: headingsOf(at.amounts) },
    days: cells(at.day),
    dates: dates ?? 'dmy',
    decimal: decimal ?? '.',
    rows: found,
    left,
    bad,
  };
};
