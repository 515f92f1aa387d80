import type { ClosedMonth, Decision } from '#core/catalogue';
import type { Minor, ReadPostback, Reported } from '#core/conversions';
import { foldClicks } from '#core/conversions';
import { clickTime, monthIn } from '#core/hop';
import type {
  Adjustment,
  Bridge,
  Case,
  ClaimLine,
  CaseKind,
  Cause,
  ClickCause,
  ClickDay,
  Scope,
  Unit,
} from '#core/reconcile';
import {
  adjustmentsOf,
  balanceOf,
  bridgeClicks,
  claimLine,
  closingOf,
  daysApart,
  groupCases,
  rowsOfSeq,
} from '#core/reconcile';
import type { PostbackRecord } from '#core/visits';
import type { HeldJournal } from './heldJournal.ts';
import type { Visit } from './visitAnswers.ts';

/** A bridge as a screen shows it: how many records each piece is made of, not which. */
export interface BridgeView<C extends string = Cause> {
  readonly ours: number;
  readonly theirs: number;
  readonly pieces: readonly { readonly cause: C; readonly value: number; readonly count: number }[];
  readonly leftOver: number;
  /** False where no report says anything of it: then theirs is not 0 but unknown. */
  readonly reported: boolean;
}

export interface BalanceView {
  readonly clicks: BridgeView<ClickCause>;
  readonly conversions: BridgeView;
  readonly commission: readonly { readonly currency: string; readonly bridge: BridgeView }[];
  /** Days whose clicks differ by more than a tenth. */
  readonly daysApart: readonly ClickDay[];
  /** First and last day their reports cover; empty texts where none does. */
  readonly covered: { readonly from: string; readonly until: string };
}

/** Cases of one kind, as a line of the queue. */
export interface GroupView {
  readonly kind: CaseKind;
  readonly count: number;
  readonly safe: number;
  readonly worth: readonly { readonly currency: string; readonly minor: Minor }[];
  readonly oldest: number;
}

/** Everything that speaks for or against a case. */
export interface Evidence {
  readonly one: Case;
  readonly unit: Unit;
  readonly visit?: Visit;
  readonly postbacks: readonly { readonly record: PostbackRecord; readonly read: ReadPostback }[];
  readonly reported?: Reported;
  /** Other clicks it could belong to, likeliest first. */
  readonly candidates: readonly Visit[];
}

/** What a link earned in one currency: minor units by what we heard and by what the network reports. */
export interface EarnedBy {
  readonly network: string;
  /** Empty where no click was found. */
  readonly link: string;
  readonly currency: string;
  readonly ours: Minor;
  readonly theirs: Minor;
  readonly sales: number;
}

/** A conversion as a line of the ledger. */
export interface LedgerLine {
  readonly unit: Unit;
  readonly click: string;
}

const view = ({ ours, theirs, pieces, leftOver }: Bridge, reported: boolean): BridgeView => ({
  ours,
  theirs,
  leftOver,
  reported,
  pieces: pieces.map(({ cause, value, ids }) => ({ cause, value, count: ids.length })),
});

const mostCandidates = 12;
/** Differences that are claimed even before anybody asked. */
const claimed: ReadonlySet<CaseKind> = new Set(['not in report', 'below terms']);

