import { z } from "zod";
import type { Metric } from "@/core/cell";
import { cellKey } from "@/core/cell";
import { INDEX_METHOD_VERSION, type Ranking } from "@/core/compare";
import { mean } from "@/core/stats";
import { commonPowerAt, matrixOf, meanPowerW, middleResolution, rankReview, resolutionsOf, valueOfReview } from "./comparison";
import type { ReviewModel } from "./reviewModel";

/** Raised when the shape of a snapshot changes; `migrateSnapshot` brings old ones forward. */
export const SNAPSHOT_VERSION = 1;

const nullableNumber = z.number().nullable();

const RankingRow = z.object({
  setupId: z.string(),
  index: z.number(),
  low: nullableNumber,
  high: nullableNumber,
  verdict: z.enum(["ahead", "behind", "level", "level-small-difference", "unresolved", "unknown"]),
  rankFrom: z.int(),
  rankTo: z.int(),
  furtherRuns: z.int().nullable(),
  /** Each test's ratio to the baseline, in the order of `testKeys`. */
  ratios: z.array(z.number()),
});

const RankingSnapshot = z.object({
  metric: z.enum(["result", "low1", "low01", "frames_per_joule"]),
  resolution: z.string().nullable(),
  workloads: z.int(),
  testKeys: z.array(z.string()),
  leftOut: z.array(z.object({ testKey: z.string(), missing: z.array(z.string()) })),
  rows: z.array(RankingRow),
});
export type RankingSnapshot = z.infer<typeof RankingSnapshot>;

const ValueSnapshot = z.object({
  region: z.string(),
  regionName: z.string(),
  currency: z.string(),
  resolution: z.string().nullable(),
  per: z.enum(["fps", "index point"]),
  rows: z.array(
    z.object({
      setupId: z.string(),
      price: nullableNumber,
      problem: z.string().nullable(),
      seenOn: z.string().nullable(),
      shops: z.array(z.string()),
      stale: z.boolean(),
      performance: nullableNumber,
      costPerFrame: nullableNumber,
      relativeValue: nullableNumber,
      breakEvenPrice: nullableNumber,
      onFrontier: z.boolean().nullable(),
    }),
  ),
});
export type ValueSnapshot = z.infer<typeof ValueSnapshot>;

/** A frozen publication: all that the page shows, and what it was computed from. */
export const Snapshot = z.object({
  schemaVersion: z.literal(SNAPSHOT_VERSION),
  methodVersion: z.int(),
  title: z.string(),
  question: z.string().nullable(),
  baselineId: z.string(),
  margin: z.number(),
  lowSchool: z.enum(["percentile", "tail_mean", "time_share"]),
  priceDay: z.string(),
  resolutions: z.array(z.string()),
  mainResolution: z.string().nullable(),
  setups: z.array(
    z.object({
      id: z.string(),
      label: z.string(),
      role: z.string().nullable(),
      facts: z.array(z.object({ key: z.string(), value: z.string(), unit: z.string().nullable() })),
    }),
  ),
  tests: z.array(z.object({ key: z.string(), workload: z.string(), resolution: z.string().nullable(), unit: z.string(), settings: z.string() })),
  bench: z.array(
    z.object({
      name: z.string(),
      revision: z.int(),
      state: z.array(z.object({ key: z.string(), value: z.string() })),
      parts: z.array(z.object({ role: z.string(), name: z.string() })),
    }),
  ),
  /** What could not be held constant, with the editor's reason; absent in the first snapshots. */
  notHeld: z.array(z.object({ property: z.string(), why: z.string().nullable() })).default([]),
  rankings: z.array(RankingSnapshot),
  powerAt: z.enum(["device", "package", "wall"]).nullable(),
  meanPowerW: z.array(z.object({ setupId: z.string(), watts: nullableNumber })),
  value: z.array(ValueSnapshot),
  /** Cell means by `setup/test`, for the game-by-game table. */
  cells: z.array(
    z.object({ setupId: z.string(), testKey: z.string(), mean: nullableNumber, low1: nullableNumber, runs: z.int(), failed: z.string().nullable() }),
  ),
  claims: z.array(z.object({ sentence: z.string(), computation: z.string() })),
  doubts: z.array(
    z.object({ check: z.string(), setupId: z.string(), testKey: z.string(), state: z.string(), sentence: z.string(), reason: z.string().nullable() }),
  ),
  runIds: z.array(z.string()),
});
export type Snapshot = z.infer<typeof Snapshot>;

function freezeRanking(ranking: Ranking, metric: Metric, resolution: string | null): RankingSnapshot {
  return {
    metric,
    resolution,
    workloads: ranking.workloads,
    testKeys: ranking.testKeys,
    leftOut: ranking.leftOut,
    rows: ranking.rows.map((row) => ({
      setupId: row.setupId,
      index: row.index,
      low: row.low ?? null,
      high: row.high ?? null,
      verdict: row.verdict,
      rankFrom: row.rankFrom,
      rankTo: row.rankTo,
      furtherRuns: row.furtherRuns ?? null,
      ratios: row.ratios.map(({ ratio }) => ratio.ratio),
    })),
  };
}

