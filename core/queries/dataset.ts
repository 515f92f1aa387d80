import type {
  Account,
  ClosedMonth,
  Cost,
  Decision,
  Domain,
  Link,
  Network,
  Payment,
  Program,
  Promotion,
  Rate,
  Report,
  Settings,
  SourceRecord,
} from '#core/catalogue';
import { comesByMail, sourceNames } from '#core/catalogue';
import type { Clicks, HoldingLink, MatchedBooks, Reconciled, ReconcileInput } from '#core/reconcile';
import { clicksOf, matchAll, rematch, settle } from '#core/reconcile';
import type { PassesOf } from '#core/traffic';
import type { DailyCount, JournalRecord, MachineRule } from '#core/visits';
import { otherNetworksOf } from './linkNetworks.ts';
import { rowsBefore } from './visits.ts';
import { Classification, defaultRules, makeIsRobot, mergeCounts, rollUp, SortedJournal } from '#core/visits';

/** What of a link questions rest on. */
export type QueriedLink = Pick<
  Link,
  'id' | 'domain' | 'slug' | 'group' | 'tags' | 'network' | 'program' | 'destination' | 'branches' | 'coupons'
>;

/** The records of the catalogue that questions rest on. */
export interface CatalogueRecords {
  readonly domains: readonly Domain[];
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly accounts: readonly Account[];
  readonly links: readonly QueriedLink[];
  readonly reports: readonly Report[];
  readonly decisions: readonly Decision[];
  readonly months: readonly ClosedMonth[];
  readonly payments: readonly Payment[];
  readonly sources: readonly SourceRecord[];
  readonly costs: readonly Cost[];
  readonly promotions: readonly Promotion[];
  readonly rates: readonly Rate[];
}

const noRecords: CatalogueRecords = {
  domains: [],
  networks: [],
  programs: [],
  accounts: [],
  links: [],
  reports: [],
  decisions: [],
  months: [],
  payments: [],
  sources: [],
  costs: [],
  promotions: [],
  rates: [],
};

/** Kinds of records that matching rests on; the others are only looked up. */
const matchedKinds: readonly (keyof CatalogueRecords)[] = ['networks', 'programs', 'reports', 'sources'];

/** What of links matching rests on, as a text to compare. */
const whoseLinks = (links: readonly QueriedLink[]): string =>
  links
    .map(
      ({ id, network = '', program = '', destination, branches, coupons }) =>
        `${id} ${network} ${program} ${JSON.stringify([destination, branches?.map((b) => b.destination), coupons])}`,
    )
    .join('\n');

/** Requests before a moment (milliseconds since 1970 UTC) as daily counts. */
export interface RolledUp {
  readonly before: number;
  readonly counts: readonly DailyCount[];
}

const nothingRolledUp: RolledUp = { before: 0, counts: [] };

/**
 * A journal and a catalogue in memory, and what follows from both: the classification of requests and the matching of
 * conversions, computed when first asked for and kept until what they rest on changes. Every question is asked of one.
 */
export class Dataset {
  #journal = new SortedJournal();
  #rolledUp = nothingRolledUp;
  #state = {};
  #records = noRecords;
  #rules: Settings['classification'];
  /** Names of sources whose visits come by mail, slips of them among them. */
  #mails: ReadonlySet<string> = new Set();
  #classification = this.#newClassification();
  #matched: MatchedBooks | undefined;
  #reconciled: Reconciled | undefined;
  #last = 0;
  /** The name a source counts under: its own, or the one of which it is a slip. */
  sourceOf: (name: string) => string = (name) => name;
  /** What the seller of a source's visits passes along; of a slip without words of its own, what that of its source does. */
  passesOf: PassesOf = () => undefined;

