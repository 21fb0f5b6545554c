import { rmSync } from "node:fs";
import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { parseArgs } from "node:util";
import { parse } from "csv-parse/sync";
import { sql } from "drizzle-orm";
import { frameLog, LARGE, largeLabTables, writeLargeLogs } from "#sim/largeLab";
import { recordFrames } from "#sim/recorder";
import { countFrames, decodeTrace, encodeTrace, frameStatistics, measurePacing } from "@/core/capture";
import { ProblemList } from "@/core/exchange";
import { type ColumnUse, detectShape, proposeUses, takeInLog } from "@/core/intake";
import { createRandom } from "@/core/random";
import { migrateDatabase, openDatabase } from "@/db/client";
import { importPackage } from "@/server/importPackage";
import { recomputeRuns } from "@/server/recomputeRuns";
import type { Actor, Deps } from "@/server/useCase";
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

const { positionals, values } = parseArgs({ args: process.argv.slice(2), allowPositionals: true, options: { logs: { type: "string", default: "500" } } });
const folder = positionals[0] ?? ".parvex/bench";
await mkdir(folder, { recursive: true });
measureCore();
await measureImport(folder, Number(values.logs));
await writeFile(path.join(folder, "figures.json"), `${JSON.stringify(figures, null, 1)}\n`);
console.log(`\nwritten to ${path.relative(process.cwd(), path.join(folder, "figures.json"))}`);
