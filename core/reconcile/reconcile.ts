import type { Decision, Network, Program, Report } from '#core/catalogue';
import type { Conversion, ConversionEvent, ReadPostback, Reported } from '#core/conversions';
import { foldClicks, foldReports, makeLedger, markOdd, readPostback, txnKey } from '#core/conversions';
import type { Classification, DailyCount, PostbackRecord, TraceRecord, VisitColumns } from '#core/visits';
import { clickCases } from './clickCases.ts';
import type { Case, CaseKind } from './cases.ts';
import {
  believedCases,
  caseId,
  casesOf,
  chosenClicks,
  doubtCaseId,
  latestDecisions,
  unreadCaseIds,
  unreadCases,
} from './cases.ts';
import { clicksOf } from './clicks.ts';
import { joinReports } from './join.ts';
import type { Covered, HoldingLink, UnreadName } from './lookup.ts';
import type { Clicks } from './matchStage.ts';
import type { Unit } from './unit.ts';
import { makeUnits } from './units.ts';

/** Everything that is reconciled: the journal, what networks reported, what people made and decided. */
export interface ReconcileInput {
  readonly columns: VisitColumns;
  readonly classification: Classification;
  /** Requests before this moment are kept as sums; milliseconds since 1970 UTC. */
  readonly rolledUpBefore?: number;
  /** Requests of which only the daily roll-up is kept. */
  readonly rolledUp?: readonly DailyCount[];
  readonly traces?: readonly TraceRecord[];
  readonly postbacks: readonly PostbackRecord[];
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly links: readonly HoldingLink[];
  readonly reports: readonly Report[];
  readonly decisions: readonly Decision[];
  /** The name a source counts under, where slips of names are merged. */
  readonly sourceOf?: (name: string) => string;
}

export interface Reconciled {
  readonly ledger: readonly Conversion[];
  /** How each postback was read, by its `seq`. */
  readonly reads: ReadonlyMap<number, ReadPostback>;
  readonly units: readonly Unit[];
  readonly cases: readonly Case[];
  readonly covered: readonly Covered[];
}

/**
 * Applies what people decided of a conversion itself: that one that is not verified counts, that an odd amount is to be
 * read as a hundredth of what came, and which of two readings holds.
 */
export const believe = (conversion: Conversion, accepted: ReadonlySet<string>): Conversion => {
  const { id, unverified, odd: meant, doubt } = conversion;
  if (doubt !== undefined && accepted.has(doubtCaseId(id, doubt))) {
    const { amount, currency, status } = doubt;
    return { ...conversion, amount, currency, status, corrected: true };
  }
  if (unverified !== undefined && accepted.has(caseId('not verified', id)))
    return { ...conversion, trusted: true };
  if (meant !== undefined && accepted.has(caseId('odd amount', id)))
    return { ...conversion, amount: meant, corrected: true };
  return conversion;
};

/** Marks odd amounts; what is not verified neither is odd nor says what is usual. */
const markVerified = (ledger: readonly Conversion[]): readonly Conversion[] =>
  ledger.some(({ unverified }) => unverified !== undefined)
    ? [
        ...markOdd(ledger.filter(({ unverified }) => unverified === undefined)),
        ...ledger.filter(({ unverified }) => unverified !== undefined),
      ]
    : markOdd(ledger);

/**
 * Gives a postback whose signature came before the time of that first one: what is signed is the same, so it says nothing
 * new, whenever it arrives.
 */
const asFirstSigned = (
  read: ReadPostback,
  record: PostbackRecord,
  firsts: Map<string, number>,
): ReadPostback => {
  if (record.signature === undefined) return read;
  const keys = record.signature.split('.').map((part) => `${record.network} ${part}`);
  const first = keys.map((key) => firsts.get(key)).find((at) => at !== undefined);
  for (const key of keys) if (!firsts.has(key)) firsts.set(key, first ?? read.event.at);
  return first === undefined ? read : { ...read, event: { ...read.event, at: first } };
};

