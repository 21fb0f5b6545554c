import { spawn } from "node:child_process";
import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { and, eq, sql } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { largeLabTables, writeLargeLogs } from "#sim/largeLab";
import { FRAME_METHOD_VERSION } from "@/core/capture";
import { createRandom } from "@/core/random";
import { openDatabase } from "@/db/client";
import { packTraces } from "@/db/packTraces";
import { runStatistics, runs, traces } from "@/db/schema";
import { insertPacked, readTraces } from "@/db/traces";
import { changeRun } from "@/server/changeRun";
import { endIntake, loadIntake, openIntake } from "@/server/intakes";
import { loadDesk } from "@/server/loadDesk";
import { loadReview } from "@/server/loadReview";
import { prepareRun } from "@/server/prepareRun";
import { recomputeRuns, refreshStatistics } from "@/server/recomputeRuns";
import { remembered } from "@/server/remembered";
import { storeRuns } from "@/server/storeRuns";
import { importFolder } from "../../cli/import";
import { EDITOR, emptyLab, importFiles, smallPackage } from "../helpers/testLab";

const SMALL = { setups: 3, workloads: 4, resolutions: ["1920x1080", "2560x1440"], runs: 3 };

describe("an import whose process is killed", () => {
  let lab: Awaited<ReturnType<typeof emptyLab>>;
  let folder: string;
  beforeAll(async () => {
    lab = await emptyLab();
    folder = await mkdtemp(path.join(tmpdir(), "parvex-killed-"));
    const made = await importFiles(lab.deps, largeLabTables(SMALL));
    if (!made.ok) throw new Error(JSON.stringify(made.problem).slice(0, 1000));
    await writeLargeLogs(folder, SMALL, { rows: 3000, seed: 5 });
  });
  afterAll(async () => {
    await lab.drop();
    await rm(folder, { recursive: true, force: true });
  });
  const stored = async () => (await lab.deps.database.select({ id: runs.id }).from(runs)).length;
  const addressOf = async () => {
    const { rows } = await lab.deps.database.execute<{ name: string }>(sql`select current_database() as name`);
    return Object.assign(new URL(process.env.DATABASE_URL ?? ""), { pathname: `/${rows[0]?.name}` }).href;
  };

  it("has whole batches only, and the same command goes on where it ended: no run lost, none twice", async () => {
    const child = spawn(process.execPath, ["--import", "tsx", "cli/import.ts", folder, "--as", EDITOR.personId], {
      env: { ...process.env, DATABASE_URL: await addressOf(), PARVEX_TODAY: "2026-11-20" },
      stdio: ["ignore", "pipe", "pipe"],
    });
    let said = "";
    child.stdout.on("data", (chunk) => (said += chunk));
    child.stderr.on("data", (chunk) => (said += chunk));
    const ended = new Promise<NodeJS.Signals | null>((resolve) => child.on("exit", (_, signal) => resolve(signal)));
    const until = Date.now() + 60_000;
    while ((await stored()) === 0 && Date.now() < until && child.exitCode === null) await new Promise((resolve) => setTimeout(resolve, 5));
    child.kill("SIGKILL");
    expect(await ended, said).toBe("SIGKILL");
    const before = await stored();
    expect(before).toBeGreaterThan(0);
    expect(before).toBeLessThan(72);
    // What is in has its frames and statistics: nothing is half-written.
    const { rows } = await lab.deps.database.execute<{ n: number }>(sql`
      select count(*)::integer as n from runs r where not exists (select 1 from traces t where t.run_id = r.id)
        or not exists (select 1 from run_statistics s where s.run_id = r.id)`);
    expect(rows[0]?.n).toBe(0);
    expect((await loadIntake(lab.deps)).open).toMatchObject([{ files: 72, settled: before }]);
    const lines: string[] = [];
    const summary = await importFolder(lab.deps, EDITOR, { folder, say: (line) => lines.push(line) });
    if ("sentence" in summary) throw new Error(summary.sentence);
    expect(lines.join("\n")).toContain(`going on: ${before} files were taken in before`);
    expect(summary.outcomes.map(({ state }) => state)).toEqual(Array(72 - before).fill("stored"));
    expect((await loadIntake(lab.deps)).past).toMatchObject([{ label: path.resolve(folder), state: "done", stored: 72, present: 0, waiting: 0, refused: [] }]);
    expect(await stored()).toBe(72);
    const whole = await lab.deps.database.execute<{ n: number }>(sql`select count(distinct (setup_id, test_id, number))::integer as n from runs`);
    expect(whole.rows[0]?.n).toBe(72);
    expect((await loadIntake(lab.deps)).open).toEqual([]);
  });

  it("refuses a log that its cell has under another number, in one message or in two, and says which run it is", async () => {
    const place = (number: number) => ({ setupId: "gpu-tarn-01", testKey: "scene-01-1080@1", number });
    const random = createRandom(4);
    const log = { frameTimesMs: Float64Array.from({ length: 300 }, () => Math.round(1e4 * (9 + random.next())) / 1e4), sensors: null };
    const send = async (...numbers: number[]) => {
      const files = numbers.map((number) => ({ path: `again/${number}.csv`, stamp: `1-${number}` }));
      const opened = await openIntake(lab.deps, EDITOR, {
        label: `again ${numbers}`,
        files: numbers.map((number, i) => ({ ...place(number), ...(files[i] as (typeof files)[number]) })),
      });
      if (!opened.ok) throw new Error("not opened");
      const prepared = numbers.map((number, i) => prepareRun({ ...place(number), files: [files[i] as (typeof files)[number]] }, log));
      const answer = await storeRuns(lab.deps, EDITOR, { intakeId: opened.value.intakeId, prepared, refused: [] });
      await endIntake(lab.deps, EDITOR, { intakeId: opened.value.intakeId, state: "done" });
      return answer.ok ? answer.value.map(({ state, reason }) => [state, reason]) : [];
    };
    expect((await send(31, 32)).sort()).toEqual([
      ["refused", "it holds the same log as run 31 of this cell; it was not filed a second time"],
      ["stored", null],
    ]);
    expect(await send(33)).toEqual([["refused", "it holds the same log as run 31 of this cell; it was not filed a second time"]]);
    const [run] = await lab.deps.database
      .select()
      .from(runs)
      .where(and(eq(runs.setupId, "gpu-tarn-01"), eq(runs.number, 31)));
    expect(run).toBeDefined();
    await changeRun(lab.deps, EDITOR, { runId: run?.id as string, rowVersion: run?.rowVersion as number, status: "discarded", reason: "menu open" });
    expect(await send(34)).toEqual([
      ["refused", "it holds the same log as run 31 of this cell, which was discarded; bring it back there if it is to count; it was not filed a second time"],
    ]);
    expect((await loadIntake(lab.deps)).past.find(({ label }) => label === "again 34")).toMatchObject({
      madeBy: EDITOR.name,
      stored: 0,
      refused: [{ path: "again/34.csv", reason: expect.stringContaining("the same log as run 31") }],
    });
    // In another cell the same log is stored: there the check asks which of the two is the copy.
    const files = [{ path: "again/other.csv", stamp: "1-1" }];
    const other = { setupId: "gpu-tarn-02", testKey: "scene-01-1080@1", number: 31 };
    const opened = await openIntake(lab.deps, EDITOR, { label: "other cell", files: [{ ...other, ...(files[0] as (typeof files)[number]) }] });
    if (!opened.ok) throw new Error("not opened");
    expect(await storeRuns(lab.deps, EDITOR, { intakeId: opened.value.intakeId, prepared: [prepareRun({ ...other, files }, log)], refused: [] })).toMatchObject(
      {
        ok: true,
        value: [{ state: "stored" }],
      },
    );
    await endIntake(lab.deps, EDITOR, { intakeId: opened.value.intakeId, state: "done" });
  });

  it("derives everything again as it was stored, a batch after the other, and stops where nobody asks on", async () => {
    const kept = new Map((await lab.deps.database.select().from(runStatistics)).map((row) => [row.runId, row]));
    let derived = 0;
    for await (const { runId, derived: again } of recomputeRuns(lab.deps.database)) {
      const { frames, pacing, energy, facts } = kept.get(runId) as NonNullable<ReturnType<typeof kept.get>>;
      expect(again, runId).toEqual({ frames, pacing, energy, facts });
      derived += 1;
    }
    expect(derived).toBe(kept.size);
    for await (const { runId } of recomputeRuns(lab.deps.database)) {
      expect(runId).not.toBe("");
      break;
    }
  });

  it("makes the statistics of an older method anew, with the run's trims, and leaves the others alone", async () => {
    const { database } = lab.deps;
    const [first, second] = await database.select().from(runStatistics).limit(2);
    if (!first || !second) throw new Error("no statistics");
    await database.execute(sql`insert into trace_edits (run_id, from_s, to_s, reason) values (${first.runId}, 0, 1, 'menu')`);
    await database.execute(sql`update run_statistics set method_version = ${FRAME_METHOD_VERSION - 1}, frames = '{"frames": 1}' where run_id = ${first.runId}`);
    await database.execute(sql`update run_statistics set frames = '{"frames": 2}' where run_id = ${second.runId}`);
    expect(await refreshStatistics(database)).toBe(1);
    const now = new Map((await database.select().from(runStatistics)).map((row) => [row.runId, row]));
    const before = first.frames as { frames: number; durationS: number };
    const after = now.get(first.runId)?.frames as { frames: number; durationS: number };
    expect(now.get(first.runId)?.methodVersion).toBe(FRAME_METHOD_VERSION);
    // About a second of frames is left out.
    expect(before.durationS - after.durationS).toBeCloseTo(1, 1);
    expect(after.frames).toBeLessThan(before.frames);
    expect(now.get(second.runId)?.frames).toEqual({ frames: 2 });
    expect(await refreshStatistics(database)).toBe(0);
  });
});

