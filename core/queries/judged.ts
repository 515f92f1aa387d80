import { element } from '#core/catalogue';
import type { MachineRule, Segment } from '#core/visits';
import { outcomeNumber, segmentRows } from '#core/visits';
import type { Burst, JudgedRequests, Sign, Verdict } from '#core/traffic';
import { daysOf, halfOf, judge, mostAgents, wholeBurst } from '#core/traffic';
import type { Dataset } from './dataset.ts';
import { unitsBy } from './traffic.ts';
import { dimensionsOf } from './trafficDimensions.ts';

/** A source judged by its requests of some days. */
export interface Judged {
  /** Its requests besides tests, prefetches, and those from a page that another of them led to. */
  readonly requests: number;
  /** Those from a page that another of its requests led to: they tell nothing of the source, and are not judged. */
  readonly onward: number;
  /** Those of them that are known to be machines', or are treated so. */
  readonly bots: number;
  readonly verdict: Verdict;
  readonly signs: readonly Sign[];
  /** When most of them came, where that was at once. */
  readonly burst: Burst | undefined;
  /** The user agents that make four fifths of them, the most frequent first, where they are few. */
  readonly agents: readonly { readonly agent: string; readonly requests: number }[];
  /** What treating them as machines would take, and how many requests that are not bots yet; undefined where nothing fits. */
  readonly machines: (MachineRule & { readonly requests: number }) | undefined;
  /** Rules that treat requests of this source and these days as machines'. */
  readonly treated: readonly MachineRule[];
}

/** A request that is judged, for a file. */
export interface JudgedRequest {
  readonly at: number;
  readonly click: string;
  readonly link: string;
  readonly agent: string;
  readonly language: string;
  readonly country: string;
  /** Whether its address was a hosting network's; empty where that was not looked up. */
  readonly connection: '' | 'hosting' | 'other';
  readonly isBot: boolean;
}

/** A source and the days of which it is asked, in the person's own zone, both included. */
export interface JudgedQuestion {
  readonly source: string;
  readonly from: string;
  readonly to: string;
}

/** A visitor who comes again so much later is no second request of the same moment. */
const againMs = 60_000;
/** More user agents than this are nothing a rule should name. */
const mostNamed = 10;
/** No visits of people: tests and prefetches. */
const isPassedOver = (outcome: number): boolean =>
  outcome === outcomeNumber.test || outcome === outcomeNumber.prefetch;

/** Gathers requests as they are passed. */
class Gathered {
  readonly times: number[] = [];
  readonly rows: number[] = [];
  readonly agents = new Map<number, number>();
  readonly #first = new Map<number, number>();
  readonly #again = new Set<number>();
  withoutLanguage = 0;
  lookedUp = 0;
  hosting = 0;
  visits = 0;
  toPages = 0;
  scrolled = 0;

  add(
    row: number,
    at: number,
    agent: number,
    connection: '' | 'hosting' | 'other',
    isSilent: boolean,
    visitor: number,
    isVisit: boolean,
    isToPage: boolean,
  ): void {
    if (connection !== '') this.lookedUp += 1;
    if (connection === 'hosting') this.hosting += 1;
    this.times.push(at);
    this.rows.push(row);
    this.agents.set(agent, (this.agents.get(agent) ?? 0) + 1);
    if (isSilent) this.withoutLanguage += 1;
    if (isVisit) this.visits += 1;
    if (isVisit && isToPage) this.toPages += 1;
    const first = this.#first.get(visitor);
    if (first === undefined) this.#first.set(visitor, at);
    else if (Math.abs(at - first) >= againMs) this.#again.add(visitor);
  }

  judged(conversions: number): JudgedRequests {
    const { agents, lookedUp, hosting, withoutLanguage, visits, toPages, scrolled } = this;
    return {
      times: this.times.toSorted((a, b) => a - b),
      ...{ agents, lookedUp, hosting, withoutLanguage, visits, conversions, toPages, scrolled },
      visitors: this.#first.size,
      cameAgain: this.#again.size,
    };
  }
}

/**
 * Requests of some days, of one source and of all others; of the others what is a machine's is left out, and of all what came from a page
 * that another of them led to: whoever goes on from a landing page came once, and did not come again.
 */
