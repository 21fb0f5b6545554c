import { describe, expect, it } from "vitest";
import { smallModel } from "../../../tests/helpers/smallModel";
import { type Computation, checkClaim, suggestClaims } from "./claims";
import {
  commonPowerAt,
  gapsOf,
  matrixOf,
  meanPowerW,
  middleResolution,
  rankReview,
  resolutionsOf,
  setupPrice,
  setupsWithRuns,
  valueOfReview,
} from "./comparison";
import { columnDecimals, decimalsFor, figure, percentDifference, signedPercent } from "./figures";
import type { ReviewModel } from "./reviewModel";
import { buildSnapshot, migrateSnapshot } from "./snapshot";

const NO = (model: ReviewModel) => model.regions[0] as ReviewModel["regions"][number];
const valueIn = (model: ReviewModel, change: Partial<Parameters<typeof valueOfReview>[2]> = {}) =>
  valueOfReview(model, matrixOf(model, "result", "percentile"), {
    baselineId: "base",
    resolution: "2560x1440",
    region: NO(model),
    rule: "street_lowest",
    ...change,
  });

describe("figure", () => {
  it("gives as many digits as a number deserves, with a real minus and thin spaces from five digits on", () => {
    expect([figure(1234.4), figure(12345.6), figure(61.26), figure(3.4567), figure(-4.96, 1), figure(-0.04, 1), figure(1234567, 0)]).toEqual([
      "1234",
      "12\u2009346",
      "61.3",
      "3.46",
      "−5.0",
      "0.0",
      "1\u2009234\u2009567",
    ]);
  });

  it("takes as many decimals as the uncertainty allows", () => {
    expect([decimalsFor(0.04), decimalsFor(0.6), decimalsFor(3), decimalsFor(undefined), decimalsFor(0.04, 1)]).toEqual([2, 1, 0, 1, 1]);
    expect(
      columnDecimals([
        { index: 1, low: 1, high: 1 },
        { index: 1.2, low: 1.19, high: 1.21 },
      ]),
    ).toBe(0);
    expect(columnDecimals([{ index: 1.2, low: 1.195, high: 1.205 }])).toBe(1);
    expect(columnDecimals([])).toBe(1);
  });

  it("words a ratio with its base, and signs a difference", () => {
    expect([percentDifference(1.171), percentDifference(0.87), percentDifference(2, ["more", "less"])]).toEqual([
      "17.1 % faster",
      "13.0 % slower",
      "100.0 % more",
    ]);
    expect([signedPercent(1.171), signedPercent(0.951), signedPercent(1)]).toEqual(["+17.1 %", "−4.9 %", "0.0 %"]);
  });
});

describe("a review's comparison", () => {
  const model = smallModel();

  it("lists resolutions by pixels and quotes the middle one", () => {
    expect(resolutionsOf(smallModel({ tests: [...model.tests].reverse() }))).toEqual(["1920x1080", "2560x1440", "3840x2160"]);
    expect(middleResolution(model)).toBe("2560x1440");
    expect(middleResolution(smallModel({ tests: [] }))).toBeUndefined();
  });

  it("ranks the lows by the school asked for", () => {
    const low = (school: "percentile" | "tail_mean") =>
      rankReview(model, matrixOf(model, "low1", school), { baselineId: "base" }).rows.find(({ setupId }) => setupId === "fast")?.index;
    expect(low("percentile")).toBeCloseTo(1.25, 1);
    expect(low("tail_mean")).toBeCloseTo(low("percentile") as number, 9);
  });

  it("meters power where most runs were metered, and has no mean where any test was not", () => {
    expect(commonPowerAt(model)).toBe("device");
    expect(commonPowerAt(smallModel({ runs: model.runs.map((run) => ({ ...run, energy: {} })) }))).toBeUndefined();
    const keys = model.tests.map(({ key }) => key);
    expect(meanPowerW(model, "near", keys, "device")).toBeCloseTo(160, 9);
    expect(meanPowerW(model, "near", keys, "wall")).toBeUndefined();
    expect(meanPowerW(model, "near", [], "device")).toBeUndefined();
  });

  it("gives frames per joule as fps per watt: a card 1 % faster at 160 instead of 200 W gives 26 % more", () => {
    const ranking = rankReview(model, matrixOf(model, "frames_per_joule", "percentile"), { baselineId: "base" });
    expect(ranking.rows.find(({ setupId }) => setupId === "near")?.index).toBeCloseTo((1.01 * 200) / 160, 1);
  });
});

