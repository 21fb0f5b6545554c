// Each check by its definition in the product's table, at and around the edge where it begins to doubt.
import { describe, expect, it } from "vitest";
import { DEMO_TESTS, runOf } from "#sim/summaries";
import type { FramePacing } from "@/core/capture";
import { type Cell, cellKey, type LabTest, type RunSummary, scatterLimit, type Yardstick } from "@/core/cell";
import { fCritical, studentTCritical } from "@/core/stats";
import { type CheckedCell, checkCap, checkGlitch, checkOutlier, checkRunCount, checkScatter, heldRates } from "./cellChecks";
import { DEFAULT_THRESHOLDS, evidenceOf, findingId } from "./finding";
import { checkDuplicates } from "./labChecks";
import { type CheckedCells, checkInversion, checkSwappedSetups, checkUnitSlip, neighbouringResolutions, usualLevels } from "./neighbourChecks";
import { checkAmbient, checkThrottling, checkVideoMemory } from "./sensorChecks";

const TEST = DEMO_TESTS[0] as LabTest;
/** A usual spread of 1.2 % known from many runs. */
const USUAL: Yardstick = { s2: 0.012 ** 2, df: 60 };
const LOWS: Yardstick = { s2: 0.022 ** 2, df: 60 };

interface Known {
  setupId?: string;
  test?: LabTest;
  yardstick?: Yardstick | undefined;
  runs?: (Partial<RunSummary> & { low?: number })[];
}

/** A cell of runs with these rates; `runs` adds what else is known of each. */
function cellOf(rates: readonly number[], known: Known = {}): CheckedCell {
  const { setupId = "card", test = TEST } = known;
  const runs = rates.map((rate, i) => {
    const { low, ...more } = known.runs?.[i] ?? {};
    const lows = { percentileFps: low ?? rate * 0.7, tailMeanFps: low ?? rate * 0.65, timeShareFps: low ?? rate * 0.66 };
    return runOf({
      id: `${setupId}-${test.id}-${i + 1}`,
      setupId,
      testKey: test.key,
      number: i + 1,
      frames: { frames: Math.round(rate * 60), durationS: 60, averageFps: rate, low1: lows, low01: lows },
      ...more,
    });
  });
  const valid = runs.filter(({ status }) => status === "valid").map((run) => ({ run, value: run.frames?.averageFps as number }));
  const cell: Cell = { key: cellKey(setupId, test.key), setupId, testKey: test.key, runs, valid, values: valid.map(({ value }) => value) };
  return { cell, test, yardstick: "yardstick" in known ? known.yardstick : USUAL, lowYardstick: LOWS, thresholds: DEFAULT_THRESHOLDS };
}

const asCells = (cells: readonly CheckedCell[]): CheckedCells => {
  const rows = new Map<string, Map<string, CheckedCell>>();
  for (const one of cells) rows.set(one.cell.setupId, new Map([...(rows.get(one.cell.setupId) ?? []), [one.test.key, one]]));
  return rows;
};

describe("too few runs", () => {
  it("counts valid runs only, against what the suite asks for", () => {
    expect(checkRunCount(cellOf([100, 101, 99]), 3)).toBeUndefined();
    const lost = cellOf([100, 101, 99], { runs: [{}, { status: "failed", reason: "driver reset" }] });
    expect(checkRunCount(lost, 3)).toMatchObject({
      sentence: "2 of 3 runs are valid (run 2 failed: driver reset).",
      numbers: { valid_runs: 2, wanted_runs: 3 },
    });
    expect(checkRunCount(lost, 2)).toBeUndefined();
  });
});

