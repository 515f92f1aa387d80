export type { HopCatalogue, VisitAnswer } from './answerVisit.ts';
export { answeringLink, answerVisit, goneDecision, readyToHop } from './answerVisit.ts';
export type { BranchWarning } from './branchWarnings.ts';
export { branchWarnings } from './branchWarnings.ts';
export { clickId, clickIdBytes, clickTime } from './click.ts';
export { describeConditions, sameConditions } from './conditions.ts';
export type { DescribedChange, DiffPiece } from './describeChange.ts';
export { describeChange } from './describeChange.ts';
export { countryGroups } from './countries.ts';
export { everyoneElse, fromLog, notRedirectedBranches } from './branchNames.ts';
export type { Decision, Reason } from './decide.ts';
export { decide, placeOfVisitor } from './decide.ts';
export { changedByDomain } from './domainDefaults.ts';
export { domainChangeProblems } from './domainChange.ts';
export type { FramingHeaders } from './framing.ts';
export { forbidsFraming } from './framing.ts';
export { escapeHtml } from './html.ts';
export type { Opening, OpeningState } from './opening.ts';
export { openingOf } from './opening.ts';
export type { Closed, Page } from './page.ts';
export { closedPage, hopPage } from './page.ts';
export type { HopLink, PreparedParts, ReadyAnswer, ReadyBranch } from './prepare.ts';
export { prepareAnyway, prepareLink } from './prepare.ts';
export type { Asked, HopRequest } from './request.ts';
export { cameBy, cameFrom, deviceOf, isSourceName, landedBy, readTarget } from './request.ts';
export type { VisitorSample } from './simulate.ts';
export { simulateShares } from './simulate.ts';
export type { HopResponse, HopAddress } from './respond.ts';
export { cacheControl, goesByTwo, passQuery, plainly, respond } from './respond.ts';
export type { Way } from './ways.ts';
export { isSameWay, waysFrom } from './ways.ts';
export { choiceWords, consequence, describeHop, hopName, hopWays } from './words.ts';
export type { Template, TokenName } from './template.ts';
export { compile, compileDestination, expand, longestLocation, tokenNames } from './template.ts';
export {
  calendarDay,
  dayBefore,
  dayIn,
  dayName,
  dayNumber,
  momentIn,
  momentOf,
  monthIn,
  offsetIn,
  wallClock,
} from './zone.ts';
