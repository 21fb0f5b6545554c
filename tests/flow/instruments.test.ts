import { createServer, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { eq } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { startInstrumentHost } from "#sim/instrumentHost";
import * as t from "@/db/schema";
import { defineTests } from "@/server/defineTests";
import { editSuite } from "@/server/editSuite";
import { registerHost, removeHost } from "@/server/instrumentHosts";
import { loadPlan } from "@/server/loadPlan";
import { loadReview } from "@/server/loadReview";
import { listInstruments, readNow } from "@/server/recordRun";
import { savePlan } from "@/server/savePlan";
import { addSetup, changeReview, startReview } from "@/server/startReview";
import type { Deps } from "@/server/useCase";
import { sheetWalker } from "../helpers/sheetWalker";
import { EDITOR, emptyLab, importFiles, smallPackage } from "../helpers/testLab";

let lab: Awaited<ReturnType<typeof emptyLab>>;
let deps: Deps;
let server: Server;
let address: string;
/** How the host answers a recording; each test sets its own. */
let record: (response: ServerResponse) => void = () => {};
let list: unknown = { name: "Odd recorder", instruments: [] };

beforeAll(async () => {
  lab = await emptyLab();
  deps = { ...lab.deps, now: () => new Date() };
  expect((await importFiles(deps, smallPackage())).ok).toBe(true);
  server = createServer((request, response) => {
    if (request.url === "/instruments") {
      response.setHeader("content-type", "application/json");
      response.end(typeof list === "string" ? list : JSON.stringify(list));
    } else if (request.url === "/recordings") record(response);
    else response.writeHead(404).end("{}");
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  // A card that has not been run yet, and a cooler rated far below the processor it is to cool.
  const facts = (pairs: Record<string, string>) => Object.entries(pairs).map(([key, value]) => ({ key, value, unit: null }));
  await addSetup(deps, EDITOR, {
    id: "fresh",
    label: "Fresh card",
    benchId: "oak",
    benchRevision: 1,
    partIds: [],
    newPart: { id: "fresh", kind: "gpu", name: "Fresh card", maker: "Velm", specs: [] },
    state: [],
  });
  await addSetup(deps, EDITOR, {
    id: "hot-cpu",
    label: "Hot processor",
    benchId: "oak",
    benchRevision: 1,
    partIds: [],
    newPart: { id: "hot", kind: "cpu", name: "Hot", maker: null, specs: facts({ socket: "K4", tdp: "65" }) },
    state: [],
  });
  await addSetup(deps, EDITOR, {
    id: "passive",
    label: "Passive cooler",
    benchId: "oak",
    benchRevision: 1,
    partIds: ["hot"],
    newPart: { id: "fins", kind: "cooler", name: "Fins", maker: null, specs: facts({ sockets: "K4", rated_power: "47" }) },
    state: [],
  });
});
afterAll(async () => {
  server.close();
  await lab.drop();
});

const REVIEW = { questionKind: "one_factor" as const, question: "Which?", resolutions: [], constants: [], embargoUntil: null };

async function plan(reviewId: string, setupId: string, testKey: string, runs: number) {
  const choices = {
    benches: ["oak@1"],
    startAt: "2026-11-23T08:00:00Z",
    oneOperator: true,
    policy: { baselineLast: false, baselineEvery: 0, alternate: false },
    cuts: { tests: [], resolutions: [], cells: [], runs: {} },
  };
  const blocks = [{ setupId, part: "main" as const, tests: [{ testKey, runs }] }];
  return savePlan(deps, EDITOR, { reviewId, after: 0, choices, plan: { benches: [{ id: "oak", revision: 1, blocks }] }, plannedSeconds: 100, plannedSd: 10 });
}

describe("a host that does not behave", () => {
  const walker = sheetWalker(() => deps, "odd", "oak");
  const failedAs = async (reason: RegExp) => {
    const before = (await walker.now()).sequence;
    await walker.prepare();
    expect((await walker.move("start")).ok).toBe(true);
    await walker.until((events) => events.some(({ kind, sequence }) => sequence > before && kind === "failed"));
    const event = (await walker.load()).events.at(-1);
    expect(event?.text).toMatch(reason);
    const [run] = await deps.database
      .select()
      .from(t.runs)
      .where(eq(t.runs.id, event?.runId as string));
    expect(run).toMatchObject({ status: "failed", reason: event?.text });
  };
  const stream =
    (...messages: unknown[]) =>
    (response: ServerResponse) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      for (const message of messages) response.write(`data: ${typeof message === "string" ? message : JSON.stringify(message)}\n\n`);
      response.end();
    };

  it("is named with what is wrong about its answer, and counts as no instrument", async () => {
    expect((await registerHost(deps, EDITOR, { address, name: "Odd recorder" })).ok).toBe(true);
    list = { name: "Odd", instruments: [{ id: "a", name: "A", channels: ["Watt"] }] };
    expect((await listInstruments(deps))[0]).toMatchObject({ list: null, trouble: expect.stringContaining("not as the interface has it") });
    list = "<html>";
    expect((await listInstruments(deps))[0]).toMatchObject({ list: null, trouble: expect.stringContaining("does not answer") });
    expect(await readNow(deps)).toEqual({});
    list = { name: "Odd recorder", instruments: [{ id: "frames", name: "Frames", channels: [] }] };
    expect((await listInstruments(deps))[0]?.trouble).toBeNull();
    // No reading outside of a recording: unknown, not zero.
    expect(await readNow(deps)).toEqual({});
  });

  it("files a failed run with the reason, whatever the host does, and the sheet goes on", async () => {
    await startReview(deps, EDITOR, {
      ...REVIEW,
      id: "odd",
      title: "Odd",
      baselineId: "card-a",
      setups: [
        { setupId: "card-a", role: "peer" },
        { setupId: "fresh", role: "subject" },
      ],
      suiteId: "pair",
    });
    expect((await plan("odd", "fresh", "mill@1", 6)).ok).toBe(true);
    for (let i = 0; i < 2; i += 1) {
      await walker.prepare();
      expect((await walker.move("done")).ok).toBe(true);
    }
    record = (response) => response.writeHead(503).end("busy");
    await failedAs(/the instruments answer 503/);
    record = stream({ kind: "frames", t_s: 0, frame_time_ms: [10, 0] });
    await failedAs(/a message of the instruments cannot be read: frame_time_ms/);
    record = stream("not json");
    await failedAs(/the recording broke off/);
    record = stream({ kind: "frames", t_s: 0, frame_time_ms: [10, 11] });
    await failedAs(/the instruments fell silent/);
    // What came before the break is kept with the failed run.
    const runs = await deps.database.select().from(t.runs).where(eq(t.runs.setupId, "fresh"));
    const [trace] = await deps.database
      .select()
      .from(t.traces)
      .where(eq(t.traces.runId, runs.sort((a, b) => a.number - b.number).at(-1)?.id as string));
    expect(trace).toMatchObject({ channel: "frame_time", count: 2 });
    record = stream({ kind: "frames", t_s: 0, frame_time_ms: Array(200).fill(10) }, { kind: "end", t_s: 2 });
    await walker.prepare();
    expect((await walker.move("start")).ok).toBe(true);
    await walker.until((events) => events.at(-1)?.kind === "done" && events.at(-1)?.runId !== null);
    expect((await loadReview(deps, "odd"))?.runs.filter(({ setupId, status }) => setupId === "fresh" && status === "valid")).toHaveLength(1);
  });

  it("stops a recording when the run is marked as failed at the sheet, and files it once", async () => {
    let closed = false;
    record = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write(`data: ${JSON.stringify({ kind: "frames", t_s: 0, frame_time_ms: [10] })}\n\n`);
      response.on("close", () => (closed = true));
    };
    await walker.prepare();
    expect((await walker.move("start")).ok).toBe(true);
    expect(await walker.move("done")).toMatchObject({ ok: false, problem: { reason: expect.stringContaining("still running") } });
    // Taking the start back would lose the recording without a word.
    expect(await walker.move("undo")).toMatchObject({ ok: false, problem: { reason: expect.stringContaining("press F") } });
    const before = (await walker.load()).events.length;
    expect((await walker.move("failed", { text: "screen went black" })).ok).toBe(true);
    await expect.poll(() => closed, { timeout: 20_000 }).toBe(true);
    const { events } = await walker.load();
    expect(events.length).toBe(before + 1);
    const [kept] = await deps.database
      .select()
      .from(t.traces)
      .where(eq(t.traces.runId, events.at(-1)?.runId as string));
    expect(kept).toMatchObject({ channel: "frame_time", count: 1 });
    expect(await walker.move("failed", { text: "" })).toMatchObject({ ok: false, problem: { reason: expect.stringContaining("Say why") } });
  });

  it("is forgotten on request; what it recorded stays", async () => {
    expect((await removeHost(deps, EDITOR, { address })).ok).toBe(true);
    expect(await removeHost(deps, EDITOR, { address })).toMatchObject({ ok: false, problem: { kind: "not-found" } });
    expect(await listInstruments(deps)).toEqual([]);
  });
});

describe("a soak", () => {
  it("wants its stop rules acknowledged, the over-rated cooler's too, and ends its wait when the parts have cooled", async () => {
    const host = await startInstrumentHost(0, 3);
    await registerHost(deps, EDITOR, { address: `http://127.0.0.1:${(host.address() as AddressInfo).port}`, name: "Simulated bench" });
    const definition = {
      scene: "all cores",
      resolution: null,
      renderResolution: null,
      preset: null,
      rayTracing: null,
      upscaling: null,
      frameGeneration: null,
      api: null,
      cache: null,
      startAt: "load on",
      stopAt: "20 min later",
      loadS: 0,
      warmupS: 0,
      definition: null,
    };
    const soak = {
      ...definition,
      id: "furnace",
      workloadId: "furnace",
      name: "Furnace",
      kind: "soak" as const,
      unit: "°C",
      better: "none" as const,
      loads: "cpu" as const,
      lengthS: 1200,
      resetS: 90_00,
    };
    expect(
      (await defineTests(deps, EDITOR, { workload: { id: "furnace", name: "Furnace", group: "soak", dataSet: null, sha256: null }, tests: [soak] })).ok,
    ).toBe(true);
    expect((await editSuite(deps, EDITOR, { id: "heat", name: "Heat", rowVersion: 0, tests: [{ testKey: "furnace@1", runs: 1 }] })).ok).toBe(true);
    await startReview(deps, EDITOR, {
      ...REVIEW,
      id: "cooler",
      title: "Cooler",
      baselineId: "passive",
      setups: [
        { setupId: "passive", role: "subject" },
        { setupId: "hot-cpu", role: "peer" },
      ],
      suiteId: "heat",
    });
    expect((await plan("cooler", "passive", "furnace@1", 1)).ok).toBe(true);
    const { now, prepare, move, until } = sheetWalker(() => deps, "cooler", "oak");
    expect((await now()).steps.map(({ step }) => step.kind)).toEqual(["pre-flight", "fit", "run", "wait"]);
    for (let i = 0; i < 2; i += 1) {
      await prepare();
      expect((await move("done")).ok).toBe(true);
    }
    const soakStep = (await now()).steps[2];
    expect(soakStep?.step.cautions.filter(({ acknowledge }) => acknowledge).map(({ id }) => id)).toEqual(["soak", "passive"]);
    expect(await move("start")).toMatchObject({ ok: false, problem: { reason: expect.stringContaining("Stop at the temperature limit") } });
    await prepare();
    expect((await move("start")).ok).toBe(true);
    await until((events) => events.at(-1)?.kind === "done" && events.at(-1)?.runId !== null);
    // Just after the soak it is hot; the wait has hours on its timer and ends by temperature all the same.
    expect((await move("start", { pace: 1 })).ok).toBe(true);
    await expect.poll(async () => (await move("done", { pace: 1 })).ok, { timeout: 30_000, interval: 100 }).toBe(true);
    expect((await now()).current).toBe(4);
    host.close();
  });
});

describe("starting and changing a review", () => {
  it("gives a review of some resolutions a suite of its own, so that the lab's suite stays as it is", async () => {
    const base = {
      scene: "s",
      resolution: "1920x1080",
      renderResolution: null,
      preset: "High",
      rayTracing: null,
      upscaling: null,
      frameGeneration: null,
      api: null,
      cache: null,
      startAt: "a",
      stopAt: "b",
      loadS: 0,
      warmupS: 0,
      lengthS: 30,
      resetS: 5,
      definition: null,
    };
    const low = {
      ...base,
      id: "mill-1080",
      workloadId: "mill",
      name: "Mill 1080",
      kind: "frames" as const,
      unit: "fps",
      better: "higher" as const,
      loads: "gpu" as const,
    };
    expect((await defineTests(deps, EDITOR, { workload: { id: "mill", name: "Mill", group: "games", dataSet: null, sha256: null }, tests: [low] })).ok).toBe(
      true,
    );
    expect(
      (
        await editSuite(deps, EDITOR, {
          id: "both",
          name: "Both",
          rowVersion: 0,
          tests: [
            { testKey: "mill@1", runs: 2 },
            { testKey: "mill-1080@1", runs: 2 },
          ],
        })
      ).ok,
    ).toBe(true);
    const draft = { ...REVIEW, id: "half", title: "Half", baselineId: "card-a", setups: [{ setupId: "card-a", role: "peer" as const }], suiteId: "both" };
    expect((await startReview(deps, EDITOR, { ...draft, resolutions: ["1920x1080"] })).ok).toBe(true);
    expect((await loadPlan(deps, "half"))?.tests.map(({ key }) => key)).toEqual(["mill-1080@1"]);
    expect((await startReview(deps, EDITOR, { ...draft, id: "whole", resolutions: ["1920x1080", "2560x1440"] })).ok).toBe(true);
    expect((await loadReview(deps, "whole"))?.suiteId).toBe("both");
    expect((await changeReview(deps, EDITOR, { reviewId: "half", suiteId: "both", embargoUntil: "2026-12-01T12:00:00Z" })).ok).toBe(true);
    expect(await loadReview(deps, "half")).toMatchObject({ suiteId: "both", embargoUntil: "2026-12-01T12:00:00.000Z" });
    expect(await changeReview(deps, EDITOR, { reviewId: "half", suiteId: "no-such" })).toMatchObject({ ok: false, problem: { kind: "not-found" } });
  });

  it("refuses a baseline that is no row, a row twice, an unknown setup, and a setup without a part", async () => {
    const draft = { ...REVIEW, id: "wrong", title: "Wrong", baselineId: "card-b", setups: [{ setupId: "card-a", role: "peer" as const }], suiteId: null };
    expect(await startReview(deps, EDITOR, draft)).toMatchObject({ ok: false, problem: { reason: expect.stringContaining("one of the review's rows") } });
    expect(await startReview(deps, EDITOR, { ...draft, baselineId: "card-a", setups: [...draft.setups, ...draft.setups] })).toMatchObject({
      ok: false,
      problem: { reason: expect.stringContaining("twice") },
    });
    expect(await startReview(deps, EDITOR, { ...draft, baselineId: "ghost", setups: [{ setupId: "ghost", role: "peer" }] })).toMatchObject({
      ok: false,
      problem: { kind: "not-found" },
    });
    expect(await loadReview(deps, "wrong")).toBeUndefined();
    const setup = { id: "empty", label: "Empty", benchId: "oak", benchRevision: 1, partIds: [], newPart: null, state: [] };
    expect(await addSetup(deps, EDITOR, setup)).toMatchObject({ ok: false });
    expect(await addSetup(deps, EDITOR, { ...setup, partIds: ["card-a"], benchRevision: 9 })).toMatchObject({
      ok: false,
      problem: { kind: "not-found", what: "bench" },
    });
  });
});
