import { describe, expect, it } from "vitest";
import { runOf } from "#sim/summaries";
import { matrixOf } from "@/core/report";
import { smallModel } from "../../../tests/helpers/smallModel";
import { bytesText, gridCells, groupTests, isOfKind, sortRows } from "./gridCells";
import { filledSlots, slotAt, slotColumns, slotKey } from "./valueSlots";

const model = smallModel();
const cellsOf = (of: typeof model) => gridCells(of, matrixOf(of, "result", "percentile"), of.setups, of.tests);

describe("gridCells", () => {
  it("says of every cell whether it is complete, short, missing, failed or in doubt, and in words what it holds", () => {
    const [a, b, c, d] = model.tests;
    if (!a || !b || !c || !d) throw new Error("four tests");
    const runs = model.runs
      .filter(({ setupId, testKey, number }) => setupId !== "fast" || testKey !== a.key || number < 3)
      .filter(({ setupId, testKey }) => setupId !== "fast" || testKey !== b.key)
      .map((run) => (run.setupId === "fast" && run.testKey === c.key ? { ...run, status: "failed" as const, reason: "crashed", frames: null } : run));
    const [first] = model.findings;
    const doubt = { ...first, setupId: "fast", testKey: d.key, check: "outlier run", state: "open" as const, raised: true } as (typeof model.findings)[number];
    const row = cellsOf({ ...model, runs, findings: [doubt] })[1] ?? [];
    expect(row.slice(0, 4).map(({ state }) => state)).toEqual(["short", "missing", "failed", "doubtful"]);
    expect(row[0]?.words).toMatch(/^Card fast, mill 1920x1080: \d+\.\d fps, 2 of 3 runs$/);
    expect(row[1]?.words).toContain("no value, 0 of 3 runs");
    expect(row[3]?.words).toContain("doubt: outlier run");
    expect(row.filter((cell) => isOfKind(cell, "work"))).toHaveLength(4);
    expect(row.filter((cell) => isOfKind(cell, "missing"))).toHaveLength(2);
    expect(row.every((cell) => isOfKind(cell, "all"))).toBe(true);
  });

  it("shows what came out beside the time, in the unit that reads best", () => {
    const [test] = model.tests;
    const sized = model.runs.map((run) => (run.setupId === "base" && run.testKey === test?.key ? { ...run, outputBytes: 1.4e9 } : run));
    expect(cellsOf({ ...model, runs: sized })[0]?.[0]?.words).toContain("output 1.40 GB");
    expect([bytesText(512), bytesText(20_480), bytesText(3e6)]).toEqual(["512 B", "20.5 kB", "3.00 MB"]);
  });
});

describe("groupTests", () => {
  it("puts tests under bands by game, resolution or group; none where there is nothing to tell apart", () => {
    const byGame = groupTests(model.tests, "game");
    expect(byGame.bands?.map(({ name, from, count }) => [name, from, count])).toEqual([
      ["mill", 0, 3],
      ["quay", 3, 3],
      ["loft", 6, 3],
      ["weir", 9, 3],
    ]);
    const byResolution = groupTests([...model.tests].reverse(), "resolution");
    expect(byResolution.bands?.map(({ name }) => name)).toEqual(["1920 × 1080", "2560 × 1440", "3840 × 2160"]);
    expect(byResolution.tests[0]?.resolution).toBe("1920x1080");
    expect(groupTests(model.tests, "group").bands).toBeUndefined();
  });
});

describe("sortRows", () => {
  it("orders rows by a column, up or down; a row without a value stands last either way", () => {
    const [test] = model.tests;
    const without = { ...model, runs: model.runs.filter(({ setupId, testKey }) => setupId !== "near" || testKey !== test?.key) };
    const order = (sort: string | null) => sortRows(without.setups, cellsOf(without), sort).setups.map(({ id }) => id);
    expect(order(`${test?.key}:down`)).toEqual(["fast", "base", "near"]);
    expect(order(`${test?.key}:up`)).toEqual(["base", "fast", "near"]);
    expect(order("runs:up")[0]).toBe("near");
    expect(order(null)).toEqual(["base", "fast", "near"]);
  });
});

describe("slots of the sheet", () => {
  const [test] = model.tests;
  const typed = runOf({ id: "x", setupId: "base", testKey: test?.key as string, number: 4, result: 191, outputBytes: 1.4e9, typed: true, rowVersion: 3 });
  const failed = runOf({ id: "y", setupId: "base", testKey: test?.key as string, number: 5, status: "failed", reason: "out of memory", typed: true });
  const filled = { ...model, runs: [...model.runs, typed, failed] };

  it("are as many as the suite asks for, and those that are there beyond it", () => {
    const columns = slotColumns(filled, filled.tests.slice(0, 2));
    expect(columns.map(({ number }) => number)).toEqual([1, 2, 3, 4, 5, 1, 2, 3]);
    expect(columns.filter(({ first }) => first)).toHaveLength(2);
  });

  it("hold what was typed as it can be typed again, logs as fixed, nothing as empty; what is fresh stands before what was read", () => {
    const slots = filledSlots(filled);
    const columns = slotColumns(filled, filled.tests.slice(0, 1));
    const at = (number: number, fresh = new Map()) =>
      slotAt(slots, fresh, filled.setups[0] as (typeof filled.setups)[0], columns[number - 1] as (typeof columns)[0]);
    expect(at(1)).toMatchObject({ fixed: true, state: "valid" });
    expect(at(4)).toMatchObject({ text: "191 / 1400000000 B", fixed: false, seen: 3 });
    expect(at(5)).toMatchObject({ text: "failed: out of memory", shown: "failed", state: "failed" });
    expect(slotAt(slots, new Map(), filled.setups[1] as (typeof filled.setups)[0], columns[3] as (typeof columns)[0])).toMatchObject({
      state: "empty",
      seen: null,
    });
    const key = slotKey("base", test?.key as string, 4);
    expect(at(4, new Map([[key, { text: "5", shown: "5", fixed: false, seen: 4, state: "valid" as const }]]))).toMatchObject({ text: "5", seen: 4 });
  });
});
