import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { quickLab } from "#sim/quickLab";
import { DEMO_TESTS, runOf, summariesOf } from "#sim/summaries";
import { CARDS } from "#sim/world";
import { createRandom } from "@/core/random";
import { casesOf, expectNear } from "../../../tests/reference/cases";
import { compileIndex, type IndexTable, testWeights, weighIndex } from "./indexTable";
import { EXACT_TO, influenceOfWorkloads, smallestSubset } from "./influence";
import { DEFAULT_LADDER_RULE, judgeLadder, type Rung } from "./ladder";
import { buildMatrix } from "./matrix";
import { amdahl, compareWithPaper, karpFlatt } from "./onPaper";
import { arithmeticMeans, rankSpreads, ranksOf } from "./orderings";
import { cpusForGpu, fitPairs, type MeasuredPair, predictPair, softMinimum } from "./predictPairs";
import { compareTimes, sizeForTime, timeText } from "./timedWork";
import { fitTwoWay, type KnownCell } from "./twoWayFit";
import { choiceOfWorkloads, expandedTail } from "./workloadChoice";

const SETUPS = CARDS.map(({ id }) => id);
const demoTable = (seed = 3) =>
  compileIndex(
    buildMatrix(DEMO_TESTS, summariesOf(quickLab(seed, { planted: false })), { metric: "result", school: "percentile", powerAt: "device" }),
    SETUPS,
    DEMO_TESTS,
  );

/** A table of one test a workload from log differences; row 0 is the baseline. */
function tableOf(logs: number[][]): IndexTable {
  const columns = logs[0]?.length ?? 0;
  return {
    setupIds: logs.map((_, i) => `r${i}`),
    tests: Array.from({ length: columns }, (_, w) => ({ ...(DEMO_TESTS[0] as (typeof DEMO_TESTS)[0]), key: `w${w}@1`, workloadId: `w${w}` })),
    logs: Float64Array.from(logs.flat()),
    pooled: new Float64Array(logs.length * columns).fill(0.0001),
    own: new Float64Array(logs.length * columns),
    ownDf: new Float64Array(logs.length * columns),
    poolOf: new Int32Array(columns),
    poolDf: Float64Array.of(60),
    fewestRuns: new Int32Array(logs.length).fill(3),
  };
}
const finish = <T>(search: Generator<unknown, T>): T => {
  for (;;) {
    const step = search.next();
    if (step.done) return step.value;
  }
};

describe("fitTwoWay", () => {
  interface Input {
    parts: string[];
    tests: string[];
    matrix: (number | null)[][];
    baseline: string;
  }
  interface Expected {
    estimable: boolean;
    observations: number;
    residual_df: number;
    residual_sd: number;
    log_effect: Record<string, number>;
    log_effect_se: Record<string, number>;
    index_ci95_percent: Record<string, [number, number]>;
  }
  const cases = [...casesOf<Input, Expected>("e-indices", "two_way_log_fit"), ...casesOf<Input, Expected>("n-open-data", "two_way_log_fit")];
  it.each(cases)("agrees with R's lm and numpy on $id (tests/reference)", ({ input, expected, tolerance }) => {
    const cells = input.matrix.flatMap((line, i) =>
      line.flatMap((value, j): KnownCell[] =>
        value === null ? [] : [{ row: input.parts[i] as string, column: input.tests[j] as string, log: Math.log(value) }],
      ),
    );
    const fit = fitTwoWay(input.parts, cells, { baseline: input.baseline, mostMissing: 1 });
    expect(fit.ok).toBe(expected.estimable);
    if (!fit.ok)
      return expect(fit.problem).toMatchObject({
        kind: "not-joined",
        groups: [
          ["P1", "P2"],
          ["P3", "P4"],
        ],
      });
    expect([fit.value.observations, fit.value.residualDf]).toEqual([expected.observations, expected.residual_df]);
    expectNear(fit.value.residualSd, expected.residual_sd, tolerance, "residual_sd");
    for (const { row, log, seLog, low, high } of fit.value.rows) {
      expectNear(log, expected.log_effect[row] as number, tolerance, "log_effect");
      expectNear(seLog, expected.log_effect_se[row] as number, tolerance, "log_effect_se");
      expectNear(100 * low, expected.index_ci95_percent[row]?.[0] as number, tolerance, "low");
      expectNear(100 * high, expected.index_ci95_percent[row]?.[1] as number, tolerance, "high");
    }
  });

  it("is the geometric mean where nothing is missing, and refuses a row that lacks more than 30 %", () => {
    const random = createRandom(5);
    const full = ["a", "b", "c"].flatMap((row) => Array.from({ length: 10 }, (_, j) => ({ row, column: `t${j}`, log: random.normal() })));
    const fit = fitTwoWay(["a", "b", "c"], full, { baseline: "a" });
    const meanOf = (row: string) => full.filter((cell) => cell.row === row).reduce((sum, { log }) => sum + log, 0) / 10;
    expect(fit.ok && fit.value.rows[1]?.log).toBeCloseTo(meanOf("b") - meanOf("a"), 12);
    const sparse = full.filter(({ row, column }) => row !== "b" || !["t0", "t1", "t2", "t3"].includes(column));
    expect(fitTwoWay(["a", "b", "c"], sparse, { baseline: "a" })).toMatchObject({ ok: false, problem: { kind: "too-sparse", row: "b", missing: 4, of: 10 } });
    const three = full.filter(({ row, column }) => row !== "b" || !["t0", "t1", "t2"].includes(column));
    const filled = fitTwoWay(["a", "b", "c"], three, { baseline: "a" });
    expect(filled.ok && [filled.value.rows[1]?.filled, filled.value.filledShare]).toEqual([3, expect.closeTo(0.1, 9)]);
    expect(fitTwoWay(["a", "b"], [...full.filter(({ row, column }) => row !== "c" && column === "t0")], { baseline: "a" })).toMatchObject({
      ok: false,
      problem: { kind: "no-residual" },
    });
  });
});