describe("outlier run", () => {
  /** How far off a run must be for t at α ÷ n, by the formula of the product's table. */
  const edge = (n: number) => studentTCritical(DEFAULT_THRESHOLDS.outlierAlpha / n / 2, USUAL.df) * Math.sqrt(USUAL.s2 * (1 + 1 / (n - 1)));

  it("begins exactly at t for α ÷ n against the mean of the others", () => {
    for (const n of [3, 4, 5, 8]) {
      const others = Array<number>(n - 1).fill(100);
      const at = (logs: number) => checkOutlier(cellOf([...others, 100 * Math.exp(logs)]));
      expect(at(edge(n) * 0.999), `${n} runs, just inside`).toBeUndefined();
      expect(at(edge(n) * 1.001), `${n} runs, just outside`).toMatchObject({ check: "outlier run", runId: `card-${TEST.id}-${n}` });
      expect(at(-edge(n) * 1.001), "below as above").toMatchObject({ check: "outlier run" });
    }
  });

  it("never doubts what is 2 % off or less, however well the test repeats", () => {
    const fine: Yardstick = { s2: 0.001 ** 2, df: 60 };
    expect(checkOutlier(cellOf([100, 100, 101.9], { yardstick: fine }))).toBeUndefined();
    expect(checkOutlier(cellOf([100, 100, 102.1], { yardstick: fine }))).toBeDefined();
  });

  it("says nothing of two runs, of a test without a known spread, or where the others disagree as well", () => {
    expect(checkOutlier(cellOf([100, 60]))).toBeUndefined();
    expect(checkOutlier(cellOf([100, 100, 60], { yardstick: undefined }))).toBeUndefined();
    expect(checkOutlier(cellOf([100, 112, 60]))).toBeUndefined();
  });

  it("doubts the same run whatever the rate is counted in", () => {
    for (const unit of [0.001, 1, 60, 1e6]) {
      const found = checkOutlier(cellOf([100, 101, 88].map((rate) => rate * unit)));
      expect(found?.runId).toBe(`card-${TEST.id}-3`);
      expect(found?.numbers.off_ratio).toBeCloseTo(88 / Math.sqrt(100 * 101) - 1, 9);
    }
  });
});

describe("scatter", () => {
  it("begins where s² ÷ s_t² passes F at α", () => {
    const limit = scatterLimit(3, USUAL, DEFAULT_THRESHOLDS.scatterAlpha);
    expect(limit).toBeCloseTo(Math.sqrt(USUAL.s2 * fCritical(DEFAULT_THRESHOLDS.scatterAlpha, 2, USUAL.df)), 12);
    // Three values a, 1, 1/a have the standard deviation ln a on logs.
    const spread = (s: number) => checkScatter(cellOf([100 * Math.exp(s), 100, 100 * Math.exp(-s)]), undefined);
    expect(spread(limit * 0.999)).toBeUndefined();
    expect(spread(limit * 1.001)).toMatchObject({ check: "scatter", numbers: { limit_ratio: limit } });
  });

  it("is judged without the run that was found to be an outlier", () => {
    const one = cellOf([100, 100.5, 80]);
    const outlier = checkOutlier(one);
    expect(outlier).toBeDefined();
    expect(checkScatter(one, outlier)).toBeUndefined();
    expect(checkScatter(one, undefined)).toBeDefined();
  });
});

describe("glitch", () => {
  it("is a low that falls while the average agrees, by the outlier's test on lows", () => {
    const lows = (low: number) => checkGlitch(cellOf([100, 100, 100], { runs: [{ low: 70 }, { low: 70 }, { low }] }));
    const edge = studentTCritical(DEFAULT_THRESHOLDS.glitchAlpha / 3 / 2, LOWS.df) * Math.sqrt(LOWS.s2 * 1.5);
    const least = Math.max(edge, -Math.log1p(-DEFAULT_THRESHOLDS.glitchLeastOff));
    expect(lows(70 * Math.exp(-least * 0.999))).toBeUndefined();
    expect(lows(70 * Math.exp(-least * 1.001))).toMatchObject({ check: "glitch", runId: `card-${TEST.id}-3` });
    expect(lows(42)?.sentence).toContain("The 1 % low of run 3 is 40.0 % below that of the other 2");
  });

  it("has no harm in a low that rises", () => {
    expect(checkGlitch(cellOf([100, 100, 100], { runs: [{ low: 50 }, { low: 50 }, { low: 95 }] }))?.runId).not.toBe(`card-${TEST.id}-3`);
  });
});

