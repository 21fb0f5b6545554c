import { rmSync } from "node:fs";
import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { parseArgs } from "node:util";
import { parse } from "csv-parse/sync";
import { sql } from "drizzle-orm";
import { frameLog, LARGE, largeLabTables, writeLargeLogs } from "#sim/largeLab";
import { recordFrames } from "#sim/recorder";
import { runOf } from "#sim/summaries";
import { countFrames, decodeTrace, encodeTrace, frameStatistics, measurePacing } from "@/core/capture";
import { cellLogError, combineErrors, type LabTest, logScatter } from "@/core/cell";
import { buildMatrix, choiceOfWorkloads, compileIndex, type Matrix, testWeights, weighIndex } from "@/core/compare";
import { ProblemList } from "@/core/exchange";
import { type ColumnUse, detectShape, proposeUses, takeInLog } from "@/core/intake";
import { createRandom } from "@/core/random";
import { mean, quantileSorted, t95 } from "@/core/stats";
import { migrateDatabase, openDatabase } from "@/db/client";
import { importPackage } from "@/server/importPackage";
import { openIntake } from "@/server/intakes";
import { prepareRun } from "@/server/prepareRun";
import { recomputeRuns } from "@/server/recomputeRuns";
import { storeRuns } from "@/server/storeRuns";
import type { Actor, Deps } from "@/server/useCase";
import { measureBrowser } from "./benchBrowser";
import { importFolder } from "./import";

/** One measured figure. The reference is measured in the same run, or is what the figure is to reach. */
interface Figure {
  name: string;
  value: number;
  unit: string;
  reference: number | null;
  ratio: number | null;
  note: string;
}

const figures: Figure[] = [];
function tell(name: string, value: number, unit: string, reference: number | null, note: string): void {
  figures.push({ name, value, unit, reference, ratio: reference === null ? null : value / reference, note });
  const against = reference === null ? "" : `  ${(value / reference).toFixed(2)} × ${reference.toPrecision(3)}`;
  console.log(`${name.padEnd(46)} ${value.toPrecision(4).padStart(9)} ${unit.padEnd(14)}${against}  ${note}`);
}

/** Median rate over several passes, in `amount` a second. */
function rateOf(amount: number, work: () => void, passes = 9): number {
  for (let i = 0; i < 3; i += 1) work();
  const times = Array.from({ length: passes }, () => {
    const started = performance.now();
    work();
    return (performance.now() - started) / 1000;
  }).sort((a, b) => a - b);
  return amount / (times[passes >> 1] as number);
}

/** The plainest scanner that reads one column: bytes up to the cell, then the engine's search for the line's end; no checks at all. */
function plainScan(bytes: Uint8Array, column: number, into: Float64Array): void {
  let at = bytes.indexOf(10) + 1;
  for (let row = 0; at < bytes.length; row += 1) {
    for (let commas = 0; commas < column; at += 1) if (bytes[at] === 44) commas += 1;
    let whole = 0;
    let decimals = -1;
    let byte = bytes[at] as number;
    while (byte !== 44 && byte !== 10) {
      if (byte === 46) decimals = 0;
      else {
        whole = whole * 10 + byte - 48;
        if (decimals >= 0) decimals += 1;
      }
      at += 1;
      byte = bytes[at] as number;
    }
    into[row] = whole / 10 ** Math.max(0, decimals);
    at = byte === 10 ? at + 1 : bytes.indexOf(10, at) + 1;
  }
}

/** The first columns of a log of twelve. */
function narrowed(log: Uint8Array, columns: number): Uint8Array {
  const lines = new TextDecoder().decode(log).trimEnd().split("\n");
  return new TextEncoder().encode(`${lines.map((line) => line.split(",").slice(0, columns).join(",")).join("\n")}\n`);
}

