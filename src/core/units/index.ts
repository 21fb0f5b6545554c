export { currencyExponent } from "./currency";
export { addMoney, amountToDecimal, CurrencyCode, Money, majorUnits, parseAmount } from "./money";
export { daysBetween, Instant, IsoDate, Milliseconds, type Series } from "./quantities";
