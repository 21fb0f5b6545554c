import type { LowSchool, PowerAt } from "@/core/bench";
import { pixelsOf } from "@/core/bench";
import { cellKey, type LabTest, type Metric } from "@/core/cell";
import { type Aggregate, buildMatrix, geometricMeanOfRow, type Matrix, type Ranking, rankByIndex } from "@/core/compare";
import { mean } from "@/core/stats";
import { majorUnits } from "@/core/units";
import { type EffectivePrice, type PriceRule, priceOf, priceProblemText, type Region, type ValueRow, valueRows } from "@/core/value";
import type { ReviewModel, ReviewSetup } from "./reviewModel";

/** The resolutions of a review's tests, fewest pixels first. */
export function resolutionsOf(model: ReviewModel): string[] {
  const found = new Set(model.tests.flatMap((test) => (test.resolution ? [test.resolution] : [])));
  return [...found].sort((a, b) => pixelsOf(a) - pixelsOf(b));
}

/** The resolution that a value is quoted at unless the reader chooses: the middle one. */
export function middleResolution(model: ReviewModel): string | undefined {
  const resolutions = resolutionsOf(model);
  return resolutions[Math.floor(resolutions.length / 2)];
}

/** The matrix of a review's tests under a metric, with repeatability from all runs of the lab. */
export function matrixOf(model: ReviewModel, metric: Metric, school: LowSchool, powerAt: PowerAt = "device"): Matrix {
  return buildMatrix(model.tests, model.runs, { metric, school, powerAt });
}

/** The groups of a review's tests (games, production, synthetic …), in the suite's order; each has an index of its own. */
export function groupsOf(model: ReviewModel): string[] {
  return [...new Set([...model.tests].sort((a, b) => a.position - b.position).map(({ group }) => group))];
}

/** What a comparison is made on. */
export interface ComparisonChoice {
  baselineId: string;
  resolution?: string | undefined;
  /** The group that is compared; the review's first where none is named. Groups are never mixed. */
  group?: string | undefined;
  /** Which of the group's tests count; all where not given. */
  asked?: ((test: LabTest) => boolean) | undefined;
  weights?: ReadonlyMap<string, number> | undefined;
  aggregate?: Aggregate | undefined;
}

/** Which tests a choice takes: those of its group, at its resolution where the group has tests at it. */
export function testsAsked(
  model: ReviewModel,
  { resolution, group, asked }: Pick<ComparisonChoice, "resolution" | "group" | "asked">,
): (test: LabTest) => boolean {
  const own = group ?? groupsOf(model)[0];
  const hasIt = model.tests.some((test) => test.group === own && test.resolution === resolution);
  return (test) => test.group === own && (!hasIt || test.resolution === resolution) && (asked?.(test) ?? true);
}

/** Ranks a review's setups in one group of tests, on one resolution or over all. */
export function rankReview(model: ReviewModel, matrix: Matrix, choice: ComparisonChoice): Ranking {
  const asked = testsAsked(model, choice);
  const run = setupsWithRuns(model, matrix, asked);
  const setupIds = run.includes(choice.baselineId) ? run : model.setups.map(({ id }) => id);
  const { baselineId, weights, aggregate } = choice;
  return rankByIndex(matrix, { setupIds, margin: model.margin, baselineId, asked, weights, aggregate });
}

/** The rows that have a valid run of any test asked for: a row that is still to be run does not empty the comparison of the others. */
export function setupsWithRuns(model: ReviewModel, matrix: Matrix, asked: (test: LabTest) => boolean): string[] {
  const tests = matrix.tests.filter(asked);
  return model.setups.map(({ id }) => id).filter((id) => tests.some((test) => (matrix.cells.get(cellKey(id, test.key))?.values.length ?? 0) > 0));
}

/** Where the power of most runs was metered; undefined where none was. */
export function commonPowerAt(model: ReviewModel): PowerAt | undefined {
  const places: PowerAt[] = ["device", "package", "wall"];
  const counted = places.map((at) => ({ at, count: model.runs.filter(({ energy }) => energy[at]).length }));
  const best = counted.reduce((a, b) => (b.count > a.count ? b : a));
  return best.count > 0 ? best.at : undefined;
}

/** A setup's price in a region: the prices of all parts under test, added up. */
export interface SetupPrice {
  /** Major units; undefined where any part has no price. */
  price: number | undefined;
  parts: EffectivePrice[];
  problem: string | undefined;
  stale: boolean;
}

/** What a setup's parts under test cost in a region. `overrides` are prices being tried, in major units by part. */
export function setupPrice(model: ReviewModel, setup: ReviewSetup, region: Region, rule: PriceRule, overrides?: ReadonlyMap<string, number>): SetupPrice {
  const parts: EffectivePrice[] = [];
  let price = 0;
  let problem: string | undefined = setup.partIds.length === 0 ? "no part under test" : undefined;
  for (const partId of setup.partIds) {
    const found = priceOf(partId, model.offers, region, rule, model.today);
    if (found.ok) parts.push(found.value);
    const tried = overrides?.get(partId);
    if (tried !== undefined) price += tried;
    else if (found.ok) price += majorUnits(found.value.money);
    else problem = priceProblemText(found.problem);
  }
  return { price: problem ? undefined : price, parts, problem, stale: parts.some(({ stale }) => stale) };
}

