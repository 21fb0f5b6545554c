import { z } from "zod";
import { currencyExponent } from "./currency";

/** An ISO 4217 alphabetic code, such as NOK. */
export const CurrencyCode = z.string().regex(/^[A-Z]{3}$/, "a currency is three capital letters (ISO 4217), such as NOK");

/** An amount of money: a whole number of minor units (øre, grosz; yen themselves) and its currency. */
export const Money = z.object({ minor: z.int(), currency: CurrencyCode });
export type Money = z.infer<typeof Money>;

/**
 * Reads a plain decimal such as `1499.90` as minor units of a currency, exactly (no floating point).
 *
 * Errors: the reason as text where it is not a plain decimal, has more decimals than the currency, or is too large.
 */
export function parseAmount(text: string, currency: string): { minor: number } | { reason: string } {
  const exponent = currencyExponent(currency);
  const match = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text);
  if (!match) {
    const comma = /^-?\d+,\d+$/.test(text) ? " (a decimal comma? write a point)" : "";
    return { reason: `"${text}" is not an amount${comma}` };
  }
  const decimals = (match[3] ?? "").replace(/0+$/, "");
  if (decimals.length > exponent) {
    return { reason: `${currency} has ${exponent} decimal places, "${text}" has more` };
  }
  const minor = Number(`${match[1]}${match[2]}${decimals.padEnd(exponent, "0")}`);
  return Number.isSafeInteger(minor) ? { minor: minor === 0 ? 0 : minor } : { reason: `"${text}" is too large` };
}

/** Writes minor units as a plain decimal with exactly the currency's places: 149990 NOK → `1499.90`, 89000 JPY → `89000`. */
export function amountToDecimal({ minor, currency }: Money): string {
  const exponent = currencyExponent(currency);
  if (exponent === 0) return String(minor);
  const digits = String(Math.abs(minor)).padStart(exponent + 1, "0");
  return `${minor < 0 ? "-" : ""}${digits.slice(0, -exponent)}.${digits.slice(-exponent)}`;
}

/** The amount in major units as a number, for ratios only (prices are compared, never summed, as floats). */
export function majorUnits({ minor, currency }: Money): number {
  return minor / 10 ** currencyExponent(currency);
}

/** Adds amounts of one currency. Errors: RangeError for two currencies: converting is a step of its own. */
export function addMoney(a: Money, b: Money): Money {
  if (a.currency !== b.currency) throw new RangeError(`cannot add ${a.currency} and ${b.currency}`);
  return { minor: a.minor + b.minor, currency: a.currency };
}