describe("choiceOfWorkloads", () => {
  it("covers the index over all workloads of a kind in 92 to 97 of 100 draws of 14 of them", () => {
    let covered = 0;
    const labs = 1500;
    for (let seed = 1; seed <= labs; seed += 1) {
      const random = createRandom(seed);
      const table = tableOf([new Array<number>(14).fill(0), Array.from({ length: 14 }, () => 0.1 + 0.08 * random.normal())]);
      const intervals = choiceOfWorkloads(table, { baselineId: "r0", resamples: 500, random: random.fork("draws") });
      const truth = Math.exp(0.1);
      if (intervals && truth >= (intervals[1]?.low as number) && truth <= (intervals[1]?.high as number)) covered += 1;
    }
    expect(covered / labs).toBeGreaterThan(0.92);
    expect(covered / labs).toBeLessThan(0.975);
  }, 60_000);

  it("draws workloads with all their resolutions: copies of a test in more resolutions make no interval narrower", () => {
    const once = tableOf([
      [0, 0, 0, 0, 0],
      [0.1, 0.3, -0.1, 0.2, 0.05],
    ]);
    const thrice: IndexTable = {
      ...tableOf([new Array<number>(15).fill(0), [0.1, 0.3, -0.1, 0.2, 0.05].flatMap((x) => [x, x, x])]),
      tests: once.tests.flatMap((test) => [1, 2, 3].map((i) => ({ ...test, key: `${test.key}-${i}` }))),
    };
    const of = (table: IndexTable) => choiceOfWorkloads(table, { baselineId: "r0", resamples: 2000, random: createRandom(1) })?.[1];
    expect(of(thrice)?.low).toBeCloseTo(of(once)?.low as number, 12);
    expect(of(once)?.low).toBeLessThan(of(once)?.high as number);
  });

  it("gives the same interval for the same seed, none for two workloads, and follows the reader's weights", () => {
    const table = demoTable();
    const of = (weights?: Map<string, number>) => choiceOfWorkloads(table, { baselineId: "grebe-12", resamples: 500, random: createRandom(9), weights });
    expect(of()).toEqual(of());
    expect(
      choiceOfWorkloads(
        tableOf([
          [0, 0],
          [1, 2],
        ]),
        { baselineId: "r0", resamples: 100, random: createRandom(1) },
      ),
    ).toBeUndefined();
    const [gone] = table.tests;
    expect(of(new Map([[gone?.workloadId as string, 0]]))).not.toEqual(of());
  });

  it("widens percentiles for few workloads as Student's t does: 0.025 at many, less at 14 (Hesterberg 2015)", () => {
    expect(expandedTail(100_000)).toBeCloseTo(0.025, 4);
    expect(expandedTail(14)).toBeLessThan(0.0145);
    expect(expandedTail(14)).toBeGreaterThan(0.0115);
  });
});

