import { isbot } from 'isbot';
import type { TraceResult } from '#core/anatomy';
import type { Domain, Link, Network } from '#core/catalogue';
import { upgradeRecord } from '#core/catalogue';
import type { Conversion, ReadPostback } from '#core/conversions';
import { makeLedger, readPostback } from '#core/conversions';
import type { Sum } from '#core/figures';
import { commissionOf } from '#core/figures';
import type { VisitorSample } from '#core/hop';
import type { Match } from '#core/reconcile';
import { matchClick } from '#core/reconcile';
import type { HopRecord, JournalRecord, Outcome, PostbackRecord } from '#core/visits';
import { makeSieve } from '#core/visits';

/** A request for a link and what became of it. */
export interface Visit {
  readonly hop: HopRecord;
  readonly outcome: Outcome;
}

/** A conversion with the click it belongs to. */
export interface Matched {
  readonly conversion: Conversion;
  readonly match: Match;
  /** The link of its click, when it was found. */
  readonly link: string | undefined;
}

/** The figures of one link over the last days. */
export interface LinkFigures {
  readonly counted: number;
  readonly conversions: number;
  readonly commission: readonly Sum[];
  /** Counted visits of the last 14 days, oldest first. */
  readonly days: readonly number[];
}

/** A conversion as a line of a list. */
export interface ConversionLine {
  readonly id: string;
  readonly click: string;
  readonly event: string;
  readonly txn: string;
  readonly at: number;
  readonly status: Conversion['status'];
  readonly amount: number | null;
  readonly currency: string;
}

/** All that is known of one click. */
export interface Journey {
  readonly visit: Visit;
  /** The link and its domain as they were at that moment. */
  readonly then?: { readonly link: Link; readonly domain: Domain };
  readonly conversions: readonly Matched[];
  readonly postbacks: readonly { record: PostbackRecord; read: ReadPostback }[];
}

/** What people did with one link over some days. */
export interface LinkUse {
  /** Clicks of people, repeated ones included. */
  readonly clicks: number;
  /** Those of them by a visitor who had clicked it the same day. */
  readonly again: number;
  /** Counted visits by branch. */
  readonly branches: ReadonlyMap<string, number>;
  /** Counted visits by source; an empty name where none was told. */
  readonly sources: ReadonlyMap<string, number>;
  /** Pages and hosts the counted visits came from. */
  readonly pages: ReadonlyMap<string, number>;
}

/** One version of a record, as somebody made it. */
export interface Version {
  readonly seq: number;
  readonly at: number;
  readonly by: string;
  readonly edition: number;
  /** Changes of one step carry the same; empty where a change stands alone. */
  readonly step: string;
  /** Null when it was removed. */
  readonly value: object | null;
}

/** A line of the tape. */
export type TapeEvent =
  | { readonly seq: number; readonly at: number; readonly kind: 'hop'; readonly visit: Visit }
  | {
      readonly seq: number;
      readonly at: number;
      readonly kind: 'postback';
      readonly read: ReadPostback;
      readonly link: string | undefined;
    }
  | { readonly seq: number; readonly at: number; readonly kind: 'lost'; readonly count: number };

const day = 86_400_000;

/**
 * The journal as this browser holds it, ready to answer questions. Records are put in by their order; everything
 * else is computed from them.
 */
