import { type FindingEffect, signedPercent } from "@/core/report";

/** What leaving the doubted runs out would change, in a few words. */
export function effectText(effect: FindingEffect | null | undefined): string {
  if (!effect || effect.indexChange === null) return "no run to leave out";
  const moved = effect.rankWithout !== null && effect.rankNow !== effect.rankWithout ? `, rank ${effect.rankNow} → ${effect.rankWithout}` : "";
  return `without: index ${signedPercent(1 + effect.indexChange, 2)}${moved}${effect.largest > Math.abs(effect.indexChange) * 1.5 ? `, others up to ${(100 * effect.largest).toFixed(2)} %` : ""}`;
}
