import { cellKey, cellLogError, type LabTest } from "@/core/cell";
import {
  compareWithPaper,
  type JudgedRung,
  judgeLadder,
  type LadderRule,
  type Matrix,
  type MeasuredPair,
  type PaperComparison,
  type Rung,
  sizeForTime,
} from "@/core/compare";
import { mean } from "@/core/stats";
import type { Region } from "@/core/value";
import { matrixOf, rankReview, setupPrice, testsAsked } from "./comparison";
import type { ReviewModel, ReviewSetup } from "./reviewModel";

/** Workload and settings without the resolution: what the rates of two machines are compared in. */
export const familyOf = (test: LabTest) => `${test.workloadId}\n${test.settings}`;

/**
 * Every measured cell of the lab on a review's tests as processor with card, with what limited it; averages or lows. Cells whose
 * limit is known are what pairs are predicted from.
 */
export function measuredPairs(model: ReviewModel, matrix: Matrix): MeasuredPair[] {
  const machines = new Map(model.labSetups.map((setup) => [setup.id, setup]));
  const limits = new Map(model.limits.map((one) => [cellKey(one.setupId, one.testKey), one.limit]));
  const testOf = new Map(matrix.tests.map((test) => [test.key, test]));
  return [...matrix.cells.values()].flatMap((cell): MeasuredPair[] => {
    const [machine, test] = [machines.get(cell.setupId), testOf.get(cell.testKey)];
    if (!machine?.cpuId || !machine.gpuId || !test || test.kind !== "frames" || test.ladder || cell.values.length === 0) return [];
    const error = cellLogError(cell.values, matrix.repeatability.get(test.key), { usesOwnScatter: matrix.ownScatter.has(cell.key), cellKey: cell.key });
    const limit = limits.get(cell.key);
    return [
      {
        cpuId: machine.cpuId,
        gpuId: machine.gpuId,
        family: familyOf(test),
        resolution: test.resolution,
        limit: limit === "cpu" || limit === "gpu" ? limit : "other",
        fps: mean(cell.values),
        seLog: error && Math.sqrt(error.variance),
      },
    ];
  });
}

const numberOf = (setup: ReviewSetup, ...keys: string[]): number | null => {
  const fact = keys.flatMap((key) => setup.facts.find((one) => one.key === key) ?? [])[0];
  const value = Number(fact?.value);
  return fact && Number.isFinite(value) && value > 0 ? value : null;
};

/** A row against what people own, measured and on paper. */
export interface Uplift {
  setup: ReviewSetup;
  owned: ReviewSetup;
  ratio: number;
  low: number | undefined;
  high: number | undefined;
  paper: PaperComparison | undefined;
  /** The same where the part under test was the limit, and where something else was. */
  byLimit: { limit: "own" | "other"; ratio: number; tests: number }[];
}

/** Uplifts of every row over every part that people own (role owned; the oldest where none is). */
export function upliftsOf(model: ReviewModel, choice: { resolution?: string | undefined; group?: string | undefined }): Uplift[] {
  const matrix = matrixOf(model, "result", model.lowSchool);
  const dated = [...model.setups].sort((a, b) => (a.releasedOn ?? "9999").localeCompare(b.releasedOn ?? "9999"));
  const owned = model.setups.filter(({ role }) => role === "owned");
  const bases = owned.length > 0 ? owned : dated.slice(0, 1);
  const limits = new Map(model.limits.map((one) => [cellKey(one.setupId, one.testKey), one]));
  const asked = testsAsked(model, choice);
  return bases.flatMap((base) => {
    const ranking = rankReview(model, matrix, { ...choice, baselineId: base.id });
    return ranking.rows.flatMap((row): Uplift[] => {
      const setup = model.setups.find(({ id }) => id === row.setupId);
      if (!setup || setup.id === base.id) return [];
      const own = setup.kinds[0] === "cpu" ? "cpu" : "gpu";
      const where = (limit: "own" | "other") => (test: LabTest) => {
        const found = limits.get(cellKey(setup.id, test.key))?.limit;
        return asked(test) && (limit === "own" ? found === own : found === (own === "gpu" ? "cpu" : "gpu"));
      };
      const byLimit = (["own", "other"] as const).flatMap((limit) => {
        const some = rankReview({ ...model, setups: [base, setup] }, matrix, { ...choice, baselineId: base.id, asked: where(limit) });
        const one = some.rows.find(({ setupId }) => setupId === setup.id);
        return one ? [{ limit, ratio: one.index, tests: some.testKeys.length }] : [];
      });
      const part = (of: ReviewSetup) => ({ clockGhz: numberOf(of, "boost_clock"), units: numberOf(of, "units", "cores") });
      return [{ setup, owned: base, ratio: row.index, low: row.low, high: row.high, paper: compareWithPaper(part(setup), part(base), row.index), byLimit }];
    });
  });
}

/** Score per GHz of a row in a test. */
export interface PerClock {
  setupId: string;
  testKey: string;
  score: number;
  clockGhz: number;
  perGhz: number;
}

/** Score per GHz of every row in every synthetic test, by the clock on paper. */
export function perClockOf(model: ReviewModel): PerClock[] {
  const matrix = matrixOf(model, "result", model.lowSchool);
  return model.tests
    .filter(({ group }) => group === "synthetic")
    .flatMap((test) =>
      model.setups.flatMap((setup): PerClock[] => {
        const values = matrix.cells.get(cellKey(setup.id, test.key))?.values ?? [];
        const clockGhz = numberOf(setup, "boost_clock");
        if (values.length === 0 || clockGhz === null || test.better !== "higher") return [];
        const score = mean(values);
        return [{ setupId: setup.id, testKey: test.key, score, clockGhz, perGhz: score / clockGhz }];
      }),
    );
}

