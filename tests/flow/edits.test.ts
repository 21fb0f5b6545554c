import { sql } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { frameStatistics, withoutTrims } from "@/core/capture";
import { StoredPlan } from "@/core/plan";
import { audit, reviewPlans, runs } from "@/db/schema";
import { decideFinding } from "@/server/decideFinding";
import { trimRun, undoTrim } from "@/server/editTrace";
import { enterValues } from "@/server/enterValues";
import { loadDesk } from "@/server/loadDesk";
import { loadReview } from "@/server/loadReview";
import { loadFrames, loadRun, loadSensors } from "@/server/loadRun";
import { relabelRun } from "@/server/moveRuns";
import { planOpenRuns } from "@/server/planReruns";
import type { Deps } from "@/server/useCase";
import { EDITOR, emptyLab, exported, importFiles, SECOND, smallPackage } from "../helpers/testLab";

let deps: Deps;
let drop: () => Promise<void>;
const model = async () => {
  const loaded = await loadReview(deps, "duel");
  if (!loaded) throw new Error("the review is gone");
  return loaded;
};
const runOf = async (id: string) => (await model()).runs.find((run) => run.id === id);
const record = async (id: string) => {
  const loaded = await loadRun(deps, id);
  if (!loaded) throw new Error(`run ${id} is gone`);
  return loaded;
};

/** The small lab with a timed test of an encoder, a run filed under the other resolution, and no claim that would block anything. */
function lab(): Record<string, string> {
  const { "claims.csv": _, ...files } = smallPackage();
  const add = (name: string, line: string) => {
    files[name] = `${files[name]}${line}\n`;
  };
  add("workloads.csv", "reel,Reel,production");
  add("tests.csv", "reel,1,reel,Reel,time,s,lower,,");
  add("suite_tests.csv", "pair,reel,1,2,3");
  files["datapackage.json"] = (files["datapackage.json"] as string).replace(',{"name":"claims","path":"claims.csv"}', "");
  // Quay is Mill at fewer pixels; a run of it was filed under Mill, and is missing in its own cell.
  files["tests.csv"] = (files["tests.csv"] as string).replace("quay,1,quay,Quay,frames,fps,higher,2560x1440", "quay,1,mill,Quay,frames,fps,higher,1920x1080");
  const { "frames/card-b-quay-3.csv": misfiled, ...rest } = files;
  rest["frames/card-b-mill-2.csv"] = misfiled as string;
  rest["runs.csv"] = (files["runs.csv"] as string)
    .split("\n")
    .filter((line) => !line.startsWith("card-b-quay-3,"))
    .join("\n");
  return rest;
}

beforeAll(async () => {
  ({ deps, drop } = await emptyLab());
  const result = await importFiles(deps, lab());
  if (!result.ok) throw new Error(JSON.stringify(result.problem));
});
afterAll(() => drop());

