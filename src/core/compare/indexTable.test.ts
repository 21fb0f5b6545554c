import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { DEMO_TESTS, runOf } from "#sim/summaries";
import { cellLogError, combineErrors, judgeInterval, type LabTest, type RunSummary } from "@/core/cell";
import { createRandom } from "@/core/random";
import { mean } from "@/core/stats";
import { compileIndex, testWeights, weighIndex } from "./indexTable";
import { buildMatrix, type Matrix } from "./matrix";

/** A lab of some rows and tests with uneven run counts, a wild cell and times among the rates. */
function lab(seed: number): { matrix: Matrix; setupIds: string[]; tests: LabTest[] } {
  const random = createRandom(seed);
  const setupIds = ["a", "b", "c", "d"];
  const tests = DEMO_TESTS.slice(0, 9).map((test, i): LabTest => (i % 4 === 3 ? { ...test, better: "lower", unit: "s" } : test));
  const runs = setupIds.flatMap((setupId, s) =>
    tests.flatMap((test, t) =>
      Array.from({ length: 1 + ((seed + s + 2 * t) % 4) }, (_, i): RunSummary => {
        const spread = s === 1 && t === 2 ? 0.15 : 0.012;
        return runOf({ id: `${setupId}${t}-${i}`, setupId, testKey: test.key, number: i + 1, result: 100 * Math.exp(0.02 * s + spread * random.normal()) });
      }),
    ),
  );
  return { matrix: buildMatrix(tests, runs, { metric: "result", school: "percentile", powerAt: "device" }), setupIds, tests };
}

/** The same ranking the slow, obvious way: every pair, term by term, with the exact multiplier. */
function slowly({ matrix, setupIds, tests }: ReturnType<typeof lab>, weights: Float64Array, baselineId: string) {
  const terms = (setupId: string) =>
    tests.map((test, t) => {
      const key = `${setupId}/${test.key}`;
      const values = matrix.cells.get(key)?.values ?? [];
      const log = (test.better === "lower" ? -1 : 1) * Math.log(mean(values));
      return {
        log,
        weight: weights[t] as number,
        error: cellLogError(values, matrix.repeatability.get(test.key), { usesOwnScatter: matrix.ownScatter.has(key), cellKey: key }),
      };
    });
  const judge = (a: string, b: string) => {
    const [x, y] = [terms(a), terms(b)];
    const estimate = x.reduce((sum, { log, weight }, t) => sum + weight * (log - (y[t]?.log as number)), 0);
    const all = [...x, ...y].flatMap(({ weight, error }) => (error ? [{ weight, error }] : []));
    return judgeInterval({ estimate, ...combineErrors(all), margin: 0.03 });
  };
  return setupIds.map((setupId) => {
    const others = setupIds.filter((other) => other !== setupId).map((other) => judge(setupId, other).verdict);
    return {
      ...judge(setupId, baselineId),
      rankFrom: 1 + others.filter((verdict) => verdict === "behind").length,
      rankTo: setupIds.length - others.filter((verdict) => verdict === "ahead").length,
    };
  });
}

describe("weighIndex", () => {
  it("gives what the slow, obvious way gives: index, interval, verdict and ranks, whatever the runs, spreads and weights", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.array(fc.double({ min: 0, max: 3, noNaN: true }), { minLength: 3, maxLength: 3 }), (seed, given) => {
        const small = lab(seed);
        const workloads = [...new Set(small.tests.map(({ workloadId }) => workloadId))];
        fc.pre(given.some((weight) => weight > 0.01));
        const weights = testWeights(small.tests, new Map(workloads.map((id, i) => [id, given[i] as number])));
        const fast = weighIndex(compileIndex(small.matrix, small.setupIds, small.tests), weights, "a", 0.03);
        const slow = slowly(small, weights, "a");
        fast.forEach((row, i) => {
          const expected = slow[i] as (typeof slow)[number];
          expect(row.index).toBeCloseTo(Math.exp(expected.logRatio), 10);
          expect([row.rankFrom, row.rankTo]).toEqual([expected.rankFrom, expected.rankTo]);
          if (row.setupId === "a") return;
          expect(row.low).toBeCloseTo(expected.low as number, 7);
          expect(row.high).toBeCloseTo(expected.high as number, 7);
          expect(row.verdict).toBe(expected.verdict);
        });
      }),
      { numRuns: 60 },
    );
  });

  it("refuses a baseline that is not among the rows, and an empty cell", () => {
    const small = lab(1);
    const table = compileIndex(small.matrix, small.setupIds, small.tests);
    expect(() => weighIndex(table, testWeights(small.tests), "nobody", 0.03)).toThrow(RangeError);
    expect(() => compileIndex(small.matrix, ["nobody"], small.tests)).toThrow("has no valid run");
  });
});

describe("testWeights", () => {
  it("shares each workload's weight among its tests and adds up to 1; all zero stays zero", () => {
    const weights = testWeights(DEMO_TESTS.slice(0, 6), new Map([[DEMO_TESTS[0]?.workloadId as string, 3]]));
    expect([...weights]).toEqual([0.25, 0.25, 0.25, 1 / 12, 1 / 12, 1 / 12].map((value) => expect.closeTo(value, 12)));
    expect([...testWeights(DEMO_TESTS.slice(0, 1), new Map([[DEMO_TESTS[0]?.workloadId as string, 0]]))]).toEqual([0]);
  });
});