describe("a review's value", () => {
  const model = smallModel();

  it("divides each price by the geometric-mean rate, and gives nothing where there is no price", () => {
    const { lines, per, testKeys } = valueIn(model);
    expect(per).toBe("fps");
    expect(testKeys).toHaveLength(4);
    const base = lines.find(({ setupId }) => setupId === "base");
    expect(base?.costPerFrame).toBeCloseTo(4000 / (base?.performance?.value as number), 9);
    const japan = valueIn(model, { region: model.regions[1] as ReviewModel["regions"][number] });
    const near = japan.lines.find(({ setupId }) => setupId === "near");
    expect(near).toMatchObject({ costPerFrame: undefined, relativeValue: undefined, setupPrice: { price: undefined, problem: "no offer in stock" } });
  });

  it("re-ranks at once with a price that is being tried", () => {
    const cheapest = (overrides?: ReadonlyMap<string, number>) =>
      [...valueIn(model, { overrides }).lines].sort((a, b) => (a.costPerFrame as number) - (b.costPerFrame as number))[0]?.setupId;
    expect(cheapest()).toBe("near");
    expect(cheapest(new Map([["part-fast", 3000]]))).toBe("fast");
  });

  it("values a review without frame tests by points of its index", () => {
    const timed = smallModel({
      tests: model.tests.map((test) => ({ ...test, kind: "time" as const, unit: "s", better: "lower" as const, resolution: null })),
      runs: model.runs.map((run) => ({ ...run, frames: null, result: 1000 / (run.frames?.averageFps as number) })),
    });
    const { lines, per } = valueIn(timed, { resolution: undefined });
    expect(per).toBe("index point");
    expect(lines.find(({ setupId }) => setupId === "base")?.costPerFrame).toBeCloseTo(40, 9);
    expect(lines.find(({ setupId }) => setupId === "fast")?.performance?.value).toBeGreaterThan(120);
  });

  it("adds the prices of several parts under test, and has none where one of them has none", () => {
    const [base] = model.setups;
    const both = { ...(base as ReviewModel["setups"][number]), partIds: ["part-base", "part-near"] };
    expect(setupPrice(model, both, NO(model), "street_lowest").price).toBe(7800);
    expect(setupPrice(model, { ...both, partIds: ["part-base", "part-ghost"] }, NO(model), "street_lowest")).toMatchObject({
      price: undefined,
      problem: "no offer in stock",
    });
    expect(setupPrice(model, { ...both, partIds: [] }, NO(model), "street_lowest").price).toBeUndefined();
  });
});

describe("what a review lacks", () => {
  it("counts runs short of the wish, empty and failed cells, open doubts and stale prices", () => {
    const model = smallModel();
    expect(gapsOf(model)).toEqual({ runsWanted: 108, runsValid: 108, cellsMissing: 0, cellsFailed: 0, openFindings: 0, stalePrices: 1 });
    const [first, second] = model.tests;
    const runs = model.runs
      .filter((run) => !(run.setupId === "near" && run.testKey === first?.key))
      .map((run) => (run.setupId === "near" && run.testKey === second?.key ? { ...run, status: "failed" as const, frames: null } : run));
    expect(gapsOf({ ...model, runs })).toMatchObject({ runsValid: 102, cellsMissing: 1, cellsFailed: 1 });
  });
});

describe("claims", () => {
  const model = smallModel();
  const verdict = (change: Partial<Extract<Computation, { kind: "verdict" }>>): Computation => ({
    kind: "verdict",
    setup: "fast",
    against: "base",
    resolution: "2560x1440",
    verdict: "ahead",
    ...change,
  });

  it("are suggested only where they hold, each with its interval or price", () => {
    const suggestions = suggestClaims(model);
    expect(suggestions.every(({ computation }) => checkClaim(model, computation).holds)).toBe(true);
    expect(suggestions[0]?.sentence).toMatch(
      /^Card fast is 2\d\.\d % faster than Card base at 2560 × 1440 \(95 % interval 12\d\.\d to 12\d\.\d where Card base is 100\)\.$/,
    );
    expect(suggestions.map(({ computation }) => computation.kind)).toContain("most frames per joule");
    expect(suggestions.find(({ computation }) => computation.kind === "lowest cost per frame")?.sentence).toMatch(/In Norway, Card near costs least per frame/);
  });

  it("fall when the data no longer bear them out", () => {
    expect(checkClaim(model, verdict({})).holds).toBe(true);
    expect(checkClaim(model, verdict({ verdict: "behind" })).holds).toBe(false);
    expect(checkClaim(model, verdict({ setup: "near", verdict: "level" })).holds).toBe(true);
    expect(checkClaim(model, { kind: "lowest cost per frame", setup: "base", region: "NO", resolution: "2560x1440" })).toMatchObject({
      holds: false,
      now: expect.stringContaining("Card near"),
    });
    expect(checkClaim(model, { kind: "most frames per joule", setup: "base", resolution: "2560x1440" }).holds).toBe(false);
  });

  it("do not hold, rather than fail, where setups or regions are gone", () => {
    expect(checkClaim(model, verdict({ setup: "ghost" })).holds).toBe(false);
    expect(checkClaim(model, { kind: "lowest cost per frame", setup: "base", region: "XX", resolution: "2560x1440" }).holds).toBe(false);
    expect(checkClaim({ ...model, runs: [] }, { kind: "most frames per joule", setup: "near", resolution: "2560x1440" }).holds).toBe(false);
    expect(suggestClaims({ ...model, setups: [] })).toEqual([]);
  });
});

