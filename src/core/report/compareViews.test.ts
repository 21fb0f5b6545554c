import { describe, expect, it } from "vitest";
import { runOf } from "#sim/summaries";
import { fitPairs, predictPair } from "@/core/compare";
import { smallModel } from "../../../tests/helpers/smallModel";
import { groupsOf, matrixOf, rankReview } from "./comparison";
import { differingProperties, duelOf, duelWords, foreignLimits, oneFactorPairs, partIsLimit } from "./duel";
import { familyOf, laddersOf, measuredPairs, moneyAgainstSpeed, perClockOf, timedWorkOf, upliftsOf } from "./machines";
import { failureCosts, orderingsOf, robustnessOf, sparseIndex } from "./orders";
import type { ReviewModel, ReviewSetup } from "./reviewModel";
import { rowChartSvg } from "./rowChartSvg";

const model = smallModel();
const matrices = (of: ReviewModel) => ({ result: matrixOf(of, "result", "percentile"), low: matrixOf(of, "low1", "percentile") });
const setupOf = (id: string) => model.setups.find((one) => one.id === id) as ReviewSetup;

/** The model with a timed test and a synthetic beside its games. */
function withWork(): ReviewModel {
  const [first] = model.tests;
  const extra = [
    {
      ...first,
      key: "reel-a@1",
      id: "reel-a",
      workloadId: "reel",
      workloadName: "Reel",
      name: "Reel, quick",
      group: "production",
      kind: "time",
      unit: "s",
      better: "lower",
      resolution: null,
      mediaS: 600,
    },
    {
      ...first,
      key: "reel-b@1",
      id: "reel-b",
      workloadId: "reel",
      workloadName: "Reel",
      name: "Reel, small",
      group: "production",
      kind: "time",
      unit: "s",
      better: "lower",
      resolution: null,
      mediaS: 600,
    },
    {
      ...first,
      key: "wheel@1",
      id: "wheel",
      workloadId: "wheel",
      workloadName: "Wheel",
      name: "Wheel",
      group: "synthetic",
      kind: "score",
      unit: "points",
      better: "higher",
      resolution: null,
    },
  ].map((test, i) => ({ ...test, position: 100 + i })) as ReviewModel["tests"];
  const values: Record<string, Record<string, [number, number | null]>> = {
    base: { "reel-a@1": [191, 600e6], "reel-b@1": [382, 400e6], "wheel@1": [1000, null] },
    fast: { "reel-a@1": [63, 600e6], "reel-b@1": [140, 650e6], "wheel@1": [1500, null] },
  };
  const runs = Object.entries(values).flatMap(([setupId, tests]) =>
    Object.entries(tests).flatMap(([testKey, [result, outputBytes]]) =>
      [1, 2].map((number) => runOf({ id: `${setupId}-${testKey}-${number}`, setupId, testKey, number, result, outputBytes })),
    ),
  );
  return { ...model, tests: [...model.tests, ...extra], runs: [...model.runs, ...runs] };
}

describe("duelOf", () => {
  it("sets two rows against each other in every test, largest lead first, with a verdict each and an index at each resolution", () => {
    const duel = duelOf(model, matrices(model), "fast", "base");
    expect(duel?.lines).toHaveLength(12);
    expect([duel?.wins, duel?.level, duel?.losses, duel?.open]).toEqual([12, 0, 0, 0]);
    const ratios = duel?.lines.map(({ ratio }) => ratio.ratio) as number[];
    expect(ratios).toEqual([...ratios].sort((a, b) => b - a));
    expect(duel?.byResolution.map(({ tests }) => tests)).toEqual([4, 4, 4]);
    expect(duel?.overall.index).toBeCloseTo(1.25, 1);
    const turned = duelOf(model, matrices(model), "base", "fast");
    expect((turned?.overall.index as number) * (duel?.overall.index as number)).toBeCloseTo(1, 12);
  });

  it("says both directions with their bases, and seconds and times for timed work", () => {
    const all = withWork();
    const words = duelWords(duelOf(all, matrices(all), "fast", "base", ({ group }) => group === "production") as NonNullable<ReturnType<typeof duelOf>>);
    expect(words[0]).toMatch(/^Card fast is \d+\.\d % faster than Card base; Card base is \d+\.\d % slower than Card fast\.$/);
    expect(words[1]).toBe("In Reel, small, Card fast saves 4:02 (6:22 → 2:20): 2.73 times as fast.");
  });

  it("has nothing to say of a row with itself or of rows without a common test", () => {
    expect(duelOf(model, matrices(model), "fast", "fast")).toBeUndefined();
    expect(duelOf(model, matrices(model), "fast", "base", () => false)).toBeUndefined();
  });
});