describe("frame cap", () => {
  const held = (shares: Partial<FramePacing> = {}): FramePacing => ({
    intervalMs: 1000 / 60,
    shareWithin1Percent: 0.6,
    shareWithin10Percent: 0.95,
    shareFaster: 0.001,
    ...shares,
  });
  const capped = (shares: Partial<FramePacing>) => checkCap(cellOf([60, 60, 60], { runs: [1, 2, 3].map(() => ({ pacing: held(shares) })) }), new Map());

  it("needs both a share at one interval and an edge that almost nothing passes", () => {
    expect(capped({})?.numbers.cap_fps).toBeCloseTo(60, 9);
    expect(capped({ shareWithin1Percent: DEFAULT_THRESHOLDS.capShareWithin1Percent * 0.99 })).toBeUndefined();
    expect(capped({ shareFaster: DEFAULT_THRESHOLDS.capShareFaster * 1.01 })).toBeUndefined();
    expect(capped({ shareWithin10Percent: 0.5 })?.sentence).toContain("look partly capped");
  });

  it("takes half the sign where another cell of the workload is surely held at the same rate, and only there", () => {
    const weak = held({ shareWithin1Percent: DEFAULT_THRESHOLDS.capShareWithin1Percent * 0.6, shareFaster: DEFAULT_THRESHOLDS.capShareFaster * 1.5 });
    const here = cellOf([60, 60, 60], { runs: [1, 2, 3].map(() => ({ pacing: weak })) });
    const strong = (rate: number) =>
      cellOf([rate, rate, rate], { setupId: "other", runs: [1, 2, 3].map(() => ({ pacing: held({ intervalMs: 1000 / rate }) })) });
    expect(checkCap(here, heldRates([here]))).toBeUndefined();
    expect(checkCap(here, heldRates([here, strong(60)]))?.sentence).toContain("other cells of this workload are level there");
    expect(checkCap(here, heldRates([here, strong(75)]))).toBeUndefined();
  });

  it("says nothing of a run without frames or with fewer than a hundred", () => {
    const short = cellOf([60], {
      runs: [{ pacing: held(), frames: { ...(cellOf([60]).cell.runs[0]?.frames as NonNullable<RunSummary["frames"]>), frames: 99 } }],
    });
    expect(checkCap(short, new Map())).toBeUndefined();
    expect(checkCap(cellOf([60, 61]), new Map())).toBeUndefined();
  });
});

describe("resolution inversion", () => {
  const at = (resolution: string, rate: number) => cellOf([rate, rate, rate], { test: { ...TEST, id: resolution, key: `${resolution}@1`, resolution } });

  it("is more pixels running faster than fewer beyond t, and by more than 2 %", () => {
    const edge = studentTCritical(DEFAULT_THRESHOLDS.inversionAlpha, USUAL.df) * Math.sqrt(USUAL.s2 * (2 / 3));
    const gain = (logs: number) => checkInversion(at("1920x1080", 100), at("2560x1440", 100 * Math.exp(logs)));
    expect(gain(edge * 0.999)).toBeUndefined();
    expect(gain(edge * 1.001)).toMatchObject({ check: "resolution inversion", testKey: "2560x1440@1", fits: { testKey: "1920x1080@1" } });
    expect(checkInversion(at("1920x1080", 100), at("2560x1440", 70))).toBeUndefined();
  });

  it("pairs each resolution of a test with the next larger one, at the same settings only", () => {
    const tests = ["3840x2160", "1920x1080", "2560x1440"].map((resolution) => ({ ...TEST, key: resolution, id: resolution, resolution }));
    const pairs = neighbouringResolutions([...tests, { ...TEST, key: "rt", id: "rt", resolution: "2560x1440", settings: "ray tracing high" }]);
    expect(pairs.map(([a, b]) => [a.key, b.key])).toEqual([
      ["1920x1080", "2560x1440"],
      ["2560x1440", "3840x2160"],
    ]);
  });
});

