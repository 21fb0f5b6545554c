import { describe, expect, it } from "vitest";
import { DEMO_TESTS, runOf } from "#sim/summaries";
import type { LabTest } from "@/core/cell";
import { createRandom } from "@/core/random";
import { quantileSorted } from "@/core/stats";
import { compileIndex, type IndexTable } from "./indexTable";
import { buildMatrix } from "./matrix";
import { choiceOfWorkloads, expandedTail, workloadMeans } from "./workloadChoice";

/** A table of rows and workloads drawn from a seed, two resolutions each. */
function tableOf(rows: number, workloads: number, seed: number): IndexTable {
  const random = createRandom(seed);
  const tests = Array.from(
    { length: 2 * workloads },
    (_, i): LabTest => ({ ...(DEMO_TESTS[0] as LabTest), id: `t${i}`, key: `t${i}@1`, workloadId: `w${i >> 1}` }),
  );
  const setupIds = Array.from({ length: rows }, (_, s) => `s${s}`);
  const runs = setupIds.flatMap((setupId, s) =>
    tests.flatMap((test, t) =>
      [1, 2].map((number) =>
        runOf({ id: `${setupId}-${t}-${number}`, setupId, testKey: test.key, number, result: 100 * Math.exp(0.05 * s + 0.2 * random.normal()) }),
      ),
    ),
  );
  return compileIndex(buildMatrix(tests, runs, { metric: "result", school: "percentile", powerAt: "device" }), setupIds, tests);
}

/** The drawing in the plainest way: one workload after the other, one row after the other. */
function plainly(table: IndexTable, baselineId: string, resamples: number, seed: number, weights: ReadonlyMap<string, number> = new Map()) {
  const { workloadIds, means } = workloadMeans(table);
  const counted = workloadIds.flatMap((id, w) => ((weights.get(id) ?? 1) > 0 ? [{ w, weight: weights.get(id) ?? 1 }] : []));
  const base = table.setupIds.indexOf(baselineId);
  const random = createRandom(seed);
  const drawn = table.setupIds.map(() => [] as number[]);
  for (let r = 0; r < resamples; r += 1) {
    const picks = counted.map(() => counted[Math.floor(random.next() * counted.length)] as (typeof counted)[number]);
    const total = picks.reduce((sum, { weight }) => sum + weight, 0);
    table.setupIds.forEach((_, s) => {
      const at = (row: number, w: number) => means[row * workloadIds.length + w] as number;
      drawn[s]?.push(picks.reduce((sum, { w, weight }) => sum + weight * (at(s, w) - at(base, w)), 0) / total);
    });
  }
  const tail = expandedTail(counted.length);
  return drawn.map((list) => {
    const sorted = Float64Array.from(list).sort();
    return [Math.exp(quantileSorted(sorted, tail)), Math.exp(quantileSorted(sorted, 1 - tail))] as const;
  });
}

describe("drawing workloads again", () => {
  it("gives what the plain way gives, for any number of rows and workloads", () => {
    for (const [rows, workloads] of [
      [2, 3],
      [3, 5],
      [4, 8],
      [5, 8],
      [8, 14],
      [9, 14],
      [13, 30],
    ] as const) {
      const table = tableOf(rows, workloads, rows * 100 + workloads);
      const ours = choiceOfWorkloads(table, { baselineId: "s1", resamples: 500, random: createRandom(3) });
      const theirs = plainly(table, "s1", 500, 3);
      expect(ours?.length, `${rows} × ${workloads}`).toBe(rows);
      for (const [s, interval] of (ours ?? []).entries()) {
        if (interval.setupId === "s1") expect([interval.low, interval.high]).toEqual([1, 1]);
        else {
          expect(interval.low / (theirs[s]?.[0] as number), `${rows} × ${workloads}, row ${s}`).toBeCloseTo(1, 12);
          expect(interval.high / (theirs[s]?.[1] as number), `${rows} × ${workloads}, row ${s}`).toBeCloseTo(1, 12);
        }
      }
    }
  });

  it("gives it under weights too, zeros among them", () => {
    const table = tableOf(6, 10, 77);
    const weights = new Map([
      ["w0", 0],
      ["w3", 3],
      ["w9", 0.5],
    ]);
    const ours = choiceOfWorkloads(table, { baselineId: "s0", resamples: 400, random: createRandom(5), weights });
    const theirs = plainly(table, "s0", 400, 5, weights);
    for (const [s, { low, high }] of (ours ?? []).entries())
      if (s > 0) expect([low / (theirs[s]?.[0] as number), high / (theirs[s]?.[1] as number)]).toEqual([expect.closeTo(1, 12), expect.closeTo(1, 12)]);
  });

  it("says nothing below three workloads that count, or of a baseline that is not there", () => {
    const table = tableOf(3, 4, 5);
    const ask = (baselineId: string, weights?: ReadonlyMap<string, number>) =>
      choiceOfWorkloads(table, { baselineId, resamples: 50, random: createRandom(1), weights });
    expect(ask("s0")).toBeDefined();
    expect(ask("nobody")).toBeUndefined();
    expect(
      ask(
        "s0",
        new Map([
          ["w0", 0],
          ["w1", 0],
        ]),
      ),
    ).toBeUndefined();
    expect(choiceOfWorkloads(tableOf(3, 2, 5), { baselineId: "s0", resamples: 50, random: createRandom(1) })).toBeUndefined();
  });
});
