import { balance, months, parts, pieceOf } from './balance.ts';
import { adjustments, closing } from './closing.ts';
import { changesOfDays } from './changes.ts';
import { claim } from './claims.ts';
import { heard, ledger } from './conversions.ts';
import type { Dataset } from './dataset.ts';
import { casesOfKind, evidence, queue, queueLines, safeCases, waiting } from './discrepancies.ts';
import { audits, history, step } from './history.ts';
import { clickOfTransaction, journey, newestClick, tape, traces } from './journeys.ts';
import { figures, recent, samples, use } from './linkFigures.ts';
import { judged, judgedRequests } from './judged.ts';
import { pages } from './pages.ts';
import { passedAlong } from './passedAlong.ts';
import { earnedBands } from './earnedBands.ts';
import { earnedByTag, overdue, owed } from './payments.ts';
import { requestFile } from './requestFile.ts';
import { sources } from './sources.ts';
import { onward } from './onward.ts';
import { timeSpent } from './timeSpent.ts';
import { newestConversions } from './newestConversions.ts';
import { newestRequests, traffic } from './traffic.ts';
import { promotionPage, promotions } from './promotions.ts';
import { writers, writersMonths } from './writers.ts';
import { whatBecame } from './whatBecame.ts';
import { whichBranch } from './whichBranch.ts';
import { profitByDay, whatPays } from './whatPays.ts';
import { firedTwice, lastByOldKey, lastPostbacks, postbacksOf } from './postbacks.ts';

export type { CatalogueRecords, QueriedLink, RolledUp } from './dataset.ts';
export { Dataset } from './dataset.ts';
export { answerAsJson } from './json.ts';
export type { BalanceLines, BalanceView, BridgeView } from './balance.ts';
export type { ChangeOfDay } from './changes.ts';
export type { NetworkScope } from './clicks.ts';
export type { LedgerLine } from './conversions.ts';
export type { Evidence, GroupView, QueueLine } from './discrepancies.ts';
export type { Journey, Leg, TapeEvent } from './journeys.ts';
export type { Judged, JudgedQuestion, JudgedRequest } from './judged.ts';
export type { LedgerSort } from './ledgerOrder.ts';
export { ledgerColumns } from './ledgerOrder.ts';
export type { ConversionLine, LinkFigures, LinkUse, Samples } from './linkFigures.ts';
export type { LinkOnPage, PageUse } from './pages.ts';
export type { Onward } from './onward.ts';
export type { PassedParameter, ProposedRole } from './passedAlong.ts';
export type { EarnedBand } from './earnedBands.ts';
export type { EarnedByTag, EarnedSum, Overdue } from './payments.ts';
export type { PostbackReading } from './postbacks.ts';
export type { RequestForm } from './requestFile.ts';
export { requestForms } from './requestFile.ts';
export type { LikelySlip, SourceFigures } from './sources.ts';
export type { Spent, TimeSpent } from './timeSpent.ts';
export type { ConversionBehind } from './newestConversions.ts';
export type { NewestRequest, Traffic, TrafficFigures, TrafficQuestion } from './traffic.ts';
export type { PromotionFigures, PromotionOverlap, PromotionPage } from './promotions.ts';
export type { Became } from './whatBecame.ts';
export type { BranchGroup, BranchLine } from './whichBranch.ts';
export { withMovedWeights } from './whichBranch.ts';
export type { Pays, PaysFigures, PaysQuestion, ProfitByDay } from './whatPays.ts';
export type { Visit } from './visits.ts';
export type { StatementEntry, Writers, WriterSum } from './writers.ts';

/** Every question that can be asked of a dataset, by its name. Screens ask by the worker, commands ask directly. */
export const queries = {
  adjustments,
  audits,
  balance,
  casesOfKind,
  changesOfDays,
  claim,
  clickOfTransaction,
  closing,
  earnedBands,
  earnedByTag,
  evidence,
  figures,
  firedTwice,
  heard,
  history,
  journey,
  judged,
  judgedRequests,
  lastByOldKey,
  lastPostbacks,
  ledger,
  months,
  newestClick,
  newestConversions,
  newestRequests,
  onward,
  overdue,
  owed,
  pages,
  parts,
  passedAlong,
  pieceOf,
  postbacksOf,
  queue,
  queueLines,
  recent,
  requestFile,
  safeCases,
  samples,
  sources,
  step,
  tape,
  timeSpent,
  traces,
  traffic,
  use,
  waiting,
  profitByDay,
  promotionPage,
  promotions,
  whatBecame,
  whatPays,
  whichBranch,
  writers,
  writersMonths,
};

export type QueryName = keyof typeof queries;
type Ask<Q> = Q extends (data: Dataset, ...rest: infer A) => infer R ? (...rest: A) => R : never;
/** The questions without the dataset they are asked of. */
export type Answers = { readonly [K in QueryName]: Ask<(typeof queries)[K]> };

/** The questions, asked of one dataset. */
export const answersFrom = (data: Dataset): Answers =>
  Object.fromEntries(
    Object.entries(queries).map(([name, ask]) => [
      name,
      (...rest: never[]) => (ask as (data: Dataset, ...rest: never[]) => unknown)(data, ...rest),
    ]),
  ) as unknown as Answers; // each entry is the query of its name with its first argument given
