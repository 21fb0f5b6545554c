import { describe, expect, it } from "vitest";
import { DEMO_TESTS, runOf } from "#sim/summaries";
import type { RunFacts } from "@/core/capture";
import { runFacts } from "@/core/capture";
import type { LabTest, RunSummary } from "@/core/cell";
import {
  CHECK_RULES,
  type CheckedSetup,
  type CheckInput,
  CheckThresholds,
  checkCells,
  DEFAULT_THRESHOLDS,
  type Finding,
  paperUplift,
  subjectOf,
} from "./index";

const [A, B, C] = DEMO_TESTS.slice(0, 3) as [LabTest, LabTest, LabTest];
const setup = (id: string, known: Partial<CheckedSetup> = {}): CheckedSetup => ({
  id,
  label: `Card ${id}`,
  benchId: "oak",
  benchRevision: 1,
  state: { gpu_driver: "of October", firmware: "2.1" },
  partIds: [id],
  paper: null,
  vramGib: 12,
  newestOffers: [],
  ...known,
});

/** Three runs a cell that repeat within half a per cent, in each of the given tests. */
const cell = (setupId: string, test: LabTest, rate: number, known: Partial<RunSummary> = {}): RunSummary[] =>
  [0.996, 1, 1.004].map((factor, i) =>
    runOf({ id: `${setupId}-${test.id}-${i + 1}`, setupId, testKey: test.key, number: i + 1, result: rate * factor, ...known }),
  );

const check = (known: Partial<CheckInput>): Finding[] =>
  checkCells({
    tests: DEMO_TESTS.slice(0, 3),
    setups: [setup("a"), setup("b"), setup("c")],
    otherSetups: [],
    runs: [],
    runsWanted: new Map(),
    differences: [],
    newerVersions: new Map(),
    today: "2026-11-20",
    thresholds: DEFAULT_THRESHOLDS,
    ...known,
  });
const base = [...cell("a", A, 100), ...cell("b", A, 120), ...cell("c", A, 90), ...cell("a", B, 60), ...cell("b", B, 72), ...cell("c", B, 54)];

describe("checks of a whole row", () => {
  it("doubt an old price by its age in days, region by region, and keep quiet at the threshold itself", () => {
    const priced = (seenOn: string) =>
      check({
        setups: [
          setup("a", {
            newestOffers: [
              { partId: "a", region: "PL", seenOn },
              { partId: "a", region: "NO", seenOn: "2026-11-19" },
            ],
          }),
        ],
      });
    expect(priced("2026-11-06")).toEqual([]);
    const [stale] = priced("2026-11-05");
    expect(stale).toMatchObject({ check: "stale", testKey: "", sentence: "The newest street price is 15 days old in PL." });
    expect(subjectOf(stale as Finding)).toBe("setup:a");
  });

  it("doubt a forgotten update once, and not again as a property that was not held", () => {
    const setups = [setup("a"), setup("b", { benchRevision: 2, state: { gpu_driver: "of November", firmware: "2.1" } })];
    const values = [
      { value: "of October", setupIds: ["a"] },
      { value: "of November", setupIds: ["b"] },
    ];
    const findings = check({ setups, differences: [{ property: "gpu_driver", values, declared: null }] });
    expect(findings.map(({ check: name, setupId, sentence }) => [name, setupId, sentence])).toEqual([
      ["stale", "a", "graphics driver of October here; Card b has of November."],
    ]);
  });

  it("doubt rows that differ in what was to be held, until it is declared", () => {
    const values = [
      { value: "balanced", setupIds: ["a", "b"] },
      { value: "saving", setupIds: ["c"] },
    ];
    const difference = { property: "power_plan", values };
    expect(check({ differences: [{ ...difference, declared: null }] }).map(({ check: name, setupId }) => [name, setupId])).toEqual([["not comparable", "c"]]);
    expect(check({ differences: [{ ...difference, declared: { why: "no other plan" } }] })).toEqual([]);
  });

  it("find drift over all repeated tests together, where no single one would show it", () => {
    const repeated = (factor: number) =>
      [A, B, C].flatMap((test) => [
        ...cell("a", test, 100).map((run) => ({ ...run, block: "first" })),
        ...cell("a", test, 100 * factor).map((run) => ({ ...run, id: `${run.id}-last`, number: run.number + 3, block: "last" })),
        ...cell("b", test, 120),
        ...cell("c", test, 90),
      ]);
    expect(check({ runs: repeated(1) }).filter(({ check: name }) => name === "drift")).toEqual([]);
    const [drift] = check({ runs: repeated(0.97) }).filter(({ check: name }) => name === "drift");
    expect(drift?.sentence).toMatch(/^Between its first and its last runs this setup became 3\.0 % slower over 3 repeated tests;/);
  });

  it("allow on paper what clocks times units or bandwidth allow, within one architecture only", () => {
    const paper = (clockGhz: number, units: number, bandwidthGbs: number | null = null, architecture = "one") => ({
      kind: "gpu",
      architecture,
      clockGhz,
      units,
      bandwidthGbs,
    });
    // Rule of the trade (product definitions): clock 853 → 914 MHz is + 7.15 % on paper.
    expect(100 * ((paperUplift(paper(0.914, 100), paper(0.853, 100)) as number) - 1)).toBeCloseTo(7.15, 2);
    expect(paperUplift(paper(2, 100, 600), paper(2, 100, 400))).toBe(1.5);
    expect(paperUplift(paper(2, 100, null, "one"), paper(2, 100, null, "two"))).toBeNull();
    const setups = [setup("a", { paper: paper(2, 100) }), setup("b", { paper: paper(2, 110) })];
    const runs = (rate: number) => [...cell("a", A, 100), ...cell("b", A, rate), ...cell("c", A, 90)];
    expect(check({ setups, runs: runs(112) }).filter(({ check: name }) => name === "too good")).toEqual([]);
    expect(check({ setups, runs: runs(140) }).filter(({ check: name }) => name === "too good")).toMatchObject([{ setupId: "b", testKey: A.key }]);
  });
});

