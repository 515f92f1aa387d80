import { strToU8, zipSync } from 'fflate';
import { writeTable } from '#core/formats';
import { escapeHtml } from '#core/hop';
import type { ClaimLine } from '#core/reconcile';
import { writeAmount } from '#core/values';

const amount = (minor: number | null, currency: string): string =>
  minor === null ? '' : `${writeAmount(minor, currency)} ${currency}`;

const summary = (network: string, month: string, site: string, lines: readonly ClaimLine[]): string => {
  const causes = [...new Set(lines.map((line) => line.cause))];
  const cell = (text: string) => `<td>${escapeHtml(text)}</td>`;
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escapeHtml(`${network}, ${month}`)}</title>
<style>body{font:14px/1.45 Georgia,serif;max-width:60em;margin:2em auto;padding:0 1em;color:#1f2a25}
table{border-collapse:collapse;width:100%;margin-bottom:1.5em}th,td{text-align:left;padding:3px 10px 3px 0;border-bottom:1px solid #d9d2bf;font-size:13px}
h2{margin:1.2em 0 .3em}@media print{h2{break-after:avoid}tr{break-inside:avoid}}</style></head><body>
<h1>${escapeHtml(site)}: ${escapeHtml(network)}, ${escapeHtml(month)}</h1>
<p>${lines.length} conversions on which our records and your report differ. The rows are in rows.csv; what supports each, as it came, is in the folder evidence.</p>
${causes
  .map((cause) => {
    const claims = lines.filter((line) => line.cause === cause);
    return `<h2>${escapeHtml(cause)} (${claims.length})</h2>
<p>${escapeHtml(claims[0]?.because ?? '')}</p>
<table><thead><tr><th>Transaction</th><th>At</th><th>Click ID</th><th>Clicked</th><th>We heard</th><th>You report</th></tr></thead><tbody>
${claims
  .map(
    (line) =>
      `<tr>${[line.txn || 'none', line.at, line.click, line.clickedAt, amount(line.ourAmount, line.ourCurrency), amount(line.theirAmount, line.theirCurrency) || 'not listed'].map(cell).join('')}</tr>`,
  )
  .join('\n')}
</tbody></table>`;
  })
  .join('\n')}
</body></html>
`;
};

/** A claim as a zip: a summary for a person, the rows, and the evidence for each as it came. */
export const claimFile = (
  network: string,
  month: string,
  site: string,
  lines: readonly ClaimLine[],
): Uint8Array<ArrayBuffer> => {
  const rows = writeTable(
    [
      'cause',
      'transaction',
      'event',
      'at',
      'click',
      'clicked at',
      'link',
      'our amount',
      'our currency',
      'their amount',
      'their currency',
      'their state',
      'unverified',
    ],
    lines.map((line) => [
      line.cause,
      line.txn,
      line.event,
      line.at,
      line.click,
      line.clickedAt,
      line.link,
      line.ourAmount === null ? '' : writeAmount(line.ourAmount, line.ourCurrency),
      line.ourCurrency,
      line.theirAmount === null ? '' : writeAmount(line.theirAmount, line.theirCurrency),
      line.theirCurrency,
      line.theirState,
      line.unverified,
    ]),
  );
  const evidence = Object.fromEntries(
    lines.map((line, i) => [
      `evidence/${String(i + 1).padStart(4, '0')}-${(line.txn || 'no-transaction').replace(/[^A-Za-z0-9_-]/g, '_').slice(0, 60)}.json`,
      strToU8(`${JSON.stringify(line, undefined, 2)}\n`),
    ]),
  );
  const zip = zipSync({
    'summary.html': strToU8(summary(network, month, site, lines)),
    'rows.csv': strToU8(rows),
    ...evidence,
  });
  return new Uint8Array(zip);
};