describe("weighIndex", () => {
  it("doubles a workload's say with a weight of 2, and leaves it out with 0", () => {
    const table = tableOf([
      [0, 0, 0],
      [0.3, 0, 0],
    ]);
    const index = (weights: [string, number][]) => weighIndex(table, testWeights(table.tests, new Map(weights)), "r0", 0.03)[1]?.index as number;
    expect(index([])).toBeCloseTo(Math.exp(0.1), 12);
    expect(index([["w0", 2]])).toBeCloseTo(Math.exp(0.15), 12);
    expect(index([["w0", 0]])).toBeCloseTo(1, 12);
  });

  it("opens ranks exactly where the interval of the pair's own ratio does not decide", () => {
    const rows = weighIndex(
      tableOf([
        [0, 0],
        [0.2, 0.2],
        [0.205, 0.205],
      ]),
      Float64Array.of(0.5, 0.5),
      "r0",
      0.03,
    );
    expect(rows.map(({ rankFrom, rankTo }) => [rankFrom, rankTo])).toEqual([
      [3, 3],
      [1, 2],
      [1, 2],
    ]);
  });

  it("takes medians where they are asked for", () => {
    const runs = ["a", "b"].flatMap((setupId) =>
      [100, 101, setupId === "b" ? 160 : 102].map((result, i) =>
        runOf({ id: `${setupId}${i}`, setupId, testKey: DEMO_TESTS[0]?.key as string, number: i + 1, result }),
      ),
    );
    const matrix = buildMatrix(DEMO_TESTS.slice(0, 1), runs, { metric: "result", school: "percentile", powerAt: "device" });
    const index = (aggregate: "mean" | "median") => Math.exp((compileIndex(matrix, ["a", "b"], matrix.tests, aggregate).logs[1] as number) - Math.log(101));
    expect(index("median")).toBeCloseTo(1, 12);
    expect(index("mean")).toBeGreaterThan(1.1);
  });
});

describe("influence", () => {
  it.each(casesOf<{ baseline: number[]; part: number[] }, { influence_percent: number[]; most_influential_zero_based: number }>("e-indices", "leave_one_out"))(
    "agrees with the jack-knife of $id (tests/reference)",
    ({ input, expected, tolerance }) => {
      const found = influenceOfWorkloads(tableOf([input.baseline.map(Math.log), input.part.map(Math.log)]), "r0");
      expected.influence_percent.forEach((percent, w) => {
        const change = found.find(({ workloadId }) => workloadId === `w${w}`)?.changes[1]?.change as number;
        expectNear(100 * change, percent, { rel: tolerance.rel, abs: 1e-9 }, `w${w}`);
      });
      expect(found[0]?.workloadId).toBe(`w${expected.most_influential_zero_based}`);
    },
  );

  it("finds the smallest subset that keeps the order, no smaller one does it, and says how it was found", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const random = createRandom(seed);
        const logs = [new Array<number>(6).fill(0), ...[1, 2].map((i) => Array.from({ length: 6 }, () => 0.05 * i + 0.1 * random.normal()))];
        const table = tableOf(logs);
        const subset = finish(smallestSubset(table, "r0"));
        const order = (picked: number[]) =>
          logs
            .map((row, s) => ({ s, sum: picked.reduce((sum, w) => sum + (row[w] as number), 0) }))
            .sort((a, b) => b.sum - a.sum)
            .map(({ s }) => s)
            .join();
        const all = order([0, 1, 2, 3, 4, 5]);
        const sizeOf = (mask: number) => [0, 1, 2, 3, 4, 5].filter((w) => mask & (1 << w));
        const smallest = Math.min(
          ...Array.from({ length: 63 }, (_, m) => sizeOf(m + 1))
            .filter((picked) => order(picked) === all)
            .map(({ length }) => length),
        );
        expect(subset.method).toBe("exact");
        expect(subset.workloadIds.length).toBe(smallest);
        expect(order(subset.workloadIds.map((id) => Number(id.slice(1))))).toBe(all);
      }),
      { numRuns: 40 },
    );
    const random = createRandom(2);
    const many = tableOf([new Array<number>(EXACT_TO + 5).fill(0), Array.from({ length: EXACT_TO + 5 }, () => 0.2 + 0.05 * random.normal())]);
    expect(finish(smallestSubset(many, "r0"))).toMatchObject({ method: "greedy", workloadIds: [expect.any(String)] });
  });
});