describe("checks of runs against each other", () => {
  it("name the copy of a trace and its original", () => {
    const runs = base.map((run) => ({ ...run, content: run.id === "b-copied" ? "x" : run.id }));
    expect(check({ runs }).filter(({ check: name }) => name === "duplicate")).toEqual([]);
    const copied = runs.map((run) => (run.setupId === "b" && run.testKey === B.key && run.number === 2 ? { ...run, content: `a-${A.id}-1` } : run));
    expect(check({ runs: copied }).filter(({ check: name }) => name === "duplicate")).toMatchObject([
      { runId: `b-${B.id}-2`, runIds: [`b-${B.id}-2`, `a-${A.id}-1`] },
    ]);
  });

  it("say a unit slip as what it is, and nothing else of the same run", () => {
    const slipped = base.map((run) => (run.id === `b-${A.id}-2` ? { ...run, result: (run.result as number) / 60 } : run));
    expect(check({ runs: slipped }).map(({ check: name, runId }) => [name, runId])).toEqual([["unit slip", `b-${A.id}-2`]]);
    // Frames per second where milliseconds belong: 120 fps read as 8.33.
    const inverted = base.map((run) => (run.id === `b-${A.id}-2` ? { ...run, result: 1000 / 120 } : run));
    expect(check({ runs: inverted }).map(({ check: name, runId }) => [name, runId])).toEqual([["unit slip", `b-${A.id}-2`]]);
  });

  it("tell a run filed in the neighbouring cell, which lacks one, from a mere outlier", () => {
    const moved = base.filter(({ id }) => id !== `a-${B.id}-3`).map((run) => (run.id === `a-${A.id}-3` ? { ...run, result: 60.1 } : run));
    const [wrong] = check({ runs: moved, runsWanted: new Map([A, B].map(({ key }) => [key, 3])) }).filter(({ runId }) => runId === `a-${A.id}-3`);
    expect(wrong).toMatchObject({ check: "wrong cell", fits: { setupId: "a", testKey: B.key } });
  });

  it("compare a synthetic with what the same parts gave before", () => {
    const tests = [{ ...A, group: "synthetic" }, B, C];
    const past = cell("old", A, 110);
    const synthetic = (otherSetups: CheckInput["otherSetups"]) =>
      check({ tests, runs: [...base, ...past], otherSetups }).filter(({ check: name }) => name === "sanity");
    expect(synthetic([{ id: "old", partIds: ["another"] }])).toEqual([]);
    expect(synthetic([{ id: "old", partIds: ["a"] }])).toMatchObject([
      { setupId: "a", testKey: A.key, numbers: { off_ratio: expect.closeTo(100 / 110 - 1, 6) } },
    ]);
  });
});

describe("checks of sensors", () => {
  const sensors = (clockAt: (t: number) => number, temperatureAt: (t: number) => number): RunFacts => {
    const timeS = Float64Array.from({ length: 240 }, (_, i) => i * 0.5 - 10);
    return runFacts({
      timeS,
      channels: [
        { name: "gpu_ghz", values: timeS.map(clockAt) },
        { name: "gpu_c", values: timeS.map(temperatureAt) },
        { name: "gpu_load_ratio", values: timeS.map(() => 0.98) },
      ],
    });
  };
  const warming = (t: number) => Math.min(83, 60 + t);

  it("see throttling by its definition: 2 s or more under 97 % of the median before, within 1 K of the hottest", () => {
    const ratio = (facts: RunFacts) => facts.throttling?.clockRatio as number;
    expect(ratio(sensors(() => 2.6, warming))).toBe(1);
    expect(ratio(sensors((t) => (t > 40 ? 2.47 : 2.6), warming))).toBeCloseTo(0.95, 9);
    // A second and a half is too short, and a fall before it is hot is something else.
    expect(ratio(sensors((t) => (t > 40 && t < 41.6 ? 2.3 : 2.6), warming))).toBe(1);
    expect(ratio(sensors((t) => (t > 5 && t < 9 ? 2.3 : 2.6), warming))).toBe(1);
    const facts = sensors((t) => (t > 40 ? 2.47 : 2.6), warming);
    const hot = base.map((run) => (run.setupId === "c" && run.testKey === A.key ? { ...run, facts } : run));
    expect(check({ runs: hot })).toMatchObject([
      { check: "throttling", setupId: "c", sentence: expect.stringContaining("In 3 of 3 runs the graphics card loses clock at its ceiling: 5.0 %") },
    ]);
  });

  it("leave the warm-up and what is not recorded out: unknown is not zero", () => {
    expect(sensors(() => 2.6, warming)).toMatchObject({ gpuLoad: 0.98, hottestGpuC: 83, vramGib: null, cpuLoad: null, ambientC: null });
  });
});

describe("thresholds", () => {
  it("have a rule each, within what can be set", () => {
    const shown = new Set(CHECK_RULES.flatMap(({ thresholds }) => thresholds.map(({ key }) => key)));
    expect([...shown].sort()).toEqual(Object.keys(DEFAULT_THRESHOLDS).sort());
    expect(CheckThresholds.safeParse({ scatterAlpha: 0 }).success).toBe(false);
    expect(CheckThresholds.parse({ scatterAlpha: 0.01 })).toEqual({ ...DEFAULT_THRESHOLDS, scatterAlpha: 0.01 });
  });
});
