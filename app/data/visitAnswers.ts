import type { Domain, Link } from '#core/catalogue';
import { upgradeRecord } from '#core/catalogue';
import type { Conversion, ReadPostback } from '#core/conversions';
import { readPostback } from '#core/conversions';
import type { Sum } from '#core/figures';
import { commissionOf } from '#core/figures';
import type { VisitorSample } from '#core/hop';
import { isClickId } from '#core/hop';
import type { Match, Unit } from '#core/reconcile';
import { matchClick } from '#core/reconcile';
import type { AuditRecord, HopRecord, LostRecord, Outcome, PostbackRecord } from '#core/visits';
import { segmentRows } from '#core/visits';
import type { HeldJournal, Version } from './heldJournal.ts';

/** A request for a link and what became of it. */
export interface Visit {
  readonly hop: HopRecord;
  readonly outcome: Outcome;
}

/** A conversion with the click it belongs to. */
export interface Matched {
  readonly conversion: Conversion;
  readonly match: Match;
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

/** Visitors to simulate others by, and whose they are. */
export interface Samples {
  readonly of: 'link' | 'all' | 'nobody';
  readonly visitors: readonly VisitorSample[];
}

/** Fewer visitors than these are nothing to draw others from. */
const fewVisitors = 30;

/** A postback as it came, how it was read, and the click it leads to. */
export interface PostbackReading {
  readonly record: PostbackRecord;
  readonly read: ReadPostback;
  readonly match: Match;
  /** Link and ID of the click; empty where none was found. */
  readonly link: string;
  readonly click: string;
  /** When the very same came first. */
  readonly before?: number;
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
  | ({ readonly kind: 'lost' } & Pick<LostRecord, 'seq' | 'at' | 'count' | 'why'>);

const day = 86_400_000;

/** A unit that has a postback of ours. */
type Heard = Unit & { readonly conversion: Conversion };

/** What can be asked of a held journal about requests and what came of them. */
export const visitAnswers = (held: HeldJournal) => {
  const visit = (row: number): Visit => ({
    hop: held.columns.record(row),
    outcome: held.sieve.outcome(row),
  });
  /** Calls back with every segment that has a row since a moment, the newest first. */
  const since = (
    from: number,
    see: (segment: HeldJournal['columns']['segments'][number], n: number) => void,
  ) => {
    const { segments, newest } = held.columns;
    for (let n = segments.length - 1; n >= 0; n--) {
      const segment = segments[n];
      if (segment && (newest[n] ?? 0) >= from) see(segment, n);
    }
  };
  const rowOf = (click: string): number => {
    if (!isClickId(click)) return -1;
    const found = held.columns.beginningWith(click);
    return found.count > 0 ? found.row(0) : -1;
  };
  /** Units with a postback, by the link and the row of their click; one pass for all that ask. */
  let heardOf: { of: readonly Unit[]; byLink: Map<string, Heard[]>; byRow: Map<number, Heard[]> } | undefined;
  const heard = () => {
    const { units } = held.reconciled;
    if (heardOf?.of === units) return heardOf;
    const byLink = new Map<string, Heard[]>();
    const byRow = new Map<number, Heard[]>();
    const push = <K>(map: Map<K, Heard[]>, key: K, unit: Heard) => {
      const list = map.get(key);
      if (list) list.push(unit);
      else map.set(key, [unit]);
    };
    for (const unit of units) {
      const { conversion } = unit;
      // What nobody vouches for stands in the ledger, not among what links earned.
      const doubted = conversion?.unsure !== undefined && !conversion.trusted;
      if (!conversion || doubted || unit.link === '' || unit.cause === 'sent twice') continue;
      push(byLink, unit.link, { ...unit, conversion });
      push(byRow, unit.match.row, { ...unit, conversion });
    }
    return (heardOf = { of: units, byLink, byRow });
  };
  const priced = ({ conversion, ours }: Heard): Conversion =>
    ours?.priced ? { ...conversion, amount: ours.amount, currency: ours.currency } : conversion;
  const line = (unit: Heard): ConversionLine => {
    const { id, event, txn, at, status, amount, currency } = priced(unit);
    return { id, click: held.columns.click(unit.match.row), event, txn, at, status, amount, currency };
  };

  return {
    /** Figures of every link with a visit or conversion in the last `days`, up to `now`. */
    figures: (now: number, days: number): Map<string, LinkFigures> => {
      const from = now - days * day;
      const { columns, sieve } = held;
      const { texts } = columns.dictionaries.link;
      const counted = new Float64Array(texts.length);
      const byDay = new Float64Array(texts.length * 14);
      const { outcomes } = sieve;
      const countedCode = 5;
      since(from, (segment, n) => {
        const of = outcomes[n];
        for (let i = 0; i < segment.rows; i++) {
          const at = segment.at[i] ?? 0;
          if (of?.[i] !== countedCode || at < from) continue;
          const link = segment.link[i] ?? 0;
          counted[link] = (counted[link] ?? 0) + 1;
          const index = 13 - Math.floor((now - at) / day);
          if (index >= 0 && index < 14) byDay[link * 14 + index] = (byDay[link * 14 + index] ?? 0) + 1;
        }
      });
      const found = new Map<string, LinkFigures>();
      const { byLink } = heard();
      for (const link of new Set([...texts, ...byLink.keys()])) {
        const place = columns.dictionaries.link.find(link);
        const list = (byLink.get(link) ?? []).filter(({ conversion }) => conversion.at >= from);
        const visits = place < 0 ? 0 : (counted[place] ?? 0);
        if (visits === 0 && list.length === 0) continue;
        found.set(link, {
          counted: visits,
          days: Array.from({ length: 14 }, (_, i) => (place < 0 ? 0 : (byDay[place * 14 + i] ?? 0))),
          conversions: list.filter(({ conversion }) => conversion.status !== 'reversed').length,
          commission: commissionOf(list.map(priced)),
        });
      }
      return found;
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
      const { columns, sieve } = held;
      const place = columns.dictionaries.link.find(link);
      const rows: number[] = [];
      since(from, (segment, n) => {
        for (let i = segment.rows - 1; i >= 0; i--)
          if (segment.link[i] === place && (segment.at[i] ?? 0) >= from) rows.push(n * segmentRows + i);
      });
      for (const row of rows.reverse()) {
        const outcome = sieve.outcome(row);
        if (outcome !== 'counted' && outcome !== 'again') continue;
        const hop = columns.record(row);
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

    /**
     * Counted visitors to simulate others by: a link's own, those of all links where it had few, nobody where all
     * had few: a handful says nothing of those to come.
     */
    samples: (link: string, most: number): Samples => {
      const { columns, sieve } = held;
      const own: number[] = [];
      const any: number[] = [];
      const place = columns.dictionaries.link.find(link);
      for (let row = columns.rows - 1; row >= 0 && own.length < most; row--) {
        if (sieve.outcome(row) !== 'counted') continue;
        if (any.length < most) any.push(row);
        if (columns.segmentOf(row).link[row % segmentRows] === place) own.push(row);
      }
      const of = own.length >= fewVisitors ? 'link' : any.length >= fewVisitors ? 'all' : 'nobody';
      const seen = new Set<string>();
      const visitors = { link: own, all: any, nobody: [] }[of].reverse().map((row) => {
        const { at, source, country, device, lang, visitor: who, host } = columns.record(row);
        const visitor = `${who} ${host}`;
        const returning = seen.has(visitor);
        seen.add(visitor);
        return { at, source, country, device, language: lang, returning };
      });
      return { of, visitors };
    },

    /** The newest clicks and conversions of a link, newest first. */
    recent: (link: string, most: number): { visits: Visit[]; conversions: ConversionLine[] } => {
      const { columns } = held;
      const place = columns.dictionaries.link.find(link);
      const visits: Visit[] = [];
      for (let row = columns.rows - 1; place >= 0 && row >= 0 && visits.length < most; row--)
        if (columns.segmentOf(row).link[row % segmentRows] === place) visits.push(visit(row));
      return {
        visits,
        conversions: [...(heard().byLink.get(link) ?? [])]
          .sort((a, b) => b.conversion.at - a.conversion.at)
          .slice(0, most)
          .map(line),
      };
    },

    /** Everything known of a click; undefined when the journal holds no such click. */
    journey: (click: string): Journey | undefined => {
      const row = rowOf(click);
      if (row < 0) return undefined;
      const of = visit(row);
      const { reads } = held.reconciled;
      const conversions = heard().byRow.get(row) ?? [];
      const seqs = new Set(conversions.flatMap(({ conversion }) => conversion.steps.map((step) => step.seq)));
      // Versions of a link and of a domain passed the schema of their kind before they were kept.
      const link = held.versionAt(of.hop.link, of.hop.seq) as Link | undefined;
      const kept = link && held.versionAt(link.domain, of.hop.seq);
      const domain = kept && (upgradeRecord('domain', kept) as Domain);
      return {
        visit: of,
        ...(link && domain && { then: { link, domain } }),
        conversions: conversions.map((unit) => ({ conversion: priced(unit), match: unit.match })),
        postbacks: held.postbacks.flatMap((record) => {
          const read = reads.get(record.seq);
          return read && seqs.has(record.seq) ? [{ record, read }] : [];
        }),
      };
    },

    /** When each network last sent a postback. */
    lastPostbacks: (): Map<string, number> =>
      // A sample of one's own proves nothing of the network, nor does what anybody could have sent.
      new Map(
        held.postbacks
          .filter(({ sample, unsure }) => sample !== true && unsure === undefined)
          .map((record) => [record.network, record.at]),
      ),

    /** The newest postbacks of a network with their reading and match, newest first. */
    postbacksOf: (network: string, most: number): PostbackReading[] => {
      const { reads, units } = held.reconciled;
      const ofNetwork = held.postbacks.filter((record) => record.network === network);
      const newest = ofNetwork.slice(-most).reverse();
      const seqs = new Set(newest.map((record) => record.seq));
      const matches = new Map<number, Match>();
      for (const { conversion, match } of units)
        for (const step of conversion?.steps ?? []) if (seqs.has(step.seq)) matches.set(step.seq, match);
      const clicks = held.clicks();
      const profile = held.books.networks.find(({ id }) => id === network);
      const texts = new Map<string, number>();
      const before = new Map<number, number>();
      for (const record of ofNetwork) {
        const text = `${record.query} ${record.body ?? ''}`;
        const at = texts.get(text);
        if (at !== undefined) before.set(record.seq, at);
        else if (!record.sample) texts.set(text, record.at);
      }
      return newest.map((record): PostbackReading => {
        const read =
          reads.get(record.seq) ??
          readPostback(record, profile?.postback ?? { fields: {}, statuses: {} }, profile?.currency ?? 'EUR');
        const match = matches.get(record.seq) ?? matchClick(read.raw.click ?? '', network, clicks);
        const same = before.get(record.seq);
        return {
          record,
          read,
          match,
          link: match.row >= 0 ? clicks.link(match.row) : '',
          click: match.row >= 0 ? clicks.click(match.row) : '',
          ...(same !== undefined && { before: same }),
        };
      });
    },

    /** Conversions of a network that were told by two of its addresses, by program: how many, and when last. */
    firedTwice: (network: string): Map<string, { readonly count: number; readonly last: number }> => {
      const found = new Map<string, { count: number; last: number }>();
      for (const { network: of, cause, program, conversion } of held.reconciled.units)
        if (of === network && cause === 'sent twice') {
          const { count, last } = found.get(program) ?? { count: 0, last: 0 };
          found.set(program, { count: count + 1, last: Math.max(last, conversion?.at ?? 0) });
        }
      return found;
    },

    /** When a network last sent by a key that was rolled. */
    lastByOldKey: (network: string): number | undefined =>
      held.postbacks.findLast((record) => record.network === network && record.oldKey === true)?.at,

    /** The newest counted click on a link of a network; empty where there is none. */
    newestClick: (network: string): string => {
      const clicks = held.clicks();
      for (let row = held.columns.rows - 1; row >= 0; row--)
        if (clicks.networkOf(row) === network && held.sieve.outcome(row) === 'counted')
          return held.columns.click(row);
      return '';
    },

    /** The click a transaction ID leads to, or undefined. */
    clickOfTransaction: (txn: string): string | undefined => {
      const unit = held.reconciled.units.find(
        ({ conversion, reported, link }) => link !== '' && (conversion?.txn === txn || reported?.txn === txn),
      );
      return unit && held.columns.click(unit.match.row);
    },

    /** The newest events, newest first. */
    tape: (most: number): TapeEvent[] => {
      const { columns, postbacks, lost } = held;
      const events: TapeEvent[] = [];
      for (let row = columns.rows - 1; row >= 0 && events.length < most; row--) {
        const of = visit(row);
        events.push({ seq: of.hop.seq, at: of.hop.at, kind: 'hop', visit: of });
      }
      const newest = postbacks.slice(-most);
      if (newest.length > 0) {
        const { reads, units } = held.reconciled;
        const seqs = new Set(newest.map((record) => record.seq));
        const links = new Map<number, string>();
        for (const { conversion, link } of units)
          for (const step of conversion?.steps ?? [])
            if (link !== '' && seqs.has(step.seq)) links.set(step.seq, link);
        for (const { seq, at } of newest) {
          const read = reads.get(seq);
          if (read) events.push({ seq, at, kind: 'postback', read, link: links.get(seq) });
        }
      }
      for (const { seq, at, count, why } of lost.slice(-most))
        events.push({ seq, at, kind: 'lost', count, why });
      return events.sort((a, b) => b.seq - a.seq).slice(0, most);
    },

    /** What happened around keys and exports, newest first. */
    audits: (most: number): AuditRecord[] => held.audits.slice(-most).reverse(),

    /** Every version of a record, newest first. */
    history: (record: string): Version[] => [...(held.versions.get(record) ?? [])].reverse(),

    /** The records changed in one step, each with its version before that step and the one the step made. */
    step: (step: string): { record: string; before: object | null; after: object | null }[] =>
      step === ''
        ? []
        : [...held.versions].flatMap(([record, list]) => {
            const at = list.findIndex((version) => version.step === step);
            const made = list[at];
            return made ? [{ record, before: list[at - 1]?.value ?? null, after: made.value }] : [];
          }),
  };
};
