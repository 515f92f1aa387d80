import { isbot } from 'isbot';
import type { Days, DimensionInput } from '#core/traffic';
import { countRequests, daysOf, requestDimensions } from '#core/traffic';
import { Classification, defaultRules, outcomes, VisitColumns } from '#core/visits';
import type { Measured } from './table.ts';
import { undisturbed } from './undisturbed.ts';
import type { VisitsDatabase } from './visitsDatabase.ts';
import { databaseColumns, daysTable, visitsDatabase } from './visitsDatabase.ts';
import { hops, links } from './world.ts';

const zone = 'Europe/Berlin';
const [from, to] = ['2026-10-24', '2026-11-22'];
const names = ['link', 'source', 'page', 'country', 'language', 'device', 'branch', 'domain'] as const;

const fill = (count: number): VisitColumns => {
  const columns = new VisitColumns();
  for (const hop of hops(count)) columns.add(hop);
  return columns;
};

const classify = (columns: VisitColumns): Classification => {
  const classification = new Classification(columns, isbot, defaultRules);
  classification.update();
  return classification;
};

/** What is asked of columns, as the screen asks it: once from the columns as they are, everything made anew. */
const asksOf = (columns: VisitColumns, classification: Classification, days: Days) => {
  const input = (): DimensionInput => ({
    ...{ columns, links, zone, passesOf: () => undefined, sourceOf: (name: string) => name },
    kindsIn: (segment) => classification.kindsIn(segment),
  });
  const phones = () => ({ of: requestDimensions.device(input()), values: ['phone'] });
  const base = { columns, classification, days };
  return {
    filtered: (visitors: boolean) =>
      countRequests({ ...base, where: [phones()], visitors }, [requestDimensions.source(input())]),
    all: (visitors: boolean) =>
      countRequests(
        { ...base, where: [], visitors },
        names.map((name) => requestDimensions[name](input())),
      ),
  };
};

const within = 'moment >= (select min(first) from days) and moment < (select max(until) from days)';
/** The same of the database: a question each for counts, and for visitors, each once a day. */
const asksOfDatabase = ({ ask }: VisitsDatabase) => {
  const counts = (column: string, where = '') =>
    ask(`select ${column}, outcome, count(*) from visits where ${within} ${where} group by all`);
  const visitors = (column: string, where = '') =>
    ask(
      `select ${column}, day, count(*), count(distinct visitor) from visits asof join days on visits.moment >= days.first where ${within} and outcome = 'counted' ${where} group by all`,
    );
  const every = async (one: (column: string) => Promise<unknown>) => {
    for (const name of names) await one(databaseColumns[name]);
  };
  const phones = "and device = 'phone'";
  return {
    filtered: async (withVisitors: boolean) => [
      await counts('source', phones),
      withVisitors ? await visitors('source', phones) : [],
    ],
    all: async (withVisitors: boolean) => {
      await every(counts);
      if (withVisitors) await every(visitors);
    },
    /** What a window can tell of repeats and bursts; repeats since the last counted one it cannot. */
    classification: () =>
      ask(
        'select count(*) filter (where gap < 1800000), count(*) filter (where burst > 20) from (select moment - lag(moment) over (partition by visitor, link order by moment) gap, count(*) over (partition by visitor order by moment range between 10000 preceding and current row) burst from visits)',
      ),
  };
};

/** Both ways count the same, or what is measured means nothing. */
const agree = async (
  asks: ReturnType<typeof asksOf>,
  database: ReturnType<typeof asksOfDatabase>,
): Promise<void> => {
  const [byOutcome = [], byDay = []] = await database.filtered(true);
  const [breakdown] = asks.filtered(true).breakdowns;
  for (const [source, outcome, count] of byOutcome) {
    const ours = breakdown?.get(String(source))?.requests[outcomes.findIndex((one) => one === outcome)];
    if (ours !== Number(count))
      throw new Error(`${String(source)} ${String(outcome)}: ${ours}, ${String(count)}`);
  }
  const visitors = new Map<string, number>();
  for (const [source, , , people] of byDay)
    visitors.set(String(source), (visitors.get(String(source)) ?? 0) + Number(people));
  for (const [source, count] of visitors)
    if (breakdown?.get(source)?.visitors !== count)
      throw new Error(`${source}: ${breakdown?.get(source)?.visitors} visitors, ${count}`);
};

const timed = async (work: () => unknown): Promise<number> => {
  const begin = performance.now();
  await work();
  return performance.now() - begin;
};

/**
 * Breakdowns of requests in Node, beside a database of columns on one thread.
 *
 * @returns ratios, side by side in each run
 */
export const measureTraffic = async (million: number, runs: number): Promise<Measured[]> => {
  const days = daysOf(zone, from, to);
  const columns = fill(million);
  const classification = classify(columns);
  const database = await visitsDatabase(columns, (row) => classification.outcome(row));
  await database.ask(daysTable(days));
  const theirs = asksOfDatabase(database);
  const ours = asksOf(columns, classification, days);
  await agree(ours, theirs);
  const twiceColumns = fill(million * 2);
  const twice = asksOf(twiceColumns, classify(twiceColumns), days);
  const pairs = {
    filtered: [() => ours.filtered(false), () => theirs.filtered(false)],
    'filtered with visitors': [() => ours.filtered(true), () => theirs.filtered(true)],
    all: [() => ours.all(false), () => theirs.all(false)],
    'all with visitors': [() => ours.all(true), () => theirs.all(true)],
    classification: [() => classify(columns), theirs.classification],
    twice: [() => twice.all(true), () => ours.all(true)],
  } as const;
  const found = new Map<string, number[]>();
  const first = new Map<string, number[]>();
  // The first turn is for the compiler.
  for (let run = 0; run <= runs; run++)
    for (const [name, [one, other]] of Object.entries(pairs)) {
      const { value } = await undisturbed(async () => [await timed(one), await timed(other)] as const);
      if (run === 0) continue;
      found.set(name, [...(found.get(name) ?? []), value[0] / value[1]]);
      first.set(name, [...(first.get(name) ?? []), value[0]]);
    }
  database.close();
  const line = (what: string, name: keyof typeof pairs, most?: number): Measured => ({
    what,
    values: found.get(name) ?? [],
    ...(most !== undefined && { most }),
  });
  return [
    line('by source, of phones: ours ÷ the database', 'filtered', 1),
    line('the same with visitors and days: ours ÷ the database', 'filtered with visitors', 1),
    line('all breakdowns: ours ÷ the database', 'all', 1.5),
    line('all breakdowns with visitors and days: ours ÷ the database', 'all with visitors', 1.5),
    line('classification: ours ÷ windows of the database', 'classification', 1),
    line('all breakdowns, twice the requests ÷ once', 'twice', 2.2),
    {
      what: 'milliseconds, all breakdowns with visitors and days',
      values: first.get('all with visitors') ?? [],
    },
    { what: 'milliseconds, by source, of phones', values: first.get('filtered') ?? [] },
  ];
};

/** How long it took to classify and to count every breakdown, and the most memory of the process, in bytes. */
export interface Answered {
  readonly ms: number;
  readonly peak: number;
}

/** Classifies requests and counts every breakdown once, in this process. */
export const answer = (count: number): Answered => {
  const columns = fill(count);
  const days = daysOf(zone, from, to);
  const begin = performance.now();
  asksOf(columns, classify(columns), days).all(true);
  const ms = performance.now() - begin;
  return { ms, peak: process.resourceUsage().maxRSS * 1024 };
};
