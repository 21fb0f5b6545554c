import type { Server } from "node:http";
import type { AddressInfo } from "node:net";
import { eq } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { startInstrumentHost } from "#sim/instrumentHost";
import { type PlanChoices, planInputOf, planReview, timesOf } from "@/core/plan";
import { createRandom } from "@/core/random";
import * as t from "@/db/schema";
import { declareDifference } from "@/server/declareDifference";
import { defineTests } from "@/server/defineTests";
import { editSuite } from "@/server/editSuite";
import { practise, registerHost, switchFaults } from "@/server/instrumentHosts";
import { loadAsk } from "@/server/loadAsk";
import { loadBenches } from "@/server/loadBenches";
import { loadPlan } from "@/server/loadPlan";
import { loadReview } from "@/server/loadReview";
import { loadSuites } from "@/server/loadSuites";
import { moveSheet, parseResult } from "@/server/moveSheet";
import { listInstruments } from "@/server/recordRun";
import { declareTwin, reviseBench } from "@/server/reviseBench";
import { savePlan, setLabHours } from "@/server/savePlan";
import { addSetup, startReview } from "@/server/startReview";
import type { Deps } from "@/server/useCase";
import { sheetWalker } from "../helpers/sheetWalker";
import { EDITOR, emptyLab, importFiles, SECOND, smallPackage } from "../helpers/testLab";

let lab: Awaited<ReturnType<typeof emptyLab>>;
let deps: Deps;
let host: Server;
let address: string;

beforeAll(async () => {
  lab = await emptyLab();
  deps = { ...lab.deps, now: () => new Date() };
  expect((await importFiles(deps, smallPackage())).ok).toBe(true);
  host = await startInstrumentHost(0, 7);
  address = `http://127.0.0.1:${(host.address() as AddressInfo).port}`;
});
afterAll(async () => {
  host.close();
  await lab.drop();
});

const PART = { partId: "card-a", role: "gpu", slot: null, quantity: 1 };

describe("benches", () => {
  it("makes a new revision of what was edited and leaves the old one as it was", async () => {
    const draft = { id: "oak", after: 1, name: "Bench Oak", parts: [PART], state: [{ key: "firmware", value: "2.18" }] };
    expect(await reviseBench(deps, EDITOR, draft)).toEqual({ ok: true, value: { revision: 2 } });
    const { revisions } = await loadBenches(deps);
    expect(revisions.filter(({ id }) => id === "oak").map(({ revision, state }) => [revision, state.map(({ value }) => value)])).toEqual([
      [2, ["2.18"]],
      [1, ["build\n26.4"]],
    ]);
  });

  it("refuses a revision that changes nothing, one made on what is no longer newest, and an unknown part", async () => {
    const same = { id: "oak", after: 2, name: "Bench Oak", parts: [PART], state: [{ key: "firmware", value: "2.18" }] };
    expect(await reviseBench(deps, EDITOR, same)).toMatchObject({ ok: false, problem: { kind: "invalid" } });
    expect(await reviseBench(deps, SECOND, { ...same, after: 1 })).toMatchObject({ ok: false, problem: { kind: "changed-meanwhile" } });
    expect(await reviseBench(deps, EDITOR, { ...same, parts: [{ ...PART, partId: "nothing" }] })).toMatchObject({ ok: false, problem: { kind: "not-found" } });
    await expect(deps.database.update(t.benches).set({ name: "Other" }).where(eq(t.benches.id, "oak"))).rejects.toThrow();
  });

  it("shows at once which rows of a review differ, and keeps what the editor declares", async () => {
    expect(
      (
        await addSetup(deps, EDITOR, {
          id: "card-c",
          label: "Tarnuth Three",
          benchId: "oak",
          benchRevision: 2,
          partIds: [],
          newPart: { id: "card-c", kind: "gpu", name: "Tarnuth Three", maker: "Tarnuth", specs: [{ key: "board_power", value: "150", unit: "W" }] },
          state: [],
        })
      ).ok,
    ).toBe(true);
    const draft = {
      id: "trio",
      title: "Three cards",
      questionKind: "launch" as const,
      question: "Which?",
      baselineId: "card-a",
      setups: ["card-a", "card-b", "card-c"].map((setupId) => ({ setupId, role: "peer" as const })),
      suiteId: "pair",
      resolutions: [],
      constants: ["board", "drivers"],
      embargoUntil: null,
    };
    expect(await startReview(deps, EDITOR, draft)).toEqual({ ok: true, value: { id: "trio" } });
    expect(await startReview(deps, EDITOR, draft)).toMatchObject({ ok: false, problem: { kind: "invalid" } });
    const differing = (await loadReview(deps, "trio"))?.held.differences;
    expect(differing?.map(({ property }) => property)).toEqual(["firmware", "os_build"]);
    expect(differing?.[0]?.values.map(({ value, setupIds }) => [value, setupIds])).toEqual([
      [undefined, ["card-a", "card-b"]],
      ["2.18", ["card-c"]],
    ]);
    const decision = { reviewId: "trio", property: "firmware", decision: "declared" as const, why: "another board" };
    expect(await declareDifference(deps, EDITOR, { ...decision, why: "" })).toMatchObject({ ok: false });
    expect((await declareDifference(deps, EDITOR, decision)).ok).toBe(true);
    const after = await loadReview(deps, "trio");
    expect(after?.held.differences[0]?.declared).toMatchObject({ decision: "declared", why: "another board", who: "Idris" });
    expect(after?.constants).toEqual(["board", "drivers"]);
    expect(after?.held.setups[2]?.fit.map(({ rule, verdict }) => `${rule}: ${verdict}`)).toContain("clearance: not known");
  });

  it("keeps declared twins with who said so and why", async () => {
    const twin = { benchId: "oak", revision: 2, twinBenchId: "oak", twinRevision: 1, why: "same" };
    expect(await declareTwin(deps, EDITOR, twin)).toMatchObject({ ok: false });
    expect((await reviseBench(deps, EDITOR, { id: "yew", after: 0, name: "Bench Yew", parts: [], state: [{ key: "firmware", value: "2.18" }] })).ok).toBe(true);
    expect((await declareTwin(deps, EDITOR, { ...twin, twinBenchId: "yew", why: "same batch" })).ok).toBe(true);
    expect((await loadPlan(deps, "trio"))?.benches.find(({ id, revision }) => id === "oak" && revision === 2)?.twinOf).toEqual([{ id: "yew", revision: 1 }]);
  });
});