  /** The `seq` of the newest record. */
  get last(): number {
    return this.#last;
  }
  /** Another object after every change of what matching rests on and of the catalogue: what was worked out holds as long as it is the same. */
  get state(): object {
    return this.#state;
  }
  /** Old requests of which only daily counts are kept. */
  get rolledUp(): RolledUp {
    return this.#rolledUp;
  }
  set rolledUp(rolledUp: RolledUp) {
    this.#rolledUp = rolledUp;
    this.#state = {};
  }
  get journal(): SortedJournal {
    return this.#journal;
  }
  get records(): CatalogueRecords {
    return this.#records;
  }
  /** Requests that the person treats as machines'. */
  get machines(): readonly MachineRule[] {
    return this.#rules?.machines ?? [];
  }
  /** Zone of our own days: that of the domain with the smallest ID, so that it is the same wherever it is asked. */
  get zone(): string {
    const [first] = [...this.#records.domains].sort((a, b) => (a.id < b.id ? -1 : 1));
    return first?.zone ?? 'UTC';
  }

  #newClassification(): Classification {
    const rules = this.#rules;
    const mails = this.#mails;
    return new Classification(
      this.#journal.columns,
      makeIsRobot(rules?.robots),
      rules ?? defaultRules,
      (source) => mails.has(source),
    );
  }

  /** Forgets the journal; the catalogue stays. */
  clear(): void {
    this.#journal = new SortedJournal();
    this.rolledUp = nothingRolledUp;
    this.#classification = this.#newClassification();
    this.#forget();
    this.#last = 0;
  }