describe("the snapshot", () => {
  const model = smallModel();

  it("freezes every ranking, price and cell, and reads back from JSON as it was", () => {
    const snapshot = buildSnapshot(model);
    expect(migrateSnapshot(JSON.parse(JSON.stringify(snapshot)))).toEqual(snapshot);
    expect(snapshot.rankings.map(({ metric, resolution }) => `${metric} ${resolution}`)).toHaveLength(12);
    expect(snapshot.value).toHaveLength(6);
    expect(snapshot.cells).toHaveLength(36);
    expect(snapshot.runIds).toHaveLength(108);
  });

  it("is the same for the same model, and has no interval for the baseline against itself but its definition", () => {
    expect(buildSnapshot(smallModel())).toEqual(buildSnapshot(smallModel()));
    const base = buildSnapshot(model).rankings[0]?.rows.find(({ setupId }) => setupId === "base");
    expect(base).toMatchObject({ index: 1, low: 1, high: 1 });
  });

  it("refuses a damaged row instead of showing half of it", () => {
    const { rankings: _, ...damaged } = buildSnapshot(model);
    expect(() => migrateSnapshot(damaged)).toThrow();
    expect(() => migrateSnapshot({ ...buildSnapshot(model), schemaVersion: 99 })).toThrow();
  });

  it("shows failed runs and settled doubts, and leaves out doubts that are no longer raised", () => {
    const finding = {
      id: "f",
      check: "scatter",
      subject: "s",
      setupId: "near",
      testKey: "mill-0@1",
      runId: null,
      reason: null,
      who: null,
      at: null,
      sentence: "They scatter.",
      advice: "",
      runIds: [],
      numbers: {},
      rowVersion: 1,
    };
    const findings: ReviewModel["findings"] = [
      { ...finding, state: "open", raised: true },
      { ...finding, id: "g", state: "accepted", raised: false, reason: "known" },
      { ...finding, id: "h", state: "dismissed", raised: false },
    ];
    const runs = model.runs.map((run) =>
      run.setupId === "near" && run.testKey === "mill-0@1" ? { ...run, status: "failed" as const, frames: null, reason: "out of memory" } : run,
    );
    const snapshot = buildSnapshot({ ...model, findings, runs });
    expect(snapshot.doubts.map(({ state, reason }) => [state, reason])).toEqual([
      ["open", null],
      ["accepted", "known"],
    ]);
    expect(snapshot.cells.find(({ setupId, testKey }) => setupId === "near" && testKey === "mill-0@1")).toMatchObject({
      mean: null,
      runs: 0,
      failed: "out of memory",
    });
    expect(snapshot.rankings[0]?.leftOut).toEqual([{ testKey: "mill-0@1", missing: ["near"] }]);
  });
});

describe("a review whose rows are not all run yet", () => {
  it("compares the rows that are, leaves the others out, and says nothing while the baseline has no run", () => {
    const model = smallModel();
    const last = model.setups.at(-1)?.id as string;
    const without = (id: string) => ({ ...model, runs: model.runs.filter((run) => run.setupId !== id) });
    const rank = (part: typeof model) => rankReview(part, matrixOf(part, "result", "percentile"), { baselineId: model.baselineId });
    const all = rank(model);
    const fewer = rank(without(last));
    expect(fewer.rows.map(({ setupId }) => setupId)).toEqual(all.rows.map(({ setupId }) => setupId).filter((id) => id !== last));
    expect(fewer.testKeys.length).toBeGreaterThanOrEqual(all.testKeys.length);
    expect(setupsWithRuns(without(last), matrixOf(without(last), "result", "percentile"), () => true)).not.toContain(last);
    expect(rank(without(model.baselineId)).rows).toEqual([]);
    const [region] = model.regions;
    const value = valueOfReview(without(last), matrixOf(without(last), "result", "percentile"), {
      baselineId: model.baselineId,
      resolution: undefined,
      region: region as NonNullable<typeof region>,
      rule: "street_lowest",
    });
    expect(value.lines.find(({ setupId }) => setupId === last)?.performance).toBeUndefined();
    expect(value.lines.filter(({ performance }) => performance !== undefined).length).toBe(model.setups.length - 1);
  });
});
