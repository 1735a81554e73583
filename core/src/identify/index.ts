/** Identify: what is printed on a card, and where in its bits that stands. */
export { type Agreement, agreementOf } from './agreement.ts';
export { type PrintedNumber, printedNumbers } from './print.ts';
export { type Window, type WindowOrder, windowInWords, windowsOf } from './windows.ts';