export const makeVisitRecords = () => {
  let sieve = makeSieve(isbot);
  let visits: Visit[] = [];
  const byClick = new Map<string, Visit>();
  let postbacks: PostbackRecord[] = [];
  let lost: { seq: number; at: number; count: number }[] = [];
  /** Versions of links and domains by record, oldest first. */
  const versions = new Map<string, Version[]>();
  const traces = new Map<string, TraceResult>();
  let networks: readonly Network[] = [];
  let computed: { matched: Matched[]; reads: Map<number, ReadPostback> } | undefined;
  let last = 0;

  const clear = (): void => {
    sieve = makeSieve(isbot);
    visits = [];
    byClick.clear();
    versions.clear();
    traces.clear();
    postbacks = [];
    lost = [];
    computed = undefined;
    last = 0;
  };

  /** Puts records in; those already there are passed over. */
  const add = (records: readonly JournalRecord[]): void => {
    for (const record of records) {
      if (record.seq <= last) continue;
      last = record.seq;
      if (record.kind === 'hop') {
        const visit = { hop: record, outcome: sieve(record) };
        visits.push(visit);
        if (record.click !== '') byClick.set(record.click, visit);
        computed = undefined;
      } else if (record.kind === 'postback') {
        postbacks.push(record);
        computed = undefined;
      } else if (record.kind === 'lost') lost.push(record);
      else if (record.kind === 'trace') {
        const { at, alive, because, kept = traces.get(record.link)?.kept } = record;
        traces.set(record.link, { at, alive, because, ...(kept && { kept }) });
      } else if (record.kind === 'change') {
        const before = versions.get(record.record);
        const { seq, at, by, edition, step = '', value } = record;
        const version: Version = { seq, at, by, edition, step, value };
        if (before) before.push(version);
        else versions.set(record.record, [version]);
      }
    }
  };

  /** A record as it was when the journal had come to a `seq`. */
  const versionAt = (record: string, seq: number): object | undefined =>
    versions.get(record)?.findLast((version) => version.seq < seq)?.value ?? undefined;

  const ledger = () => {
    if (computed) return computed;
    const byId = new Map(networks.map((network) => [network.id, network]));
    const reads = new Map<number, ReadPostback>();
    for (const record of postbacks) {
      const network = byId.get(record.network);
      reads.set(
        record.seq,
        readPostback(record, network?.postback ?? { fields: {}, statuses: {} }, network?.currency ?? 'EUR'),
      );
    }
    const conversions = makeLedger(
      [...reads.values()].map((read) => read.event),
      (id) => byId.get(id)?.postback.amounts ?? 'replace',
    );
    const matched = conversions.map((conversion): Matched => {
      const match = matchClick(conversion, (click) => byClick.has(click));
      return {
        conversion,
        match,
        link: match.level === 'none' ? undefined : byClick.get(match.click)?.hop.link,
      };
    });
    return (computed = { matched, reads });
  };

  const line = ({ conversion: c }: Matched): ConversionLine => ({
    id: c.id,
    click: c.click,
    event: c.event,
    txn: c.txn,
    at: c.at,
    status: c.status,
    amount: c.amount,
    currency: c.currency,
  });

  return {
    add,
    clear,
    /** The `seq` of the newest record held. */
    last: () => last,

    setNetworks: (list: readonly Network[]): void => {
      networks = list;
      computed = undefined;
    },

    /** Figures of every link with a visit or conversion in the last `days`, up to `now`. */
    figures: (now: number, days: number): Map<string, LinkFigures> => {
      const from = now - days * day;
      const found = new Map<string, { counted: number; days: number[]; list: Conversion[] }>();
      const of = (link: string) => {
        let entry = found.get(link);
        if (!entry)
          found.set(link, (entry = { counted: 0, days: Array.from({ length: 14 }, () => 0), list: [] }));
        return entry;
      };
      for (const { hop, outcome } of visits) {
        if (outcome !== 'counted' || hop.at < from) continue;
        const entry = of(hop.link);
        entry.counted += 1;
        const index = 13 - Math.floor((now - hop.at) / day);
        if (index >= 0 && index < 14) entry.days[index] = (entry.days[index] ?? 0) + 1;
      }
      for (const { conversion, link } of ledger().matched)
        if (link !== undefined && conversion.at >= from) of(link).list.push(conversion);
      return new Map(
        [...found].map(([link, entry]) => [
          link,
          {
            counted: entry.counted,
            days: entry.days,
            conversions: entry.list.filter((c) => c.status !== 'reversed').length,
            commission: commissionOf(entry.list),
          },
        ]),
      );
    },

    /** What people did with a link since `from` (milliseconds since 1970 UTC). */
    use: (link: string, from: number): LinkUse => {
      const branches = new Map<string, number>();
      const sources = new Map<string, number>();
      const pages = new Map<string, number>();
      const seen = new Set<string>();
      let clicks = 0;
      let again = 0;
      const count = (map: Map<string, number>, name: string) => map.set(name, (map.get(name) ?? 0) + 1);
      for (const { hop, outcome } of visits) {
        if (hop.link !== link || hop.at < from || (outcome !== 'counted' && outcome !== 'again')) continue;
        clicks += 1;
        const visitor = `${hop.visitor} ${Math.floor(hop.at / day)}`;
        if (seen.has(visitor)) again += 1;
        seen.add(visitor);
        if (outcome === 'again') continue;
        count(branches, hop.branch);
        count(sources, hop.source);
        count(pages, hop.from.replace(/[?#].*$/, ''));
      }
      return { clicks, again, branches, sources, pages };
    },

    /** Counted visitors to simulate others by: those of a link, or of all links when it had none. */
    samples: (link: string, most: number): VisitorSample[] => {
      const counted = visits.filter(({ outcome }) => outcome === 'counted');
      const own = counted.filter(({ hop }) => hop.link === link);
      const seen = new Set<string>();
      return (own.length > 0 ? own : counted).slice(-most).map(({ hop }) => {
        const visitor = `${hop.visitor} ${hop.host}`;
        const returning = seen.has(visitor);
        seen.add(visitor);
        const { at, source, country, device, lang } = hop;
        return { at, source, country, device, language: lang, returning };
      });
    },

    /** Every version of a record, newest first. */
    history: (record: string): Version[] => [...(versions.get(record) ?? [])].reverse(),

    /** The records changed in one step, each with its version before that step and the one the step made. */
    step: (step: string): { record: string; before: object | null; after: object | null }[] =>
      step === ''
        ? []
        : [...versions].flatMap(([record, list]) => {
            const at = list.findIndex((version) => version.step === step);
            const made = list[at];
            return made ? [{ record, before: list[at - 1]?.value ?? null, after: made.value }] : [];
          }),

    /** The newest clicks and conversions of a link, newest first. */
    recent: (link: string, most: number): { visits: Visit[]; conversions: ConversionLine[] } => ({
      visits: visits
        .filter(({ hop }) => hop.link === link)
        .slice(-most)
        .reverse(),
      conversions: ledger()
        .matched.filter((m) => m.link === link)
        .slice(-most)
        .reverse()
        .map(line),
    }),

    /** Everything known of a click; undefined when the journal holds no such click. */
    journey: (click: string): Journey | undefined => {
      const visit = byClick.get(click);
      if (!visit) return undefined;
      const { matched, reads } = ledger();
      const conversions = matched.filter(({ match }) => match.level !== 'none' && match.click === click);
      const seqs = new Set(conversions.flatMap(({ conversion }) => conversion.steps.map((step) => step.seq)));
      // Versions of a link and of a domain passed the schema of their kind before they were kept.
      const link = versionAt(visit.hop.link, visit.hop.seq) as Link | undefined;
      const kept = link && versionAt(link.domain, visit.hop.seq);
      const domain = kept && (upgradeRecord('domain', kept) as Domain);
      return {
        visit,
        ...(link && domain && { then: { link, domain } }),
        conversions,
        postbacks: postbacks.flatMap((record) => {
          const read = reads.get(record.seq);
          return read && seqs.has(record.seq) ? [{ record, read }] : [];
        }),
      };
    },

    /** The newest postbacks of a network with their reading and match, newest first. */
    postbacksOf: (
      network: string,
      most: number,
    ): { record: PostbackRecord; read: ReadPostback; match: Match }[] =>
      postbacks
        .filter((record) => record.network === network)
        .slice(-most)
        .reverse()
        .flatMap((record) => {
          const read = ledger().reads.get(record.seq);
          return read ? [{ record, read, match: matchClick(read.event, (click) => byClick.has(click)) }] : [];
        }),

    /** What the newest trace of each link came to. */
    traces: (): Map<string, TraceResult> => traces,

    /** When each network last sent a postback. */
    lastPostbacks: (): Map<string, number> => new Map(postbacks.map((record) => [record.network, record.at])),

    /** The click a transaction ID leads to, or undefined. */
    clickOfTransaction: (txn: string): string | undefined =>
      ledger().matched.find(({ conversion, match }) => conversion.txn === txn && match.level !== 'none')
        ?.conversion.click,

    /** The newest events, newest first. */
    tape: (most: number): TapeEvent[] => {
      const events: TapeEvent[] = visits
        .slice(-most)
        .map((visit) => ({ seq: visit.hop.seq, at: visit.hop.at, kind: 'hop', visit }));
      for (const record of postbacks.slice(-most)) {
        const read = ledger().reads.get(record.seq);
        if (read)
          events.push({
            seq: record.seq,
            at: record.at,
            kind: 'postback',
            read,
            link: byClick.get(read.event.click)?.hop.link,
          });
      }
      for (const { seq, at, count } of lost.slice(-most)) events.push({ seq, at, kind: 'lost', count });
      return events.sort((a, b) => b.seq - a.seq).slice(0, most);
    },
  };
};