  /** Takes records of the journal in their order; those that are there already are passed over. */
  add(records: Iterable<JournalRecord>): void {
    for (const record of records) {
      if (record.seq <= this.#last) continue;
      this.#last = record.seq;
      if (this.#journal.put(record)) this.#forget();
    }
  }

  /**
   * Forgets every record after one.
   *
   * @param others the records that are no requests, from the storage they came from
   */
  cutAfter(seq: number, others: readonly JournalRecord[]): void {
    const { rolledUp } = this;
    const { columns } = this.#journal;
    const visits = Array.from({ length: columns.rows }, (_, row) => columns.record(row));
    this.clear();
    this.rolledUp = rolledUp;
    this.add([...visits, ...others].filter((r) => r.seq <= seq).sort((a, b) => a.seq - b.seq));
    this.#last = seq;
  }

  /** Takes records other than requests, read from storage: they may lie before rows that are there already. */
  addStored(records: readonly JournalRecord[]): void {
    for (const record of records) {
      this.#last = Math.max(this.#last, record.seq);
      if (this.#journal.put(record)) this.#forget();
    }
  }

  /** Called after rows were put into the columns from outside. */
  rowsCame(lastSeq: number): void {
    this.#last = Math.max(this.#last, lastSeq);
    this.#forget();
  }

  /** The classification of every request there is. */
  get classification(): Classification {
    this.#classification.update();
    return this.#classification;
  }

  /** The clicks as matching looks them up. */
  clicks(): Clicks {
    return clicksOf(
      this.#journal.columns,
      this.classification,
      this.#linksWithNetworks(),
      this.rolledUp.before,
      this.rolledUp.counts,
      this.sourceOf,
    );
  }

  /** The links with every network they sent visitors to. */
  #linksWithNetworks(): (QueriedLink & HoldingLink)[] {
    const { links, networks, programs } = this.#records;
    const { versions } = this.#journal;
    return links.map((link) => {
      const others = otherNetworksOf(link, versions.get(link.id) ?? [], networks, programs);
      return others.length === 0 ? link : { ...link, alsoOf: others };
    });
  }

  /** Counts the past anew by other rules; undefined for the usual ones. */
  setRules(rules: Settings['classification']): void {
    if (JSON.stringify(rules) === JSON.stringify(this.#rules)) return;
    this.#rules = rules;
    this.#classification = this.#newClassification();
    this.#forget();
  }

  /**
   * Rolls up by day the requests before a moment (milliseconds since 1970 UTC, a midnight of UTC). Clicks that a
   * conversion leads to stay, and so does the newest row, by which this journal is known.
   *
   * @param last the newest record that may become a count
   * @returns the counts that came to those of before
   */
  rollUp(before: number, last = Infinity): readonly DailyCount[] {
    const { zone } = this;
    const { columns } = this.#journal;
    // The click of another network's link that a conversion names speaks for or against it too.
    const matched = new Set(this.reconciled.units.flatMap(({ match: { row, other = -1 } }) => [row, other]));
    // So do the clicks that led to the pages on which those were made.
    for (const row of matched)
      if (row >= 0) for (const before of rowsBefore(columns, row)) matched.add(before);
    const zones = new Map(this.#records.networks.map((network) => [network.id, network.zone]));
    const zoneOf = new Map(
      this.#records.links.map(({ id, network }) => [id, zones.get(network ?? '') ?? zone] as const),
    );
    const rolled = rollUp({
      columns,
      classification: this.classification,
      before,
      stays: (row) => matched.has(row) || row === columns.rows - 1 || columns.seq(row) > last,
      zone,
      theirZone: (link) => zoneOf.get(link) ?? zone,
    });
    this.#journal.columns = rolled.columns;
    this.rolledUp = {
      before: Math.max(before, this.rolledUp.before),
      counts: mergeCounts([this.rolledUp.counts, rolled.counts]),
    };
    this.#classification = this.#newClassification();
    this.#forget();
    return rolled.counts;
  }

  /** Counts the past anew where other sources come by mail than before. */
  #setMails(sources: readonly SourceRecord[]): void {
    const own = new Set(sources.filter(comesByMail).map(({ source }) => source));
    const names = sources.map(({ source }) => source).filter((name) => own.has(this.sourceOf(name)));
    if (names.length === this.#mails.size && names.every((name) => this.#mails.has(name))) return;
    this.#mails = new Set(names);
    this.#classification = this.#newClassification();
  }

  /** Takes records of the catalogue in the place of those of the same kinds. */
  setRecords(records: Partial<CatalogueRecords>): void {
    const before = this.#records;
    this.#state = {};
    this.#records = { ...before, ...records };
    if (records.sources) {
      this.sourceOf = sourceNames(records.sources);
      this.#setMails(records.sources);
      const passes = new Map(records.sources.map((one) => [one.source, one.passes]));
      this.passesOf = (name) => passes.get(name) ?? passes.get(this.sourceOf(name));
    }
    const rests =
      matchedKinds.some((kind) => records[kind] !== undefined) ||
      (records.links !== undefined && whoseLinks(records.links) !== whoseLinks(before.links));
    if (rests) {
      this.#forget();
      return;
    }
    // Most decisions leave what was matched as it is, and others change little of it.
    if (records.decisions === undefined) return;
    if (this.#matched) this.#matched = rematch(this.#matched, this.#reconcileInput());
    this.#reconciled = undefined;
  }

  #reconcileInput(): ReconcileInput {
    return {
      columns: this.#journal.columns,
      classification: this.classification,
      rolledUpBefore: this.rolledUp.before,
      rolledUp: this.rolledUp.counts,
      traces: this.#journal.traces,
      postbacks: this.#journal.postbacks,
      ...this.#records,
      links: this.#linksWithNetworks(),
      sourceOf: this.sourceOf,
    };
  }

  #forget(): void {
    this.#state = {};
    this.#matched = undefined;
    this.#reconciled = undefined;
  }

  /** Everything reconciled; computed when first asked for after something changed. */
  get reconciled(): Reconciled {
    this.#matched ??= matchAll(this.#reconcileInput());
    return (this.#reconciled ??= settle(this.#matched, this.#records.decisions));
  }

  /** A record as it was when the journal had come to a `seq`. */
  versionAt(record: string, seq: number): object | undefined {
    return this.#journal.versions.get(record)?.findLast((version) => version.seq < seq)?.value ?? undefined;
  }
}
