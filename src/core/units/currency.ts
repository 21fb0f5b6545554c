/**
 * Decimal places of the currencies whose minor unit is not a hundredth (ISO 4217; the list is from memory).
 * `Intl` is not asked: it answers with display digits, which differ (it gives 0 for HUF, where the standard has 2).
 */
const EXPONENTS_OTHER_THAN_TWO: Readonly<Record<string, number>> = {
  BIF: 0,
  CLP: 0,
  DJF: 0,
  GNF: 0,
  ISK: 0,
  JPY: 0,
  KMF: 0,
  KRW: 0,
  PYG: 0,
  RWF: 0,
  UGX: 0,
  UYI: 0,
  VND: 0,
  VUV: 0,
  XAF: 0,
  XOF: 0,
  XPF: 0,
  BHD: 3,
  IQD: 3,
  JOD: 3,
  KWD: 3,
  LYD: 3,
  OMR: 3,
  TND: 3,
  CLF: 4,
  UYW: 4,
};

/** Number of decimal places of an ISO 4217 currency: JPY 0, NOK 2, KWD 3. */
export function currencyExponent(currency: string): number {
  return EXPONENTS_OTHER_THAN_TWO[currency] ?? 2;
}
