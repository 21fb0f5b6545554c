import { describe, expect, it } from "vitest";
import { timesOf } from "./planModel";
import { NO_CUTS, type PlanTest } from "./planReview";
import { workLeft } from "./workLeft";

const test = (key: string): PlanTest => ({
  key,
  name: key,
  workloadId: key,
  workloadName: key,
  kind: "frames",
  loads: "gpu",
  resolution: null,
  runsWanted: 3,
  loadS: 40,
  warmupS: 60,
  lengthS: 60,
  resetS: 15,
});
const tests = [test("a@1"), test("b@1")];
const left = (runsDone: Map<string, number>, cuts = NO_CUTS) =>
  workLeft({ setups: [{ id: "x" }, { id: "y" }], tests, runsDone, cuts, times: timesOf({ observations: [], tests }) });

describe("workLeft", () => {
  it("adds up once-only and per-run times of every cell that is short of runs, by setup", () => {
    const [x, y] = left(
      new Map([
        ["x/a@1", 3],
        ["x/b@1", 1],
      ]),
    );
    // Settings 60, launch 40, warm-up 60 once; two runs of 60 with a reset of 15 each.
    expect(x).toMatchObject({ setupId: "x", seconds: 60 + 40 + 60 + 2 * 75 });
    expect(y?.seconds).toBe(2 * (60 + 40 + 60 + 3 * 75));
    expect(y?.sd).toBeGreaterThan(0);
  });

  it("is nothing where every cell is full, or cut", () => {
    expect(left(new Map(["x/a@1", "x/b@1", "y/a@1", "y/b@1"].map((key) => [key, 3]))).map(({ seconds }) => seconds)).toEqual([0, 0]);
    expect(left(new Map(), { ...NO_CUTS, tests: ["a@1", "b@1"] }).map(({ seconds }) => seconds)).toEqual([0, 0]);
  });
});
