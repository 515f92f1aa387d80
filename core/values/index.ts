export type { Minor, Sum } from './money.ts';
export { exponentOf, knownCurrency, readAmount, sumByCurrency, writeAmount } from './money.ts';
export {
  currencyIn,
  dateParts,
  inferDateOrder,
  inferDecimal,
  isNumericDate,
  isSpreadsheetDay,
  orderWords,
  readMoment,
  readReportAmount,
} from './cells.ts';
