import { describe, expect, it } from 'vitest';
import type { JournalRecord } from '#core/visits';
import { answersFrom, Dataset } from './index.ts';
import { domain } from './testing/worlds.ts';

const at = Date.UTC(2026, 9, 5, 8);
const page = 'https://nightledge.example/first-night';
const reading = { kind: 'reading', at, page, views: 0, seconds: 0, depth: 0 } as const;
const ask = () => {
  const data = new Dataset();
  data.setRecords({
    domains: [domain],
    sources: [{ id: 'src_c', source: 'klub', title: '', channel: '', note: '', as: 'club' }],
  });
  const records = [
    { ...reading, views: 4, seconds: 100, source: 'club', scrolled: 3 },
    { ...reading, views: 1, seconds: 20, source: 'klub', scrolled: 0 },
    { ...reading, views: 5, seconds: 30 },
    { ...reading, page: 'https://nightledge.example/rings', views: 2, seconds: 8, source: '', scrolled: 2 },
    {
      ...reading,
      page: 'https://see.example/f',
      link: 'lnk_f',
      source: 'klub',
      scrolled: 0,
      views: 3,
      seconds: 90,
    },
    {
      ...reading,
      page: 'https://see.example/w',
      link: 'lnk_w',
      source: '',
      scrolled: 0,
      views: 2,
      seconds: 7,
    },
    // The day before, and the day after, in the person's zone.
    { ...reading, at: Date.UTC(2026, 9, 4, 21, 59), views: 90, seconds: 900 },
    { ...reading, at: Date.UTC(2026, 9, 5, 22), views: 90, seconds: 900 },
  ].map((record, i): JournalRecord => ({ ...record, seq: i + 1 }));
  data.add(records);
  return answersFrom(data);
};
type Where = Parameters<ReturnType<typeof ask>['timeSpent']>[0]['where'];
const spent = (...where: Where) => ask().timeSpent({ from: '2026-10-05', to: '2026-10-05', where });

describe('time spent', () => {
  it('is what frames, waiting pages and pages with the script tell, each by itself', () =>
    expect(spent()).toEqual({
      stayed: { views: 5, seconds: 97 / 5 },
      read: { views: 12, seconds: 158 / 12, sent: 7, scrolled: 5 },
    }));

  it('is told by source with its slips, by link, page and destination', () => {
    expect(spent({ of: 'source', values: ['club'] })).toEqual({
      stayed: { views: 3, seconds: 30 },
      read: { views: 5, seconds: 24, sent: 5, scrolled: 3 },
    });
    expect(spent({ of: 'link', values: ['lnk_w'] })).toEqual({
      stayed: { views: 2, seconds: 3.5 },
      read: undefined,
    });
    expect(spent({ of: 'page', values: [page] })?.read).toEqual({
      views: 10,
      seconds: 15,
      sent: 5,
      scrolled: 3,
    });
    expect(spent({ of: 'destination', values: [page] })?.read?.views).toBe(5);
    expect(spent({ of: 'source', values: ['club'], not: true })).toEqual({
      stayed: { views: 2, seconds: 3.5 },
      read: { views: 2, seconds: 4, sent: 2, scrolled: 2 },
    });
  });

  it('is not known of what no page tells, nor where none told', () => {
    expect(spent({ of: 'device', values: ['phone'] })).toBeUndefined();
    expect(spent({ of: 'source', values: ['flyer'] })).toEqual({ stayed: undefined, read: undefined });
  });
});
