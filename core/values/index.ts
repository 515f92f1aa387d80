export type { Minor, Sum } from './money.ts';
export type { Order, OrderKey } from './order.ts';
export { inOrder } from './order.ts';
export { exponentOf, knownCurrency, readAmount, sumByCurrency, writeAmount } from './money.ts';
export { currencyIn, inferDecimal, readDecimal, readReportAmount } from './amounts.ts';
export {
  dateParts,
  inferDateOrder,
  isNumericDate,
  isSpreadsheetDay,
  monthNumber,
  orderWords,
  readMoment,
} from './dates.ts';