/** How a postback was read last, by what its network was taught then: a record never changes, and teaching is rare. */
const lastReads = new WeakMap<
  PostbackRecord,
  { readonly network: Network | undefined; readonly read: ReadPostback }
>();

const readOnce = (record: PostbackRecord, network: Network | undefined): ReadPostback => {
  const last = lastReads.get(record);
  if (last && last.network === network) return last.read;
  const profile = network?.postback ?? { fields: {}, statuses: {} };
  const read = readPostback(record, profile, network?.currency ?? 'EUR');
  lastReads.set(record, { network, read });
  return read;
};

/** IDs of the cases whose proposal a person accepted. */
const acceptedCases = (decisions: readonly Decision[]): Set<string> =>
  new Set([...latestDecisions(decisions)].flatMap(([id, { kind }]) => (kind === 'accept' ? [id] : [])));

/** The postbacks of a journal as they were read and folded. */
export interface ReadLedger {
  readonly ledger: Conversion[];
  /** How each postback was read, by its `seq`. */
  readonly reads: Map<number, ReadPostback>;
  /** Those that could not be read, and that nobody said to count all the same: they are no conversions yet. */
  readonly unread: readonly PostbackRecord[];
  /** Conversions of which a person can say how they are to be taken, as they were heard, by their ID. */
  readonly open: ReadonlyMap<string, Conversion>;
}

/** Folds the postbacks of a journal into a ledger, and gives how each was read. */
export const ledgerOf = (
  postbacks: readonly PostbackRecord[],
  networks: readonly Network[],
  decisions: readonly Decision[] = [],
): ReadLedger => {
  const byId = new Map(networks.map((network) => [network.id, network]));
  const accepted = acceptedCases(decisions);
  const reads = new Map<number, ReadPostback>();
  const unread: PostbackRecord[] = [];
  const events: ConversionEvent[] = [];
  const firsts = new Map<string, number>();
  for (const record of postbacks) {
    if (record.sample) continue;
    const read = asFirstSigned(readOnce(record, byId.get(record.network)), record, firsts);
    reads.set(record.seq, read);
    if (read.unread.length === 0 || unreadCaseIds(record, read).every((id) => accepted.has(id)))
      events.push(read.event);
    else unread.push(record);
  }
  const heard = markVerified(makeLedger(events, (id) => byId.get(id)?.postback ?? { amounts: 'replace' }));
  const open = new Map<string, Conversion>();
  for (const one of heard) if ((one.unverified ?? one.odd ?? one.doubt) !== undefined) open.set(one.id, one);
  return {
    ledger: heard.map((one) => (open.has(one.id) ? believe(one, accepted) : one)),
    reads,
    unread,
    open,
  };
};

/** Every case there is: of the units, and of the postbacks that could not be read and may be the network's. */
const allCases = (
  units: readonly Unit[],
  { reads }: Pick<ReadLedger, 'reads'>,
  { postbacks, networks }: Pick<ReconcileInput, 'postbacks' | 'networks'>,
): Case[] => {
  const byId = new Map(networks.map((network) => [network.id, network]));
  const cases: Case[] = [];
  const unreadIds = new Set<string>();
  for (const record of postbacks) {
    const read = reads.get(record.seq);
    // What a page of one's own reported counts nothing anyway.
    if (!read || read.unread.length === 0 || record.unverified === 'pixel') continue;
    // The same sent again waits for the same answer.
    for (const one of unreadCases(record, read, byId.get(record.network)))
      if (!unreadIds.has(one.id)) {
        unreadIds.add(one.id);
        cases.push(one);
      }
  }
  for (const unit of units) for (const one of casesOf(unit)) cases.push(one);
  return cases;
};

/** What reports came to last: they are the same list until one is brought in. */
const lastFolded = new WeakMap<
  readonly Report[],
  { readonly telling: string; readonly rows: ReadonlyMap<string, Reported> }
>();