describe("wrong cell, two setups exchanged", () => {
  const tests = Array.from({ length: 8 }, (_, i): LabTest => ({ ...TEST, id: `w${i}`, key: `w${i}@1`, workloadId: `w${i}`, workloadName: `w${i}` }));
  const lab = (rateOf: (setupId: string, i: number) => number) =>
    asCells(
      ["fast", "slow"].flatMap((setupId) =>
        tests.map((test, i) =>
          cellOf(
            [0.998, 1, 1.002].map((f) => f * rateOf(setupId, i)),
            { setupId, test },
          ),
        ),
      ),
    );
  const swapped = (cells: CheckedCells) => checkSwappedSetups(cells, ["fast", "slow"], tests, new Set(), DEFAULT_THRESHOLDS).map(({ testKey }) => testKey);

  it("finds the one test in which a lead of 10 % or more is turned over", () => {
    for (const lead of [1.1, 1.25, 1.6]) {
      const straight = (setupId: string) => (setupId === "fast" ? 100 * lead : 100);
      expect(swapped(lab(straight))).toEqual([]);
      expect(swapped(lab((setupId, i) => straight(i === 5 ? (setupId === "fast" ? "slow" : "fast") : setupId))), `lead of ${lead}`).toEqual(["w5@1"]);
    }
  });

  it("is no doubt where parts are level, or where each suits some tests", () => {
    expect(swapped(lab((_, i) => 100 + 7 * i))).toEqual([]);
    expect(swapped(lab((setupId, i) => (setupId === "fast" ? 100 * (1.12 + 0.09 * Math.sin(9 * i)) : 100)))).toEqual([]);
  });

  it("leaves out cells that another check has explained", () => {
    const cells = lab((setupId, i) => ((setupId === "fast") !== (i === 2) ? 130 : 100));
    expect(swapped(cells)).toEqual(["w2@1"]);
    expect(checkSwappedSetups(cells, ["fast", "slow"], tests, new Set(["fast/w2@1"]), DEFAULT_THRESHOLDS)).toEqual([]);
  });
});

describe("unit slip", () => {
  const around = ["a", "b", "c", "d"].map((setupId, i) => cellOf([100 + 10 * i, 100 + 10 * i], { setupId }));

  it("knows a factor of 1,000 or 60 either way, against the runs beside it or the other setups", () => {
    for (const factor of [1000, 1 / 1000, 60, 1 / 60]) {
      const beside = cellOf([100, 100 * factor, 101], { setupId: "e" });
      expect(checkUnitSlip(beside, usualLevels(asCells([...around, beside])))?.runId, `factor ${factor}`).toBe(`e-${TEST.id}-2`);
    }
    // A whole cell that slipped: only its neighbours tell. The setup's other tests say how fast it is.
    const tests = [0, 1, 2, 3].map((i): LabTest => ({ ...TEST, id: `t${i}`, key: `t${i}@1` }));
    const rows = ["a", "b", "c"].flatMap((setupId) =>
      tests.map((test) => cellOf(setupId === "c" && test.id === "t3" ? [6000, 6060] : [100, 101], { setupId, test })),
    );
    const whole = rows.at(-1) as CheckedCell;
    expect(checkUnitSlip(whole, usualLevels(asCells(rows)))?.sentence).toContain("60 times too large");
  });

  it("knows frames per second where milliseconds belong, and leaves an honest half or double alone", () => {
    const slipped = cellOf([125, 8, 125], { setupId: "e" });
    expect(checkUnitSlip(slipped, usualLevels(asCells([...around, slipped])))?.sentence).toContain("frames per second where milliseconds belong");
    for (const rate of [50, 200, 30]) {
      const honest = cellOf([100, rate, 100], { setupId: "e" });
      expect(checkUnitSlip(honest, usualLevels(asCells([...around, honest])))).toBeUndefined();
    }
  });
});

describe("duplicate", () => {
  const run = (id: string, content: string | null, more: Partial<RunSummary> = {}) =>
    runOf({ id, setupId: "card", testKey: TEST.key, number: 1, content, ...more });
  const inReview = new Set([`card/${TEST.key}`]);

  it("names the later of two runs with one trace as the copy, and needs a trace to judge by", () => {
    const earlier = run("b", "x", { startedAt: "2026-11-02T09:00:00.000Z" });
    const later = run("a", "x", { startedAt: "2026-11-02T10:00:00.000Z", number: 2 });
    expect(checkDuplicates([later, earlier], inReview)).toMatchObject([
      { runId: "a", runIds: ["a", "b"], sentence: expect.stringContaining("as run 1 of this cell") },
    ]);
    expect(checkDuplicates([run("a", null), run("b", null)], inReview)).toEqual([]);
    expect(checkDuplicates([run("a", "x"), run("b", "x", { status: "discarded" })], inReview)).toEqual([]);
  });

  it("finds a copy of a run outside the review too, and only doubts what is in it", () => {
    const foreign = run("b", "x", { setupId: "elsewhere", startedAt: "2026-11-01T09:00:00.000Z" });
    expect(checkDuplicates([run("a", "x", { startedAt: "2026-11-02T09:00:00.000Z" }), foreign], inReview)).toMatchObject([{ runId: "a" }]);
    expect(checkDuplicates([run("a", "x", { startedAt: "2026-10-02T09:00:00.000Z" }), foreign], inReview)).toEqual([]);
  });
});