describe("series on their way into the database", () => {
  it("come back bit for bit and in order, small and large, many in one statement", async () => {
    const lab = await emptyLab();
    try {
      const made = await importFiles(lab.deps, smallPackage());
      expect(made.ok).toBe(true);
      const { database } = lab.deps;
      // Records are never taken away: the series go to runs that have none yet.
      await database.execute(sql`
        insert into runs (id, setup_id, test_id, test_version, number, status)
        select 'bare-' || id, setup_id, test_id, test_version, number + 50, 'valid' from runs`);
      await expect(database.delete(traces)).rejects.toThrow();
      const random = createRandom(8);
      const ids = (await database.select({ id: runs.id }).from(runs))
        .map(({ id }) => id)
        .filter((id) => id.startsWith("bare-"))
        .sort();
      const series = ids.flatMap((runId, i) => [
        // One of over a megabyte, several empty of decimals, one with gaps: every codec, across the limit of one statement.
        {
          runId,
          log: "frames" as const,
          position: 0,
          channel: "frame_time",
          unit: "ms",
          values: Float64Array.from({ length: i === 0 ? 1_500_000 : 40 + i }, () => Math.round(1e4 * (8 + random.next())) / 1e4),
        },
        { runId, log: "sensors" as const, position: 0, channel: "t", unit: "s", values: Float64Array.from({ length: 5 }, (_, k) => k * 0.5) },
        { runId, log: "sensors" as const, position: 1, channel: "gpu", unit: "w", values: Float64Array.of(150.25, Number.NaN, 151, 1 / 3, -0) },
      ]);
      await insertPacked(database, packTraces(series));
      const back = await readTraces(database, ids);
      expect(back.length).toBe(series.length);
      for (const [k, one] of series.entries()) {
        expect({ ...back[k], values: null }).toEqual({ ...one, values: null });
        expect(Buffer.from(back[k]?.values.buffer as ArrayBuffer).equals(Buffer.from(one.values.buffer as ArrayBuffer)), `${one.runId} ${one.channel}`).toBe(
          true,
        );
      }
    } finally {
      await lab.drop();
    }
  });
});

