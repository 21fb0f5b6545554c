const LANCZOS = [
  0.99999999999980993, 676.5203681218851, -1259.1392167224028, 771.32342877765313, -176.61502916214059, 12.507343278686905, -0.13857109526572012,
  9.9843695780195716e-6, 1.5056327351493116e-7,
];

/** ln Γ(x) for x > 0. Source: Lanczos 1964, SIAM J. Numer. Anal. 1, with g = 7, n = 9 (coefficients from memory). */
export function logGamma(x: number): number {
  if (!(x > 0)) throw new RangeError(`logGamma needs x > 0, got ${x}`);
  if (x < 0.5) return Math.log(Math.PI / Math.sin(Math.PI * x)) - logGamma(1 - x);
  let sum = LANCZOS[0] as number;
  for (let i = 1; i < LANCZOS.length; i += 1) sum += (LANCZOS[i] as number) / (x - 1 + i);
  const t = x + 6.5;
  return 0.5 * Math.log(2 * Math.PI) + (x - 0.5) * Math.log(t) - t + Math.log(sum);
}

/** ψ(x), the derivative of ln Γ, for x > 0: recurrence up to 10, then the asymptotic series (Abramowitz & Stegun 6.3.18). */
export function digamma(x: number): number {
  let shift = 0;
  let y = x;
  for (; y < 10; y += 1) shift -= 1 / y;
  const q = 1 / (y * y);
  return shift + Math.log(y) - 0.5 / y - q * (1 / 12 - q * (1 / 120 - q * (1 / 252 - q * (1 / 240 - q / 132))));
}

/** ψ′(x) for x > 0 (Abramowitz & Stegun 6.4.12). */
export function trigamma(x: number): number {
  let shift = 0;
  let y = x;
  for (; y < 10; y += 1) shift += 1 / (y * y);
  const q = 1 / (y * y);
  return shift + 1 / y + q / 2 + (q / y) * (1 / 6 - q * (1 / 30 - q * (1 / 42 - q * (1 / 30 - (q * 5) / 66))));
}

/**
 * The x with ψ′(x) = y, for y > 0, by Newton steps on 1/ψ′, which is nearly linear and convex.
 * Source: Smyth 2004, Stat. Appl. Genet. Mol. Biol. 3(1):3, appendix.
 */
export function inverseTrigamma(y: number): number {
  if (!(y > 0)) throw new RangeError(`inverseTrigamma needs y > 0, got ${y}`);
  if (y > 1e7) return 1 / Math.sqrt(y);
  if (y < 1e-6) return 1 / y;
  let x = 0.5 + 1 / y;
  for (let i = 0; i < 60; i += 1) {
    const value = trigamma(x);
    const h = 1e-5 * x;
    const slope = (trigamma(x + h) - trigamma(x - h)) / (2 * h);
    const step = (value * (1 - value / y)) / slope;
    x += step;
    if (Math.abs(step) < 1e-10 * x) break;
  }
  return x;
}