/** Freezes a review as it stands: every ranking, price and doubt that the page shows. Pure: the same model gives the same snapshot. */
export function buildSnapshot(model: ReviewModel): Snapshot {
  const resolutions = resolutionsOf(model);
  const powerAt = commonPowerAt(model) ?? null;
  const main = middleResolution(model) ?? null;
  const metrics: Metric[] = ["result", "low1", ...(powerAt ? (["frames_per_joule"] as const) : [])];
  const rates = matrixOf(model, "result", model.lowSchool);
  const lows = matrixOf(model, "low1", model.lowSchool);
  const rankings = metrics.flatMap((metric) => {
    const matrix = metric === "result" ? rates : metric === "low1" ? lows : matrixOf(model, metric, model.lowSchool, powerAt ?? "device");
    return [null, ...resolutions].map((resolution) =>
      freezeRanking(rankReview(model, matrix, { baselineId: model.baselineId, resolution: resolution ?? undefined }), metric, resolution),
    );
  });
  const mainKeys = rankings.find((one) => one.metric === "result" && one.resolution === main)?.testKeys ?? [];
  const setupIds = new Set(model.setups.map(({ id }) => id));
  return {
    schemaVersion: SNAPSHOT_VERSION,
    methodVersion: INDEX_METHOD_VERSION,
    title: model.title,
    question: model.question,
    baselineId: model.baselineId,
    margin: model.margin,
    lowSchool: model.lowSchool,
    priceDay: model.today,
    resolutions,
    mainResolution: main,
    setups: model.setups.map(({ id, label, role, facts }) => ({ id, label, role, facts })),
    tests: model.tests.map(({ key, workloadName, resolution, unit, settings }) => ({ key, workload: workloadName, resolution, unit, settings })),
    bench: model.bench,
    notHeld: model.held.differences
      .filter(({ values }) => values.filter(({ setupIds }) => setupIds.some((id) => model.setups.some((setup) => setup.id === id))).length > 1)
      .map(({ property, declared }) => ({ property, why: declared?.why ?? null })),
    rankings,
    powerAt,
    meanPowerW: model.setups.map(({ id }) => ({ setupId: id, watts: (powerAt && meanPowerW(model, id, mainKeys, powerAt)) ?? null })),
    value: model.regions.flatMap((region) =>
      (resolutions.length > 0 ? resolutions : [null]).map((resolution) => {
        const value = valueOfReview(model, rates, { baselineId: model.baselineId, resolution: resolution ?? undefined, region, rule: model.priceRule });
        return {
          region: region.code,
          regionName: region.name ?? region.code,
          currency: region.currency,
          resolution,
          per: value.per,
          rows: value.lines.map((line) => ({
            setupId: line.setupId,
            price: line.setupPrice.price ?? null,
            problem: line.setupPrice.problem ?? null,
            seenOn: line.setupPrice.parts.map(({ offer }) => offer.seenOn).sort()[0] ?? null,
            shops: line.setupPrice.parts.flatMap(({ offer }) => (offer.shop ? [offer.shop] : [])),
            stale: line.setupPrice.stale,
            performance: line.performance?.value ?? null,
            costPerFrame: line.costPerFrame ?? null,
            relativeValue: line.relativeValue ?? null,
            breakEvenPrice: line.breakEvenPrice ?? null,
            onFrontier: line.onFrontier ?? null,
          })),
        };
      }),
    ),
    cells: model.setups.flatMap((setup) =>
      model.tests.map((test) => {
        const key = cellKey(setup.id, test.key);
        const rate = rates.cells.get(key);
        const low = lows.cells.get(key);
        return {
          setupId: setup.id,
          testKey: test.key,
          mean: rate && rate.values.length > 0 ? mean(rate.values) : null,
          low1: low && low.values.length > 0 ? mean(low.values) : null,
          runs: rate?.values.length ?? 0,
          failed: rate?.runs.find(({ status }) => status === "failed")?.reason ?? null,
        };
      }),
    ),
    claims: model.claims.map(({ sentence, computation }) => ({ sentence, computation })),
    doubts: model.findings
      .filter(({ raised, state }) => raised || state === "accepted")
      .map(({ check, setupId, testKey, state, sentence, reason }) => ({ check, setupId, testKey, state, sentence, reason })),
    runIds: model.runs
      .filter((run) => run.status === "valid" && setupIds.has(run.setupId))
      .map(({ id }) => id)
      .sort(),
  };
}

/** Brings a stored snapshot to the present shape. Errors: a Zod error for one that fits no known shape (a damaged row). */
export function migrateSnapshot(stored: unknown): Snapshot {
  return Snapshot.parse(stored);
}
