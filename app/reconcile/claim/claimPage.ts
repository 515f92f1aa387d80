import type { KeptSeal } from '#core/catalogue';
import { escapeHtml } from '#core/hop';
import type { ClaimLine } from '#core/reconcile';
import { claimedSums, isoIn } from '#core/reconcile';
import type { Sum } from '#core/values';
import { sumByCurrency, writeAmount } from '#core/values';

/** What a claim is about. */
export interface ClaimHead {
  readonly network: string;
  readonly zone: string;
  /** `2026-10` */
  readonly month: string;
  /** Hosts of the links it is about. */
  readonly hosts: readonly string[];
  /** When it was made; milliseconds since 1970 UTC. */
  readonly at: number;
  /** The journal's newest seal. */
  readonly seal?: KeptSeal | undefined;
}

const amount = (minor: number | null, currency: string): string =>
  minor === null ? '' : `${writeAmount(minor, currency)} ${currency}`;
const sumWords = (list: readonly Sum[]): string =>
  list.map(({ minor, currency }) => amount(minor, currency)).join(' and ') || 'no money';
const plural = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`;

/** Money of one side by currency. */
const sideSums = (lines: readonly ClaimLine[], side: 'ours' | 'theirs'): Sum[] =>
  sumByCurrency(
    lines.flatMap(
      ({ heardAmount, heardCurrency, termsAmount, termsCurrency, theirAmount, theirCurrency }) => {
        const [minor, currency] =
          side === 'theirs'
            ? [theirAmount, theirCurrency]
            : termsAmount === null
              ? [heardAmount, heardCurrency]
              : [termsAmount, termsCurrency];
        return minor === null ? [] : [{ minor, currency }];
      },
    ),
  );

/** What we heard, in words: a postback without an amount is told from one that brought it. */
export const heardWords = (line: ClaimLine): string => {
  if (line.clicks) return `${line.clicks.ours} clicks`;
  if (line.termsAmount !== null)
    return `no amount; ${amount(line.termsAmount, line.termsCurrency)} by the terms`;
  if (line.heardAmount !== null) return `${amount(line.heardAmount, line.heardCurrency)}, ${line.ourState}`;
  return line.postbacks.length === 0 ? 'nothing' : 'no amount';
};

/** What they report, in words. */
export const reportedWords = (line: ClaimLine): string => {
  if (line.clicks) return `${line.clicks.theirs} clicks`;
  if (line.theirCurrency === '') return 'not listed';
  return `${amount(line.theirAmount, line.theirCurrency) || 'no amount'}, ${line.theirState}`;
};

const sealText = ({ zone, seal }: ClaimHead, lines: readonly ClaimLine[]): string => {
  if (!seal) return '';
  const unsealed = lines
    .flatMap(({ postbacks }) => postbacks)
    .filter(({ record }) => record > seal.seq).length;
  return `Our journal was sealed at ${isoIn(zone, seal.at)} up to record ${seal.seq}, SHA-256 ${seal.hash}: no record up to it can be altered without that seal no longer fitting.${unsealed > 0 ? ` ${plural(unsealed, 'postback', 'postbacks')} of this claim came after it.` : ''}`;
};

/** The lines of each kind of difference, in their order. */
const byCause = (lines: readonly ClaimLine[]): (readonly [string, readonly ClaimLine[]])[] =>
  [...new Set(lines.map(({ cause }) => cause))].map((cause) => [
    cause,
    lines.filter((line) => line.cause === cause),
  ]);

const accountsOf = (lines: readonly ClaimLine[]): string =>
  [...new Set(lines.map(({ account }) => account).filter((tag) => tag !== ''))].join(', ');

/** The covering letter, as plain text. */
export const claimLetter = (head: ClaimHead, lines: readonly ClaimLine[]): string => {
  const accounts = accountsOf(lines);
  const sums = claimedSums(lines);
  return `${[
    `To ${head.network}`,
    `Our records and your report of ${head.month}${accounts === '' ? '' : `, account ${accounts}`}`,
    '',
    `On ${plural(lines.length, 'line', 'lines')} our records and your report differ${sums.length === 0 ? '' : `; by our records ${sumWords(sums)} ${sums.length === 1 && sums[0]?.minor === 1 ? 'is' : 'are'} missing`}.`,
    `We have ${sumWords(sideSums(lines, 'ours'))}, you report ${sumWords(sideSums(lines, 'theirs'))} for them.`,
    '',
    ...byCause(lines).map(([cause, claims]) => {
      const missing = claimedSums(claims);
      return `- ${cause}: ${claims.length}${missing.length === 0 ? '' : `, ${sumWords(missing)}`}. ${claims[0]?.asks ?? ''}`;
    }),
    '',
    `Each line is in rows.csv, with your report's file and line where it is listed, and the terms where it rests on them. Every time is in ${head.zone}, your zone; columns.csv says what each column holds. The postbacks behind each line are in the folder evidence, as they came.`,
    '',
    'To answer, fill the last three columns of rows.csv (your answer: accepted, refused or in part; the amount you accept; your reason) and send it back.',
    ...(head.seal ? ['', sealText(head, lines)] : []),
    '',
    `${head.hosts.join(', ')}, ${isoIn(head.zone, head.at)}`,
  ].join('\n')}\n`;
};

/** The claim as a page to read and print. */
export const claimPage = (head: ClaimHead, lines: readonly ClaimLine[]): string => {
  const cell = (text: string) => `<td>${escapeHtml(text)}</td>`;
  const accounts = accountsOf(lines);
  const placeWords = ({ report }: ClaimLine): string =>
    report ? `${report.file}${report.line === undefined ? '' : `, line ${report.line}`}` : '';
  const rowOf = (line: ClaimLine): string[] =>
    line.clicks
      ? [
          line.clicks.label || 'whole account',
          line.clicks.day,
          '',
          '',
          heardWords(line),
          reportedWords(line),
          '',
          '',
        ]
      : [
          line.txn || 'none',
          line.at,
          line.program,
          `${line.click}${line.clickedAt === '' ? '' : `, ${line.clickedAt}, ${line.link}`}`,
          heardWords(line),
          reportedWords(line),
          amount(line.claimed, line.claimedCurrency),
          [placeWords(line), line.terms].filter((text) => text !== '').join('; '),
        ];
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escapeHtml(`${head.network}, ${head.month}`)}</title>
<style>body{font:14px/1.45 Georgia,serif;max-width:72em;margin:2em auto;padding:0 1em;color:#1f2a25;background:#fff}
table{border-collapse:collapse;width:100%;margin-bottom:1.5em}th,td{text-align:left;vertical-align:top;padding:3px 10px 3px 0;border-bottom:1px solid #d9d2bf;font-size:13px;overflow-wrap:anywhere}
th{overflow-wrap:normal}h2{margin:1.2em 0 .3em}@media print{h2{break-after:avoid}tr{break-inside:avoid}}</style></head><body>
<h1>${escapeHtml(`${head.network}, ${head.month}`)}</h1>
<p>${escapeHtml(`${plural(lines.length, 'line', 'lines')} on which our records and your report differ. Links on ${head.hosts.join(', ')}${accounts === '' ? '' : `; account ${accounts}`}. Times in ${head.zone}.`)}</p>
<table><thead><tr><th>Currency</th><th>By our records</th><th>You report</th><th>Claimed</th></tr></thead><tbody>
${[
  ...new Set(
    [...sideSums(lines, 'ours'), ...sideSums(lines, 'theirs'), ...claimedSums(lines)].map(
      ({ currency }) => currency,
    ),
  ),
]
  .map((currency) => {
    const of = (list: readonly Sum[]) => {
      const found = list.find((sum) => sum.currency === currency);
      return found ? writeAmount(found.minor, currency) : '';
    };
    return `<tr>${[currency, of(sideSums(lines, 'ours')), of(sideSums(lines, 'theirs')), of(claimedSums(lines))].map(cell).join('')}</tr>`;
  })
  .join('\n')}
</tbody></table>
${byCause(lines)
  .map(
    ([cause, claims]) => `<h2>${escapeHtml(cause)} (${claims.length})</h2>
<p>${escapeHtml(`${claims[0]?.because ?? ''} ${claims[0]?.asks ?? ''}`)}</p>
<table><thead><tr><th>Transaction</th><th>At</th><th>Program</th><th>Click, clicked at, link</th><th>We heard</th><th>You report</th><th>Claimed</th><th>Your report; terms</th></tr></thead><tbody>
${claims.map((line) => `<tr>${rowOf(line).map(cell).join('')}</tr>`).join('\n')}
</tbody></table>`,
  )
  .join('\n')}
${head.seal ? `<p>${escapeHtml(sealText(head, lines))}</p>` : ''}
</body></html>
`;
};
