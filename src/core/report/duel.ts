import type { LowSchool } from "@/core/bench";
import { type CellRatio, cellKey, type JudgedInterval, type LabTest } from "@/core/cell";
import type { JudgedLimit } from "@/core/check";
import { compareTimes, type Matrix, type Ranking, rankByIndex, ratioOf, sharedTests, type TimedComparison, timeText } from "@/core/compare";
import { mean } from "@/core/stats";
import { resolutionsOf } from "./comparison";
import { figure, percentDifference } from "./figures";
import type { ReviewModel, ReviewSetup } from "./reviewModel";

/** One test of a head to head. */
export interface DuelLine {
  test: LabTest;
  ratio: CellRatio;
  /** Ratio of the lows, where both have frames. */
  lowRatio: number | undefined;
  a: number;
  b: number;
  /** What held each of the two. */
  limits: [JudgedLimit | undefined, JudgedLimit | undefined];
  /** Times, seconds saved: of timed work. */
  timed: TimedComparison | undefined;
}

/** Two setups against each other, test by test, largest lead first. */
export interface Duel {
  a: ReviewSetup;
  b: ReviewSetup;
  lines: DuelLine[];
  wins: number;
  level: number;
  losses: number;
  open: number;
  /** a against b over the lines, as an index, and at each resolution. */
  overall: JudgedInterval & { index: number };
  byResolution: { resolution: string; index: number; low: number | undefined; high: number | undefined; tests: number }[];
  /** Tests that one of the two lacks. */
  missing: string[];
}

const indexOf = (ranking: Ranking, id: string) => ranking.rows.find(({ setupId }) => setupId === id);

/**
 * Sets two rows of a review against each other in every test that both have and that is asked for. b is the base: a ratio above
 * 1 means that a is ahead.
 *
 * Errors: undefined where the two share no test that is asked for.
 */
export function duelOf(
  model: ReviewModel,
  matrices: { result: Matrix; low: Matrix },
  aId: string,
  bId: string,
  asked: (test: LabTest) => boolean = () => true,
): Duel | undefined {
  const [a, b] = [aId, bId].map((id) => model.setups.find((setup) => setup.id === id));
  if (!a || !b || aId === bId) return undefined;
  const { tests, leftOut } = sharedTests(matrices.result, [aId, bId], asked);
  if (tests.length === 0) return undefined;
  const limits = new Map(model.limits.map((one) => [cellKey(one.setupId, one.testKey), one]));
  const meanOf = (setupId: string, key: string) => mean(matrices.result.cells.get(cellKey(setupId, key))?.values ?? []);
  const lines = tests.map((test): DuelLine => {
    const [x, y] = [meanOf(aId, test.key), meanOf(bId, test.key)];
    const isTime = test.kind === "time" && test.better === "lower";
    return {
      test,
      ratio: ratioOf(matrices.result, aId, bId, test, model.margin) as CellRatio,
      lowRatio: matrices.low.tests.some(({ key }) => key === test.key) ? ratioOf(matrices.low, aId, bId, test, model.margin)?.ratio : undefined,
      a: x,
      b: y,
      limits: [limits.get(cellKey(aId, test.key)), limits.get(cellKey(bId, test.key))],
      timed: isTime ? compareTimes(x, y) : undefined,
    };
  });
  lines.sort((x, y) => y.ratio.ratio - x.ratio.ratio || (x.test.key < y.test.key ? -1 : 1));
  const count = (...verdicts: string[]) => lines.filter(({ ratio }) => verdicts.includes(ratio.verdict)).length;
  const rank = (which: (test: LabTest) => boolean) =>
    rankByIndex(matrices.result, { setupIds: [aId, bId], baselineId: bId, margin: model.margin, asked: (test) => asked(test) && which(test) });
  const overall = indexOf(
    rank(() => true),
    aId,
  );
  if (!overall) return undefined;
  return {
    a,
    b,
    lines,
    wins: count("ahead"),
    level: count("level", "level-small-difference"),
    losses: count("behind"),
    open: count("unresolved", "unknown"),
    overall,
    byResolution: resolutionsOf(model).flatMap((resolution) => {
      const ranking = rank((test) => test.resolution === resolution);
      const row = indexOf(ranking, aId);
      return row ? [{ resolution, index: row.index, low: row.low, high: row.high, tests: ranking.testKeys.length }] : [];
    }),
    missing: leftOut.map(({ testKey }) => testKey),
  };
}

/** The words for two rows, with both directions and their bases: neither per cent can be taken for the other. */
export function duelWords({ a, b, overall, lines }: Duel): string[] {
  const both = `${a.label} is ${percentDifference(overall.index)} than ${b.label}; ${b.label} is ${percentDifference(1 / overall.index)} than ${a.label}.`;
  const timed = lines.filter(({ timed: one }) => one !== undefined);
  const [longest] = [...timed].sort((x, y) => y.b - x.b);
  if (!longest?.timed) return [both];
  const { secondsSaved, speedup } = longest.timed;
  const saved = secondsSaved >= 0 ? `saves ${timeText(secondsSaved)}` : `takes ${timeText(-secondsSaved)} longer`;
  return [both, `In ${longest.test.name}, ${a.label} ${saved} (${timeText(longest.b)} → ${timeText(longest.a)}): ${figure(speedup, 2)} times as fast.`];
}

/** A property in which two setups differ. */
export interface DifferingProperty {
  property: string;
  a: string | undefined;
  b: string | undefined;
}

/** Everything in which two setups differ: parts by role, bench state, their own state. */
export function differingProperties(a: ReviewSetup, b: ReviewSetup): DifferingProperty[] {
  const names = [...new Set([...Object.keys(a.properties), ...Object.keys(b.properties)])].sort();
  return names.flatMap((property) => {
    const [x, y] = [a.properties[property], b.properties[property]];
    return x === y ? [] : [{ property, a: x, b: y }];
  });
}

/** Pairs of a review's rows that differ in exactly one property: what one factor does can be read off them. */
export function oneFactorPairs(model: ReviewModel): { aId: string; bId: string; factor: DifferingProperty }[] {
  return model.setups.flatMap((b, i) =>
    model.setups.slice(i + 1).flatMap((a) => {
      const [factor, ...more] = differingProperties(a, b);
      return factor && more.length === 0 ? [{ aId: a.id, bId: b.id, factor }] : [];
    }),
  );
}

/** Whether the part under test was what held a row in a test; unknown limits count as its own: nothing says otherwise. */
export function partIsLimit(setup: ReviewSetup, limit: JudgedLimit | undefined): boolean {
  if (!limit || limit.limit === "not known" || limit.limit === "mixed") return true;
  if (limit.limit === "cpu") return setup.kinds.includes("cpu") || setup.kinds.includes("memory") || setup.kinds.includes("system");
  if (limit.limit === "gpu" || limit.limit === "memory") return setup.kinds.includes("gpu") || setup.kinds.includes("system");
  return false;
}

/** Tests in which some row was held by something else than its part under test, with the rows. */
export function foreignLimits(model: ReviewModel): Map<string, string[]> {
  const setups = new Map(model.setups.map((setup) => [setup.id, setup]));
  const found = new Map<string, string[]>();
  for (const limit of model.limits) {
    const setup = setups.get(limit.setupId);
    if (setup && !partIsLimit(setup, limit)) found.set(limit.testKey, [...(found.get(limit.testKey) ?? []), setup.id]);
  }
  return found;
}

/** How a school of lows is called on screen. */
export const SCHOOL_WORDS: Readonly<Record<LowSchool, string>> = { percentile: "percentile", tail_mean: "tail mean", time_share: "time share" };
