export type { Conversion, Step } from './ledger.ts';
export { makeLedger } from './ledger.ts';
export type { Minor } from './money.ts';
export { exponentOf, readAmount, writeAmount } from './money.ts';
export type { ConversionEvent, ReadPostback } from './postback.ts';
export { readPostback } from './postback.ts';
