import type { Decision, Link, Network, Program, Report } from '#core/catalogue';
import type { Conversion, ReadPostback } from '#core/conversions';
import { foldReports, makeLedger, markOdd, readPostback } from '#core/conversions';
import type { Columns, ColumnSieve, PostbackRecord } from '#core/visits';
import type { Case, CaseKind } from './cases.ts';
import { caseId, casesOf, chosenClicks, latestDecisions } from './cases.ts';
import { clicksOf } from './clicks.ts';
import { joinReports } from './join.ts';
import type { Clicks, Covered, Unit } from './units.ts';
import { makeUnits } from './units.ts';

/** Everything that is reconciled: the journal, what networks reported, what people made and decided. */
export interface Books {
  readonly columns: Columns;
  readonly sieve: ColumnSieve;
  /** Requests before this moment are kept as sums; milliseconds since 1970 UTC. */
  readonly summedBefore?: number;
  readonly postbacks: readonly PostbackRecord[];
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly links: readonly Pick<Link, 'id' | 'network' | 'program'>[];
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
 * Applies what people decided of conversions themselves: that one nobody vouches for counts, and that an odd amount is
 * its hundredth.
 */
const believe = (ledger: readonly Conversion[], decisions: readonly Decision[]): Conversion[] => {
  const accepted = new Set(
    [...latestDecisions(decisions)].flatMap(([id, { kind }]) => (kind === 'accept' ? [id] : [])),
  );
  const odd = markOdd(ledger.filter(({ unsure }) => unsure === undefined));
  const marked = [...odd, ...ledger.filter(({ unsure }) => unsure !== undefined)];
  return marked.map((conversion): Conversion => {
    const { id, unsure, odd: meant } = conversion;
    if (unsure !== undefined && accepted.has(caseId('not verified', id)))
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
  for (const { network, batch, from, until, clicks } of reports)
    if (clicks.length === 0) found.set(`${batch} ${network}`, { network, from, until });
  return [...found.values()];
};

/** What was joined and matched, before anything people decided about the differences. */
export interface Joined extends Reconciled {
  /** The clicks people chose, by the ID of the unit they were chosen for. */
  readonly chosen: ReadonlyMap<string, string>;
  readonly clicks: Clicks;
}

/**
 * Joins and matches everything: the long part. Of the decisions only those that choose a click matter to it, and those
 * of `whatIsBelieved`.
 */
export const joinBooks = (books: Books): Joined => {
  const { ledger, reads } = ledgerOf(books.postbacks, books.networks, books.decisions);
  const covered = coveredBy(books.reports);
  const chosen = chosenClicks(latestDecisions(books.decisions));
  const clicks = clicksOf(books.columns, books.sieve, books.links, books.summedBefore);
  const units = makeUnits({
    pairs: joinReports(ledger, foldReports(books.reports).values()),
    clicks,
    networks: books.networks,
    programs: books.programs,
    covered,
    chosen,
  });
  return { ledger, reads, units, covered, chosen, clicks, cases: units.flatMap((unit) => casesOf(unit)) };
};

/** Applies what people decided to what was joined: the short part, done anew after each decision. One pass. */
export const settle = (joined: Joined, decisions: readonly Decision[]): Reconciled => {
  if (decisions.length === 0) return joined;
  const decided = latestDecisions(decisions);
  /** Kinds of differences that were set aside, by their unit. */
  const aside = new Map<string, CaseKind[]>();
  const cases = joined.cases.map((one): Case => {
    const decision = decided.get(one.id);
    if (!decision) return one;
    if (decision.kind === 'set aside') aside.set(one.unit, [...(aside.get(one.unit) ?? []), one.kind]);
    return { ...one, decision };
  });
  if (aside.size === 0) return { ...joined, cases };
  // A difference that was set aside is a piece of the bridge of its own.
  const units = joined.units.map((unit): Unit =>
    unit.cause !== undefined && aside.get(unit.id)?.some((kind) => kind === unit.cause)
      ? { ...unit, cause: 'set aside' }
      : unit,
  );
  return { ...joined, units, cases };
};

/** Computes everything anew from records and decisions; the order in which they arrived does not matter. */
export const reconcile = (books: Books): Reconciled => settle(joinBooks(books), books.decisions);