describe("tests and suites", () => {
  it("defines tests, makes a changed one the next version, and leaves an unchanged one alone", async () => {
    const { tests } = await loadSuites(deps);
    const base = tests.find(({ id }) => id === "mill");
    const {
      key: _,
      version: __,
      newest: ___,
      workloadName: ____,
      group: _____,
      dataSet: ______,
      sha256: _______,
      runs,
      ...definition
    } = base as NonNullable<typeof base>;
    expect(runs).toBe(6);
    const workload = { id: "mill", name: "Mill", group: "games", dataSet: null, sha256: null };
    expect(await defineTests(deps, EDITOR, { workload, tests: [definition] })).toEqual({ ok: true, value: { added: [], same: 1 } });
    expect(await defineTests(deps, EDITOR, { workload, tests: [{ ...definition, lengthS: 40 }] })).toEqual({ ok: true, value: { added: ["mill@2"], same: 0 } });
    expect((await loadSuites(deps)).tests.filter(({ id }) => id === "mill").map(({ version, newest, runs: n }) => [version, newest, n])).toEqual([
      [2, true, 0],
      [1, false, 6],
    ]);
  });

  it("clones and orders suites, never with two versions of one test, and tells the second editor", async () => {
    const draft = {
      id: "pair-2",
      name: "Pair again",
      rowVersion: 0,
      tests: [
        { testKey: "quay@1", runs: 2 },
        { testKey: "mill@2", runs: 1 },
      ],
    };
    expect(await editSuite(deps, EDITOR, draft)).toEqual({ ok: true, value: { rowVersion: 1 } });
    expect(await editSuite(deps, EDITOR, { ...draft, rowVersion: 1, tests: [...draft.tests, { testKey: "mill@1", runs: 1 }] })).toMatchObject({
      ok: false,
      problem: { kind: "invalid" },
    });
    expect(await editSuite(deps, EDITOR, { ...draft, rowVersion: 1, name: "Pair, shorter" })).toEqual({ ok: true, value: { rowVersion: 2 } });
    expect(await editSuite(deps, SECOND, { ...draft, rowVersion: 1 })).toMatchObject({ ok: false, problem: { kind: "changed-meanwhile" } });
    expect((await loadSuites(deps)).suites.find(({ id }) => id === "pair-2")?.tests.map(({ testKey }) => testKey)).toEqual(["quay@1", "mill@2"]);
  });

  it("knows the lab for questions: prices, indices where setups share tests, suites by what went through them", async () => {
    const ask = await loadAsk(deps);
    expect(ask.setups.find(({ setupId }) => setupId === "card-a")).toMatchObject({ price: 4999.9, validRuns: 6 });
    expect(ask.setups.find(({ setupId }) => setupId === "card-c")).toMatchObject({ price: null, logIndex: null, validRuns: 0 });
    expect(ask.suites.find(({ suiteId }) => suiteId === "pair")).toMatchObject({ setupsMeasured: 2, resolutions: ["2560x1440"] });
  });
});