describe("orderings", () => {
  it("span the ranks that a row takes, and name where it is another than published", () => {
    const spreads = rankSpreads([
      {
        name: "geometric",
        ranks: ranksOf(
          new Map([
            ["a", 3],
            ["b", 2],
            ["c", 1],
          ]),
        ),
      },
      {
        name: "arithmetic",
        ranks: ranksOf(
          new Map([
            ["a", 2],
            ["b", 3],
            ["c", 1],
          ]),
        ),
      },
    ]);
    expect(spreads).toEqual([
      { setupId: "a", best: 1, worst: 2, otherwise: ["arithmetic"] },
      { setupId: "b", best: 1, worst: 2, otherwise: ["arithmetic"] },
      { setupId: "c", best: 3, worst: 3, otherwise: [] },
    ]);
  });

  it.each(
    casesOf<
      { table: Record<string, number[]> },
      { by_baseline: Record<string, { geometric_mean_of_normalised: Record<string, number>; best_by_geometric: string }> }
    >("e-indices", "normalisation_paradox"),
  )("rank the same whatever the baseline in $id, as arithmetic means of ratios do not (Fleming & Wallace 1986)", ({ input, expected, tolerance }) => {
    const names = Object.keys(input.table);
    // Times: turned so that more is better.
    const table = { ...tableOf(names.map((name) => (input.table[name] as number[]).map((x) => -Math.log(x)))), setupIds: names };
    for (const [base, { geometric_mean_of_normalised: means }] of Object.entries(expected.by_baseline)) {
      const rows = weighIndex(table, testWeights(table.tests), base, 0.03);
      for (const row of rows) expectNear(1 / row.index, means[row.setupId] as number, tolerance, `${base}/${row.setupId}`);
    }
  });

  it("give the arithmetic mean of rates only where all count in one unit and more is better", () => {
    const matrix = buildMatrix(DEMO_TESTS, summariesOf(quickLab(3, { planted: false })), { metric: "result", school: "percentile", powerAt: "device" });
    const tests = DEMO_TESTS.slice(0, 2);
    const found = arithmeticMeans(matrix, SETUPS, tests);
    const rates = tests.map(({ key }) => matrix.cells.get(`grebe-12/${key}`)?.values.reduce((a, b) => a + b, 0) as number);
    expect(found?.means.get("grebe-12")).toBeCloseTo(rates.reduce((a, b) => a + b, 0) / 6, 9);
    expect(arithmeticMeans(matrix, SETUPS, [...tests, { ...(DEMO_TESTS[2] as (typeof DEMO_TESTS)[0]), unit: "points" }])).toBeUndefined();
    expect(arithmeticMeans(matrix, ["nobody"], tests)).toBeUndefined();
  });
});