const gather = (data: Dataset, { source, from, to }: JudgedQuestion) => {
  const { classification, zone } = data;
  const { columns } = data.journal;
  const days = daysOf(zone, from, to);
  const { starts } = days;
  const [first, until] = [starts[0] ?? Infinity, starts[days.names.length] ?? -Infinity];
  const { codes, values } = dimensionsOf(data)('source');
  const leads = dimensionsOf(data)('destination');
  /** Pages that told of a reader we sent there; who is sent there and of whom nothing is told did not scroll. */
  const tell = new Set<string>();
  const [own, others] = [new Gathered(), new Gathered()];
  for (const { at, page, source: by, link, scrolled = 0 } of data.journal.readings) {
    if (by === undefined || link !== undefined || at < first || at >= until) continue;
    tell.add(page);
    (data.sourceOf(by) === source ? own : others).scrolled += scrolled;
  }
  const isToPage = leads.values.map((page) => tell.has(page));
  const silent = columns.dictionaries.lang.texts.map((text) => text === '');
  let [bots, onward] = [0, 0];
  const isOfSource = (segment: Segment, i: number) =>
    values[element(codes[element(segment.source[i])])] === source;
  /** Whether a row came from a page that a row led to which is judged with it. */
  const isOnward = (row: number, isOwn: boolean): boolean => {
    const before = columns.rowBefore(row);
    if (before < 0 || columns.at(before) < first || columns.at(before) >= until) return false;
    const [at, i] = [Math.floor(before / segmentRows), before % segmentRows];
    return (
      !isPassedOver(element(element(classification.outcomes[at])[i])) &&
      isOfSource(element(columns.segments[at]), i) === isOwn
    );
  };
  for (const [n, segment] of columns.segments.entries()) {
    if ((columns.newest[n] ?? -Infinity) < first) continue;
    const outcomes = element(classification.outcomes[n]);
    const led = leads.column(segment);
    for (let i = 0; i < segment.rows; i++) {
      const at = element(segment.at[i]);
      const outcome = element(outcomes[i]);
      if (at < first || at >= until || isPassedOver(outcome)) continue;
      const isBot = outcome === outcomeNumber.bot;
      const isOwn = isOfSource(segment, i);
      if (isBot && !isOwn) continue;
      if (segment.first[i] !== 0 && isOnward(n * segmentRows + i, isOwn)) {
        if (isOwn) onward += 1;
        continue;
      }
      if (isBot) bots += 1;
      // Numbers up to 2^53 are exact: of the visitor's 64 bits 53 tell one from another.
      const visitor =
        element(segment.visitor[i * 2]) * 2 ** 21 + (element(segment.visitor[i * 2 + 1]) >>> 11);
      (isOwn ? own : others).add(
        n * segmentRows + i,
        at,
        element(segment.ua[i]),
        columns.connectionOf(element(segment.flags[i])),
        silent[element(segment.lang[i])] ?? false,
        visitor,
        outcome === outcomeNumber.counted,
        isToPage[element(leads.codes[element(led[i])])] ?? false,
      );
    }
  }
  const units = unitsBy(data, days, [], dimensionsOf(data)('source'));
  const conversions = units.found.get(source)?.length ?? 0;
  return {
    own,
    bots,
    onward,
    judgedOwn: own.judged(conversions),
    judgedOthers: others.judged(units.all.length - conversions),
  };
};

/** Whether a source's requests of some days are people's, with what speaks for it and against. */
export const judged = (data: Dataset, question: JudgedQuestion): Judged => {
  const { own, bots, onward, judgedOwn, judgedOthers } = gather(data, question);
  const { columns } = data.journal;
  const { ua } = columns.dictionaries;
  const { verdict, signs } = judge(judgedOwn, judgedOthers);
  const isOdd = (name: Sign['name']) => signs.some((sign) => sign.name === name && sign.isOdd);
  const half = halfOf(judgedOwn.times);
  const burst = half && isOdd('burst') ? wholeBurst(judgedOwn.times, half) : undefined;
  const named = isOdd('agents') ? mostAgents(judgedOwn.agents).slice(0, mostNamed) : [];
  const names = [...new Set(own.rows.map((row) => columns.text('source', row)))];
  const from = burst?.from ?? judgedOwn.times[0];
  const until = burst?.until ?? judgedOwn.times.at(-1);
  const isMeant = new Set(named);
  const meant = own.rows.filter((row) => {
    const at = columns.at(row);
    const agent = element(columns.segmentOf(row).ua[row % segmentRows]);
    return (
      from !== undefined &&
      until !== undefined &&
      at >= from &&
      at <= until &&
      (isMeant.size === 0 || isMeant.has(agent)) &&
      data.classification.outcome(row) !== 'bot'
    );
  });
  const canTreat = (burst !== undefined || named.length > 0) && meant.length > 0;
  return {
    requests: own.times.length,
    bots,
    onward,
    verdict,
    signs,
    burst,
    agents: named.map((agent) => ({
      agent: element(ua.texts[agent]),
      requests: judgedOwn.agents.get(agent) ?? 0,
    })),
    machines:
      canTreat && from !== undefined && until !== undefined
        ? {
            sources: names,
            from,
            until,
            agents: named.map((agent) => element(ua.texts[agent])),
            requests: meant.length,
          }
        : undefined,
    treated: data.machines.filter(
      (rule) =>
        rule.sources.some((name) => names.includes(name)) &&
        rule.from <= (judgedOwn.times.at(-1) ?? -Infinity) &&
        rule.until >= (judgedOwn.times[0] ?? Infinity),
    ),
  };
};

/** The requests that were judged, for whoever sold them: no address and nothing that tells who a visitor is. */
export const judgedRequests = (data: Dataset, question: JudgedQuestion): JudgedRequest[] => {
  const { columns } = data.journal;
  return gather(data, question).own.rows.map((row) => {
    const { at, click, link, ua, lang, country, hosting } = columns.record(row);
    const connection = hosting === undefined ? '' : hosting ? 'hosting' : 'other';
    const isBot = data.classification.outcome(row) === 'bot';
    return { at, click, link, agent: ua, language: lang, country, connection, isBot };
  });
};