describe("trims", () => {
  const trim = (rowVersion: number, fromS: number, toS: number, reason = "menu") =>
    trimRun(deps, EDITOR, { runId: "card-b-quay-1", rowVersion, fromS, toS, reason });

  it("leave a part out of the statistics, keep the record, and are taken back without a trace in the numbers", async () => {
    const before = await record("card-b-quay-1");
    const whole = (await loadFrames(deps, "card-b-quay-1")) as Float64Array;
    expect(await trim(before.rowVersion, 0, 1)).toMatchObject({ ok: true });
    const trimmed = await record("card-b-quay-1");
    expect(trimmed.statistics).toEqual(frameStatistics(withoutTrims(whole, [{ fromS: 0, toS: 1 }])));
    expect(trimmed.statistics?.frames).toBeLessThan(whole.length);
    expect(trimmed.trims).toMatchObject([{ fromS: 0, toS: 1, reason: "menu", who: "Idris", undone: false }]);
    expect(trimmed.channels).toEqual(before.channels);
    expect(await loadFrames(deps, "card-b-quay-1")).toEqual(whole);

    const at = trimmed.trims[0]?.at as string;
    expect(await undoTrim(deps, SECOND, { runId: "card-b-quay-1", rowVersion: trimmed.rowVersion, fromS: 0, toS: 1, at })).toMatchObject({ ok: true });
    const after = await record("card-b-quay-1");
    expect(after.statistics).toEqual(before.statistics);
    expect(after.trims).toMatchObject([{ undone: true }]);
    expect(after.history.map(({ action, who }) => [action, who])).toEqual([
      ["trim run", "Idris"],
      ["undo trim", "Maely"],
    ]);
  });

  it("need a reason, leave enough of the run, and tell the second editor", async () => {
    const { rowVersion } = await record("card-b-quay-1");
    expect(await trim(rowVersion, 1, 2, "")).toMatchObject({ ok: false, problem: { kind: "invalid" } });
    const all = await trim(rowVersion, 0, 3600);
    expect(all).toMatchObject({ ok: false, problem: { kind: "invalid", reason: expect.stringContaining("Only 0 frames would be left") } });
    expect((await record("card-b-quay-1")).trims).toHaveLength(1);
    expect(await trim(rowVersion - 1, 1, 2)).toMatchObject({ ok: false, problem: { kind: "changed-meanwhile", who: "Maely" } });
  });

  it("the sensor log is read back with its gaps", async () => {
    const sensors = await loadSensors(deps, "card-b-quay-1");
    expect(sensors?.channels.map(({ name }) => name)).toEqual(["gpu_w", "hotspot_c"]);
    expect(sensors?.timeS[0]).toBe(-1);
    expect(Number.isNaN(sensors?.channels[1]?.values[0])).toBe(true);
  });
});

describe("typed values", () => {
  const slot = (setupId: string, number: number, text: string, seen: number | null = null) => ({ setupId, testKey: "reel@1", number, text, seen });
  const enter = (...edits: ReturnType<typeof slot>[]) => enterValues(deps, EDITOR, { edits });

  it("are read as times, sizes and failures, all of a block or none of it", async () => {
    const refused = await enter(slot("card-a", 1, "3:11"), slot("card-b", 1, "soon"), slot("card-b", 2, "12 fps"));
    expect(refused).toMatchObject({
      ok: false,
      problem: { kind: "invalid", reason: expect.stringMatching(/^Nothing was written\. card-b, reel@1, run 1: .*card-b, reel@1, run 2/) },
    });
    expect((await model()).runs.filter(({ testKey }) => testKey === "reel@1")).toEqual([]);

    expect(
      await enter(slot("card-a", 1, "3:11 / 1.4 GB"), slot("card-a", 2, "192.5"), slot("card-b", 1, "1:03"), slot("card-b", 2, "failed: out of memory")),
    ).toMatchObject({
      ok: true,
      value: { written: [{ rowVersion: 1 }, { rowVersion: 1 }, { rowVersion: 1 }, { rowVersion: 1 }] },
    });
    const written = (await model()).runs.filter(({ testKey }) => testKey === "reel@1");
    expect(written.map(({ setupId, number, status, result, outputBytes, typed }) => [setupId, number, status, result, outputBytes, typed])).toEqual([
      ["card-a", 1, "valid", 191, 1.4e9, true],
      ["card-a", 2, "valid", 192.5, null, true],
      ["card-b", 1, "valid", 63, null, true],
      ["card-b", 2, "failed", null, null, true],
    ]);
    expect(written[3]?.reason).toBe("out of memory");
  });

  it("are typed over and cleared, leave their trail, and tell a second editor", async () => {
    expect(await enter(slot("card-a", 1, "190", 1))).toMatchObject({ ok: true, value: { written: [{ rowVersion: 2 }] } });
    expect(await runOf("card-a-reel-v1-1")).toMatchObject({ result: 190, outputBytes: null });
    expect(await enter(slot("card-a", 1, "5", 1))).toMatchObject({ ok: false, problem: { kind: "changed-meanwhile", who: "Idris" } });
    expect(await enter(slot("card-a", 1, "5"))).toMatchObject({ ok: false, problem: { kind: "changed-meanwhile" } });
    expect(await enter(slot("card-a", 1, "", 2))).toMatchObject({ ok: true, value: { written: [{ rowVersion: null }] } });
    expect(await runOf("card-a-reel-v1-1")).toBeUndefined();
    const trail = await deps.database.select().from(audit).where(sql`${audit.subject} = 'run:card-a-reel-v1-1'`).orderBy(audit.id);
    expect(trail.map(({ action }) => action)).toEqual(["type value", "type value", "clear typed value"]);
    expect(await enter(slot("card-a", 1, "3:11 / 1.4 GB"))).toMatchObject({ ok: true });
  });

  it("never take the place of a log", async () => {
    const refused = await enterValues(deps, EDITOR, { edits: [{ setupId: "card-a", testKey: "mill@1", number: 1, text: "100", seen: 1 }] });
    expect(refused).toMatchObject({ ok: false, problem: { kind: "invalid", reason: expect.stringContaining("comes from a log") } });
    expect(await enterValues(deps, EDITOR, { edits: [{ setupId: "nobody", testKey: "mill@1", number: 9, text: "1", seen: null }] })).toMatchObject({
      ok: false,
      problem: { kind: "not-found", what: "setup" },
    });
  });

  it("leave with the package and come back the same", async () => {
    const files = await exported(deps);
    expect(files["run_values.csv"]).toContain("card-a-reel-v1-1,output_bytes,1400000000,B");
    const other = await emptyLab();
    try {
      expect(await importFiles(other.deps, files)).toMatchObject({ ok: true });
      expect(await exported(other.deps)).toEqual(files);
    } finally {
      await other.drop();
    }
  });
});

