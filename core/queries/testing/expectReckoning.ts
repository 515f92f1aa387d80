import { expect } from 'vitest';
import type { CatalogueRecords } from '../index.ts';
import { answersFrom, Dataset } from '../index.ts';
import type { SlowBooks } from './slow/reckoning.ts';
import { slowReckoning } from './slow/reckoning.ts';

/** Expects that every month with every network is what the slow reckoning makes of the same lines; gives how many there were. */
export const expectReckoning = (books: SlowBooks, records: Partial<CatalogueRecords>): number => {
  const data = new Dataset();
  data.setRecords(records);
  data.add(books.journal);
  expect(data.zone).toBe(books.zone);
  const ask = answersFrom(data);
  const slow = slowReckoning(books);
  for (const [name, month] of slow) {
    const [network = '', of = ''] = name.split(' ');
    const { clicks, conversions, commission } = ask.balance({ network, month: of });
    const piece = (cause: string) => Math.abs(clicks.pieces.find((one) => one.cause === cause)?.value ?? 0);
    const outcomes = ['tests', 'prefetches', 'bots', 'not redirected', 'repeats', 'traces'];
    expect({
      name,
      requests: clicks.ours,
      outcomes: Object.fromEntries(outcomes.map((cause) => [cause, piece(cause)])),
      theirClicks: clicks.theirs,
      unexplainedClicks: clicks.reported ? clicks.unexplained : 'not reported',
      conversions: { ours: conversions.ours, theirs: conversions.theirs },
      money: Object.fromEntries(
        commission.map(({ currency, bridge }) => [currency, { ours: bridge.ours, theirs: bridge.theirs }]),
      ),
    }).toEqual({
      name,
      requests: month.requests,
      outcomes: Object.fromEntries(outcomes.map((cause) => [cause, month.outcomes[cause] ?? 0])),
      theirClicks: month.theirClicks,
      unexplainedClicks: clicks.reported ? month.unexplainedClicks : 'not reported',
      conversions: month.conversions,
      money: month.money,
    });
  }
  return slow.size;
};
