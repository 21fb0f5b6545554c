import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { quickLab } from "#sim/quickLab";
import { DEMO_TESTS, runOf, summariesOf } from "#sim/summaries";
import { trueFps } from "#sim/truth";
import { CARDS, GAMES, RESOLUTIONS } from "#sim/world";
import type { LabTest, MetricChoice, RunSummary } from "@/core/cell";
import { createRandom } from "@/core/random";
import { buildMatrix } from "./matrix";
import { geometricMeanOfRow, rankByIndex } from "./rankByIndex";

const CHOICE: MetricChoice = { metric: "result", school: "percentile", powerAt: "device" };
const SETUPS = CARDS.map(({ id }) => id);
const BASELINE = "grebe-12";

const rank = (runs: RunSummary[], change: { baselineId?: string; resolution?: string; tests?: LabTest[] } = {}) => {
  const { tests = DEMO_TESTS, ...request } = change;
  return rankByIndex(buildMatrix(tests, runs, CHOICE), { setupIds: SETUPS, baselineId: BASELINE, margin: 0.03, ...request });
};
const clean = summariesOf(quickLab(7, { planted: false }));
const indexOf = (ranking: ReturnType<typeof rank>, setupId: string) => ranking.rows.find((row) => row.setupId === setupId)?.index as number;

/** The true index of a card against the baseline, on the same tests. */
function trueIndex(cardId: string, resolution?: string): number {
  const cardOf = (id: string) => CARDS.find((one) => one.id === id) as (typeof CARDS)[number];
  const [card, base] = [cardOf(cardId), cardOf(BASELINE)];
  const resolutions = resolution ? [resolution] : [...RESOLUTIONS];
  let log = 0;
  for (const game of GAMES) {
    for (const one of resolutions) log += Math.log(trueFps(card, game, one) / trueFps(base, game, one)) / resolutions.length;
  }
  return Math.exp(log / GAMES.length);
}