/**
 * Two readings right after each other that gave the very same answer. A snapshot is of the whole server: what other tests write
 * beside this one may fall between two readings, so it is tried again.
 */
async function readTwice<T>(read: () => Promise<T>): Promise<T> {
  for (let tries = 0; tries < 60; tries += 1) {
    const [first, second] = [await read(), await read()];
    if (first === second) return first;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  throw new Error("no two readings ever gave the same answer");
}

describe("what is remembered between two readings", () => {
  let lab: Awaited<ReturnType<typeof emptyLab>>;
  beforeAll(async () => {
    lab = await emptyLab();
    const made = await importFiles(lab.deps, smallPackage());
    if (!made.ok) throw new Error(JSON.stringify(made.problem).slice(0, 500));
  });
  afterAll(() => lab.drop());

  it("is the very same answer while nothing is written, and another after any change, by whoever", async () => {
    const first = await readTwice(() => loadReview(lab.deps, "duel"));
    const [run] = await lab.deps.database.select().from(runs).where(eq(runs.id, "card-a-mill-1"));
    await changeRun(lab.deps, EDITOR, { runId: "card-a-mill-1", rowVersion: run?.rowVersion as number, status: "discarded", reason: "menu open" });
    const second = await loadReview(lab.deps, "duel");
    expect(second).not.toBe(first);
    expect(second?.runs.find(({ id }) => id === "card-a-mill-1")).toMatchObject({ status: "discarded", reason: "menu open" });
    expect(first?.runs.find(({ id }) => id === "card-a-mill-1")?.status).toBe("valid");
    // From another connection, past every use case.
    const { rows } = await lab.deps.database.execute<{ name: string }>(sql`select current_database() as name`);
    const stranger = openDatabase(Object.assign(new URL(process.env.DATABASE_URL ?? ""), { pathname: `/${rows[0]?.name}` }).href);
    await stranger.execute(sql`update reviews set title = 'Two cards, again' where id = 'duel'`);
    await stranger.$client.end();
    expect((await loadReview(lab.deps, "duel"))?.title).toBe("Two cards, again");
  });

  it("is not kept within a transaction, which sees what it has written itself", async () => {
    const titles: unknown[] = [];
    await lab.deps.database
      .transaction(async (tx) => {
        const deps = { ...lab.deps, database: tx as unknown as typeof lab.deps.database };
        const title = () =>
          remembered(deps, "title", async () => (await tx.execute<{ title: string }>(sql`select title from reviews where id = 'duel'`)).rows[0]?.title);
        titles.push(await title());
        await tx.execute(sql`update reviews set title = 'Never seen' where id = 'duel'`);
        titles.push(await title());
        throw new Error("taken back");
      })
      .catch((error: Error) => expect(error.message).toBe("taken back"));
    expect(titles).toEqual(["Two cards, again", "Never seen"]);
    expect((await loadReview(lab.deps, "duel"))?.title).toBe("Two cards, again");
  });

  it("asks once for many at the same time, asks again after a failure, and forgets the oldest first", async () => {
    let asked = 0;
    const load = async () => {
      asked += 1;
      const own = asked;
      await new Promise((resolve) => setTimeout(resolve, 30));
      return own;
    };
    let shared = 0;
    for (let tries = 0; tries < 60 && shared === 0; tries += 1) {
      const answers = await Promise.all([1, 2, 3].map(() => remembered(lab.deps, `many ${tries}`, load)));
      if (new Set(answers).size === 1) shared = answers.length;
    }
    expect(shared).toBe(3);
    const before = await readTwice(() => remembered(lab.deps, "a", load));
    await expect(remembered(lab.deps, "b", () => Promise.reject(new Error("no luck")))).rejects.toThrow("no luck");
    expect(await remembered(lab.deps, "b", async () => "luck")).toBe("luck");
    for (let i = 0; i < 30; i += 1) await remembered(lab.deps, `filler ${i}`, async () => i);
    const after = await readTwice(() => remembered(lab.deps, "a", load));
    expect(after).toBeGreaterThan(before);
    // Another day is another answer: prices age.
    expect(await remembered({ ...lab.deps, today: "2026-11-21" }, "a", load)).toBeGreaterThan(after);
  });

  it("holds the desk as well, which follows a decision at once", async () => {
    await readTwice(() => loadDesk(lab.deps));
    await lab.deps.database.execute(sql`update findings set state = 'dismissed', reason = 'seen'`);
    expect((await loadDesk(lab.deps)).reviews).toEqual([]);
  });
});
