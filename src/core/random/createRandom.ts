/** A seeded source of randomness that callers pass in; the same seed gives the same stream on every machine. */
export interface Random {
  /** Uniform in [0, 1), 32 bits of resolution. */
  next(): number;
  /** Standard normal deviate. */
  normal(): number;
  /** A new independent stream named by a label, so that adding one consumer does not shift the others. */
  fork(label: string): Random;
}

/**
 * Makes a seeded generator: xoshiro128** over a state filled by splitmix32.
 *
 * Shapes: `seed` is any unsigned 32-bit integer.
 * Source: Blackman & Vigna 2021, ACM Trans. Math. Softw. 47(4) (xoshiro128**); normals by the polar method,
 *         Marsaglia & Bray 1964, SIAM Review 6(3). Constants from memory.
 */
export function createRandom(seed: number): Random {
  let mix = seed >>> 0;
  const splitmix = () => {
    mix = (mix + 0x9e3779b9) >>> 0;
    let z = mix;
    z = Math.imul(z ^ (z >>> 16), 0x85ebca6b);
    z = Math.imul(z ^ (z >>> 13), 0xc2b2ae35);
    return (z ^ (z >>> 16)) >>> 0;
  };
  let [a, b, c, d] = [splitmix(), splitmix(), splitmix(), splitmix()];
  let spare: number | undefined;

  const next = () => {
    const rotated = Math.imul(b, 5);
    const result = Math.imul((rotated << 7) | (rotated >>> 25), 9) >>> 0;
    const t = b << 9;
    c ^= a;
    d ^= b;
    b ^= c;
    a ^= d;
    c ^= t;
    d = (d << 11) | (d >>> 21);
    return result / 4294967296;
  };

  const normal = () => {
    if (spare !== undefined) {
      const value = spare;
      spare = undefined;
      return value;
    }
    for (;;) {
      const u = 2 * next() - 1;
      const v = 2 * next() - 1;
      const s = u * u + v * v;
      if (s > 0 && s < 1) {
        const scale = Math.sqrt((-2 * Math.log(s)) / s);
        spare = v * scale;
        return u * scale;
      }
    }
  };

  const fork = (label: string) => {
    // FNV-1a over the label, mixed with the seed.
    let hash = 0x811c9dc5 ^ (seed >>> 0);
    for (let i = 0; i < label.length; i += 1) hash = Math.imul(hash ^ label.charCodeAt(i), 0x01000193);
    return createRandom(hash >>> 0);
  };

  return { next, normal, fork };
}