function measureCore(): void {
  const wide = frameLog(130_000, 216, createRandom(3));
  for (const [columns, bytes] of [
    [3, narrowed(wide, 3)],
    [12, wide],
  ] as const) {
    const detected = detectShape(bytes.subarray(0, 65_536), false);
    if (!detected.ok) throw new Error(detected.problem.reason);
    const { shape, rows } = detected.value;
    const uses = proposeUses(shape, rows);
    const only = uses.map((use): ColumnUse => (use.use === "frame-time" ? use : { use: "ignore" }));
    const megabytes = bytes.length / 1e6;
    const into = new Float64Array(140_000);
    const plain = rateOf(megabytes, () => plainScan(bytes, 1, into));
    const read = (which: readonly ColumnUse[]) => {
      const taken = takeInLog(bytes, shape, which);
      if (!taken.ok) throw new Error(taken.problem.reason);
    };
    tell(
      `parse one column of ${columns}`,
      rateOf(megabytes, () => read(only)),
      "MB/s",
      plain,
      "against a plain scanner without checks, same run",
    );
    tell(
      `parse all of ${columns} columns`,
      rateOf(megabytes, () => read(uses)),
      "MB/s",
      plain,
      "the same scanner reading one",
    );
    const part = bytes.subarray(0, bytes.lastIndexOf(10, 4_000_000) + 1);
    const packaged = rateOf(part.length / 1e6, () => parse(Buffer.from(part), { columns: true }), 3);
    tell(`CSV package, ${columns} columns`, packaged, "MB/s", plain, "csv-parse, same run");
  }
  const frames = recordFrames({ fps: 216, lengthS: 60, frameSpread: 0.12, stutterShare: 0.001 }, createRandom(3));
  const long = recordFrames({ fps: 216, lengthS: 1200, frameSpread: 0.12, stutterShare: 0.001 }, createRandom(4));
  const sorted = rateOf(frames.length / 1e6, () => frames.slice().sort(), 15);
  tell(
    "all statistics of a run of 13,000 frames",
    rateOf(frames.length / 1e6, () => frameStatistics(frames), 25),
    "million/s",
    sorted,
    "against one sort of the frames, same run",
  );
  tell(
    "all statistics of a run of 260,000 frames",
    rateOf(long.length / 1e6, () => frameStatistics(long)),
    "million/s",
    25,
    "to reach 25",
  );
  tell(
    "statistics and pacing, 13,000 frames",
    rateOf(
      frames.length / 1e6,
      () => {
        const counted = countFrames(frames);
        frameStatistics(frames, counted);
        measurePacing(frames, counted);
      },
      25,
    ),
    "million/s",
    sorted,
    "against one sort",
  );
  const packed = encodeTrace(frames);
  tell(
    "series packed",
    rateOf(frames.length / 1e6, () => encodeTrace(frames), 25),
    "million/s",
    null,
    packed.codec,
  );
  tell(
    "series unpacked",
    rateOf(frames.length / 1e6, () => decodeTrace(packed), 25),
    "million/s",
    null,
    packed.codec,
  );
}

async function measureImport(folder: string, logs: number): Promise<void> {
  const database = openDatabase(process.env.DATABASE_URL ?? "");
  const deps: Deps = { database, now: () => new Date(), today: "2026-11-20", dataDir: folder };
  const actor: Actor = { personId: "editor", name: "Idris" };
  try {
    await migrateDatabase(database, "src/db/migrations");
    const files = largeLabTables(LARGE);
    const encoder = new TextEncoder();
    const made = await importPackage(deps, actor, {
      source: {
        names: Object.keys(files).sort(),
        sizeOf: (name) => files[name]?.length ?? 0,
        read: async (name) => encoder.encode(files[name]),
        close: async () => {},
      },
      problems: new ProblemList(),
      label: "bench",
    });
    if (!made.ok) throw new Error(JSON.stringify(made.problem));
    const logFolder = path.join(folder, "logs");
    rmSync(logFolder, { recursive: true, force: true });
    await writeLargeLogs(logFolder, LARGE, { rows: 13_000, seed: 7, most: logs });
    const summary = await importFolder(deps, actor, { folder: logFolder, say: () => {} });
    if ("sentence" in summary) throw new Error(summary.sentence);
    const stored = summary.outcomes.filter(({ state }) => state === "stored").length;
    if (stored !== logs) throw new Error(`${stored} of ${logs} logs were stored`);
    tell(`import of ${logs} logs, 13,000 × 12, end to end`, logs / summary.seconds, "logs/s", 75, "two threads; statistics, checks and PostgreSQL included");
    tell("  the same in text", summary.bytes / 1e6 / summary.seconds, "MB/s", null, "");
    tell("  peak memory of the importer", process.resourceUsage().maxRSS / 1024, "MB", 600, "to stay under 600");
    await database.execute(sql`vacuum analyze traces`);
    const { rows } = await database.execute<{ bytes: string; frames: string }>(
      sql`select pg_total_relation_size('traces')::text as bytes, (select sum(count) from traces where log = 'frames')::text as frames`,
    );
    tell("storage with all overhead", Number(rows[0]?.bytes) / Number(rows[0]?.frames), "bytes a frame", 2.8, "sensors included; to stay under 2.8");
    const started = performance.now();
    let frames = 0;
    for await (const { derived } of recomputeRuns(database)) frames += derived.frames?.frames ?? 0;
    const seconds = (performance.now() - started) / 1000;
    tell(`every statistic again from the database, ${logs} runs`, seconds, "s", (3 * logs) / 4104, "one thread; to take 3 s for 4,104");
    tell("  the same", frames / 1e6 / seconds, "million/s", null, "");
  } finally {
    await database.$client.end();
  }
}

