import { describe, expect, it } from 'vitest';
import type { ClosedMonth } from '#core/catalogue';
import { addTo } from '#core/catalogue';
import { monthIn } from '#core/hop';
import { answersFrom, Dataset } from '#core/queries';
import { makeSeason, numbered } from './season/index.ts';
import { importAll } from './season/testing/importAll.ts';

const end = Date.UTC(2026, 10, 23);

/** The account tag in an address of the season's networks, read without Fernhop's own reading. */
const plainTag = (address: string): string => /[?&](?:by|friend)=([^&]+)/.exec(address)?.[1] ?? '';

describe('what the writers of Nightledge earned', () => {
  it.each([881, 4])('is by tag, month and currency what their sales were, seed %i', (seed) => {
    const season = makeSeason({ seed, end });
    const { domain, ...made } = season.made;
    const data = new Dataset();
    data.setRecords({ ...made, domains: [domain], reports: importAll(season, end) });
    data.add(numbered(season.journal));
    const ask = answersFrom(data);
    const question = { currency: 'EUR', now: end };

    const linkOf = new Map(
      season.journal.flatMap((one) =>
        one.kind === 'hop' || one.kind === 'beacon' ? [[one.click, one.link] as const] : [],
      ),
    );
    const tagOf = new Map(made.links.map(({ id, destination }) => [id, plainTag(destination)]));
    const zones = new Map(made.networks.map(({ id, zone }) => [id, zone]));
    // Of Kelvane some clicks are lost, and Osprenet has its tag in the host.
    const networks = new Set(['net_harrowmead', 'net_vennor']);
    const truth = new Map<string, number>();
    for (const { network, click, report, refund, dropped } of season.sales) {
      const tag = tagOf.get(linkOf.get(click) ?? '') ?? '';
      if (!networks.has(network) || !report || report.state !== 'approved' || dropped) continue;
      const month = (at: number) => monthIn(zones.get(network) ?? 'UTC', at);
      addTo(truth, `${month(report.at)} ${network} ${tag} ${report.currency}`, report.amount);
      if (refund?.reported)
        addTo(truth, `${month(refund.at)} ${network} ${tag} ${report.currency}`, refund.amount);
    }
    const said = () => {
      const found = new Map<string, number>();
      for (const month of ask.writersMonths())
        for (const { network, tag, currency, approved, earlier } of ask.writers({ ...question, month }).sums)
          if (networks.has(network) && approved + earlier !== 0)
            found.set(`${month} ${network} ${tag} ${currency}`, approved + earlier);
      return found;
    };
    expect([...said()].sort()).toEqual([...truth].sort());
    // What waits: reported as pending, or only heard of, once however often it was sent.
    const waits = new Map<string, number>();
    for (const { network, report, heard } of season.sales) {
      if (report && report.state !== 'pending') continue;
      if (report) addTo(waits, `${network} ${report.currency}`, report.amount);
      else if (heard?.counts) addTo(waits, `${network} ${heard.currency}`, heard.amount);
    }
    const pending = new Map<string, number>();
    for (const month of ask.writersMonths())
      for (const one of ask.writers({ ...question, month }).entries)
        if (one.pending !== 0) addTo(pending, `${one.network} ${one.currency}`, one.pending);
    expect([...pending].sort()).toEqual([...waits].sort());
    expect(season.sales.some(({ twice }) => twice)).toBe(true);
    const marens = [...truth.keys()].filter((key) => key.includes(' nl-5520 '));
    expect(marens.length).toBeGreaterThanOrEqual(3);
  });

  it('stays with who had a link when its month was closed; of an open month it goes with the link', () => {
    const season = makeSeason({ seed: 881, end });
    const { domain, ...made } = season.made;
    const data = new Dataset();
    const records = { ...made, domains: [domain], reports: importAll(season, end) };
    data.setRecords(records);
    data.add(numbered(season.journal));
    const ask = answersFrom(data);
    const ofMaren = (month: string) =>
      ask
        .writers({ month, currency: 'EUR', now: end })
        .sums.filter(({ owner }) => owner === 'Maren')
        .map(({ worth: _, ...sum }) => sum);
    const closed: ClosedMonth[] = ['2026-09', '2026-10'].map((month) => ({
      ...ask.closing('net_harrowmead', month),
      ...{ id: `mon_h${month.slice(5)}`, at: end, checksum: '0'.repeat(64) },
    }));
    const before = ['2026-09', '2026-10', '2026-11'].map(ofMaren);
    expect(before.every(([sum]) => (sum?.approved ?? 0) + (sum?.pending ?? 0) > 0)).toBe(true);
    // Every link of hers is Ines and Joris's from now on.
    data.setRecords({
      months: closed,
      links: made.links.map((link) => ({
        ...link,
        destination: link.destination.replace('by=nl-5520', 'by=nl-4471'),
      })),
    });
    expect(['2026-09', '2026-10', '2026-11'].map(ofMaren)).toEqual([before[0], before[1], []]);
    const [first] = ask.writers({ month: '2026-10', currency: 'EUR', now: end }).networks;
    expect(first).toEqual({ network: 'net_harrowmead', closedAt: end });

    // What is taken back of a closed month later is hers too, in the month in which it arrives.
    const sale = ask
      .writers({ month: '2026-10', currency: 'EUR', now: end })
      .entries.find(({ owner, approved, txn }) => owner === 'Maren' && approved > 0 && txn !== '');
    const [part] = records.reports.filter((one) => one.rows.some(({ txn }) => txn === sale?.txn));
    const row = part?.rows.find(({ txn }) => txn === sale?.txn);
    if (!part || !row || !sale) throw new Error('none of hers was approved in October');
    const taken = {
      ...part,
      ...{ id: 'rep_taken', batch: 'taken', at: end, clicks: [], gone: [] },
      rows: [{ ...row, status: 'reversed' as const }],
    };
    data.setRecords({ reports: [...records.reports, { ...taken, part: true }] });
    expect(ofMaren('2026-10')).toEqual(before[1]);
    expect(ofMaren('2026-11')).toMatchObject([{ sales: 0, approved: 0, earlier: -sale.approved }]);
  });
});
