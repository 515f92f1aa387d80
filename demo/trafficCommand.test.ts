import { beforeAll, describe, expect, it } from 'vitest';
import { answersFrom } from '#core/queries';
import { readConfig } from '../server/config.ts';
import { requestsOf, trafficOf, trafficTable } from '../server/commands/trafficTable.ts';
import { openDataset } from '../server/dataFolder.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { fillSeason } from './fill.ts';

const now = Date.UTC(2026, 10, 23, 15);
const data = freshFolder();

describe('the traffic command on a demo', () => {
  beforeAll(async () => {
    await fillSeason(readConfig({ DATA_DIR: data, PORT: String(await freePort()) }), 20_000, now);
  });
  const asked = (more: Partial<Parameters<typeof trafficOf>[0]> = {}) =>
    trafficOf({ data, by: 'source', where: [], now, ...more });

  it('says the same whole by source, device and country, and of a part less', async () => {
    const wholes = await Promise.all(
      ['source', 'device', 'country'].map(async (by) => (await asked({ by })).traffic.whole),
    );
    expect(wholes[1]).toEqual(wholes[0]);
    expect(wholes[2]).toEqual(wholes[0]);
    const phones = (await asked({ where: ['device=phone'] })).traffic.whole;
    const others = (await asked({ where: ['device!=phone'] })).traffic.whole;
    const counted = wholes[0]?.requests.counted ?? 0;
    expect(phones.requests.counted).toBeGreaterThan(0);
    expect(phones.requests.counted + others.requests.counted).toBe(counted);
    // Either of two, as one after the other.
    const both = (await asked({ where: ['device=phone', 'device=tablet'] })).traffic.whole;
    const tablets = (await asked({ where: ['device=tablet'] })).traffic.whole;
    expect(both.requests.counted).toBe(phones.requests.counted + tablets.requests.counted);
  });

  it('is a table, a line for each source, the most visitors first', async () => {
    const { question, traffic } = await asked();
    const lines = trafficTable(question, traffic).split('\n');
    expect(lines[0]).toBe('Visitors by source, 2026-10-25 to 2026-11-23, against the 30 days before');
    expect(lines.find((line) => line.startsWith('newsletter '))).toMatch(/^newsletter +\d+ +\d+ /);
    const visitors = traffic.lines.map((line) => line.visitors);
    expect(visitors).toEqual(visitors.toSorted((a, b) => b - a));
    expect(lines.find((line) => line.startsWith('all '))).toContain(String(traffic.whole.visitors));
  });

  it('compares with no days of which nothing is known', async () => {
    const { question, traffic } = await asked({ from: '2026-09-25' });
    const lines = trafficTable(question, traffic).split('\n');
    expect(lines[0]).toMatch(/known since 2026-08-25: nothing to compare with$/);
    expect(lines.slice(1).join()).not.toMatch(/%/);
  });

  it('has what a seller said each visit cost, to the cent of its requests, in a column only where any did', async () => {
    const days = { from: '2026-08-26', to: '2026-11-23' };
    const { question, traffic } = await asked(days);
    const lines = new TextDecoder()
      .decode(await requestsOf({ data, by: 'source', where: [], now, ...days }, 'requests.ndjson'))
      .trimEnd()
      .split('\n')
      .map(
        (line) => JSON.parse(line) as { source: string; query: string; outcome: string; placement: string },
      );
    const bought = lines.filter(
      ({ source, outcome }) => source === 'bought-a' && !/test|prefetch/.test(outcome),
    );
    // Each is written as thousandths of a euro.
    const thousandths = bought.map(({ query }) => Number(/&cost=0\.(\d{3})$/.exec(query)?.[1]));
    const cents = Math.round(thousandths.reduce((sum, each) => sum + each, 0) / 10);
    expect(cents).toBeGreaterThan(100);
    const row = trafficTable(question, traffic)
      .split('\n')
      .find((line) => line.startsWith('bought-a'));
    expect(row).toMatch(
      new RegExp(` ${Math.floor(cents / 100)}\\.${String(cents % 100).padStart(2, '0')} EUR$`),
    );
    const reader = await asked({ where: ['source=newsletter'] });
    expect(trafficTable(reader.question, reader.traffic)).not.toMatch(/cost/);
  });

  it('knows the Thursdays on which the newsletter went out by its visits alone', async () => {
    const changes = answersFrom(await openDataset(data)).changesOfDays({
      ...{ from: '2026-09-01', to: '2026-11-23', where: [], now },
    });
    const thursdays = Array.from({ length: 12 }, (_, week) =>
      new Date(Date.UTC(2026, 8, 3 + week * 7)).toISOString().slice(0, 10),
    );
    const mailings = changes.filter(({ kind }) => kind === 'mailing');
    expect(mailings.map(({ day, sources }) => [day, ...sources])).toEqual(
      thursdays.map((day) => [day, 'newsletter']),
    );
  });

  it('says what cannot be understood, and what would be', async () => {
    await expect(asked({ by: 'colour' })).rejects.toThrow('Known are link, source');
    await expect(asked({ where: ['phone'] })).rejects.toThrow('One is written as device=phone');
    await expect(asked({ where: ['colour=red'] })).rejects.toThrow('Known are link, source');
    await expect(asked({ from: '2026-02-30' })).rejects.toThrow('is no day such as 2026-10-24');
    await expect(asked({ from: '2026-10-24', to: '2026-10-01' })).rejects.toThrow('lies after');
    await expect(asked({ from: '0001-01-01' })).rejects.toThrow('more than 1100 days');
    await expect(asked({ data: '/nowhere' })).rejects.toThrow('data folder');
  });
});
