import { expect, it } from 'vitest';
import type { Cost, Rate } from '#core/catalogue';
import type { Pays } from './index.ts';
import { answersFrom, Dataset } from './index.ts';
import { seasonOf } from './testing/seasons.ts';
import { domain, links, networks, programs } from './testing/worlds.ts';

const now = Date.UTC(2026, 11, 20, 12);
const cost: Cost = {
  id: 'cst_one',
  of: { kind: 'source', source: 'one' },
  per: 'all',
  amount: '150',
  currency: 'USD',
  from: '2026-10-05',
  note: '',
};
const dollar = (rate: string): Rate => ({
  id: 'rat_usd',
  ...{ from: 'USD', to: 'EUR', day: '2026-01-01', rate, source: 'my bank' },
});
const season = seasonOf(now, [
  { source: 'before', day: '2026-10-01', visits: 400, sales: 16, after: [0, 1, 4, 9, 15] },
  { source: 'one', day: '2026-10-20', visits: 300, sales: 9, after: [0, 2, 6] },
]);
const ask = (data: Dataset, at: number, currency: string): Pays =>
  answersFrom(data).whatPays({
    ...{ by: 'source', from: '2026-10-02', to: '2026-12-20', where: [], currency, now: at },
  });

it('what costs and sales came to is kept from question to question, and never beyond a change', () => {
  const data = new Dataset();
  /** What a dataset says that was made this moment of the same. */
  const made = { journal: season.slice(0, -3), records: {}, rolledUp: data.rolledUp };
  const told: string[] = [];
  const asAnew = (at = now, currency = 'EUR'): void => {
    const fresh = new Dataset();
    fresh.setRecords(made.records);
    fresh.add(made.journal);
    fresh.rolledUp = made.rolledUp;
    const said = ask(data, at, currency);
    expect(said).toEqual(ask(fresh, at, currency));
    // Asked again it is what is kept.
    expect(ask(data, at, currency)).toEqual(said);
    told.push(JSON.stringify(said));
  };
  const setRecords = (records: object): void => {
    made.records = { ...made.records, ...records };
    data.setRecords(records);
  };
  setRecords({ domains: [domain], networks, programs, links, costs: [], rates: [] });
  data.add(made.journal);
  asAnew();
  made.journal = season;
  data.add(season);
  asAnew();
  setRecords({ costs: [cost] });
  asAnew();
  setRecords({ rates: [dollar('0.9')] });
  asAnew();
  setRecords({ rates: [dollar('0.8')] });
  asAnew();
  made.rolledUp = {
    before: Date.UTC(2026, 9, 8),
    counts: [
      {
        ...{ link: links[0]?.id ?? '', source: 'one', branch: '', day: '2026-10-06', theirDay: '2026-10-06' },
        ...{ outcome: 'counted', count: 50 },
      } as Dataset['rolledUp']['counts'][number],
    ],
  };
  data.rolledUp = made.rolledUp;
  asAnew();
  asAnew(now, 'USD');
  // Before a day has passed the visits of one source say nothing of sales that come after a day.
  asAnew(Date.UTC(2026, 9, 21, 5));
  asAnew(Date.UTC(2026, 9, 21, 9));
  // Each step changed what is said: one that was forgotten would have been seen.
  expect(new Set(told).size).toBe(told.length);
});