describe("one factor", () => {
  it("is found and named by itself: exactly one property differs, else the pair is not offered", () => {
    expect(differingProperties(setupOf("fast"), setupOf("base"))).toEqual([{ property: "part:gpu", a: "Card fast", b: "Card base" }]);
    expect(oneFactorPairs(model)).toHaveLength(3);
    const changed = {
      ...model,
      setups: model.setups.map((one) => (one.id === "near" ? { ...one, properties: { ...one.properties, power_plan: "highest" } } : one)),
    };
    expect(oneFactorPairs(changed).map(({ aId, bId }) => [aId, bId])).toEqual([["fast", "base"]]);
  });
});

describe("limits in comparisons", () => {
  it("mark tests in which something else than the part under test held a row", () => {
    const [test] = model.tests;
    const limit = (what: "cpu" | "gpu") => ({ setupId: "fast", testKey: test?.key as string, limit: what, confidence: "sure" as const, reasons: [] });
    expect(partIsLimit(setupOf("fast"), limit("gpu"))).toBe(true);
    expect(partIsLimit(setupOf("fast"), limit("cpu"))).toBe(false);
    expect(partIsLimit(setupOf("fast"), undefined)).toBe(true);
    expect([...foreignLimits({ ...model, limits: [limit("cpu")] })]).toEqual([[test?.key, ["fast"]]]);
  });
});

describe("groups", () => {
  it("are kept apart: work and synthetics never enter the index of the games", () => {
    const all = withWork();
    expect(groupsOf(all)).toEqual(["games", "production", "synthetic"]);
    const rank = (group?: string) => rankReview(all, matrices(all).result, { baselineId: "base", group });
    expect(rank().testKeys).toEqual(rankReview(model, matrices(model).result, { baselineId: "base" }).testKeys);
    expect(rank("production").rows.find(({ setupId }) => setupId === "fast")?.index).toBeCloseTo(Math.sqrt((191 / 63) * (382 / 140)), 9);
    // A group without resolutions is not emptied by the resolution that the games are looked at.
    expect(rankReview(all, matrices(all).result, { baselineId: "base", group: "production", resolution: "2560x1440" }).testKeys).toHaveLength(2);
  });
});

describe("orderings of a review", () => {
  it("name every way of counting and span the ranks; a clear order holds under all of them", () => {
    const { orderings, spreads } = robustnessOf(model, { baselineId: "base" });
    expect(orderings.map(({ name }) => name)).toEqual([
      "as published: geometric mean of averages",
      "1 % low by percentile",
      "1 % low by tail mean",
      "1 % low by time share",
      "medians of the runs",
      "arithmetic mean of fps",
      "at 1920 × 1080 only",
      "at 2560 × 1440 only",
      "at 3840 × 2160 only",
      "without mill",
      "without quay",
      "without loft",
      "without weir",
    ]);
    expect(spreads.find(({ setupId }) => setupId === "fast")).toMatchObject({ best: 1, worst: 1, otherwise: [] });
    expect(orderingsOf({ ...model, runs: [] }, { baselineId: "base" })).toEqual([]);
  });

  it("fit a sparse matrix over the tests that some row lacks, and count what is filled in", () => {
    const [gone] = model.tests;
    const sparse = { ...model, runs: model.runs.filter(({ setupId, testKey }) => setupId !== "near" || testKey !== gone?.key) };
    const fit = sparseIndex(sparse, matrixOf(sparse, "result", "percentile"), { baselineId: "base" });
    expect(fit.ok && fit.value.rows.map(({ row, filled }) => [row, filled])).toEqual([
      ["base", 0],
      ["fast", 0],
      ["near", 1],
    ]);
    expect(fit.ok && Math.exp(fit.value.rows[1]?.log as number)).toBeCloseTo(1.25, 1);
    expect(rankReview(sparse, matrixOf(sparse, "result", "percentile"), { baselineId: "base" }).testKeys).toHaveLength(11);
  });

  it("say what a failed test would have cost its row: there it counts like the slowest that finished", () => {
    const [test] = model.tests;
    const failed = {
      ...model,
      runs: model.runs.map((run) =>
        run.setupId === "fast" && run.testKey === test?.key ? { ...run, status: "failed" as const, reason: "crashed", frames: null } : run,
      ),
    };
    const [cost] = failureCosts(failed, matrixOf(failed, "result", "percentile"), { baselineId: "base" });
    expect(cost).toMatchObject({ setupId: "fast", testKeys: [test?.key] });
    expect(cost?.asSlowest).toBeLessThan(cost?.index as number);
    expect(failureCosts(model, matrices(model).result, { baselineId: "base" })).toEqual([]);
  });
});

