const MINUS = "−";
const THIN = "\u2009";

/** Groups the digits before the point by threes with thin spaces (four digits stay together). */
function group(digits: string): string {
  const [whole, rest] = digits.split(".") as [string, string | undefined];
  const grouped = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, THIN) : whole;
  return rest === undefined ? grouped : `${grouped}.${rest}`;
}

/** A number for reading: real minus sign, thin spaces; without `decimals`, three significant digits but never fewer than whole units. */
export function figure(value: number, decimals?: number): string {
  const magnitude = Math.abs(value);
  const places = decimals ?? (magnitude >= 100 ? 0 : magnitude >= 10 ? 1 : 2);
  const text = group(magnitude.toFixed(places));
  return value < 0 && Number(magnitude.toFixed(places)) !== 0 ? `${MINUS}${text}` : text;
}

/** How many decimals a value deserves beside its uncertainty: the half-width's first digit, at most `most`. */
export function decimalsFor(halfWidth: number | undefined, most = 2): number {
  if (halfWidth === undefined || !(halfWidth > 0)) return Math.min(1, most);
  return Math.max(0, Math.min(most, -Math.floor(Math.log10(halfWidth))));
}

/** Decimals for a column of indices in points: those that its surest row deserves, at most one, so that the column aligns. */
export function columnDecimals(rows: readonly { low?: number | null | undefined; high?: number | null | undefined; index: number }[]): number {
  const halves = rows.flatMap(({ low, high }) => (low != null && high != null && high > low ? [50 * (high - low)] : []));
  return halves.length > 0 ? decimalsFor(Math.min(...halves), 1) : 1;
}

/** A ratio as a difference in words with its base: 1.171 → `17.1 % faster`; 0.87 → `13.0 % slower`. */
export function percentDifference(ratio: number, words: [string, string] = ["faster", "slower"]): string {
  return ratio >= 1 ? `${figure(100 * (ratio - 1), 1)} % ${words[0]}` : `${figure(100 * (1 - ratio), 1)} % ${words[1]}`;
}

/** A ratio as a signed percentage: `+17.1 %`, `−4.9 %`. */
export function signedPercent(ratio: number, decimals = 1): string {
  const percent = 100 * (ratio - 1);
  const text = figure(percent, decimals);
  return `${percent > 0 && !text.startsWith(MINUS) ? "+" : ""}${text} %`;
}
