export type { Minor, Sum } from './money.ts';
export { exponentOf, knownCurrency, readAmount, sumByCurrency, writeAmount } from './money.ts';
export { currencyIn, inferDecimal, readReportAmount } from './amounts.ts';
export {
  dateParts,
  inferDateOrder,
  isNumericDate,
  isSpreadsheetDay,
  orderWords,
  readMoment,
} from './dates.ts';