describe("machines", () => {
  it("give the pairs that predictions are made from, with limits; streamed rungs are none", () => {
    const limited = {
      ...model,
      labSetups: model.setups.map(({ id, label }) => ({ id, label, cpuId: "octet", gpuId: `part-${id}` })),
      limits: model.tests.map(({ key }) => ({ setupId: "base", testKey: key, limit: "gpu" as const, confidence: "sure" as const, reasons: [] })),
    };
    const pairs = measuredPairs(limited, matrices(limited).result);
    expect(pairs).toHaveLength(36);
    expect(pairs.filter(({ limit }) => limit === "gpu")).toHaveLength(12);
    const [test] = model.tests;
    const pair = { cpuId: "octet", gpuId: "part-base", family: familyOf(test as (typeof model.tests)[number]), resolution: "2560x1440" };
    // Its own measurement is never used: without another processor for this card nothing can be said.
    expect(predictPair(pairs, fitPairs(pairs), pair)).toBeUndefined();
  });

  it("set uplifts from what people own beside what clock and units allow, and by what was the limit", () => {
    const facts = (ghz: string) => [{ key: "boost_clock", value: ghz, unit: "GHz" }];
    const owned = {
      ...model,
      setups: model.setups.map((one) => ({ ...one, role: one.id === "base" ? ("owned" as const) : one.role, facts: facts(one.id === "base" ? "2" : "2.2") })),
      limits: model.tests.slice(0, 6).map(({ key }) => ({ setupId: "fast", testKey: key, limit: "gpu" as const, confidence: "sure" as const, reasons: [] })),
    };
    const fast = upliftsOf(owned, {}).find(({ setup }) => setup.id === "fast");
    expect(fast?.paper?.expected).toBeCloseTo(1.1, 12);
    expect(fast?.ratio).toBeCloseTo(1.25, 1);
    expect(fast?.byLimit).toMatchObject([{ limit: "own", tests: 6 }]);
    const synthetic = withWork();
    expect(perClockOf({ ...synthetic, setups: owned.setups }).map(({ setupId, perGhz }) => [setupId, Math.round(perGhz)])).toEqual([
      ["base", 500],
      ["fast", 682],
    ]);
  });

  it("tell timed work: speed-up, seconds saved, realtime factor, and the sizes that nothing beats", () => {
    const lines = timedWorkOf(withWork(), "base");
    expect(lines.find(({ setupId, test }) => setupId === "fast" && test.id === "reel-a")).toMatchObject({
      speedup: 191 / 63,
      secondsSaved: 128,
      realtime: expect.closeTo(600 / 63, 9),
      onFrontier: true,
    });
    expect(lines.filter(({ onFrontier }) => onFrontier).map(({ setupId, test }) => `${setupId} ${test.id}`)).toEqual([
      "base reel-a",
      "base reel-b",
      "fast reel-a",
    ]);
  });

  it("set the price ratio against the ratios of speed, times turned round", () => {
    const all = withWork();
    const [region] = all.regions;
    const fast = moneyAgainstSpeed(all, "base", region as NonNullable<typeof region>).find(({ setupId }) => setupId === "fast");
    expect(fast?.ratios.find(({ test }) => test.id === "reel-a")?.ratio).toBeCloseTo(191 / 63, 9);
    expect(fast?.priceRatio).toBeGreaterThan(0);
  });

  it("climb the ladders of a review with averages, lows, loads and opinions of its runs", () => {
    const rungs = model.tests.slice(0, 3).map((test, i) => ({ ...test, ladder: { id: "live", level: i + 1 } }));
    const keys = rungs.map(({ key }) => key);
    const runs = model.runs.map((run) => ({ ...run, cpuLoad: 0.5 + 0.2 * keys.indexOf(run.testKey), opinion: run.testKey === keys[2] ? 2 : 4 }));
    const [ladder] = laddersOf({ ...model, tests: rungs, runs }, { averageFps: 30, lowFps: 20, mostCpuLoad: 0.95 });
    expect(ladder?.levels.map(({ level }) => level)).toEqual([1, 2, 3]);
    expect(ladder?.rows.find(({ setupId }) => setupId === "fast")).toMatchObject({
      highest: 2,
      rungs: [{ holds: true }, { holds: true }, { breaks: ["did not feel responsive"] }],
    });
  });
});

describe("rowChartSvg", () => {
  it("keeps text as text, escapes names, states a cut scale and prints its conditions", () => {
    const svg = rowChartSvg({
      title: 'A <b> & "c"',
      subtitle: "s",
      unit: "index",
      min: 80,
      max: 120,
      major: [80, 100, 120],
      minor: [90, 110],
      base: 100,
      band: [97, 103],
      rows: [{ label: "Card one", value: 104, low: 102, high: 106, choiceLow: 99, choiceHigh: 110, ring: 101, ticks: [90, 115], text: "104.0" }],
      conditions: ["2560 × 1440; 95 % run noise"],
    });
    expect(svg).toContain("<title>A &lt;b&gt; &amp; &quot;c&quot;</title>");
    expect(svg).toContain(">Card one</text>");
    expect(svg).toContain("The scale is cut; it does not begin at zero.");
    expect(svg).toContain("2560 × 1440; 95 % run noise");
    expect(svg).toContain('stroke-dasharray="1.5 3"');
    expect(svg.match(/<(line|circle|path|rect|text|title|desc)/g)?.length).toBeGreaterThan(15);
  });
});