describe("sensors", () => {
  const facts = (known: Partial<NonNullable<RunSummary["facts"]>>): NonNullable<RunSummary["facts"]> => ({
    gpuLoad: null,
    cpuLoad: null,
    gpuGhz: null,
    cpuGhz: null,
    vramGib: null,
    ambientC: null,
    hottestGpuC: null,
    hottestCpuC: null,
    throttling: null,
    ...known,
  });

  it("throttling begins below 97 % of the clock's earlier median", () => {
    const at = (clockRatio: number) =>
      checkThrottling(cellOf([100, 100], { runs: [{ facts: facts({ throttling: { part: "gpu", clockRatio, fromS: 31, temperatureC: 83 } }) }] }));
    expect(at(DEFAULT_THRESHOLDS.throttlingClockRatio)).toBeUndefined();
    expect(at(0.95)?.sentence).toBe("In 1 of 2 runs the graphics card loses clock at its ceiling: 5.0 % below its median before, from 31 s of run 1 at 83 °C.");
  });

  it("memory is full from 95 % of the capacity on, and only a doubt where the lows collapse as well", () => {
    const full = (gib: number, low: number) => {
      const one = cellOf([100, 100], { setupId: "small", runs: [1, 2].map(() => ({ low, facts: facts({ vramGib: gib }) })) });
      return checkVideoMemory(one, 8, asCells([one, cellOf([120, 120], { setupId: "b" }), cellOf([90, 90], { setupId: "c" })]), DEFAULT_THRESHOLDS);
    };
    expect(full(7.59, 30)).toBeUndefined();
    expect(full(7.6, 30)).toMatchObject({ check: "video memory full", numbers: { in_use_ratio: 0.95 } });
    // The others' lows are 70 % of their averages: above three quarters of that nothing has collapsed.
    expect(full(8, 53)).toBeUndefined();
    expect(full(8, 52)).toBeDefined();
  });

  it("says nothing of memory where the capacity or the use is not known", () => {
    const one = cellOf([100, 100], { runs: [1, 2].map(() => ({ low: 20, facts: facts({ vramGib: 8 }) })) });
    const cells = asCells([one, cellOf([100, 100], { setupId: "b" })]);
    expect(checkVideoMemory(one, null, cells, DEFAULT_THRESHOLDS)).toBeUndefined();
    expect(checkVideoMemory(cellOf([100, 100], { runs: [{ low: 20 }] }), 8, cells, DEFAULT_THRESHOLDS)).toBeUndefined();
  });

  it("the room may move by 2 °C within a comparison of temperatures, and as it likes in one of rates", () => {
    const soak: LabTest = { ...TEST, kind: "soak", unit: "°C", better: "lower" };
    const rooms = (test: LabTest, ...celsius: number[]) =>
      checkAmbient(
        test,
        celsius.map((ambientC, i) => cellOf([70, 71], { setupId: `cooler-${i}`, test, runs: [{ ambientC }, { ambientC }] })),
        DEFAULT_THRESHOLDS,
      );
    expect(rooms(soak, 21, 22.5, 23)).toBeUndefined();
    expect(rooms(soak, 21, 21.2, 23.1)).toMatchObject({ check: "ambient", setupId: "cooler-2", numbers: { spread_c: expect.closeTo(2.1, 9) } });
    expect(rooms(TEST, 18, 26)).toBeUndefined();
  });
});

describe("the identity of a doubt", () => {
  it("is a slug of check and subject, the same for the same doubt", () => {
    expect(findingId("too few runs", ["Card-A", "mill-1440@2"])).toBe("too-few-runs.card-a.mill-1440-v2");
    expect(findingId("outlier run", ["r1"])).not.toBe(findingId("glitch", ["r1"]));
  });

  it("rests on runs, their states and values, in any order", () => {
    const { runs } = cellOf([100, 101, 99]).cell;
    const value = (run: RunSummary) => run.frames?.averageFps;
    expect(evidenceOf(runs, value)).toBe(evidenceOf([...runs].reverse(), value));
    expect(evidenceOf(runs, value)).not.toBe(evidenceOf(runs.slice(1), value));
    expect(
      evidenceOf(
        runs.map((run, i) => (i === 1 ? { ...run, status: "discarded" as const } : run)),
        value,
      ),
    ).not.toBe(evidenceOf(runs, value));
  });
});
