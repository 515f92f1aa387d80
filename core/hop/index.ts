export { clickId, clickIdBytes, clickTime, isClickId } from './click.ts';
export type { Decision, HopRequest, Reason } from './decide.ts';
export { decide, everyoneElse } from './decide.ts';
export type { Asked, Device } from './request.ts';
export { deviceOf, isSourceName, readTarget } from './request.ts';
export type { HopLink, HopResponse } from './respond.ts';
export { cacheControl, dayIn, passQuery, prepareLink, respond } from './respond.ts';
export type { Template, TokenName } from './template.ts';
export { compile, compileDestination, encodeValue, expand, tokenNames } from './template.ts';