describe("moved and repeated runs", () => {
  const wrong = async () => (await model()).findings.filter(({ check, state }) => check === "wrong cell" && state !== "dismissed");
  const place = async () => {
    const [run] = await deps.database.select().from(runs).where(sql`${runs.id} = 'card-b-mill-2'`);
    return [run?.testId, run?.number];
  };

  it("a run in the wrong cell goes to the one it fits by one decision, under a free number, and back", async () => {
    const found = (await wrong()).find(({ runId }) => runId === "card-b-mill-2");
    expect(found).toMatchObject({ fits: { setupId: "card-b", testKey: "quay@1" } });
    const decide = (decision: "move-runs" | "reopen", rowVersion: number) =>
      decideFinding(deps, EDITOR, { findingId: found?.id as string, rowVersion, decision, reason: "folders mixed up" });
    expect(await decide("move-runs", found?.rowVersion as number)).toMatchObject({ ok: true, value: { state: "accepted" } });
    expect(await place()).toEqual(["quay", 3]);
    expect((await wrong()).filter(({ state, raised }) => state === "open" && raised)).toEqual([]);
    expect(await decide("reopen", (found?.rowVersion as number) + 1)).toMatchObject({ ok: true });
    expect(await place()).toEqual(["mill", 2]);
    expect((await wrong()).some(({ state, raised }) => state === "open" && raised)).toBe(true);
  });

  it("a doubt that knows no better place moves nothing", async () => {
    const other = (await model()).findings.find(({ fits, check }) => !fits && check === "too few runs");
    const answer = await decideFinding(deps, EDITOR, {
      findingId: other?.id as string,
      rowVersion: other?.rowVersion as number,
      decision: "move-runs",
      reason: "why not",
    });
    expect(answer).toMatchObject({ ok: false, problem: { kind: "invalid" } });
  });

  it("one run is moved by hand to a cell of the same kind under a free number", async () => {
    const { rowVersion } = await record("card-b-mill-2");
    const move = (testKey: string, reason: string) => relabelRun(deps, EDITOR, { runId: "card-b-mill-2", rowVersion, setupId: "card-b", testKey, reason });
    expect(await move("quay@1", "")).toMatchObject({ ok: false, problem: { kind: "invalid" } });
    expect(await move("reel@1", "no")).toMatchObject({ ok: false, problem: { kind: "invalid", reason: expect.stringContaining("same kind") } });
    expect(await move("mill@1", "no")).toMatchObject({ ok: false, problem: { kind: "invalid", reason: expect.stringContaining("already") } });
    expect(await move("gone@1", "no")).toMatchObject({ ok: false, problem: { kind: "not-found" } });
    expect(await move("quay@1", "wrong folder")).toMatchObject({ ok: true, value: { number: 3 } });
    expect((await record("card-b-mill-2")).history.at(-1)).toMatchObject({ action: "move run", who: "Idris", reason: "wrong folder" });
    const back = await record("card-b-mill-2");
    expect(
      await relabelRun(deps, EDITOR, { runId: "card-b-mill-2", rowVersion: back.rowVersion, setupId: "card-b", testKey: "mill@1", reason: "after all" }),
    ).toMatchObject({ ok: true, value: { number: 2 } });
  });

  it("a doubted run is run again: it is discarded, and a plan of what is open is in force", async () => {
    const doubt = (await model()).findings.find(({ runId, state, raised }) => runId === "card-b-mill-2" && state === "open" && raised);
    expect(
      await decideFinding(deps, EDITOR, { findingId: doubt?.id as string, rowVersion: doubt?.rowVersion as number, decision: "rerun", reason: "look again" }),
    ).toMatchObject({ ok: true });
    expect((await runOf("card-b-mill-2"))?.status).toBe("discarded");
    expect(await planOpenRuns(deps, EDITOR, { reviewId: "duel" })).toMatchObject({ ok: true, value: { number: 1, benchId: "oak" } });
    const [plan] = await deps.database.select().from(reviewPlans);
    const blocks = StoredPlan.parse(plan?.plan).benches[0]?.blocks;
    expect(blocks?.find(({ setupId }) => setupId === "card-b")?.tests).toContainEqual({ testKey: "mill@1", runs: 1 });
    expect((await model()).workLeft.find(({ setupId }) => setupId === "card-b")?.seconds).toBeGreaterThan(60);
  });
});