/** What can be asked of a held journal about what networks owe. */
export const reconcileAnswers = (held: HeldJournal) => {
  /** Units by their IDs; made once for what was reconciled last. */
  let unitsOf: { of: readonly Unit[]; byId: Map<string, Unit> } | undefined;
  const unitById = (id: string): Unit | undefined => {
    const { units } = held.reconciled;
    if (unitsOf?.of !== units) unitsOf = { of: units, byId: new Map(units.map((unit) => [unit.id, unit])) };
    return unitsOf.byId.get(id);
  };
  const inScope = (one: Case, { network, month, program, link, source }: Scope): boolean => {
    if (network !== undefined && one.network !== network) return false;
    if (month !== undefined && one.month !== month) return false;
    if (program === undefined && link === undefined && source === undefined) return true;
    const unit = unitById(one.unit);
    return (
      (program === undefined || unit?.program === program) &&
      (link === undefined || unit?.link === link) &&
      (source === undefined || unit?.source === source)
    );
  };
  const ordered = (kind: CaseKind, scope: Scope): Case[] => [
    ...(groupCases(held.reconciled.cases.filter((one) => one.kind === kind && inScope(one, scope)))[0]
      ?.cases ?? []),
  ];

  const visit = (row: number): Visit => ({ hop: held.columns.record(row), outcome: held.sieve.outcome(row) });
  const clickBridge = (scope: Scope & { readonly network: string; readonly zone: string }) => {
    const { networks, links, reports, programs } = held.books;
    const { network, program, month } = scope;
    const of = new Map(links.map((link) => [link.id, link]));
    // Their reports name a program by its name or code, a link or a source by the label in a sub-ID.
    const names = new Set(
      [
        ...programs.filter((one) => one.id === program).flatMap((one) => [one.name, one.code]),
        ...(scope.link === undefined ? [] : [scope.link, of.get(scope.link)?.slug ?? '']),
        scope.source ?? '',
      ]
        .filter((name) => name !== '')
        .map((name) => name.toLowerCase()),
    );
    const rows = [...foldClicks(reports).values()].filter((row) => row.network === network);
    const whole = new Set(rows.flatMap((row) => (row.label === '' ? [row.day] : [])));
    const narrowed = program !== undefined || scope.link !== undefined || scope.source !== undefined;
    return bridgeClicks({
      columns: held.columns,
      sieve: held.sieve,
      sums: held.summed.sums,
      traces: held.traceRecords,
      lost: held.lost,
      // A day that is reported as a whole and by label too counts as a whole.
      reported: narrowed ? rows : rows.filter((row) => row.label === '' || !whole.has(row.day)),
      isLink: (id) =>
        of.get(id)?.network === network &&
        (program === undefined || of.get(id)?.program === program) &&
        (scope.link === undefined || scope.link === id),
      isSource: (source) => scope.source === undefined || scope.source === source,
      isLabel: (label) => !narrowed || names.has(label.toLowerCase()),
      zone: scope.zone,
      theirZone: networks.find((one) => one.id === network)?.zone ?? 'UTC',
      month,
    });
  };

  return {
    /** Every month in which something was clicked or earned with a network, newest first. */
    months: (network: string): string[] => {
      const found = new Set<string>();
      for (const { network: of, ours, theirs } of held.reconciled.units)
        if (of === network) for (const side of [ours, theirs]) if (side) found.add(side.month);
      return [...found].sort().reverse();
    },

    /** Programs, links and sources that earned or could have with a network in a month, to look at one of them. */
    parts: (network: string, month: string): { programs: string[]; links: string[]; sources: string[] } => {
      const programs = new Set<string>();
      const links = new Set<string>();
      const sources = new Set<string>();
      for (const unit of held.reconciled.units) {
        if (unit.network !== network || (unit.ours?.month !== month && unit.theirs?.month !== month))
          continue;
        programs.add(unit.program);
        links.add(unit.link);
        sources.add(unit.source);
      }
      const list = (of: Set<string>) => [...of].filter((name) => name !== '').sort();
      return { programs: list(programs), links: list(links), sources: list(sources) };
    },

    /** What each link earned with every network in a month, by what we heard and by what they report. */
    earnings: (month: string): EarnedBy[] => {
      const found = new Map<string, EarnedBy>();
      for (const { network, link, ours, theirs, cause } of held.reconciled.units) {
        const add = (side: typeof ours, as: 'ours' | 'theirs') => {
          if (!side?.counts || side.month !== month || (as === 'ours' && cause === 'sent twice')) return;
          const key = `${network} ${link} ${side.currency}`;
          const one = found.get(key) ?? {
            network,
            link,
            currency: side.currency,
            ours: 0,
            theirs: 0,
            sales: 0,
          };
          found.set(key, {
            ...one,
            [as]: one[as] + (side.amount ?? 0),
            sales: one.sales + (as === 'ours' ? 1 : 0),
          });
        };
        add(ours, 'ours');
        add(theirs, 'theirs');
      }
      return [...found.values()];
    },

    /** Ours, theirs and what lies between, with one network. */
    balance: (scope: Scope & { readonly network: string; readonly zone: string }): BalanceView => {
      const { units, covered } = held.reconciled;
      const { network, month } = scope;
      const balance = balanceOf(units, scope);
      const clicks = clickBridge(scope);
      const stretches = covered.filter((one) => one.network === network);
      const reported = stretches.some(
        ({ from, until }) => month === undefined || (from.slice(0, 7) <= month && month <= until.slice(0, 7)),
      );
      return {
        clicks: {
          ours: clicks.ours,
          theirs: clicks.theirs,
          leftOver: clicks.leftOver,
          reported: clicks.reported,
          pieces: clicks.pieces.map(({ cause, value, records, summed }) => ({
            cause,
            value,
            count: records.length + summed,
          })),
        },
        conversions: view(balance.conversions, reported),
        commission: [...balance.commission].map(([currency, bridge]) => ({
          currency,
          bridge: view(bridge, reported),
        })),
        daysApart: daysApart(clicks),
        covered: {
          from: stretches.map((one) => one.from).sort()[0] ?? '',
          until:
            stretches
              .map((one) => one.until)
              .sort()
              .at(-1) ?? '',
        },
      };
    },

    /** The records a piece of the bridge is made of: conversions, or requests. */
    pieceOf: (
      scope: Scope & { readonly network: string; readonly zone: string },
      cause: Cause | ClickCause,
      most: number,
    ): { lines: LedgerLine[]; visits: Visit[]; summed: number } => {
      const ofClicks = clickBridge(scope).pieces.find((piece) => piece.cause === cause);
      if (ofClicks) {
        const rows = rowsOfSeq(held.columns, new Set(ofClicks.records.slice(-most)));
        return { lines: [], visits: rows.reverse().map(visit), summed: ofClicks.summed };
      }
      const { units } = held.reconciled;
      const { conversions, commission } = balanceOf(units, scope);
      const ids = new Set(
        [conversions, ...commission.values()].flatMap((bridge) => [
          ...bridge.pieces.filter((piece) => piece.cause === cause).flatMap((piece) => piece.ids),
          ...bridge.leftOverIds,
        ]),
      );
      const lines = units
        .filter((unit) => ids.has(unit.id) && unit.cause === cause)
        .slice(0, most)
        .map((unit) => ({ unit, click: unit.match.row < 0 ? '' : held.columns.click(unit.match.row) }));
      return { lines, visits: [], summed: 0 };
    },

    /** The queue of what waits for a person, dearest first. */
    queue: (scope: Scope): GroupView[] =>
      groupCases(held.reconciled.cases.filter((one) => inScope(one, scope))).map(
        ({ kind, cases, safe, worth, oldest }) => ({
          kind,
          count: cases.length,
          safe,
          worth: [...worth].map(([currency, minor]) => ({ currency, minor })),
          oldest,
        }),
      ),

    /** How many cases wait in all. */
    waiting: (): number => held.reconciled.cases.filter((one) => !one.decision).length,

    casesOfKind: (kind: CaseKind, scope: Scope, most: number): Case[] => ordered(kind, scope).slice(0, most),

    /** Every case of a kind that can be accepted without looking. */
    safeCases: (kind: CaseKind, scope: Scope): Case[] =>
      ordered(kind, scope).filter((one) => one.proposal.safe),

    /** Cases somebody decided, newest first. */
    decided: (scope: Scope, most: number): (Case & { decision: Decision })[] =>
      held.reconciled.cases
        .flatMap((one) => (one.decision && inScope(one, scope) ? [{ ...one, decision: one.decision }] : []))
        .sort((a, b) => b.decision.at - a.decision.at)
        .slice(0, most),

    evidence: (id: string): Evidence | undefined => {
      const { units, cases, reads } = held.reconciled;
      const one = cases.find((found) => found.id === id);
      const unit = units.find((found) => found.id === one?.unit);
      if (!one || !unit) return undefined;
      const seqs = new Set(unit.conversion?.steps.map((step) => step.seq) ?? []);
      const needsChoice = unit.match.row < 0 || unit.match.level === 'probable';
      const at = unit.ours?.at ?? unit.theirs?.at ?? 0;
      // An ID of ours whose record is missing tells when it was clicked.
      const around = clickTime((unit.conversion?.click ?? unit.reported?.click ?? '').trim()) ?? at;
      const network = held.books.networks.find((found) => found.id === unit.network);
      const candidates = needsChoice
        ? held
            .clicks()
            .between(
              unit.network,
              unit.program,
              around - (network?.cookieDays ?? 30) * 86_400_000,
              around,
              mostCandidates,
            )
        : [];
      return {
        one,
        unit,
        ...(unit.match.row >= 0 && { visit: visit(unit.match.row) }),
        postbacks: held.postbacks.flatMap((record) => {
          const read = reads.get(record.seq);
          return read && seqs.has(record.seq) ? [{ record, read }] : [];
        }),
        ...(unit.reported && { reported: unit.reported }),
        candidates: candidates.map(visit),
      };
    },

    /** Conversions of a network and month, newest first. */
    ledger: (scope: Scope, words: string, most: number): { lines: LedgerLine[]; total: number } => {
      const wanted = words.trim().toLowerCase();
      const found = held.reconciled.units.filter(
        (unit) =>
          (scope.network === undefined || unit.network === scope.network) &&
          (scope.month === undefined ||
            unit.ours?.month === scope.month ||
            unit.theirs?.month === scope.month) &&
          (wanted === '' ||
            [unit.conversion?.txn, unit.reported?.txn, unit.link, unit.source, unit.conversion?.click].some(
              (text) => text?.toLowerCase().includes(wanted) === true,
            )),
      );
      const lines = found
        .slice(-most)
        .reverse()
        .map((unit) => ({ unit, click: unit.match.row < 0 ? '' : held.columns.click(unit.match.row) }));
      return { lines, total: found.length };
    },

    /** What closing a month would freeze. */
    closing: (network: string, month: string) => closingOf(held.reconciled.units, network, month),

    /** What changed in closed months since. */
    adjustments: (closed: readonly ClosedMonth[]): Adjustment[] =>
      closed.flatMap((one) => {
        const zone = held.books.networks.find(({ id }) => id === one.network)?.zone ?? 'UTC';
        return adjustmentsOf(one, held.reconciled.units, (at) => monthIn(zone, at));
      }),

    /** What a claim to the network is about: what it was asked, and what it owes and was not asked yet. */
    claim: (scope: Scope): ClaimLine[] => {
      const { cases } = held.reconciled;
      const about = cases.filter(
        (one) => inScope(one, scope) && (one.decision ? one.decision.kind === 'ask' : claimed.has(one.kind)),
      );
      const bySeq = new Map(held.postbacks.map((record) => [record.seq, record]));
      return about.flatMap((one) => {
        const unit = unitById(one.unit);
        if (!unit) return [];
        const records = (unit.conversion?.steps ?? []).flatMap(({ seq }) => bySeq.get(seq) ?? []);
        return [
          claimLine(
            one,
            unit,
            records,
            (row) => ({ click: held.columns.click(row), at: held.columns.at(row) }),
            (link) => link,
          ),
        ];
      });
    },

    /** Approved commission of a network by month and currency, for what is owed. */
    approved: (network: string): { month: string; currency: string; minor: Minor }[] => {
      const sums = new Map<string, Minor>();
      for (const { network: of, theirs } of held.reconciled.units) {
        if (of !== network || !theirs || (theirs.status !== 'approved' && theirs.status !== 'paid')) continue;
        const key = `${theirs.month} ${theirs.currency}`;
        sums.set(key, (sums.get(key) ?? 0) + (theirs.amount ?? 0));
      }
      return [...sums]
        .map(([key, minor]) => ({ month: key.slice(0, 7), currency: key.slice(8), minor }))
        .sort((a, b) => (a.month < b.month ? -1 : 1));
    },
  };
};