/** Files a run of 70,000 frames in the review that is there; returns its id. */
async function addLongRun(folder: string): Promise<string> {
  const database = openDatabase(process.env.DATABASE_URL ?? "");
  const deps: Deps = { database, now: () => new Date(), today: "2026-11-20", dataDir: folder };
  const actor: Actor = { personId: "editor", name: "Idris" };
  try {
    const file = { path: "long.csv", stamp: "1" };
    const place = { setupId: "gpu-tarn-01", testKey: "scene-01-1080@1", number: 99 };
    const opened = await openIntake(deps, actor, { label: "long run", files: [{ ...place, ...file }] });
    if (!opened.ok) throw new Error("no import was opened");
    const frameTimesMs = recordFrames({ fps: 70_000 / 60, lengthS: 60, frameSpread: 0.12, stutterShare: 0.001 }, createRandom(8));
    const prepared = [prepareRun({ ...place, files: [file] }, { frameTimesMs, sensors: null })];
    const stored = await storeRuns(deps, actor, { intakeId: opened.value.intakeId, prepared, refused: [] });
    const id = stored.ok ? stored.value[0]?.runId : undefined;
    if (!id) throw new Error("the long run was not stored");
    return id;
  } finally {
    await database.$client.end();
  }
}

/** Starts an import from nothing. */
async function emptyDatabase(): Promise<void> {
  const database = openDatabase(process.env.DATABASE_URL ?? "");
  try {
    await database.execute(sql`drop schema if exists public cascade`);
    await database.execute(sql`drop schema if exists drizzle cascade`);
    await database.execute(sql`create schema public`);
  } finally {
    await database.$client.end();
  }
}

/** The plainest way to rank: every pair of rows judged term by term, nothing compiled, the exact multiplier each time. */
function plainRank(matrix: Matrix, setupIds: readonly string[], tests: readonly LabTest[], weights: Float64Array): number {
  const rows = setupIds.map((setupId) =>
    tests.map((test) => {
      const key = `${setupId}/${test.key}`;
      const values = matrix.cells.get(key)?.values ?? [];
      return {
        log: Math.log(mean(values)),
        error: cellLogError(values, matrix.repeatability.get(test.key), { usesOwnScatter: matrix.ownScatter.has(key), cellKey: key }),
      };
    }),
  );
  let ahead = 0;
  for (const [i, a] of rows.entries()) {
    for (const b of rows.slice(i + 1)) {
      let estimate = 0;
      const terms = a.flatMap((x, t) => {
        const [y, weight] = [b[t] as typeof x, weights[t] as number];
        estimate += weight * (x.log - y.log);
        return x.error && y.error
          ? [
              { weight, error: x.error },
              { weight, error: y.error },
            ]
          : [];
      });
      const { se, df } = combineErrors(terms);
      if (Math.abs(estimate) > t95(df) * se) ahead += 1;
    }
  }
  return ahead;
}

/** A matrix of drawn rates: rows a few per cent apart, three runs a cell, 1.2 % run to run. */
function drawnMatrix(rows: number, workloads: number, resolutions: number, seed: number) {
  const random = createRandom(seed);
  const tests = Array.from({ length: workloads * resolutions }, (_, i): LabTest => {
    const workloadId = `w${Math.floor(i / resolutions)}`;
    const names = { workloadId, workloadName: workloadId, name: `t${i}`, id: `t${i}`, key: `t${i}@1` };
    return {
      ...names,
      version: 1,
      group: "games",
      kind: "frames",
      unit: "fps",
      better: "higher",
      resolution: `${i % resolutions}`,
      settings: "",
      ladder: null,
      mediaS: null,
    };
  });
  const setupIds = Array.from({ length: rows }, (_, s) => `s${s}`);
  const runs = setupIds.flatMap((setupId, s) =>
    tests.flatMap((test, t) =>
      [1, 2, 3].map((number) =>
        runOf({ id: `${setupId}-${t}-${number}`, setupId, testKey: test.key, number, result: 100 * Math.exp(0.03 * s + 0.012 * random.normal()), typed: true }),
      ),
    ),
  );
  return { matrix: buildMatrix(tests, runs, { metric: "result", school: "percentile", powerAt: "device" }), setupIds, tests };
}