describe("decisions one after another", () => {
  it("each can be taken back: run again, back, discarded, back", async () => {
    const id = (await model()).findings.find(({ runId, check }) => runId === "card-b-mill-2" && check === "wrong cell")?.id as string;
    const decide = async (decision: "rerun" | "discard-runs" | "reopen") => {
      const now = (await model()).findings.find((one) => one.id === id);
      return decideFinding(deps, EDITOR, { findingId: id, rowVersion: now?.rowVersion as number, decision, reason: "look again" });
    };
    const status = async () => (await runOf("card-b-mill-2"))?.status;
    expect([(await decide("reopen")).ok, await status()]).toEqual([true, "valid"]);
    for (const decision of ["discard-runs", "rerun", "discard-runs"] as const) {
      expect([(await decide(decision)).ok, await status()]).toEqual([true, "discarded"]);
      expect([(await decide("reopen")).ok, await status()]).toEqual([true, "valid"]);
    }
  });
});

describe("the lab's desk", () => {
  it("lists the open doubts of every review, those that could change most first", async () => {
    const { reviews } = await loadDesk(deps);
    expect(reviews.map(({ id }) => id)).toEqual(["duel"]);
    const effects = reviews[0]?.doubts.map(({ effect }) => effect?.largest ?? 0) as number[];
    expect(effects.length).toBeGreaterThan(0);
    expect(effects).toEqual([...effects].sort((a, b) => b - a));
  });
});