describe("on paper", () => {
  it.each(casesOf<{ parallel_fraction: number; n: number }, { speedup: number; efficiency: number; limit_speedup: number | null }>("f-scaling", "amdahl"))(
    "follows Amdahl's law in $id",
    ({ input, expected, tolerance }) => {
      const found = amdahl(input.parallel_fraction, input.n);
      expectNear(found.speedup, expected.speedup, tolerance, "speedup");
      expectNear(found.efficiency, expected.efficiency, tolerance, "efficiency");
      expectNear(found.limit, expected.limit_speedup, tolerance, "limit");
    },
  );

  it.each(casesOf<{ time_1: number; n: number; time_n: number }, { serial_fraction: number }>("f-scaling", "karp_flatt"))(
    "finds the serial fraction of $id (Karp & Flatt 1990)",
    ({ input, expected, tolerance }) => expectNear(karpFlatt(input.time_1 / input.time_n, input.n), expected.serial_fraction, tolerance, "serial_fraction"),
  );

  interface Scored {
    score: number;
    ghz: number;
    units: number;
  }
  it.each(
    casesOf<{ a: Scored; b: Scored }, { per_ghz_ratio: number; per_ghz_unit_ratio: number; expected_ratio: number; scaling_efficiency: number | null }>(
      "f-scaling",
      "clock_normalised",
    ),
  )("normalises by clock and units in $id", ({ input: { a, b }, expected, tolerance }) => {
    const part = ({ ghz, units }: Scored) => ({ clockGhz: ghz, units });
    const found = compareWithPaper(part(b), part(a), b.score / a.score);
    expectNear(found?.expected, expected.expected_ratio, tolerance, "expected_ratio");
    expectNear(found?.perGhzRatio, expected.per_ghz_ratio, tolerance, "per_ghz_ratio");
    expectNear(found?.perGhzUnitRatio, expected.per_ghz_unit_ratio, tolerance, "per_ghz_unit_ratio");
    expectNear(found?.efficiency, expected.scaling_efficiency, tolerance, "scaling_efficiency");
  });

  it("keeps the rules of the trade: 853 to 914 MHz is 7.15 % on paper, and says nothing where nothing is known", () => {
    expect(100 * ((compareWithPaper({ clockGhz: 0.914, units: null }, { clockGhz: 0.853, units: null }, 1.06)?.expected as number) - 1)).toBeCloseTo(7.15, 2);
    expect(compareWithPaper({ clockGhz: null, units: 8 }, { clockGhz: 4, units: null }, 1.2)).toBeUndefined();
    expect(() => amdahl(1.2, 4)).toThrow(RangeError);
  });
});

describe("judgeLadder", () => {
  const rung = (level: number, more: Partial<Rung> = {}): Rung => ({
    level,
    testKey: `l${level}@1`,
    averageFps: 100 - 8 * level,
    lowFps: 80 - 8 * level,
    cpuLoad: 0.5 + 0.08 * level,
    responsive: true,
    failed: false,
    ...more,
  });

  it("goes up to the first level that breaks a rule, and says which", () => {
    const { rungs, highest } = judgeLadder([rung(3), rung(1), rung(2), rung(5), rung(4)]);
    expect(highest).toBe(4);
    expect(rungs.map(({ holds }) => holds)).toEqual([true, true, true, true, false]);
    expect(rungs[4]?.breaks).toEqual(["low below 48 fps"]);
  });

  it("is ended by a level that felt sluggish though its number looks fine, whatever holds above it", () => {
    expect(judgeLadder([rung(1), rung(2, { responsive: false }), rung(3)])).toMatchObject({
      highest: 1,
      rungs: [{}, { breaks: ["did not feel responsive"] }, { holds: true }],
    });
  });

  it("takes what is not known for neither kept nor broken, a failure for broken", () => {
    const { rungs, highest } = judgeLadder(
      [rung(1, { cpuLoad: null, responsive: null }), rung(2, { averageFps: null, lowFps: null, failed: true })],
      DEFAULT_LADDER_RULE,
    );
    expect(rungs[0]).toMatchObject({ holds: true, unknown: ["processor load", "how it felt"] });
    expect(rungs[1]).toMatchObject({ holds: false, breaks: ["failed"] });
    expect(highest).toBe(1);
    expect(judgeLadder([rung(1, { averageFps: 20 })]).highest).toBeUndefined();
  });
});

describe("timed work", () => {
  it("keeps the rules of the trade: 52 s to 18 s saves 34 s and is 2.89 × as fast; 3:11 to 1:03 saves 2:08", () => {
    expect(compareTimes(18, 52)).toMatchObject({ secondsSaved: 34, speedup: expect.closeTo(2.89, 2) });
    expect(timeText(compareTimes(63, 191).secondsSaved)).toBe("2:08");
    expect(timeText(3723)).toBe("1:02:03");
    expect(() => compareTimes(0, 5)).toThrow(RangeError);
  });

  it("states both directions with their bases: 127 against 134 is 5.2 % slower, 134 against 127 is 5.5 % faster", () => {
    // As rates: the time per frame of one over the other's.
    const { shorterBy, baselineLongerBy } = compareTimes(1 / 134, 1 / 127);
    expect(100 * shorterBy).toBeCloseTo(5.2, 1);
    expect(100 * baselineLongerBy).toBeCloseTo(5.5, 1);
  });

  it("keeps the settings that nothing beats in both size and time, twins included", () => {
    const of = (id: string, timeS: number, bytes: number) => ({ id, timeS, bytes });
    expect(sizeForTime([of("slow", 90, 10), of("fast", 20, 18), of("bad", 50, 19), of("mid", 40, 12), of("twin", 40, 12)]).map(({ id }) => id)).toEqual([
      "fast",
      "mid",
      "twin",
      "slow",
    ]);
  });
});