const msOf = (work: () => void, passes = 9) => 1000 / rateOf(1, work, passes);

/** Comparisons: re-ranking on a slider, the choice of workloads, and how often intervals of three runs hold the truth. */
function measureCompare(): void {
  const large = drawnMatrix(60, 60, 2, 5);
  const table = compileIndex(large.matrix, large.setupIds, large.tests);
  const weights = testWeights(large.tests);
  const plain = msOf(() => plainRank(large.matrix, large.setupIds, large.tests, weights), 3);
  tell(
    "re-rank 60 setups × 120 tests, all intervals",
    msOf(() => weighIndex(table, weights, "s0", 0.03), 25),
    "ms",
    16,
    `to stay under 16; a plain implementation takes ${plain.toFixed(0)} ms`,
  );
  tell("  the same, plain", plain, "ms", 16, "every pair term by term");
  const usual = drawnMatrix(12, 57, 2, 6);
  const small = compileIndex(usual.matrix, usual.setupIds, usual.tests);
  tell(
    "re-rank 12 setups × 57 workloads × 2",
    msOf(() => weighIndex(small, testWeights(usual.tests), "s0", 0.03), 25),
    "ms",
    0.1,
    "stack figure 0.1 for the closed form alone",
  );
  tell(
    "10,000 drawings of the choice of workloads",
    msOf(() => choiceOfWorkloads(small, { baselineId: "s0", resamples: 10_000, random: createRandom(7) }), 9),
    "ms",
    50,
    "57 × 12 × 2, to stay under 50",
  );
  let [closed, drawn, total] = [0, 0, 0];
  const truth = Math.log(1.1);
  for (let seed = 1; seed <= 300; seed += 1) {
    const random = createRandom(seed);
    const cell = (centre: number) => [1, 2, 3].map(() => centre * Math.exp(0.012 * random.normal()));
    const tests = Array.from({ length: 14 }, () => [cell(110), cell(100)] as const);
    const scatter = tests.flat().reduce((sum, values) => sum + logScatter(values).ss, 0);
    const sLog = Math.sqrt(scatter / (2 * 14 * 2));
    for (const [a, b] of tests.slice(0, 3)) {
      total += 1;
      const estimate = Math.log(mean(a) / mean(b));
      if (Math.abs(estimate - truth) <= t95(56) * sLog * Math.sqrt(2 / 3)) closed += 1;
      // All 27 × 27 resamples of three runs each: what a bootstrap of a cell can ever draw.
      const means = (values: readonly number[]) => values.flatMap((x) => values.flatMap((y) => values.map((z) => (x + y + z) / 3)));
      const [x, y] = [means(a), means(b)];
      const logs = Float64Array.from(x.flatMap((p) => y.map((q) => Math.log(p / q)))).sort();
      if (truth >= quantileSorted(logs, 0.025) && truth <= quantileSorted(logs, 0.975)) drawn += 1;
    }
  }
  tell("coverage of a 95 % interval, 3 runs, closed form", (100 * closed) / total, "%", 95, "pooled spread on logs");
  tell("  the same, three runs drawn again", (100 * drawn) / total, "%", 95, "why cells are not bootstrapped");
}

const { positionals, values } = parseArgs({
  args: process.argv.slice(2),
  allowPositionals: true,
  options: { logs: { type: "string", default: "500" }, growth: { type: "boolean", default: false }, address: { type: "string" } },
});
const folder = positionals[0] ?? ".parvex/bench";
await mkdir(folder, { recursive: true });
measureCore();
measureCompare();
for (const logs of values.growth ? [500, 1000, 2000, 4104] : [Number(values.logs)]) {
  await emptyDatabase();
  await measureImport(folder, logs);
}
// Only the largest import is there by now: what a browser shows of it is measured last, where a server was asked for.
if (values.address) {
  const longRun = await addLongRun(folder);
  for (const { name, value, unit, reference, note } of await measureBrowser(values.address, longRun)) tell(name, value, unit, reference, note);
}
await writeFile(path.join(folder, "figures.json"), `${JSON.stringify(figures, null, 1)}\n`);
console.log(`\nwritten to ${path.relative(process.cwd(), path.join(folder, "figures.json"))}`);
