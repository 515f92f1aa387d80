import { writeTable } from '#core/formats';
import { dayIn, escapeHtml } from '#core/hop';
import type { StatementEntry } from '#core/queries';
import { writeAmount } from '#core/values';
import { monthWords } from '../../reconcile/words.ts';
import type { Statement } from './statement.ts';

/** The names that stand in a statement: of links and networks by their IDs, and the hosts of the links. */
export interface StatementNames {
  readonly link: (id: string) => string;
  readonly network: (id: string) => string;
  /** IANA zone in which a network counts its days. */
  readonly zone: (network: string) => string;
  readonly hosts: readonly string[];
}

const kindOf = ({ changes, isSale }: StatementEntry): string =>
  changes === undefined ? (isSale ? 'sale' : 'refund') : 'change';
const dayOf = ({ at, network }: StatementEntry, { zone }: StatementNames): string =>
  at === undefined ? '' : dayIn(zone(network), at);

/** A statement as a table, a conversion a line. */
export const statementTable = ({ writer, month, entries }: Statement, names: StatementNames): string =>
  writeTable(
    [
      ...['writer', 'month', 'account tag', 'network', 'link', 'day', 'transaction', 'kind', 'of month'],
      ...['currency', 'approved', 'pending', 'pending at its worth'],
    ],
    entries.map((entry) => {
      const { tag, network, link, txn, changes, currency, approved, pending, worth, isUnpriced } = entry;
      const amount = (minor: number) => writeAmount(Math.round(minor), currency);
      return [
        ...[writer, month, tag, names.network(network), names.link(link), dayOf(entry, names), txn],
        ...[kindOf(entry), changes ?? month, currency, amount(approved)],
        ...(isUnpriced ? ['', ''] : [amount(pending), changes === undefined ? amount(worth) : '']),
      ];
    }),
  );

const dateOf = (at: number): string => new Date(at).toISOString().slice(0, 10);

/** What is said of how fast the figures stand, a sentence each. */
export const standingWords = (
  { networks, sums }: Pick<Statement, 'networks' | 'sums'>,
  names: Pick<StatementNames, 'network'>,
): string[] => {
  const unpriced = sums.reduce((sum, one) => sum + one.unpriced, 0);
  return [
    ...networks.map(({ network, closedAt }) =>
      closedAt === undefined
        ? `${names.network(network)}: the month is not closed yet, its figures may still change.`
        : `${names.network(network)}: closed on ${dateOf(closedAt)}; what changed since counts in a later month.`,
    ),
    ...(unpriced === 0
      ? []
      : [
          unpriced === 1
            ? 'Of one sale nobody has said yet what it pays; it is in no sum.'
            : `Of ${unpriced} sales nobody has said yet what they pay; they are in no sum.`,
        ]),
  ];
};

/** Columns that hold numbers, which stand below each other. */
const numbers: ReadonlySet<string> = new Set([
  ...['Sales', 'Approved', 'Of earlier months', 'Approved together', 'Pending', 'Pending at its worth'],
]);

/** A statement as a page to send, read and print. */
export const statementPage = (statement: Statement, names: StatementNames): string => {
  const { writer, month, tags, sums, lines, entries } = statement;
  const table = (head: readonly string[], rows: readonly (readonly (string | number)[])[]) => {
    const cells = (texts: readonly (string | number)[], tag: 'td' | 'th') =>
      `<tr>${texts.map((text, i) => `<${tag}${numbers.has(head[i] ?? '') ? ' class="n"' : ''}>${escapeHtml(String(text))}</${tag}>`).join('')}</tr>`;
    return `<table><thead>${cells(head, 'th')}</thead><tbody>\n${rows.map((row) => cells(row, 'td')).join('\n')}\n</tbody></table>`;
  };
  const own = entries.filter(({ changes }) => changes === undefined);
  const changed = entries.filter(({ changes }) => changes !== undefined);
  const money = (minor: number, currency: string) => writeAmount(Math.round(minor), currency);
  const tagWords = tags.map(({ tag, network }) => `${tag} (${names.network(network)})`).join(', ');
  const title = `${writer}, ${monthWords(month)}`;
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escapeHtml(title)}</title>
<style>body{font:14px/1.45 Georgia,serif;max-width:60em;margin:2em auto;padding:0 1em;color:#1f2a25;background:#fff}
table{border-collapse:collapse;width:100%;margin-bottom:1.5em}th,td{text-align:left;vertical-align:top;padding:3px 10px 3px 0;border-bottom:1px solid #d9d2bf;font-size:13px;overflow-wrap:anywhere}
.n{text-align:right;font-variant-numeric:tabular-nums}h2{margin:1.2em 0 .3em}@media print{h2{break-after:avoid}tr{break-inside:avoid}}</style></head><body>
<h1>${escapeHtml(title)}</h1>
<p>${escapeHtml([tagWords === '' ? '' : `Account tags: ${tagWords}.`, `Links on ${names.hosts.join(', ')}.`].join(' ').trim())}</p>
${table(
  [
    'Currency',
    'Sales',
    'Approved',
    'Of earlier months',
    'Approved together',
    'Pending',
    'Pending at its worth',
  ],
  sums.map(({ currency, sales, approved, earlier, pending, worth }) => [
    ...[currency, sales, money(approved, currency), money(earlier, currency)],
    ...[money(approved + earlier, currency), money(pending, currency), money(worth, currency)],
  ]),
)}
<p>Approved is what the networks’ reports say. Pending is what counts and was not approved yet when the month was closed, or by now where it is not; at its worth it is the share of it that usually becomes approved.</p>
${standingWords(statement, names)
  .map((words) => `<p>${escapeHtml(words)}</p>`)
  .join('\n')}
<h2>By link</h2>
${table(
  ['Link', 'Network', 'Currency', 'Sales', 'Approved', 'Of earlier months', 'Pending'],
  lines.map(({ link, network, currency, sales, approved, earlier, pending }) => [
    ...[names.link(link), names.network(network), currency, sales],
    ...[money(approved, currency), money(earlier, currency), money(pending, currency)],
  ]),
)}
${
  changed.length === 0
    ? ''
    : `<h2>Earlier months, changed since</h2>
${table(
  ['Month', 'Link', 'Network', 'Transaction', 'Currency', 'Approved', 'Pending'],
  changed.map(({ changes = '', link, network, txn, currency, approved, pending }) => [
    ...[monthWords(changes), names.link(link), names.network(network), txn, currency],
    ...[money(approved, currency), money(pending, currency)],
  ]),
)}`
}
<h2>Conversions</h2>
${table(
  ['Day', 'Link', 'Network', 'Transaction', 'Currency', 'Approved', 'Pending'],
  own.map((entry) => [
    ...[dayOf(entry, names), names.link(entry.link), names.network(entry.network), entry.txn, entry.currency],
    money(entry.approved, entry.currency),
    entry.isUnpriced ? '?' : money(entry.pending, entry.currency),
  ]),
)}
</body></html>
`;
};