/** One row of the value step. */
export interface ValueLine extends ValueRow {
  setupId: string;
  setupPrice: SetupPrice;
  /** What the price is divided by, with its run noise: the geometric-mean rate, or points of the index. */
  performance: { value: number; low: number | undefined; high: number | undefined } | undefined;
}

/** The value of all rows; `per` names what is bought: frames per second, or index points where no test counts frames. */
export interface ReviewValue {
  lines: ValueLine[];
  testKeys: string[];
  per: "fps" | "index point";
}

/**
 * Price per frame and value of all setups at one resolution in one region.
 *
 * Only frame tests count, and only those that every row has that was run at all; a review without any is valued by points of its index.
 * The price is what `setupPrice` says.
 */
export function valueOfReview(
  model: ReviewModel,
  matrix: Matrix,
  choice: { baselineId: string; resolution: string | undefined; region: Region; rule: PriceRule; overrides?: ReadonlyMap<string, number> },
): ReviewValue {
  const frameTests = matrix.tests.filter((test) => test.kind === "frames" && (!choice.resolution || test.resolution === choice.resolution));
  const run = setupsWithRuns(model, matrix, (test) => !choice.resolution || test.resolution === choice.resolution);
  const shared = frameTests.filter((test) => run.every((id) => (matrix.cells.get(cellKey(id, test.key))?.values.length ?? 0) > 0));
  const ranking = frameTests.length === 0 ? rankReview(model, matrix, choice) : undefined;
  const testKeys = ranking?.testKeys ?? shared.map(({ key }) => key);
  const points = (setupId: string) => {
    const row = ranking?.rows.find((one) => one.setupId === setupId);
    return row && { value: 100 * row.index, low: row.low && 100 * row.low, high: row.high && 100 * row.high };
  };
  const inputs = model.setups.map((setup) => {
    const performance = ranking ? points(setup.id) : run.includes(setup.id) ? geometricMeanOfRow(matrix, setup.id, testKeys) : undefined;
    return { setup, performance, price: setupPrice(model, setup, choice.region, choice.rule, choice.overrides) };
  });
  const rows = valueRows(
    inputs.map(({ setup, performance, price }) => ({ id: setup.id, price: price.price, performance: performance?.value })),
    choice.baselineId,
  );
  const lines = rows.map((row, i): ValueLine => {
    const { performance, price } = inputs[i] as (typeof inputs)[number];
    return { ...row, setupId: row.id, setupPrice: price, performance };
  });
  return { lines, testKeys, per: ranking ? "index point" : "fps" };
}

/** A row's mean power over some tests, each test weighing the same; undefined where any is not metered. */
export function meanPowerW(model: ReviewModel, setupId: string, testKeys: readonly string[], at: PowerAt): number | undefined {
  const watts: number[] = [];
  for (const key of testKeys) {
    const metered = model.runs.flatMap((run) =>
      run.setupId === setupId && run.testKey === key && run.status === "valid" && run.energy[at] ? [run.energy[at].meanW] : [],
    );
    if (metered.length === 0) return undefined;
    watts.push(mean(metered));
  }
  return watts.length > 0 ? mean(watts) : undefined;
}

/** What a review still lacks before it can be published. */
export interface ReviewGaps {
  runsWanted: number;
  runsValid: number;
  cellsMissing: number;
  cellsFailed: number;
  openFindings: number;
  stalePrices: number;
}

/** A review on the lab's home page, with what it still lacks. */
export interface ReviewLine {
  id: string;
  title: string;
  question: string | null;
  embargoUntil: string | null;
  setups: number;
  tests: number;
  gaps: ReviewGaps;
  publishedVersion: number | null;
}

/** Counts what a review still lacks: runs short of the suite's wish, empty cells, open doubts, stale prices. */
export function gapsOf(model: ReviewModel): ReviewGaps {
  const counts = new Map<string, { valid: number; failed: number }>();
  for (const run of model.runs) {
    const key = cellKey(run.setupId, run.testKey);
    const count = counts.get(key) ?? { valid: 0, failed: 0 };
    if (run.status === "valid") count.valid += 1;
    if (run.status === "failed") count.failed += 1;
    counts.set(key, count);
  }
  const gaps: ReviewGaps = { runsWanted: 0, runsValid: 0, cellsMissing: 0, cellsFailed: 0, openFindings: 0, stalePrices: 0 };
  for (const setup of model.setups) {
    for (const test of model.tests) {
      const count = counts.get(cellKey(setup.id, test.key));
      gaps.runsWanted += test.runsWanted;
      gaps.runsValid += Math.min(test.runsWanted, count?.valid ?? 0);
      if (!count || (count.valid === 0 && count.failed === 0)) gaps.cellsMissing += 1;
      else if (count.valid === 0) gaps.cellsFailed += 1;
    }
    for (const region of model.regions) if (setupPrice(model, setup, region, model.priceRule).stale) gaps.stalePrices += 1;
  }
  gaps.openFindings = model.findings.filter(({ state, raised }) => state === "open" && raised).length;
  return gaps;
}
