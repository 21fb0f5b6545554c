import { sql } from "drizzle-orm";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { frameStatistics } from "@/core/capture";
import { changeRun } from "@/server/changeRun";
import { listReports, listReviews, listReviewTitles } from "@/server/listReviews";
import { loadParts } from "@/server/loadParts";
import { loadFrames, loadRun, loadSensors } from "@/server/loadRun";
import { publishReport } from "@/server/publishReport";
import { EDITOR, emptyLab, importFiles, smallPackage } from "../helpers/testLab";

// What the desk's pages are read from, over the small package whose every value is known.
const NOW = new Date("2026-11-20T16:00:00Z");
const files = smallPackage();
let lab: Awaited<ReturnType<typeof emptyLab>>;
beforeAll(async () => {
  lab = await emptyLab(NOW);
  const made = await importFiles(lab.deps, files);
  if (!made.ok) throw new Error(JSON.stringify(made.problem).slice(0, 500));
});
afterAll(() => lab.drop());

const cellsOf = (name: string) =>
  (files[name] as string)
    .trim()
    .split("\n")
    .slice(1)
    .map((line) => line.split(",").map((cell) => (cell === "" ? Number.NaN : Number(cell))));

describe("the record of a run", () => {
  it("has its series as they were logged, its statistics, its trims and what was metered by hand", async () => {
    const frames = await loadFrames(lab.deps, "card-b-quay-2");
    expect([...(frames ?? [])]).toEqual(cellsOf("frames/card-b-quay-2.csv").map(([frame]) => frame));
    const plain = await loadRun(lab.deps, "card-b-quay-2");
    expect(plain).toMatchObject({ setupLabel: "Orrisk Two", trims: [], values: [], history: [], rowVersion: 1 });
    expect(plain?.statistics).toEqual(frameStatistics(frames as Float64Array));
    expect(plain?.channels.map(({ log, channel, unit, count }) => [log, channel, unit, count])).toEqual([["frames", "frame_time", "ms", 400]]);

    const trimmed = await loadRun(lab.deps, "card-a-mill-1");
    expect(trimmed?.trims).toMatchObject([{ fromS: 0, toS: 0.5, reason: "menu", who: "Runa", undone: false }]);
    expect(trimmed?.statistics?.frames).toBeLessThan(400);
    expect((await loadRun(lab.deps, "card-a-mill-2"))?.values).toEqual([{ metric: "power", value: 151.5, unit: "W", at: "device" }]);
  });

  it("gives sensors on their own clock, gaps as gaps, and nothing where nothing was logged", async () => {
    const sensors = await loadSensors(lab.deps, "card-a-mill-1");
    const rows = cellsOf("sensors/card-a-mill-1.csv");
    expect([...(sensors?.timeS ?? [])]).toEqual(rows.map(([t]) => t));
    expect(sensors?.channels.map(({ name }) => name)).toEqual(["gpu_w", "hotspot_c"]);
    expect([...(sensors?.channels[1]?.values ?? [])]).toEqual(rows.map(([, , celsius]) => celsius));
    expect(await loadSensors(lab.deps, "card-a-mill-2")).toBeUndefined();
    expect(await loadFrames(lab.deps, "nobody")).toBeUndefined();
    expect(await loadRun(lab.deps, "nobody")).toBeUndefined();
  });

  it("keeps who did what with it and why, in order", async () => {
    const change = (rowVersion: number, status: "valid" | "discarded", reason: string) =>
      changeRun(lab.deps, EDITOR, { runId: "card-b-mill-3", rowVersion, status, reason });
    expect(await change(1, "discarded", "alarm rang")).toEqual({ ok: true, value: { rowVersion: 2 } });
    expect(await change(2, "valid", "")).toEqual({ ok: true, value: { rowVersion: 3 } });
    const record = await loadRun(lab.deps, "card-b-mill-3");
    expect(record?.history.map(({ who, action, reason }) => [who, action, reason])).toEqual([
      ["Idris", "discard run", "alarm rang"],
      ["Idris", "restore run", null],
    ]);
    expect(record?.rowVersion).toBe(3);
  });
});

describe("the lists of the lab", () => {
  it("say of each review what it has and lacks", async () => {
    expect(await listReviewTitles(lab.deps)).toEqual([{ id: "duel", title: "Two cards" }]);
    const [line] = await listReviews(lab.deps);
    expect(line).toMatchObject({ id: "duel", title: "Two cards", question: "Which?", setups: 2, tests: 2, publishedVersion: null });
    expect(line?.gaps).toMatchObject({ runsWanted: 12, runsValid: 12 });
  });

  it("name parts with their newest price in each region", async () => {
    const { parts, regions, today } = await loadParts(lab.deps);
    expect(today).toBe("2026-11-20");
    expect(regions.map(({ code }) => code)).toEqual(["NO"]);
    expect(parts.map(({ id }) => id).sort()).toEqual(["card-a", "card-b"]);
  });

  it("show readers a report from its embargo on, the newest version once", async () => {
    const at = (moment: string) => ({ ...lab.deps, now: () => new Date(moment) });
    await lab.deps.database.execute(sql`delete from claims`);
    const publish = () => publishReport(lab.deps, EDITOR, { reviewId: "duel", acknowledgeDoubts: true });
    expect(await publish()).toEqual({ ok: true, value: { slug: "duel", version: 1 } });
    expect(await publish()).toEqual({ ok: true, value: { slug: "duel", version: 2 } });
    // The embargo of the package ends on the 21st at noon, an hour ahead of UTC.
    expect(await listReports(at("2026-11-21T10:59:59Z"))).toEqual([]);
    expect(await listReports(at("2026-11-21T11:00:00Z"))).toEqual([{ slug: "duel", title: "Two cards", publishedAt: NOW.toISOString() }]);
    expect((await listReviews(lab.deps))[0]?.publishedVersion).toBe(2);
  });
});
