import { spawnSync } from "node:child_process";
import { existsSync } from "node:fs";
import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { ProblemList } from "@/core/exchange";
import { matrixOf, rankReview } from "@/core/report";
import { importPackage } from "@/server/importPackage";
import { loadReview } from "@/server/loadReview";
import { loadRun } from "@/server/loadRun";
import { openFolder } from "@/server/packageSource";
import { EDITOR, emptyLab } from "../helpers/testLab";

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(path.join(tmpdir(), "parvex-record-test-"));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const record = (...args: string[]) => spawnSync(process.execPath, ["--import", "tsx", "cli/record.ts", ...args], { encoding: "utf8" });
/** A command whose length in milliseconds is known: it burns processor time for so long. */
const burn = (ms: number) => [process.execPath, "-e", `const end = Date.now() + ${ms}; while (Date.now() < end);`];

async function imported(from: string, reviewId: string) {
  const lab = await emptyLab();
  const problems = new ProblemList();
  const result = await importPackage(lab.deps, EDITOR, { source: await openFolder(from, problems), problems, label: "recorded" });
  if (!result.ok) throw new Error(JSON.stringify(result.problem));
  const model = await loadReview(lab.deps, reviewId);
  if (!model) throw new Error("no review");
  return { ...lab, model };
}

describe("npm run record", () => {
  it("times a command repeatedly and writes a package that ranks its labels; a failing command is a failed run", async () => {
    const into = path.join(folder, "burn");
    const common = ["--review", "Burning", "--workload", "burn", "--into", into];
    expect(record(...common, "--runs", "3", "--label", "Short", "--", ...burn(60)).status).toBe(0);
    expect(record(...common, "--runs", "3", "--label", "Long", "--", ...burn(300)).status).toBe(0);
    expect(record(...common, "--runs", "1", "--label", "Long", "--", process.execPath, "-e", "process.exit(3)").status).toBe(0);
    const { deps, drop, model } = await imported(into, "burning");
    try {
      expect(model.setups.map(({ label }) => label)).toEqual(["Short", "Long"]);
      // How long a process takes to start is the machine's business, so only what must hold is asked:
      // no value is shorter than what the command burns, and the index is the ratio of the recorded means.
      const seconds = (setupId: string) => model.runs.flatMap((run) => (run.setupId === setupId && run.result !== null ? [run.result] : []));
      expect(Math.min(...seconds("short"))).toBeGreaterThanOrEqual(0.06);
      expect(Math.min(...seconds("long"))).toBeGreaterThanOrEqual(0.3);
      const mean = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
      const { rows } = rankReview(model, matrixOf(model, "result", "percentile"), { baselineId: "short" });
      expect(rows.find(({ setupId }) => setupId === "long")?.index).toBeCloseTo(mean(seconds("short")) / mean(seconds("long")), 9);
      const runs = model.runs.filter(({ setupId }) => setupId === "long").sort((a, b) => a.number - b.number);
      expect(runs.map(({ number, status }) => [number, status])).toEqual([
        [1, "valid"],
        [2, "valid"],
        [3, "valid"],
        [4, "failed"],
      ]);
      expect(runs[3]).toMatchObject({ result: null, reason: "the command ended with code 3" });
      const detail = await loadRun(deps, runs[0]?.id as string);
      const metrics = detail?.values.map(({ metric }) => metric);
      expect(metrics).toEqual(existsSync("/usr/bin/time") ? ["peak_memory", "result", "system_time", "user_time"] : ["result"]);
    } finally {
      await drop();
    }
  });

  it("says how it is used where the label or the command is missing, and writes nothing", () => {
    const into = path.join(folder, "nothing");
    const answer = record("--into", into);
    expect(answer.status).toBe(2);
    expect(answer.stderr).toContain("npm run record -- --label NAME");
    expect(existsSync(into)).toBe(false);
  });
});

describe("the example that ships", () => {
  it("is whole, and ranks compression levels by their time over two kinds of data", async () => {
    const { drop, model } = await imported("examples/compression-levels", "compression-levels");
    try {
      const ranking = rankReview(model, matrixOf(model, "result", "percentile"), { baselineId: model.baselineId });
      expect(ranking.workloads).toBe(2);
      const order = [...ranking.rows].sort((a, b) => b.index - a.index).map(({ setupId }) => setupId);
      expect(order).toEqual(["gzip-level-1", "gzip-level-3", "gzip-level-6", "gzip-level-9"]);
    } finally {
      await drop();
    }
  });
});
