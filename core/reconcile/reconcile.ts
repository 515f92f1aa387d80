import type { Decision, Network, Program, Report } from '#core/catalogue';
import type { Conversion, ReadPostback } from '#core/conversions';
import { foldReports, makeLedger, markOdd, readPostback } from '#core/conversions';
import type { VisitColumns, Classification, PostbackRecord } from '#core/visits';
import type { Case, CaseKind } from './cases.ts';
import { caseId, casesOf, chosenClicks, latestDecisions } from './cases.ts';
import { clicksOf } from './clicks.ts';
import { joinReports } from './join.ts';
import type { Covered, HoldingLink } from './lookup.ts';
import type { Clicks } from './matchStage.ts';
import type { Unit } from './unit.ts';
import { makeUnits } from './units.ts';

/** Everything that is reconciled: the journal, what networks reported, what people made and decided. */
export interface ReconcileInput {
  readonly columns: VisitColumns;
  readonly classification: Classification;
  /** Requests before this moment are kept as sums; milliseconds since 1970 UTC. */
  readonly rolledUpBefore?: number;
  readonly postbacks: readonly PostbackRecord[];
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly links: readonly HoldingLink[];
  readonly reports: readonly Report[];
  readonly decisions: readonly Decision[];
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
 * Applies what people decided of conversions themselves: that one that is not verified counts, and that an odd amount is
 * to be read as a hundredth of what came.
 */
const believe = (ledger: readonly Conversion[], decisions: readonly Decision[]): Conversion[] => {
  const accepted = new Set(
    [...latestDecisions(decisions)].flatMap(([id, { kind }]) => (kind === 'accept' ? [id] : [])),
  );
  const odd = markOdd(ledger.filter(({ unverified }) => unverified === undefined));
  const marked = [...odd, ...ledger.filter(({ unverified }) => unverified !== undefined)];
  return marked.map((conversion): Conversion => {
    const { id, unverified, odd: meant } = conversion;
    if (unverified !== undefined && accepted.has(caseId('not verified', id)))
      return { ...conversion, trusted: true };
    if (meant !== undefined && accepted.has(caseId('odd amount', id)))
      return { ...conversion, amount: meant, corrected: true };
    return conversion;
  });
};

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

/** Folds the postbacks of a journal into a ledger, and gives how each was read. */
export const ledgerOf = (
  postbacks: readonly PostbackRecord[],
  networks: readonly Network[],
  decisions: readonly Decision[] = [],
): { ledger: Conversion[]; reads: Map<number, ReadPostback> } => {
  const byId = new Map(networks.map((network) => [network.id, network]));
  const reads = new Map<number, ReadPostback>();
  const firsts = new Map<string, number>();
  for (const record of postbacks) {
    if (record.sample) continue;
    const network = byId.get(record.network);
    const profile = network?.postback ?? { fields: {}, statuses: {} };
    const read = readPostback(record, profile, network?.currency ?? 'EUR');
    reads.set(record.seq, asFirstSigned(read, record, firsts));
  }
  const ledger = makeLedger(
    [...reads.values()].map((read) => read.event),
    (id) => byId.get(id)?.postback ?? { amounts: 'replace' },
  );
  return { ledger: believe(ledger, decisions), reads };
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
}

/**
 * Joins and matches everything: the long part. Of the decisions only those that choose a click matter to it, and those
 * of `whatIsBelieved`.
 */
export const matchAll = (books: ReconcileInput): MatchedBooks => {
  const { ledger, reads } = ledgerOf(books.postbacks, books.networks, books.decisions);
  const covered = coveredBy(books.reports);
  const chosen = chosenClicks(latestDecisions(books.decisions));
  const clicks = clicksOf(books.columns, books.classification, books.links, books.rolledUpBefore);
  const units = makeUnits({
    pairs: joinReports(ledger, foldReports(books.reports).values()),
    clicks,
    networks: books.networks,
    programs: books.programs,
    covered,
    links: books.links,
    chosen,
  });
  return { ledger, reads, units, covered, chosen, clicks, cases: units.flatMap((unit) => casesOf(unit)) };
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