const CHOICES: PlanChoices = {
  benches: ["oak@1", "oak@2"],
  startAt: "2026-11-23T08:00:00Z",
  oneOperator: true,
  policy: { baselineLast: false, baselineEvery: 0, alternate: false },
  cuts: { tests: [], resolutions: [], cells: [], runs: {} },
};

async function planTrio(after: number) {
  const model = await loadPlan(deps, "trio");
  if (!model) throw new Error("no review trio");
  const search = planReview(planInputOf(model, CHOICES), createRandom(1), 100);
  let step = search.next();
  while (!step.done) step = search.next();
  return savePlan(deps, EDITOR, {
    reviewId: "trio",
    after,
    choices: CHOICES,
    plan: { benches: step.value.benches },
    plannedSeconds: step.value.order.makespanMinutes * 60,
    plannedSd: 60,
  });
}

describe("a plan", () => {
  it("asks only for the runs that are not there, is put in force, and is not overwritten by a second author", async () => {
    expect(await planTrio(0)).toEqual({ ok: true, value: { number: 1 } });
    expect(await planTrio(0)).toMatchObject({ ok: false, problem: { kind: "changed-meanwhile" } });
    const saved = (await loadPlan(deps, "trio"))?.saved;
    expect(saved?.plan.benches.flatMap(({ blocks }) => blocks.map(({ setupId }) => setupId))).toEqual(["card-c"]);
    await expect(deps.database.update(t.reviewPlans).set({ madeBy: "nobody" })).rejects.toThrow();
  });

  it("changes the lab's hours once per version", async () => {
    const model = await loadPlan(deps, "trio");
    const change = {
      rowVersion: model?.hoursVersion as number,
      hours: { timeZone: "Asia/Tokyo", week: [{ weekday: 1, opensMinute: 600, closesMinute: 900 }], daysOff: [] },
    };
    expect((await setLabHours(deps, EDITOR, change)).ok).toBe(true);
    expect(await setLabHours(deps, SECOND, change)).toMatchObject({ ok: false, problem: { kind: "changed-meanwhile" } });
  });
});

const { move, now, prepare, until } = sheetWalker(() => deps, "trio", "oak");