describe("rankByIndex", () => {
  it("covers the true index, on the same tests, in 93 to 97 of 100 labs: 1,000 seeded labs without faults", () => {
    const wanted = CARDS.filter(({ id }) => id !== BASELINE).flatMap(({ id }) =>
      [undefined, "2560x1440"].map((resolution) => ({ id, resolution, truth: trueIndex(id, resolution) })),
    );
    let covered = 0;
    let total = 0;
    for (let seed = 1; seed <= 1000; seed += 1) {
      const matrix = buildMatrix(DEMO_TESTS, summariesOf(quickLab(seed, { planted: false })), CHOICE);
      for (const resolution of [undefined, "2560x1440"]) {
        const { rows } = rankByIndex(matrix, { setupIds: SETUPS, baselineId: BASELINE, margin: 0.03, resolution });
        for (const row of rows) {
          const target = wanted.find((one) => one.id === row.setupId && one.resolution === resolution);
          if (!target) continue;
          total += 1;
          if (target.truth >= (row.low as number) && target.truth <= (row.high as number)) covered += 1;
        }
      }
    }
    console.log(`run-noise interval of the index: covers the truth in ${((100 * covered) / total).toFixed(2)} % of ${total} intervals from 1,000 labs`);
    expect(covered / total).toBeGreaterThan(0.93);
    expect(covered / total).toBeLessThan(0.97);
  }, 300_000);

  it("only rescales when the baseline changes", () => {
    const [a, b] = [rank(clean), rank(clean, { baselineId: "halyard-9" })];
    for (const setup of SETUPS) expect(indexOf(b, setup) / indexOf(b, BASELINE)).toBeCloseTo(indexOf(a, setup), 12);
  });

  it("does not care for the order of runs or tests", () => {
    const random = createRandom(3);
    const shuffled = clean
      .map((run) => ({ run, at: random.next() }))
      .sort((a, b) => a.at - b.at)
      .map(({ run }) => run);
    const [a, b] = [rank(clean), rank(shuffled, { tests: [...DEMO_TESTS].reverse() })];
    for (const setup of SETUPS) expect(indexOf(b, setup)).toBeCloseTo(indexOf(a, setup), 12);
  });

  it("doubles a ratio when every score of that cell doubles, and moves the index by that test's weight", () => {
    fc.assert(
      fc.property(fc.constantFrom(...DEMO_TESTS), fc.constantFrom(...SETUPS.filter((id) => id !== BASELINE)), (test, setup) => {
        const doubled = clean.map((run) => (run.setupId === setup && run.testKey === test.key ? { ...run, result: (run.result as number) * 2 } : run));
        expect(indexOf(rank(doubled), setup) / indexOf(rank(clean), setup)).toBeCloseTo(2 ** (1 / DEMO_TESTS.length), 10);
      }),
      { numRuns: 20 },
    );
  });

  it("changes no index when every workload is there twice", () => {
    const copies = DEMO_TESTS.map((test) => ({ ...test, key: `copy-${test.key}`, workloadId: `copy-${test.workloadId}` }));
    const runs = [...clean, ...clean.map((run) => ({ ...run, id: `copy-${run.id}`, testKey: `copy-${run.testKey}` }))];
    for (const setup of SETUPS) expect(indexOf(rank(runs, { tests: [...DEMO_TESTS, ...copies] }), setup)).toBeCloseTo(indexOf(rank(clean), setup), 12);
  });

  it("moves no order by a workload on which all are level", () => {
    const level: LabTest = { ...(DEMO_TESTS[0] as LabTest), key: "level@1", workloadId: "level" };
    const runs = [
      ...clean,
      ...SETUPS.flatMap((setupId) => [1, 2, 3].map((number) => runOf({ id: `level-${setupId}-${number}`, setupId, testKey: "level@1", number, result: 100 }))),
    ];
    const order = (ranking: ReturnType<typeof rank>) => [...ranking.rows].sort((a, b) => b.index - a.index).map(({ setupId }) => setupId);
    expect(order(rank(runs, { tests: [...DEMO_TESTS, level] }))).toEqual(order(rank(clean)));
  });

  it("leaves a test that one row lacks out for all rows, and says whose it is", () => {
    const [gone] = DEMO_TESTS;
    const runs = clean.map((run) => (run.setupId === "grebe-8" && run.testKey === gone?.key ? { ...run, status: "failed" as const, result: null } : run));
    const ranking = rank(runs);
    expect(ranking.leftOut).toEqual([{ testKey: gone?.key, missing: ["grebe-8"] }]);
    expect(ranking.testKeys).not.toContain(gone?.key);
    expect(ranking.rows.every(({ ratios }) => ratios.length === DEMO_TESTS.length - 1)).toBe(true);
  });

  it("ranks nobody where no test is common to all", () => {
    expect(rank(clean.filter(({ setupId }) => setupId !== "grebe-8")).rows).toEqual([]);
  });

  it("gives no interval where nothing was run twice, and leaves all ranks open", () => {
    const ranking = rank(clean.filter(({ number }) => number === 1));
    expect(ranking.rows.filter(({ setupId }) => setupId !== BASELINE).every(({ low, verdict }) => low === undefined && verdict === "unknown")).toBe(true);
    expect(ranking.rows.map(({ rankFrom, rankTo }) => [rankFrom, rankTo])).toEqual(SETUPS.map(() => [1, 6]));
  });

  it("combines times, points and rates: a time half as long counts as twice as fast", () => {
    const tests = (
      [
        ["t", "lower"],
        ["p", "higher"],
      ] as const
    ).map(
      ([id, better]): LabTest => ({
        ...(DEMO_TESTS[0] as LabTest),
        key: `${id}@1`,
        workloadId: id,
        better,
        unit: better === "lower" ? "s" : "points",
        resolution: null,
      }),
    );
    const value: Record<string, number> = { "a t@1": 20, "b t@1": 10, "a p@1": 50, "b p@1": 100 };
    const runs = Object.entries(value).map(([key, result]) => {
      const [setupId, testKey] = key.split(" ") as [string, string];
      return runOf({ id: key, setupId, testKey, number: 1, result });
    });
    const { rows } = rankByIndex(buildMatrix(tests, runs, CHOICE), { setupIds: ["a", "b"], baselineId: "a", margin: 0.03 });
    expect(rows[1]?.index).toBeCloseTo(2, 12);
  });

  it("never lets a temperature or a noise level into an index", () => {
    const warm: LabTest = { ...(DEMO_TESTS[0] as LabTest), key: "warm@1", unit: "°C", better: "lower" };
    expect(buildMatrix([...DEMO_TESTS, warm], clean, CHOICE).tests.map(({ key }) => key)).not.toContain("warm@1");
  });

  it("gives the geometric-mean rate of a row with its run noise", () => {
    const matrix = buildMatrix(DEMO_TESTS, clean, CHOICE);
    const keys = DEMO_TESTS.filter(({ resolution }) => resolution === "2560x1440").map(({ key }) => key);
    const [a, b] = ["sorrel-70", BASELINE].map((id) => geometricMeanOfRow(matrix, id, keys));
    expect((a?.value as number) / (b?.value as number)).toBeCloseTo(indexOf(rank(clean, { resolution: "2560x1440" }), "sorrel-70"), 12);
    expect(a?.low).toBeLessThan(a?.value as number);
    expect(geometricMeanOfRow(matrix, "nobody", keys)).toBeUndefined();
  });
});
