import type { ReadPostback, Reported } from '#core/conversions';
import { clickTime } from '#core/hop';
import type { Case, CaseKind, Scope, Unit } from '#core/reconcile';
import { groupCases, usualCookieDays } from '#core/reconcile';
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
  /** None for a postback that could not be read, and for clicks. */
  readonly unit?: Unit;
  /** The click it leads to, or names on a link of another network. */
  readonly visit?: Visit;
  readonly postbacks: readonly { readonly record: PostbackRecord; readonly read: ReadPostback }[];
  readonly reported?: Reported;
  /** Other clicks it could belong to, likeliest first. */
  readonly candidates: readonly Visit[];
}

const day = 86_400_000;
const mostCandidates = 12;

const unitsById = new WeakMap<readonly Unit[], ReadonlyMap<string, Unit>>();

/** The unit of an ID. */
export const unitById = ({ reconciled: { units } }: Dataset, id: string): Unit | undefined => {
  let byId = unitsById.get(units);
  if (!byId) unitsById.set(units, (byId = new Map(units.map((unit) => [unit.id, unit]))));
  return byId.get(id);
};

/** True for a case that belongs to what is looked at. */
export const isInScope = (
  data: Dataset,
  one: Case,
  { network, month, program, link, source }: Scope,
): boolean => {
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

/** A case that waits, with what it is known by. */
export interface QueueLine {
  readonly one: Case;
  readonly txn: string;
  readonly event: string;
  /** ID of its link; empty where none is known. */
  readonly link: string;
}

/** Every case that waits, kind by kind in the order of the queue, dearest first. */
export const queueLines = (data: Dataset, scope: Scope): QueueLine[] =>
  groupCases(data.reconciled.cases.filter((one) => isInScope(data, one, scope))).flatMap(({ cases }) =>
    cases.map((one): QueueLine => {
      const unit = unitById(data, one.unit);
      return {
        one,
        txn: unit?.conversion?.txn || (unit?.reported?.txn ?? ''),
        event: unit?.conversion?.event ?? unit?.reported?.event ?? '',
        link: unit?.link ?? '',
      };
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

/** Cases of one kind that wait, dearest first; how many there are in all, and how many can be accepted without looking. */
export const casesOfKind = (
  data: Dataset,
  kind: CaseKind,
  scope: Scope,
  most: number,
): { readonly cases: Case[]; readonly total: number; readonly safe: number } => {
  const waiting = waitingOfKind(data, kind, scope);
  return {
    cases: waiting.slice(0, most),
    total: waiting.length,
    safe: waiting.reduce((count, { proposal }) => count + (proposal.safe ? 1 : 0), 0),
  };
};

/** Every case of a kind that can be accepted without looking. */
export const safeCases = (data: Dataset, kind: CaseKind, scope: Scope): Case[] =>
  waitingOfKind(data, kind, scope).filter((one) => one.proposal.safe);

/** Everything that speaks for or against a case; undefined where there is none of that ID. */
export const evidence = (data: Dataset, id: string): Evidence | undefined => {
  const { cases, reads } = data.reconciled;
  const one = cases.find((found) => found.id === id);
  if (!one) return undefined;
  const readPostbacks = (seqs: ReadonlySet<number>) =>
    data.journal.postbacks.flatMap((record) => {
      const read = reads.get(record.seq);
      return read && seqs.has(record.seq) ? [{ record, read }] : [];
    });
  if (one.postback !== undefined)
    return { one, postbacks: readPostbacks(new Set([one.postback])), candidates: [] };
  if (one.clicks) return { one, postbacks: [], candidates: [] };
  const unit = unitById(data, one.unit);
  if (!unit) return undefined;
  const row = unit.match.other ?? unit.match.row;
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
    ...(row >= 0 && { visit: visitIn(data, row) }),
    postbacks: readPostbacks(new Set(unit.conversion?.steps.map((step) => step.seq) ?? [])),
    ...(unit.reported && { reported: unit.reported }),
    candidates: candidates.map((found) => visitIn(data, found)),
  };
};
