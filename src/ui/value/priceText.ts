import { amountToDecimal } from "@/core/units";

/** The offer's price for reading: grouped by thin spaces, without trailing zero cents. */
export function priceText(minor: number, currency: string): string {
  const [whole, decimals] = amountToDecimal({ minor, currency }).split(".") as [string, string | undefined];
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, "\u2009") : whole;
  return decimals && Number(decimals) > 0 ? `${grouped}.${decimals}` : grouped;
}