const foldOnce = (reports: readonly Report[], telling: ReadonlySet<string>): Iterable<Reported> => {
  const names = [...telling].sort().join();
  const last = lastFolded.get(reports);
  if (last?.telling === names) return last.rows.values();
  const rows = foldReports(reports, (network) => telling.has(network));
  lastFolded.set(reports, { telling: names, rows });
  return rows.values();
};

/** The days that reports of conversions cover. */
export const coveredBy = (reports: readonly Report[]): Covered[] => {
  const found = new Map<string, Covered>();
  for (const { network, batch, from, until, clicks, part } of reports)
    if (clicks.length === 0 && !part) found.set(`${batch} ${network}`, { network, from, until });
  return [...found.values()];
};

/** What was matched, before anything people decided about the differences. */
export interface MatchedBooks extends Reconciled {
  /** The clicks people chose, by the ID of the unit they were chosen for. */
  readonly chosen: ReadonlyMap<string, string>;
  readonly clicks: Clicks;
  /** Postbacks that could not be read. */
  readonly unread: readonly UnreadName[];
  /** Conversions of which a person can say how they are to be taken, as they were heard, by their ID. */
  readonly open: ReadonlyMap<string, Conversion>;
  /** What people said of them and of what could not be read: IDs of accepted cases. */
  readonly believed: ReadonlySet<string>;
}

/**
 * Joins and matches everything: the long part. Of the decisions only those that choose a click matter to it, and those
 * of `whatIsBelieved`.
 */
export const matchAll = (books: ReconcileInput): MatchedBooks => {
  const telling = new Set(books.networks.flatMap(({ id, postback }) => (postback.caseMatters ? [id] : [])));
  const caseMatters = (network: string) => telling.has(network);
  const read = ledgerOf(books.postbacks, books.networks, books.decisions);
  const { ledger, reads } = read;
  const unread = read.unread.flatMap(({ seq }) => reads.get(seq)?.event ?? []);
  const covered = coveredBy(books.reports);
  const chosen = chosenClicks(latestDecisions(books.decisions));
  const clicks = clicksOf(
    books.columns,
    books.classification,
    books.links,
    books.rolledUpBefore,
    books.rolledUp,
    books.sourceOf,
  );
  const units = makeUnits({
    pairs: joinReports(ledger, foldOnce(books.reports, telling), (network, txn) =>
      txnKey(txn, caseMatters(network)),
    ),
    clicks,
    networks: books.networks,
    programs: books.programs,
    covered,
    links: books.links,
    chosen,
    unread,
  });
  return {
    ledger,
    reads,
    units,
    covered,
    chosen,
    clicks,
    unread,
    open: read.open,
    believed: believedCases(books.decisions),
    cases: [
      ...clickCases({ ...books, reported: foldClicks(books.reports).values() }),
      ...allCases(units, read, books),
    ],
  };
};

/** Applies what people decided to what was matched: the short part, done anew after each decision. One pass. */
export const settle = (matched: MatchedBooks, decisions: readonly Decision[]): Reconciled => {
  if (decisions.length === 0) return matched;
  const decided = latestDecisions(decisions);
  /** Kinds of differences that were written off, by their unit. */
  const writtenOff = new Map<string, CaseKind[]>();
  const cases = matched.cases.map((one): Case => {
    const decision = decided.get(one.id);
    if (!decision) return one;
    if (decision.kind === 'write off')
      writtenOff.set(one.unit, [...(writtenOff.get(one.unit) ?? []), one.kind]);
    return { ...one, decision };
  });
  if (writtenOff.size === 0) return { ...matched, cases };
  // A difference that was written off is a piece of the bridge of its own.
  const units = matched.units.map((unit): Unit =>
    unit.cause !== undefined && writtenOff.get(unit.id)?.some((kind) => kind === unit.cause)
      ? { ...unit, cause: 'written off' }
      : unit,
  );
  return { ...matched, units, cases };
};

/** Computes everything anew from records and decisions; the order in which they arrived does not matter. */
export const reconcile = (books: ReconcileInput): Reconciled => settle(matchAll(books), books.decisions);
