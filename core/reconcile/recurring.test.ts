import { describe, expect, it } from 'vitest';
import { knownNetworks } from '#core/link-parts';
import type { Decision, Network, Report, ReportRow } from '#core/catalogue';
import { clickId } from '#core/hop';
import type { JournalRecord } from '#core/visits';
import { classified } from '../visits/testing/classified.ts';
import { adjustmentsOf, balanceOf, closingOf, matchAll, reconcile, rematch } from './index.ts';
import { hopRecord, postbackRecord } from '../visits/testing/records.ts';

const day = 86_400_000;
const start = Date.UTC(2026, 6, 1, 9);
const known = knownNetworks[0];
if (!known) throw new Error('networks ship');
const network: Network = {
  ...known,
  id: 'net_a',
  zone: 'UTC',
  cookieDays: 30,
  postback: {
    ...known.postback,
    fields: {},
    key: 'k'.repeat(24),
    pixelKey: 'p'.repeat(24),
    recurs: ['renewal'],
  },
};
const click = clickId(start, new Uint8Array(10).fill(7));
const hop: JournalRecord = hopRecord({
  at: start,
  click,
  link: 'lnk_chart',
  source: 'newsletter',
  visitor: '0011223344556677',
});
const said = (seq: number, days: number, fields: Record<string, string>): JournalRecord =>
  postbackRecord({
    seq,
    at: start + days * day,
    network: 'net_a',
    query: new URLSearchParams({ txn: 'SUB-1', currency: 'EUR', status: 'confirmed', ...fields }).toString(),
  });
const row = (days: number, event: string, amount: number): ReportRow => ({
  key: `SUB-1|${event}|${days}`,
  txn: 'SUB-1',
  click: '',
  program: '',
  event,
  status: 'approved',
  amount,
  currency: 'EUR',
  at: start + days * day + 3_600_000,
});
const report = (rows: ReportRow[]): Report => ({
  id: 'rep_1',
  network: 'net_a',
  batch: 'b',
  file: 'report.csv',
  at: start,
  from: '2026-07-01',
  until: '2026-10-31',
  rows,
  clicks: [],
});
const books = (records: JournalRecord[], reports: Report[] = []) => ({
  ...classified([hop, ...records]),
  networks: [network],
  programs: [],
  links: [{ id: 'lnk_chart', network: 'net_a', program: undefined }],
  reports,
  decisions: [],
});
const trial = said(2, 1, { click, event: 'trial', amount: '2.00' });
const renewals = [20, 50, 80].map((days, i) => said(3 + i, days, { event: 'renewal', amount: '5.00' }));

describe('commission that recurs', () => {
  it('belongs to the click of the first of its transaction, and each time counts', () => {
    const { units, cases } = reconcile(books([trial, ...renewals]));
    expect(units.map(({ match, link, source, flags }) => [match.level, link, source, flags])).toEqual([
      ['exact', 'lnk_chart', 'newsletter', []],
      ['recurring', 'lnk_chart', 'newsletter', []],
      ['recurring', 'lnk_chart', 'newsletter', []],
      ['recurring', 'lnk_chart', 'newsletter', []],
    ]);
    expect(cases.filter(({ kind }) => kind !== 'not in report')).toEqual([]);
    expect(balanceOf(units, {}).commission.get('EUR')?.ours).toBe(200 + 3 * 500);
  });

  it('follows the click a person chooses for the first, as matching anew would', () => {
    const strange = said(2, 1, { click: 'no click of ours', event: 'trial', amount: '2.00' });
    const before = books([strange, ...renewals]);
    const first = matchAll(before);
    expect(first.units.map(({ match }) => match.level)).not.toContain('recurring');
    const decisions: Decision[] = [
      {
        id: 'dec_1',
        case: `not one of ours|${first.units[0]?.id ?? ''}`,
        kind: 'choose',
        click,
        reason: '',
        at: 1,
      },
    ];
    const after = rematch(first, { ...before, decisions });
    expect(after?.units.map(({ match }) => match.level)).toEqual(['chosen', ...Array(3).fill('recurring')]);
    expect(after?.units).toEqual(matchAll({ ...before, decisions }).units);
  });

  it('is not held against the cookie window, which the first kept; another sale is', () => {
    const late = said(9, 40, { txn: 'OTHER', click, event: 'sale', amount: '9.00' });
    const { units } = reconcile(books([trial, ...renewals, late]));
    expect(
      units.filter(({ flags }) => flags.includes('outside the window')).map((u) => u.conversion?.txn),
    ).toEqual(['OTHER']);
  });

  it('meets the row of its own time, though all rows carry one transaction', () => {
    // The renewal of the 20th day is missing in the report; its neighbours must not take each other's rows.
    const { units } = reconcile(
      books(
        [trial, ...renewals],
        [report([row(80, 'renewal', 500), row(1, 'trial', 200), row(50, 'renewal', 450)])],
      ),
    );
    expect(units.map(({ cause, theirs }) => [cause, theirs?.amount])).toEqual([
      [undefined, 200],
      ['not in report', undefined],
      ['amount', 450],
      [undefined, 500],
    ]);
  });

  it('closes a month in which one transaction earned twice, and finds nothing changed', () => {
    const { units } = reconcile(books([trial, ...renewals]));
    const figures = closingOf(units, 'net_a', '2026-07');
    expect(figures.rows).toHaveLength(2);
    const closed = { ...figures, id: 'mon_1', at: start + 90 * day, checksum: '0'.repeat(64) };
    expect(adjustmentsOf([closed], units, () => '2026-09')).toEqual([]);
  });
});