describe("pairs never tested together", () => {
  /** A lab of processors and cards with a hidden softened minimum; `without` pairs were never tested. */
  function lab(seed: number, sharpness = 8, without: string[] = []): MeasuredPair[] {
    const random = createRandom(seed);
    const cpus = [120, 160, 210, 260];
    const gpus = [60, 90, 140, 300];
    return cpus.flatMap((c, i) =>
      gpus.flatMap((g, j) =>
        ["game-a", "game-b"].flatMap((family, f) => {
          if (without.includes(`${i}-${j}`)) return [];
          const [cpu, gpu] = [c * (1 + 0.1 * f), g * (1 - 0.15 * f)];
          const fps = softMinimum(cpu, gpu, sharpness) * Math.exp(0.007 * random.normal());
          return [
            {
              cpuId: `c${i}`,
              gpuId: `g${j}`,
              family,
              resolution: "2560x1440",
              limit: cpu < 0.8 * gpu ? "cpu" : gpu < 0.8 * cpu ? "gpu" : "other",
              fps,
              seLog: 0.007,
            } as MeasuredPair,
          ];
        }),
      ),
    );
  }

  it("are predicted within their interval in 90 or more of 100 seeded labs", () => {
    let [inside, total] = [0, 0];
    for (let seed = 1; seed <= 100; seed += 1) {
      const cells = lab(seed, 8, ["1-2"]);
      const model = fitPairs(cells);
      for (const [f, family] of ["game-a", "game-b"].entries()) {
        const found = predictPair(cells, model, { cpuId: "c1", gpuId: "g2", family, resolution: "2560x1440" });
        const truth = softMinimum(160 * (1 + 0.1 * f), 140 * (1 - 0.15 * f), 8);
        total += 1;
        if (found && truth >= (found.low as number) && truth <= (found.high as number)) inside += 1;
      }
    }
    expect(inside / total).toBeGreaterThanOrEqual(0.9);
  });

  it("find how sharply the lower limit decides, and use the plain minimum below four checked pairs", () => {
    expect(fitPairs(lab(3)).sharpness).toBeGreaterThan(5);
    expect(fitPairs(lab(3)).sharpness).toBeLessThan(13);
    expect(fitPairs(lab(3).slice(0, 3))).toEqual({ sharpness: Number.POSITIVE_INFINITY, residual: undefined });
    expect(softMinimum(80, 120, Number.POSITIVE_INFINITY)).toBe(80);
  });

  it("say at least where the part that decides was only ever seen under another limit, and nothing of unknown parts", () => {
    // c3 was only tested with a slow card: it may do more than it was seen to.
    const cells = lab(5).filter(({ cpuId, gpuId }) => cpuId !== "c3" || gpuId === "g0");
    const found = predictPair(cells, fitPairs(cells), { cpuId: "c3", gpuId: "g3", family: "game-a", resolution: "2560x1440" });
    expect(found).toMatchObject({ atLeast: true, limitedBy: "cpu" });
    expect(predictPair(cells, fitPairs(cells), { cpuId: "c3", gpuId: "g9", family: "game-a", resolution: "2560x1440" })).toBeUndefined();
    expect(predictPair(cells, fitPairs(cells), { cpuId: "c1", gpuId: "g1", family: "game-a", resolution: "2560x1440" })?.measuredFps).toBeGreaterThan(80);
  });

  it("rank processors by how much of a card they let through: a slow card needs no fast one", () => {
    const cells = lab(7);
    const model = fitPairs(cells);
    expect(cpusForGpu(cells, model, "g0", "2560x1440").every(({ share }) => share > 0.97)).toBe(true);
    const fast = cpusForGpu(cells, model, "g3", "2560x1440");
    expect(fast.map(({ cpuId }) => cpuId)).toEqual(["c3", "c2", "c1", "c0"]);
    expect(fast[3]?.share).toBeLessThan(0.6);
  });
});
