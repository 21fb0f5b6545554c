// What must hold of all checks together, whatever the lab: over seeded labs with and without planted mistakes.
import { describe, expect, it } from "vitest";
import { quickLab } from "#sim/quickLab";
import { summariesOf } from "#sim/summaries";
import type { RunSummary } from "@/core/cell";
import { createRandom } from "@/core/random";
import { checkDemoRuns, DEMO_SETUPS, setupsOf } from "../../../tests/helpers/demoChecks";
import { CHECKS, type CheckThresholds, DEFAULT_THRESHOLDS, type Finding, subjectOf } from "./finding";

const SEEDS = [1, 2, 3, 4, 5, 6, 7, 8];
const labs = SEEDS.map((seed) => summariesOf(quickLab(seed, { planted: true })));
const ids = (findings: readonly Finding[]) => findings.map(({ id }) => id).sort();

describe("the checks", () => {
  it("say the same of the same lab, in the same order", () => {
    for (const runs of labs) expect(checkDemoRuns(runs)).toEqual(checkDemoRuns(runs));
  });

  it("do not care for the order in which runs were read", () => {
    for (const [i, runs] of labs.entries()) {
      const random = createRandom(i + 1);
      const shuffled = runs
        .map((run) => ({ run, at: random.next() }))
        .sort((a, b) => a.at - b.at)
        .map(({ run }) => run);
      expect(ids(checkDemoRuns(shuffled))).toEqual(ids(checkDemoRuns(runs)));
    }
  });

  it("do not care for the unit that a rate is counted in", () => {
    for (const runs of labs) {
      const scaled = runs.map((run) => ({ ...run, result: run.result === null ? null : run.result * 3.7 }));
      expect(ids(checkDemoRuns(scaled))).toEqual(ids(checkDemoRuns(runs)));
    }
  });

  it("give each doubt an id of its own, a subject, a sentence, advice and runs that are there", () => {
    for (const runs of labs) {
      const findings = checkDemoRuns(runs);
      expect(findings.length).toBeGreaterThan(0);
      expect(new Set(findings.map(({ id }) => id)).size).toBe(findings.length);
      const known = new Set(runs.map(({ id }) => id));
      for (const finding of findings) {
        expect(CHECKS).toContain(finding.check);
        expect(subjectOf(finding)).toMatch(/^(run|cell|setup):./);
        expect(finding.sentence).toMatch(/^[A-Z0-9].*\.$/);
        expect(finding.sentence).not.toMatch(/NaN|undefined|null|Infinity/);
        expect(finding.advice).toMatch(/\.$/);
        expect(finding.runIds.every((id) => known.has(id))).toBe(true);
        expect(Object.values(finding.numbers).every(Number.isFinite), finding.id).toBe(true);
      }
    }
  });

  it("doubt no more under a stricter level than under a laxer one", () => {
    const counted = (thresholds: Partial<CheckThresholds>, name: string) =>
      labs.reduce(
        (sum, runs) => sum + checkDemoRuns(runs, { thresholds: { ...DEFAULT_THRESHOLDS, ...thresholds } }).filter((one) => one.check === name).length,
        0,
      );
    const scatter = [0.2, 0.05, 0.001, 0.00001].map((scatterAlpha) => counted({ scatterAlpha }, "scatter"));
    const inversion = [0.2, 0.01, 0.0005, 0.0000001].map((inversionAlpha) => counted({ inversionAlpha }, "resolution inversion"));
    for (const counts of [scatter, inversion]) expect(counts).toEqual([...counts].sort((a, b) => b - a));
    expect(scatter[0] as number).toBeGreaterThan(scatter[3] as number);
  });

  it("let go of an outlier once it is discarded, and then miss the run", () => {
    let followed = 0;
    for (const runs of labs) {
      const outlier = checkDemoRuns(runs).find((finding) => finding.check === "outlier run");
      if (!outlier) continue;
      const after = checkDemoRuns(runs.map((run) => (run.id === outlier.runId ? { ...run, status: "discarded" as const, reason: "menu open" } : run)));
      const here = after.filter(({ setupId, testKey }) => setupId === outlier.setupId && testKey === outlier.testKey).map((finding) => finding.check);
      expect(here).not.toContain("outlier run");
      expect(here).toContain("too few runs");
      followed += 1;
    }
    expect(followed).toBeGreaterThan(3);
  });

  it("judge a row by its own runs and the lab's spread: a row that is taken out takes its doubts along and leaves most others", () => {
    for (const runs of labs) {
      const all = checkDemoRuns(runs);
      const [gone] = DEMO_SETUPS;
      const setups = DEMO_SETUPS.filter((id) => id !== gone);
      const rest = checkDemoRuns(
        runs.filter(({ setupId }) => setupId !== gone),
        { setups: setupsOf(setups) },
      );
      expect(rest.every(({ setupId }) => setupId !== gone)).toBe(true);
      const kept = all.filter(({ setupId, fits }) => setupId !== gone && fits?.setupId !== gone);
      const still = kept.filter(({ id }) => rest.some((finding) => finding.id === id));
      expect(still.length).toBeGreaterThanOrEqual(Math.floor(kept.length * 0.8));
    }
  });

  it("have nothing to say of a lab without runs, of one run a cell, or of failed runs only", () => {
    expect(checkDemoRuns([])).toEqual([]);
    const [runs] = labs as [RunSummary[]];
    const single = runs.filter(({ number }) => number === 1);
    expect(checkDemoRuns(single, { runsWanted: new Map() }).filter(({ check: name }) => ["outlier run", "scatter", "glitch"].includes(name))).toEqual([]);
    expect(checkDemoRuns(runs.map((run) => ({ ...run, status: "failed" as const, result: null, reason: "stopped" })))).toEqual([]);
  });
});