/** A ladder climbed by the rows of a review. */
export interface ClimbedLadder {
  id: string;
  name: string;
  levels: { level: number; test: LabTest }[];
  rows: { setupId: string; rungs: JudgedRung[]; highest: number | undefined }[];
}

/** From what score on an operator's "feels responsive" counts as yes, on 1 to 5. */
const RESPONSIVE_FROM = 3;

/** Every ladder of a review's tests, judged for each row. */
export function laddersOf(model: ReviewModel, rule: LadderRule): ClimbedLadder[] {
  const [result, low] = [matrixOf(model, "result", model.lowSchool), matrixOf(model, "low1", model.lowSchool)];
  const ids = [...new Set(model.tests.flatMap(({ ladder }) => (ladder ? [ladder.id] : [])))];
  return ids.map((id): ClimbedLadder => {
    const tests = model.tests.filter((test) => test.ladder?.id === id).sort((a, b) => (a.ladder?.level ?? 0) - (b.ladder?.level ?? 0));
    const average = (values: (number | null)[]) => {
      const known = values.filter((value) => value !== null);
      return known.length > 0 ? mean(known) : null;
    };
    const rows = model.setups.flatMap(({ id: setupId }) => {
      const rungs = tests.map((test): Rung => {
        const key = cellKey(setupId, test.key);
        const runs = result.cells.get(key)?.runs ?? [];
        const valid = runs.filter(({ status }) => status === "valid");
        const score = average(valid.map(({ opinion }) => opinion));
        return {
          level: test.ladder?.level ?? 0,
          testKey: test.key,
          averageFps: average(result.cells.get(key)?.values ?? []),
          lowFps: average(low.cells.get(key)?.values ?? []),
          cpuLoad: average(valid.map(({ cpuLoad }) => cpuLoad)),
          responsive: score === null ? null : score >= RESPONSIVE_FROM,
          failed: runs.some(({ status }) => status === "failed"),
        };
      });
      return rungs.some(({ averageFps, failed }) => averageFps !== null || failed) ? [{ setupId, ...judgeLadder(rungs, rule) }] : [];
    });
    return { id, name: tests[0]?.workloadName ?? id, levels: tests.map((test) => ({ level: test.ladder?.level ?? 0, test })), rows };
  });
}

/** One row's work in one timed test. */
export interface WorkLine {
  setupId: string;
  test: LabTest;
  timeS: number;
  speedup: number;
  secondsSaved: number;
  /** Seconds of footage for each second of work; undefined where the test has none. */
  realtime: number | undefined;
  bytes: number | undefined;
  /** On the frontier of size against time among this row's settings of the workload. */
  onFrontier: boolean;
}

/** The timed work of a review against its baseline. */
export function timedWorkOf(model: ReviewModel, baselineId: string): WorkLine[] {
  const matrix = matrixOf(model, "result", model.lowSchool);
  const tests = model.tests.filter(({ kind, better, unit }) => kind === "time" && better === "lower" && unit === "s");
  const timeOf = (setupId: string, key: string) => {
    const values = matrix.cells.get(cellKey(setupId, key))?.values ?? [];
    return values.length > 0 ? mean(values) : undefined;
  };
  return model.setups.flatMap(({ id: setupId }) => {
    const lines = tests.flatMap((test): Omit<WorkLine, "onFrontier">[] => {
      const [timeS, base] = [timeOf(setupId, test.key), timeOf(baselineId, test.key)];
      if (timeS === undefined || base === undefined) return [];
      const sizes = (matrix.cells.get(cellKey(setupId, test.key))?.valid ?? []).flatMap(({ run }) => (run.outputBytes === null ? [] : [run.outputBytes]));
      return [
        {
          setupId,
          test,
          timeS,
          speedup: base / timeS,
          secondsSaved: base - timeS,
          realtime: test.mediaS === null ? undefined : test.mediaS / timeS,
          bytes: sizes.length > 0 ? mean(sizes) : undefined,
        },
      ];
    });
    const front = new Set(
      [...new Set(lines.map(({ test }) => test.workloadId))].flatMap((workload) =>
        sizeForTime(
          lines.flatMap(({ test, timeS, bytes }) => (test.workloadId === workload && bytes !== undefined ? [{ id: test.key, timeS, bytes }] : [])),
        ).map(({ id }) => id),
      ),
    );
    return lines.map((line) => ({ ...line, onFrontier: front.has(line.test.key) }));
  });
}

/** How many times dearer a row is than the baseline, and how many times faster where. */
export interface MoneyLine {
  setupId: string;
  priceRatio: number | undefined;
  ratios: { test: LabTest; ratio: number }[];
}

/** Price ratio against performance ratio, workload by workload, in a region. */
export function moneyAgainstSpeed(model: ReviewModel, baselineId: string, region: Region): MoneyLine[] {
  const base = model.setups.find(({ id }) => id === baselineId);
  if (!base) return [];
  const matrix = matrixOf(model, "result", model.lowSchool);
  const basePrice = setupPrice(model, base, region, model.priceRule).price;
  return model.setups.flatMap((setup): MoneyLine[] => {
    if (setup.id === baselineId) return [];
    const { price } = setupPrice(model, setup, region, model.priceRule);
    const ratios = matrix.tests.flatMap((test) => {
      const [a, b] = [setup.id, baselineId].map((id) => matrix.cells.get(cellKey(id, test.key))?.values ?? []);
      if (!a || !b || a.length === 0 || b.length === 0) return [];
      const ratio = mean(a) / mean(b);
      return [{ test, ratio: test.better === "lower" ? 1 / ratio : ratio }];
    });
    return ratios.length > 0 ? [{ setupId: setup.id, priceRatio: price && basePrice ? price / basePrice : undefined, ratios }] : [];
  });
}
