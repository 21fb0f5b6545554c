import { describe, expect, it } from "vitest";
import { PLANTED } from "#sim/demoPackage";
import { quickLab } from "#sim/quickLab";
import { recordFrames } from "#sim/recorder";
import { DEMO_TESTS, runOf, summariesOf } from "#sim/summaries";
import { GAMES } from "#sim/world";
import { frameStatistics, measurePacing } from "@/core/capture";
import type { RunSummary } from "@/core/cell";
import { createRandom } from "@/core/random";
import { checkDemoRuns, DEMO_SETUPS } from "../../../tests/helpers/demoChecks";
import { DEFAULT_THRESHOLDS, type Finding, subjectOf } from "./finding";
import { judgeCap } from "./judgeCap";

const keyOf = (game: string, resolution: string) => `${game}-${resolution.split("x")[1]}@1`;
const CELLS = DEMO_SETUPS.length * DEMO_TESTS.length;

describe("checkCells on the simulated lab", () => {
  it("raises fewer than 5 false alarms per 1,000 clean cells over all checks of runs together, in 150 seeded labs", () => {
    const labs = 150;
    const counts = new Map<string, number>();
    for (let seed = 1001; seed <= 1000 + labs; seed += 1) {
      for (const { check: name } of checkDemoRuns(summariesOf(quickLab(seed, { planted: false })))) counts.set(name, (counts.get(name) ?? 0) + 1);
    }
    const total = [...counts.values()].reduce((sum, count) => sum + count, 0);
    const rate = (1000 * total) / (labs * CELLS);
    console.log(
      `false alarms per 1,000 clean cells: ${rate.toFixed(2)} (${[...counts].map(([name, count]) => `${name} ${count}`).join(", ")} in ${labs * CELLS} cells)`,
    );
    expect(rate).toBeLessThan(5);
    // The check must be able to err at all: a check that raises nothing finds nothing.
    expect(total).toBeGreaterThan(0);
  }, 300_000);

  it("finds every mistake planted in rates, in at least 19 of 20 seeded labs each", () => {
    const found = new Map<string, number>();
    const labs = 60;
    for (let seed = 1; seed <= labs; seed += 1) {
      const findings = checkDemoRuns(summariesOf(quickLab(seed, { planted: true })));
      for (const mistake of PLANTED) {
        if (!mistake.game || !mistake.resolution || mistake.kind === "frame cap") continue;
        const keys = [keyOf(mistake.game, mistake.resolution), ...(mistake.otherResolution ? [keyOf(mistake.game, mistake.otherResolution)] : [])];
        const hit = findings.some((finding) => finding.setupId === mistake.setup && keys.includes(finding.testKey));
        found.set(mistake.kind, (found.get(mistake.kind) ?? 0) + (hit ? 1 : 0));
      }
    }
    console.log(`planted mistakes found in ${labs} labs: ${[...found].map(([kind, count]) => `${kind} ${((100 * count) / labs).toFixed(0)} %`).join(", ")}`);
    expect([...found.keys()].sort()).toEqual(["outlier run", "scatter", "swapped resolutions", "too few runs"]);
    for (const [kind, count] of found) expect(count / labs, kind).toBeGreaterThanOrEqual(0.95);
  }, 300_000);

  it("recalls one run 10 % off in 95 of 100 cells and 8 % off in 85 of 100", () => {
    const recallOf = (factor: number) => {
      let hits = 0;
      const labs = 100;
      for (let seed = 1; seed <= labs; seed += 1) {
        const runs = summariesOf(quickLab(seed, { planted: false }));
        const target = runs[(seed * 37) % runs.length] as RunSummary;
        const bent = runs.map((run) => (run.id === target.id ? { ...run, result: (run.result as number) * factor } : run));
        if (checkDemoRuns(bent).some((finding) => finding.setupId === target.setupId && finding.testKey === target.testKey)) hits += 1;
      }
      return hits / labs;
    };
    const [ten, eight] = [recallOf(0.9), recallOf(0.92)];
    console.log(`recall of one run off among three: 10 % off ${(100 * ten).toFixed(0)} %, 8 % off ${(100 * eight).toFixed(0)} %`);
    expect(ten).toBeGreaterThanOrEqual(0.95);
    expect(eight).toBeGreaterThanOrEqual(0.85);
  }, 300_000);
});

