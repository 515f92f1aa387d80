import type { BalanceLines, LedgerLine, QueueLine } from '#core/queries';
import { writeTable } from '#core/formats';
import { isoIn, unitAt, unverifiedWord } from '#core/reconcile';
import { writeAmount } from '#core/values';
import { caseWords, causeWords, levelWords, pieceWords } from './words.ts';

const amount = (minor: number | null | undefined, currency: string): string =>
  minor === null || minor === undefined ? '' : writeAmount(minor, currency);

/**
 * The ledger as CSV, in the words of the screen.
 *
 * @param zone in which times are written, as the screen shows them
 * @param addressOf short address of a link by its ID
 */
export const ledgerCsv = (
  lines: readonly LedgerLine[],
  zone: string,
  addressOf: (link: string) => string,
): string =>
  writeTable(
    [
      `at, ${zone}`,
      'transaction',
      'event',
      'link',
      'source',
      'we heard',
      'currency heard',
      'our state',
      'priced by terms',
      'they report',
      'currency reported',
      'their state',
      'click',
      'click ID',
      'differs',
      'unverified',
    ],
    lines.map(({ unit, click }) => [
      isoIn(zone, unitAt(unit)),
      unit.conversion?.txn || (unit.reported?.txn ?? ''),
      unit.conversion?.event ?? unit.reported?.event ?? '',
      unit.link === '' ? '' : addressOf(unit.link),
      unit.source,
      amount(unit.ours?.amount, unit.ours?.currency ?? ''),
      unit.ours?.currency ?? '',
      unit.ours?.status ?? '',
      unit.ours?.priced ? 'yes' : '',
      amount(unit.theirs?.amount, unit.theirs?.currency ?? ''),
      unit.theirs?.currency ?? '',
      unit.theirs?.status ?? '',
      levelWords[unit.match.level],
      click,
      [...(unit.cause ? [causeWords[unit.cause][0]] : []), ...unit.flags].join(', '),
      unverifiedWord(unit.conversion),
    ]),
  );

/** A balance as CSV: a row for each line, and one for each piece that lies between. */
export const balanceCsv = ({ clicks, conversions, commission }: BalanceLines): string => {
  const rowsOf = (
    what: string,
    currency: string,
    { ours, theirs, pieces, unexplained, reported }: typeof clicks | typeof conversions,
  ): string[][] => {
    const write = (value: number) => (currency === '' ? String(value) : writeAmount(value, currency));
    const told = (value: number) => (reported ? write(value) : '');
    return [
      [what, currency, 'we recorded', write(ours), ''],
      ...pieces.map(({ cause, value, count }) => [
        what,
        currency,
        pieceWords(cause)[0],
        write(value),
        String(count),
      ]),
      [what, currency, 'unexplained', told(unexplained), ''],
      [what, currency, 'they report', told(theirs), ''],
    ];
  };
  return writeTable(
    ['what', 'currency', 'part', 'value', 'records'],
    [
      ...rowsOf('clicks', '', clicks),
      ...rowsOf('conversions', '', conversions),
      ...commission.flatMap(({ currency, bridge }) => rowsOf('commission', currency, bridge)),
    ],
  );
};

/** What waits to be settled as CSV, in the words of the screen. */
export const queueCsv = (
  lines: readonly QueueLine[],
  zone: string,
  addressOf: (link: string) => string,
): string =>
  writeTable(
    [
      'what',
      `at, ${zone}`,
      'transaction',
      'event',
      'link',
      'worth',
      'currency',
      'why',
      'what can be done',
      'safe to accept',
    ],
    lines.map(({ one, txn, event, link }) => [
      caseWords[one.kind][0],
      isoIn(zone, one.at),
      txn,
      event,
      link === '' ? '' : addressOf(link),
      one.worth === 0 ? '' : amount(one.worth, one.currency),
      one.worth === 0 ? '' : one.currency,
      one.because,
      one.proposal.does,
      one.proposal.safe ? 'yes' : '',
    ]),
  );
