import { mkdir, mkdtemp, rm, truncate, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { eq, sql } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { largeLabTables, writeLargeLogs } from "#sim/largeLab";
import { frameStatistics } from "@/core/capture";
import { encodeParcel } from "@/core/intake";
import { intakes, runStatistics, runs } from "@/db/schema";
import { readTraces } from "@/db/traces";
import { endIntake, loadIntake, openIntake, savePattern } from "@/server/intakes";
import { loadReview } from "@/server/loadReview";
import { prepareRun } from "@/server/prepareRun";
import { explainFailure } from "@/server/problems";
import { setThreshold } from "@/server/setThresholds";
import { storeRuns } from "@/server/storeRuns";
import { importFolder } from "../../cli/import";
import { EDITOR, emptyLab, importFiles } from "../helpers/testLab";

const SMALL = { setups: 3, workloads: 4, resolutions: ["1920x1080", "2560x1440"], runs: 3 };

let lab: Awaited<ReturnType<typeof emptyLab>>;
let folder: string;
const said: string[] = [];
const take = async (more: Partial<Parameters<typeof importFolder>[2]> = {}) => {
  const summary = await importFolder(lab.deps, EDITOR, { folder, say: (line) => said.push(line), ...more });
  if ("sentence" in summary) throw new Error(summary.sentence);
  return summary;
};
const count = (summary: Awaited<ReturnType<typeof take>>, state: string) => summary.outcomes.filter((one) => one.state === state).length;

beforeAll(async () => {
  lab = await emptyLab();
  folder = await mkdtemp(path.join(tmpdir(), "parvex-intake-"));
  const made = await importFiles(lab.deps, largeLabTables(SMALL));
  if (!made.ok) throw new Error(JSON.stringify(made.problem).slice(0, 1000));
  await writeLargeLogs(folder, SMALL, { rows: 600, seed: 3 });
  await writeFile(path.join(folder, "notes.txt"), "seen nothing strange\n");
  await mkdir(path.join(folder, "Tarn 09"));
  await writeFile(path.join(folder, "Tarn 09", "Scene 01_1440_run1.csv"), "frame time (ms)\n10\n11\n");
});
afterAll(async () => {
  await lab.drop();
  await rm(folder, { recursive: true, force: true });
});

describe("a folder of logs taken in by command", () => {
  it("is first only looked at: pattern, columns, what is left over and why; nothing is written", async () => {
    const summary = await take({ look: true });
    expect(said.join("\n")).toContain("{setup}/{test}_{resolution}_run{run}.csv");
    expect(said.join("\n")).toContain("frame-time, ms ← “Frame time (ms)”");
    expect(summary.left.map(({ path: name, reason }) => `${name}: ${reason}`).sort()).toEqual([
      "Tarn 09/Scene 01_1440_run1.csv: no setup is called “Tarn 09”",
      expect.stringContaining("notes.txt: line 1: no row of numbers was found"),
    ]);
    expect(await lab.deps.database.select().from(runs)).toEqual([]);
  });

  it("is stored whole, each run in its cell with its frames bit for bit, its sensors and its statistics; the checks have run", async () => {
    const summary = await take();
    expect([count(summary, "stored"), count(summary, "present"), count(summary, "refused")]).toEqual([72, 0, 0]);
    const id = "gpu-tarn-02-scene-03-1440-v1-2";
    const series = await readTraces(lab.deps.database, [id]);
    const frames = series.find(({ log }) => log === "frames")?.values as Float64Array;
    const { readFile } = await import("node:fs/promises");
    const text = await readFile(path.join(folder, "Tarn 02", "Scene 03_1440_run2.csv"), "utf8");
    expect([...frames]).toEqual(
      text
        .trim()
        .split("\n")
        .slice(1)
        .map((line) => Number(line.split(",")[1])),
    );
    expect(series.filter(({ log }) => log === "sensors").map(({ channel, unit }) => `${channel}_${unit}`)).toEqual([
      "t_s",
      "gpu_c",
      "gpu_w",
      "gpu_ghz",
      "gpu_load_ratio",
      "cpu_load_ratio",
      "cpu_ghz",
      "cpu_c",
      "vram_gib",
      "fan1_rpm",
      "wall_w",
    ]);
    const [stored] = await lab.deps.database.select().from(runStatistics).where(eq(runStatistics.runId, id));
    expect(stored?.frames).toEqual(frameStatistics(frames));
    const model = await loadReview(lab.deps, "large");
    expect(model?.runs.length).toBe(72);
    expect(model?.limits.find(({ setupId, testKey }) => setupId === "gpu-tarn-02" && testKey === "scene-03-1440@1")).toMatchObject({
      limit: "gpu",
      confidence: "sure",
    });
    expect((await lab.deps.database.select().from(intakes)).map(({ state }) => state)).toEqual(["done"]);
  });

  it("changes nothing the second time, and a log with other content does not push out what is there", async () => {
    const again = await take();
    expect([count(again, "stored"), count(again, "present")]).toEqual([0, 72]);
    const file = path.join(folder, "Tarn 01", "Scene 01_1080_run1.csv");
    const { readFile } = await import("node:fs/promises");
    const before = await readFile(file);
    await writeFile(file, "Elapsed (s),Frame time (ms)\n0,5.1\n0.0051,5.2\n");
    const other = await take();
    expect(other.outcomes.filter(({ state }) => state === "refused")).toMatchObject([
      { path: "Tarn 01/Scene 01_1080_run1.csv", reason: expect.stringContaining("the lab has another run 1 in this cell (gpu-tarn-01-scene-01-1080-v1-1)") },
    ]);
    await writeFile(file, before);
  });

  it("names file, line and column of a log that breaks off, and stores all others", async () => {
    const file = path.join(folder, "Tarn 01", "Scene 04_1440_run4.csv");
    await writeFile(file, "Elapsed (s),Frame time (ms)\n0,5.1\n0.0051,oops\n0.01,5.1\n");
    const summary = await take();
    expect(summary.outcomes.filter(({ state }) => state === "refused").map(({ reason }) => reason)).toEqual([
      'Tarn 01/Scene 04_1440_run4.csv, line 3, column “Frame time (ms)”: "oops" is not a number',
    ]);
    await rm(file);
  });
});

describe("a folder that is no folder of logs", () => {
  const look = async (prepare: (into: string) => Promise<void>, more: Partial<Parameters<typeof importFolder>[2]> = {}) => {
    const into = await mkdtemp(path.join(tmpdir(), "parvex-odd-"));
    try {
      await prepare(into);
      return await importFolder(lab.deps, EDITOR, { folder: into, say: () => {}, look: true, ...more });
    } finally {
      await rm(into, { recursive: true, force: true });
    }
  };
  const log = "Frame time (ms)\n10\n11\n10.5\n";

  it("is answered with a sentence where it is empty", async () => {
    expect(await look(async () => {})).toMatchObject({ sentence: expect.stringMatching(/^There is no file below .*parvex-odd-/) });
  });

  it("has a file above a gigabyte refused by its name, unread, and the others looked at", async () => {
    const summary = await look(async (into) => {
      await mkdir(path.join(into, "Tarn 01"));
      await writeFile(path.join(into, "Tarn 01", "Scene 01_1440_run8.csv"), log);
      await writeFile(path.join(into, "Tarn 01", "Scene 02_1440_run8.csv"), log);
      // A hole of a gigabyte and a byte takes no room and no time.
      await truncate(path.join(into, "Tarn 01", "Scene 02_1440_run8.csv"), 2 ** 30 + 1);
    });
    expect(summary).toMatchObject({
      logs: 1,
      left: [{ path: "Tarn 01/Scene 02_1440_run8.csv", reason: "it has 1.00 GB; the limit for one file is 1 GB" }],
    });
  });

  it("is read by the pattern that was asked for, not by the one that is remembered", async () => {
    const summary = await look(
      async (into) => {
        await mkdir(path.join(into, "8"));
        await writeFile(path.join(into, "8", "Scene 01 at 1440 on Tarn 01.csv"), log);
      },
      { pattern: "{run}/{test} at {resolution} on {setup}.csv" },
    );
    expect(summary).toMatchObject({ logs: 1, left: [] });
  });

  it("names two logs that claim one run to each other", async () => {
    const summary = await look(
      async (into) => {
        for (const folderName of ["a", "b"]) {
          await mkdir(path.join(into, folderName));
          await writeFile(path.join(into, folderName, "Tarn 01 Scene 01 1440 run 8.csv"), log);
        }
      },
      { pattern: "{*}/{setup} {test} {resolution} run {run}.csv" },
    );
    expect("left" in summary && summary.left.map(({ path: name, reason }) => [name, reason])).toEqual([
      ["a/Tarn 01 Scene 01 1440 run 8.csv", "it claims the same run as b/Tarn 01 Scene 01 1440 run 8.csv"],
      ["b/Tarn 01 Scene 01 1440 run 8.csv", "it claims the same run as a/Tarn 01 Scene 01 1440 run 8.csv"],
    ]);
  });

  it("has its empty, binary and cut-off files left over, each with its reason, and no folder of them stops the others", async () => {
    const summary = await look(async (into) => {
      await mkdir(path.join(into, "Tarn 01"));
      const put = (name: string, content: string | Uint8Array) => writeFile(path.join(into, "Tarn 01", name), content);
      await put("Scene 01_1440_run8.csv", log);
      await put("Scene 01_1440_run9.csv", "");
      await put(
        "Scene 02_1440_run8.csv",
        Uint8Array.from({ length: 3000 }, (_, i) => (i * 71) % 256),
      );
      await put("Scene 03_1440_run8.csv", "Frame time (ms)\n");
    });
    const left = "left" in summary ? new Map(summary.left.map(({ path: name, reason }) => [name, reason])) : new Map();
    expect(left.get("Tarn 01/Scene 01_1440_run9.csv")).toBe("the file is empty");
    expect(left.get("Tarn 01/Scene 02_1440_run8.csv")).toContain("binary");
    expect(left.get("Tarn 01/Scene 03_1440_run8.csv")).toContain("no row of numbers");
    expect(summary).toMatchObject({ logs: 1 });
  });
});

describe("an import that is broken off", () => {
  const place = (number: number) => ({ setupId: "gpu-tarn-03", testKey: "scene-02-1080@1", number });
  const file = (number: number) => ({ path: `b/${number}.csv`, stamp: "7-1" });
  const log = (number: number) => ({ frameTimesMs: Float64Array.from({ length: 200 }, (_, i) => 10 + ((i * 7 + number) % 13) / 10), sensors: null });
  const draft = { label: "broken off", files: [11, 12, 13].map((number) => ({ ...place(number), ...file(number) })) };
  const send = (intakeId: string, number: number) =>
    storeRuns(lab.deps, EDITOR, { intakeId, prepared: [prepareRun({ ...place(number), files: [file(number)] }, log(number))], refused: [] });

  it("stays open, says what is in, and goes on without reading it again; sent twice, a run is there once", async () => {
    const opened = await openIntake(lab.deps, EDITOR, draft);
    if (!opened.ok) throw new Error("not opened");
    const { intakeId } = opened.value;
    expect((await send(intakeId, 11)).ok).toBe(true);
    expect(await send(intakeId, 11)).toMatchObject({ ok: true, value: [{ state: "present" }] });
    expect(await endIntake(lab.deps, EDITOR, { intakeId, state: "done" })).toMatchObject({
      ok: false,
      problem: { reason: expect.stringContaining("2 files have not been read yet") },
    });
    expect((await loadIntake(lab.deps)).open).toMatchObject([{ label: "broken off", files: 3, settled: 1 }]);
    // The tab is closed, the folder dropped again: the same import goes on.
    const again = await openIntake(lab.deps, EDITOR, draft);
    expect(again).toEqual({ ok: true, value: { intakeId, settled: ["b/11.csv"] } });
    // A file that changed meanwhile is another file.
    const changed = await openIntake(lab.deps, EDITOR, { ...draft, files: draft.files.map((one) => ({ ...one, stamp: "8-2" })) });
    expect(changed).toMatchObject({ ok: true, value: { settled: [] } });
    await Promise.all([send(intakeId, 12), send(intakeId, 12), send(intakeId, 13), send(intakeId, 11)]);
    const numbers = (await lab.deps.database.select().from(runs).where(eq(runs.setupId, "gpu-tarn-03")))
      .filter(({ testId }) => testId === "scene-02-1080")
      .map(({ number }) => number);
    expect(numbers.sort((a, b) => a - b)).toEqual([1, 2, 3, 11, 12, 13]);
    expect(await endIntake(lab.deps, EDITOR, { intakeId, state: "done" })).toMatchObject({ ok: true, value: { present: expect.any(Number) } });
    expect(await send(intakeId, 14)).toMatchObject({ ok: false });
  });

  it("stores nothing of a message while the disk is full or the database is away, says so, and goes on afterwards", async () => {
    const files = [21, 22].map((number) => ({ ...place(number), ...file(number) }));
    const opened = await openIntake(lab.deps, EDITOR, { label: "trouble", files });
    if (!opened.ok) throw new Error("not opened");
    const { intakeId } = opened.value;
    const both = () =>
      storeRuns(lab.deps, EDITOR, {
        intakeId,
        prepared: [21, 22].map((number) => prepareRun({ ...place(number), files: [file(number)] }, log(number))),
        refused: [],
      });
    const stored = async () => (await lab.deps.database.select().from(runs).where(eq(runs.setupId, "gpu-tarn-03"))).filter(({ number }) => number > 20).length;
    // As a server fails that has no room left: in the middle of the message, after its runs were written.
    await lab.deps.database.execute(sql`
      create function no_room() returns trigger language plpgsql as $$ begin raise exception 'no space left on device' using errcode = '53100'; end $$`);
    await lab.deps.database.execute(sql`create trigger no_room before insert on run_statistics for each row execute function no_room()`);
    const full = await both().catch((error: unknown) => explainFailure(error));
    expect(full).toContain("The disk is full; nothing of this was stored.");
    expect(await stored()).toBe(0);
    await lab.deps.database.execute(sql`drop trigger no_room on run_statistics`);
    // Every connection of the lab's is cut while the message is being stored.
    await lab.deps.database.execute(sql`
      create function cut_off() returns trigger language plpgsql as $$ begin perform pg_terminate_backend(pg_backend_pid()); perform pg_sleep(0.01); return new; end $$`);
    await lab.deps.database.execute(sql`create trigger cut_off before insert on run_statistics for each row execute function cut_off()`);
    const gone = await both().catch((error: unknown) => explainFailure(error));
    expect(gone).toContain("The database went away; nothing of this was stored.");
    expect(await stored()).toBe(0);
    await lab.deps.database.execute(sql`drop trigger cut_off on run_statistics`);
    expect((await loadIntake(lab.deps)).open.find(({ id }) => id === intakeId)).toMatchObject({ files: 2, settled: 0 });
    expect(await both()).toMatchObject({ ok: true, value: [{ state: "stored" }, { state: "stored" }] });
    expect(await endIntake(lab.deps, EDITOR, { intakeId, state: "done" })).toMatchObject({ ok: true });
    expect(explainFailure(new Error("a bug"))).toBeUndefined();
  });

  it("refuses places the lab does not have", async () => {
    const lost = await openIntake(lab.deps, EDITOR, { label: "lost", files: [{ ...place(1), ...file(1), setupId: "nowhere" }] });
    expect(lost).toMatchObject({ ok: false, problem: { reason: expect.stringContaining("nowhere") } });
    expect(encodeParcel({ runs: [], refused: [] }).length).toBeGreaterThan(4);
  });
});

describe("what is remembered", () => {
  it("is offered again: the pattern of the paths and the lab's own threshold, which moves its findings", async () => {
    await savePattern(lab.deps, EDITOR, {
      template: "{setup}/{test}_{resolution}_run{run}.csv",
      meanings: { setup: { "tarn 09": "gpu-tarn-03" }, test: {}, resolution: {} },
    });
    expect((await loadIntake(lab.deps)).patterns[0]?.meanings.setup).toEqual({ "tarn 09": "gpu-tarn-03" });
    const summary = await take({ look: true });
    // By the person's word the odd folder is a setup now, and its run claims a place that another file has.
    expect(summary.left.find(({ path: name }) => name.startsWith("Tarn 09"))?.reason).toBe("it claims the same run as Tarn 03/Scene 01_1440_run1.csv");
    const doubts = async () =>
      (await loadReview(lab.deps, "large"))?.findings.filter(({ check }) => check === "scatter" || check === "outlier run").length as number;
    const usual = await doubts();
    expect(await setThreshold(lab.deps, EDITOR, { key: "scatterAlpha", value: 0.4 })).toEqual({ ok: true, value: null });
    expect(await doubts()).toBeGreaterThan(usual);
    expect(await setThreshold(lab.deps, EDITOR, { key: "scatterAlpha", value: null })).toEqual({ ok: true, value: null });
    expect(await doubts()).toBe(usual);
    expect(await setThreshold(lab.deps, EDITOR, { key: "scatterAlpha", value: 3 })).toMatchObject({ ok: false });
  });
});
