import { digamma, inverseTrigamma, mean, trigamma } from "@/core/stats";

/** Below this many degrees of freedom a test's own spread is too uncertain; its group's is used, and that is said. */
const LEAST_OWN_DF = 8;

/** Scatter within cells on the log scale, pooled: s = √(ss ÷ df). A relative spread: 0.012 is 1.2 %. */
export interface Repeatability {
  sLog: number;
  df: number;
  /** Pooled over this test version, or over all tests of its group because the test alone has too few runs. */
  source: "test" | "group";
  /** Names the pool, so that tests sharing one estimate are not counted as independent. */
  pool: string;
}

/** The runs of one cell, by value; each finite and above 0. */
export interface CellRuns {
  testKey: string;
  group: string;
  values: readonly number[];
}

/** Σ(ln x − the cell's mean of ln x)² and its degrees of freedom n − 1. Zero df below two runs. */
export function logScatter(values: readonly number[]): { ss: number; df: number } {
  if (values.length < 2) return { ss: 0, df: 0 };
  const logs = values.map(Math.log);
  const centre = mean(logs);
  let ss = 0;
  for (const log of logs) ss += (log - centre) ** 2;
  return { ss, df: values.length - 1 };
}

/** Adds up log scatter by a key. */
function pool(cells: readonly CellRuns[], keyOf: (cell: CellRuns) => string): Map<string, { ss: number; df: number }> {
  const pools = new Map<string, { ss: number; df: number }>();
  for (const cell of cells) {
    const { ss, df } = logScatter(cell.values);
    const into = pools.get(keyOf(cell)) ?? { ss: 0, df: 0 };
    pools.set(keyOf(cell), { ss: into.ss + ss, df: into.df + df });
  }
  return pools;
}

/**
 * The repeatability of each test: s_t² = Σ(ln x − the cell's mean of ln x)² ÷ Σ(n − 1) over all cells of the test
 * version in the lab; below ν = 8 the test's group is pooled instead. A test whose group has no repeated run is absent.
 *
 * Units:  ratio (natural log scale).
 * Source: ISO 5725-2:1994 within-cell variance, taken on logarithms (clause from memory).
 */
export function poolRepeatability(cells: readonly CellRuns[]): Map<string, Repeatability> {
  const byTest = pool(cells, (cell) => cell.testKey);
  const byGroup = pool(cells, (cell) => cell.group);
  const result = new Map<string, Repeatability>();
  for (const cell of cells) {
    if (result.has(cell.testKey)) continue;
    const own = byTest.get(cell.testKey) as { ss: number; df: number };
    const group = byGroup.get(cell.group) as { ss: number; df: number };
    if (own.df >= LEAST_OWN_DF) {
      result.set(cell.testKey, { sLog: Math.sqrt(own.ss / own.df), df: own.df, source: "test", pool: cell.testKey });
    } else if (group.df > 0) {
      result.set(cell.testKey, { sLog: Math.sqrt(group.ss / group.df), df: group.df, source: "group", pool: `group:${cell.group}` });
    }
  }
  return result;
}

/** What the tests of a group have in common: variances scatter around s0² as if it rested on d0 degrees of freedom. */
export interface VariancePrior {
  s0Squared: number;
  /** Infinity where the tests differ no more than chance. */
  d0: number;
}

/**
 * The prior for the variances of a group of tests, by the moments of ln s².
 *
 * Shapes: variances above 0 with their degrees of freedom; at least two. Undefined where fewer can be used.
 * Source: Smyth 2004, Stat. Appl. Genet. Mol. Biol. 3(1):3, §6.2.
 */
export function fitVariancePrior(variances: readonly { s2: number; df: number }[]): VariancePrior | undefined {
  const usable = variances.filter(({ s2, df }) => s2 > 0 && df > 0);
  if (usable.length < 2) return undefined;
  const e = usable.map(({ s2, df }) => Math.log(s2) - digamma(df / 2) + Math.log(df / 2));
  const centre = mean(e);
  let spread = 0;
  for (let i = 0; i < e.length; i += 1) {
    const df = (usable[i] as { df: number }).df;
    spread += ((e[i] as number) - centre) ** 2 / (e.length - 1) - trigamma(df / 2) / e.length;
  }
  if (spread <= 0) return { s0Squared: Math.exp(centre), d0: Number.POSITIVE_INFINITY };
  const d0 = 2 * inverseTrigamma(spread);
  return { s0Squared: Math.exp(centre + digamma(d0 / 2) - Math.log(d0 / 2)), d0 };
}

/** A test's variance drawn towards its group's: (d0 s0² + ν s²) ÷ (d0 + ν), on d0 + ν degrees of freedom. Source: Smyth 2004. */
export function moderateVariance(own: { ss: number; df: number }, prior: VariancePrior): { s2: number; df: number } {
  if (prior.d0 === Number.POSITIVE_INFINITY) return { s2: prior.s0Squared, df: 1e6 };
  const df = prior.d0 + own.df;
  return { s2: (prior.d0 * prior.s0Squared + own.ss) / df, df };
}