describe("judgeCap on recorded frames", () => {
  const record = (seed: number, capFps?: number) => {
    const random = createRandom(seed);
    const game = GAMES[seed % GAMES.length] as (typeof GAMES)[number];
    return recordFrames(
      { fps: game.baseFps, lengthS: 30, frameSpread: game.frameSpread, stutterShare: game.stutterShare, capFps: capFps && capFps * game.baseFps },
      random,
    );
  };
  const judge = (frames: Float64Array) => judgeCap(measurePacing(frames), frames.length, DEFAULT_THRESHOLDS);

  it("calls no free run capped, in 200 seeded runs", () => {
    const wrong = Array.from({ length: 200 }, (_, i) => i + 1).filter((seed) => judge(record(seed)).capped !== "no");
    console.log(`free runs called capped: ${wrong.length} of 200`);
    expect(wrong.length).toBeLessThanOrEqual(1);
  });

  it("finds a cap that costs 10 % or more at any rate, and its rate within 1 %, in 200 seeded runs", () => {
    let found = 0;
    for (let seed = 1; seed <= 200; seed += 1) {
      const share = 0.55 + (0.35 * ((seed * 13) % 100)) / 100;
      const frames = record(seed, share);
      const game = GAMES[seed % GAMES.length] as (typeof GAMES)[number];
      if (frameStatistics(frames).averageFps > 0.9 * game.baseFps) continue;
      const judged = judge(frames);
      if (judged.capped !== "no" && Math.abs(judged.rateFps / (share * game.baseFps) - 1) < 0.01) found += 1;
      else expect.soft(judged.capped, `seed ${seed}, cap at ${share.toFixed(2)} of the free rate`).not.toBe("no");
    }
    console.log(`caps that cost 10 % or more: ${found} found with their rate`);
    expect(found).toBeGreaterThan(150);
  });
});

describe("findings", () => {
  const [test] = DEMO_TESTS;
  const cell = (values: number[]) =>
    values.map((result, i) => runOf({ id: `r${i + 1}`, setupId: "sorrel-70", testKey: test?.key as string, number: i + 1, result }));
  const others = summariesOf(quickLab(5, { planted: false })).filter((run) => run.setupId !== "sorrel-70");

  it("say what is doubted with its numbers, name the runs, and keep their id while the doubt is the same", () => {
    const [finding] = checkDemoRuns([...others, ...cell([100, 100.4, 88])]).filter(({ setupId }) => setupId === "sorrel-70");
    expect(finding).toMatchObject({ check: "outlier run", runId: "r3", id: "outlier-run.r3", runIds: ["r3", "r1", "r2"] });
    expect(finding?.sentence).toMatch(/^Run 3 is 12\.\d % below the mean of the other 2; the usual spread here is 1\.\d %\.$/);
    expect(subjectOf(finding as Finding)).toBe("run:r3");
  });

  it("change their evidence when a run behind them changes, so that a decision is asked again", () => {
    const evidence = (last: number) => checkDemoRuns([...others, ...cell([100, 100.4, last])]).find(({ setupId }) => setupId === "sorrel-70")?.evidence;
    expect(evidence(88)).toBe(evidence(88));
    expect(evidence(88)).not.toBe(evidence(87));
  });

  it("call three disagreeing runs scatter, not an outlier: nobody can say which is wrong", () => {
    const kinds = checkDemoRuns([...others, ...cell([92, 100, 107])])
      .filter(({ setupId }) => setupId === "sorrel-70")
      .map(({ check: name }) => name);
    expect(kinds).toEqual(["scatter"]);
  });

  it("take a cell of failed runs as a result and an empty one as missing: neither has too few runs", () => {
    const failed = cell([1, 1, 1]).map((run) => ({ ...run, status: "failed" as const, result: null, reason: "crash" }));
    expect(checkDemoRuns([...others, ...failed]).filter(({ setupId }) => setupId === "sorrel-70")).toEqual([]);
    expect(checkDemoRuns(others).filter(({ setupId }) => setupId === "sorrel-70")).toEqual([]);
  });

  it("count discarded runs as missing and give their reasons", () => {
    const runs = cell([100, 101, 99]).map((run) => (run.number === 2 ? { ...run, status: "discarded" as const, reason: "menu open" } : run));
    const [finding] = checkDemoRuns([...others, ...runs]).filter(({ setupId }) => setupId === "sorrel-70");
    expect(finding?.sentence).toBe("2 of 3 runs are valid (run 2 discarded: menu open).");
  });
});