describe("a run sheet", () => {
  it("refuses to go on while something held constant is unchecked, in words", async () => {
    const refused = await move("done");
    expect(refused).toMatchObject({ ok: false, problem: { kind: "invalid" } });
    await prepare();
    expect((await move("done")).ok).toBe(true);
    await prepare();
    expect((await move("done")).ok).toBe(true);
    expect((await now()).steps[(await now()).current]?.step).toMatchObject({ kind: "run", testKey: "mill@1", attempt: 1, of: 3 });
  });

  it("takes a typed result where no instrument is, as a number or as mm:ss", async () => {
    expect(parseResult("3:11")).toBe(191);
    expect(parseResult("97.4")).toBe(97.4);
    expect(parseResult("0")).toBeUndefined();
    expect(parseResult("fast")).toBeUndefined();
    await prepare();
    expect((await move("start")).ok).toBe(true);
    expect(await move("done", { result: "quick" })).toMatchObject({ ok: false, problem: { kind: "invalid" } });
    expect((await move("done", { result: "97.4" })).ok).toBe(true);
    const [run] = await deps.database.select().from(t.runs).where(eq(t.runs.setupId, "card-c"));
    expect(run).toMatchObject({ status: "valid", number: 1, testId: "mill" });
  });

  it("records from the stand-ins, files the run with frames, sensors and statistics, and goes on by itself", async () => {
    expect((await registerHost(deps, EDITOR, { address, name: "Simulated bench" })).ok).toBe(true);
    expect((await listInstruments(deps))[0]?.list?.instruments.map(({ id }) => id)).toContain("wall-meter");
    expect((await move("start")).ok).toBe(true);
    await until((events) => events.some(({ runId, kind }) => kind === "done" && runId === "card-c-mill-v1-2"));
    const [statistics] = await deps.database.select().from(t.runStatistics).where(eq(t.runStatistics.runId, "card-c-mill-v1-2"));
    expect((statistics?.frames as { averageFps: number } | undefined)?.averageFps).toBeGreaterThan(20);
    expect(Object.keys(statistics?.energy as object).sort()).toEqual(expect.arrayContaining(["device"]));
    const channels = await deps.database.select({ channel: t.traces.channel }).from(t.traces).where(eq(t.traces.runId, "card-c-mill-v1-2"));
    expect(channels.map(({ channel }) => channel)).toEqual(expect.arrayContaining(["frame_time", "t", "gpu", "wall", "hotspot"]));
    expect((await now()).steps[(await now()).current]?.step.attempt).toBe(3);
  });

  it("files a crash as a failed run with its reason and puts another attempt behind it", async () => {
    expect((await switchFaults(deps, EDITOR, { address, on: ["crash"] })).ok).toBe(true);
    expect((await move("start")).ok).toBe(true);
    await until((events) => events.at(-1)?.kind === "failed");
    expect((await switchFaults(deps, EDITOR, { address, on: [] })).ok).toBe(true);
    const [run] = await deps.database.select().from(t.runs).where(eq(t.runs.id, "card-c-mill-v1-3"));
    expect(run).toMatchObject({ status: "failed" });
    expect(run?.reason).toMatch(/^stopped by itself after \d+ s$/);
    const sheet = await now();
    expect(sheet.steps[sheet.current]?.step).toMatchObject({ attempt: 4, of: 3 });
  });

  it("keeps two screens in step: a move on what another has changed since is refused", async () => {
    const sheet = await now();
    const stale = {
      reviewId: "trio",
      benchId: "oak",
      planNumber: 1,
      after: sheet.sequence,
      stepKey: sheet.steps[sheet.current]?.step.key as string,
      pace: 1000,
      result: null,
    };
    const both = await Promise.all(
      ["from the bench", "from the phone"].map((text, i) => moveSheet(deps, i === 0 ? EDITOR : SECOND, { ...stale, kind: "note", text })),
    );
    expect(both.filter(({ ok }) => ok)).toHaveLength(1);
    expect(both.find(({ ok }) => !ok)).toMatchObject({ problem: { kind: "changed-meanwhile" } });
  });

  it("ends with every run of the review there, and what it took feeds the next plan", async () => {
    for (let i = 0; i < 12; i += 1) {
      const sheet = await now();
      if (sheet.current >= sheet.steps.length) break;
      await prepare();
      const before = (await now()).sequence;
      expect((await move("start")).ok).toBe(true);
      await until((events) => (events.at(-1)?.sequence ?? 0) > before + 1);
    }
    const sheet = await now();
    expect(sheet.current).toBe(sheet.steps.length);
    const review = await loadReview(deps, "trio");
    const own = review?.runs.filter(({ setupId, status }) => setupId === "card-c" && status === "valid") ?? [];
    expect(own.filter(({ testKey }) => testKey === "mill@1").length).toBe(3);
    expect(own.filter(({ testKey }) => testKey === "quay@1").length).toBe(3);
    const model = await loadPlan(deps, "trio");
    expect(model?.observations.length).toBeGreaterThan(5);
    expect(model && timesOf(model).estimate("run", "mill@1", 60).source).toBe("learned");
    expect(await planTrio(1)).toMatchObject({ ok: false, problem: { kind: "invalid", reason: expect.stringContaining("nothing left to run") } });
  });

  it("discards a run that is run again, with the reason", async () => {
    const sheet = await now();
    const last = sheet.steps.findLast(({ runId }) => runId !== null);
    expect((await move("rerun", { stepKey: last?.step.key as string, text: "overlay was on" })).ok).toBe(true);
    const [run] = await deps.database
      .select()
      .from(t.runs)
      .where(eq(t.runs.id, last?.runId as string));
    expect(run).toMatchObject({ status: "discarded", reason: "overlay was on" });
  });

  it("plants an unknown fault for practice and tells afterwards how it could have been seen", async () => {
    expect(await practise(deps, EDITOR, { address, guess: null })).toEqual({ ok: true, value: { practising: true } });
    const told = await practise(deps, EDITOR, { address, guess: "cap" });
    expect(told).toMatchObject({ ok: true, value: { seen: expect.stringMatching(/\w/), name: expect.stringMatching(/\w/) } });
    expect(await practise(deps, EDITOR, { address, guess: "cap" })).toMatchObject({ ok: false });
    expect(await practise(deps, EDITOR, { address: "http://127.0.0.1:1", guess: null })).toMatchObject({ ok: false, problem: { kind: "not-found" } });
  });
});
