import type { Domain } from '#core/catalogue';
import { addressOf } from '#core/catalogue';
import type { ReadPostback, Reported } from '#core/conversions';
import { clickTime } from '#core/hop';
import type { Case, CaseKind, ClaimLine, Scope, Unit } from '#core/reconcile';
import { claimLine, groupCases, usualCookieDays } from '#core/reconcile';
import type { PostbackRecord } from '#core/visits';
import type { Minor } from '#core/values';
import type { Dataset } from './dataset.ts';
import type { Visit } from './visits.ts';
import { visitIn } from './visits.ts';

/** Cases of one kind, as a line of the queue. */
export interface GroupView {
  readonly kind: CaseKind;
  readonly count: number;
  readonly safe: number;
  readonly worth: readonly { readonly currency: string; readonly minor: Minor }[];
  /** When the oldest happened; milliseconds since 1970 UTC. */
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

const day = 86_400_000;
const mostCandidates = 12;
/** Differences that are claimed even before anybody asked. */
const claimed: ReadonlySet<CaseKind> = new Set(['not in report', 'below terms']);

const unitsById = new WeakMap<readonly Unit[], ReadonlyMap<string, Unit>>();

const unitById = ({ reconciled: { units } }: Dataset, id: string): Unit | undefined => {
  let byId = unitsById.get(units);
  if (!byId) unitsById.set(units, (byId = new Map(units.map((unit) => [unit.id, unit]))));
  return byId.get(id);
};

const isInScope = (data: Dataset, one: Case, { network, month, program, link, source }: Scope): boolean => {
  if (network !== undefined && one.network !== network) return false;
  if (month !== undefined && one.month !== month) return false;
  if (program === undefined && link === undefined && source === undefined) return true;
  const unit = unitById(data, one.unit);
  return (
    (program === undefined || unit?.program === program) &&
    (link === undefined || unit?.link === link) &&
    (source === undefined || unit?.source === source)
  );
};

/** The queue of what waits for a person, dearest first. */
export const queue = (data: Dataset, scope: Scope): GroupView[] =>
  groupCases(data.reconciled.cases.filter((one) => isInScope(data, one, scope))).map(
    ({ kind, cases, safe, worth, oldest }) => ({
      kind,
      count: cases.length,
      safe,
      worth,
      oldest,
    }),
  );

/** How many cases wait in all. */
export const waiting = (data: Dataset): number => data.reconciled.cases.filter((one) => !one.decision).length;

const waitingOfKind = (data: Dataset, kind: CaseKind, scope: Scope): readonly Case[] => {
  const [group] = groupCases(
    data.reconciled.cases.filter((one) => one.kind === kind && isInScope(data, one, scope)),
  );
  return group?.cases ?? [];
};

/** Cases of one kind that wait, dearest first. */
export const casesOfKind = (data: Dataset, kind: CaseKind, scope: Scope, most: number): Case[] =>
  waitingOfKind(data, kind, scope).slice(0, most);

/** Every case of a kind that can be accepted without looking. */
export const safeCases = (data: Dataset, kind: CaseKind, scope: Scope): Case[] =>
  waitingOfKind(data, kind, scope).filter((one) => one.proposal.safe);

/** Everything that speaks for or against a case; undefined where there is none of that ID. */
export const evidence = (data: Dataset, id: string): Evidence | undefined => {
  const { cases, reads } = data.reconciled;
  const one = cases.find((found) => found.id === id);
  const unit = one && unitById(data, one.unit);
  if (!one || !unit) return undefined;
  const seqs = new Set(unit.conversion?.steps.map((step) => step.seq) ?? []);
  const needsChoice = unit.match.row < 0 || unit.match.level === 'probable';
  // An ID of ours whose record is missing tells when it was clicked.
  const around = clickTime((unit.conversion?.click ?? unit.reported?.click ?? '').trim()) ?? one.at;
  const network = data.records.networks.find((found) => found.id === unit.network);
  const window = (network?.cookieDays ?? usualCookieDays) * day;
  const candidates = needsChoice
    ? data.clicks().between(unit.network, unit.program, around - window, around, mostCandidates)
    : [];
  return {
    one,
    unit,
    ...(unit.match.row >= 0 && { visit: visitIn(data, unit.match.row) }),
    postbacks: data.journal.postbacks.flatMap((record) => {
      const read = reads.get(record.seq);
      return read && seqs.has(record.seq) ? [{ record, read }] : [];
    }),
    ...(unit.reported && { reported: unit.reported }),
    candidates: candidates.map((row) => visitIn(data, row)),
  };
};

/** What a claim to the network is about: what it was asked, and what it owes and was not asked yet. */
export const claim = (data: Dataset, scope: Scope): ClaimLine[] => {
  const { columns, postbacks } = data.journal;
  const domains = new Map(data.records.domains.map((domain): [string, Domain] => [domain.id, domain]));
  const addresses = new Map(
    data.records.links.flatMap((link): [string, string][] => {
      const domain = domains.get(link.domain);
      return domain ? [[link.id, addressOf(domain, link)]] : [];
    }),
  );
  const bySeq = new Map(postbacks.map((record) => [record.seq, record]));
  return data.reconciled.cases
    .filter(
      (one) =>
        isInScope(data, one, scope) && (one.decision ? one.decision.kind === 'ask' : claimed.has(one.kind)),
    )
    .flatMap((one) => {
      const unit = unitById(data, one.unit);
      if (!unit) return [];
      const records = (unit.conversion?.steps ?? []).flatMap(({ seq }) => bySeq.get(seq) ?? []);
      return [
        claimLine(
          one,
          unit,
          records,
          (row) => ({ click: columns.click(row), at: columns.at(row) }),
          (link) => addresses.get(link) ?? link,
        ),
      ];
    });
};
