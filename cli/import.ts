import { open, readdir, stat } from "node:fs/promises";
import path from "node:path";
import { parseArgs } from "node:util";
import { Worker } from "node:worker_threads";
import { DEMO_TODAY } from "#sim/demoPackage";
import {
  assignPaths,
  type ColumnUse,
  clashesOf,
  detectShape,
  type IntakeModel,
  judgeUses,
  type LogKind,
  type LogShape,
  matchShape,
  type PathAssignment,
  proposePattern,
  proposeUses,
  shapeFingerprint,
} from "@/core/intake";
import { openDatabase } from "@/db/client";
import { endIntake, loadIntake, openIntake } from "@/server/intakes";
import type { PreparedRun } from "@/server/prepareRun";
import { explain } from "@/server/problems";
import { type FileOutcome, storeRuns } from "@/server/storeRuns";
import { type Actor, type Deps, findActor } from "@/server/useCase";
import type { ReadOrder, ReadReply } from "./importWorker";
import { runningDatabase } from "./runningDatabase";

const USAGE = `npm run import -- FOLDER [--pattern TEMPLATE] [--as PERSON] [--look]

Takes in every log below a folder: frame times and sensors as delimited text of any shape.
  --pattern  how the paths name setup, test and run, such as "{setup}/{test}_{resolution}_run{run}.csv";
             without it the pattern remembered in the lab is used, or one is proposed from the lab's own names
  --as       who imports (an id of the lab's people; default: operator)
  --look     says what would be done, and does nothing
Stopped half-way, the same command goes on where it ended: nothing is taken in twice.`;

const LARGEST_FILE = 2 ** 30;
const SAMPLE = 64 * 1024;
const RUNS_PER_BATCH = 32;
const MOST_WAITING = 96;
const WORKERS = 2;
/** A thread does not take over the main thread's loader for TypeScript: it registers its own first. */
const THREAD = `import("tsx/esm/api").then(({ register }) => { register(); return import(require("node:worker_threads").workerData); });`;

interface LogFile {
  path: string;
  file: string;
  bytes: number;
  stamp: string;
}

/** A log with its shape and what its columns are. */
interface KnownLog extends LogFile {
  shape: LogShape;
  uses: ColumnUse[];
  kind: LogKind;
}

async function filesBelow(folder: string): Promise<LogFile[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  const names = entries.filter((entry) => entry.isFile() && !entry.name.startsWith(".")).map((entry) => path.join(entry.parentPath, entry.name));
  const files: LogFile[] = [];
  for (const file of names.sort()) {
    const { size, mtimeMs } = await stat(file);
    files.push({ path: path.relative(folder, file).split(path.sep).join("/"), file, bytes: size, stamp: `${size}-${Math.round(mtimeMs)}` });
  }
  return files;
}

/** Finds the shape of each file, most of them by that of one before; what is no log is said, with its reason. */
async function learnShapes(
  files: readonly LogFile[],
  profiles: IntakeModel["profiles"],
): Promise<{ logs: KnownLog[]; left: { path: string; reason: string }[] }> {
  const shapes: LogShape[] = [];
  const usesOf = new Map<string, ColumnUse[]>();
  const logs: KnownLog[] = [];
  const left: { path: string; reason: string }[] = [];
  const sample = new Uint8Array(SAMPLE);
  for (const one of files) {
    if (one.bytes > LARGEST_FILE) {
      left.push({ path: one.path, reason: `it has ${(one.bytes / 2 ** 30).toFixed(2)} GB; the limit for one file is 1 GB` });
      continue;
    }
    const handle = await open(one.file);
    const { bytesRead } = await handle.read(sample, 0, SAMPLE, 0).finally(() => handle.close());
    const head = sample.subarray(0, bytesRead);
    let shape = matchShape(head, shapes);
    if (!shape) {
      const detected = detectShape(head, bytesRead === one.bytes);
      if (!detected.ok) {
        left.push({ path: one.path, reason: `${detected.problem.line > 0 ? `line ${detected.problem.line}: ` : ""}${detected.problem.reason}` });
        continue;
      }
      shape = detected.value.shape;
      shapes.push(shape);
      const fingerprint = shapeFingerprint(shape);
      if (!usesOf.has(fingerprint))
        usesOf.set(fingerprint, profiles.find((profile) => profile.fingerprint === fingerprint)?.uses ?? proposeUses(shape, detected.value.rows));
    }
    const uses = usesOf.get(shapeFingerprint(shape)) as ColumnUse[];
    const kind = judgeUses(uses);
    if (kind.ok) logs.push({ ...one, shape, uses, kind: kind.value });
    else left.push({ path: one.path, reason: `${kind.problem.reason}; map its columns once in Parvex under Take in` });
  }
  return { logs, left };
}

const wordsFor = (shape: LogShape, uses: readonly ColumnUse[]) =>
  uses
    .flatMap((use, i) =>
      use.use === "ignore"
        ? []
        : [`${use.use === "channel" ? `${use.channel}, ${use.unit}` : `${use.use}${"unit" in use ? `, ${use.unit}` : ""}`} ← “${shape.columns[i]?.name}”`],
    )
    .join("; ");

interface Planned {
  place: PathAssignment;
  parts: KnownLog[];
}

/** Files of one place are one run; those that clash or have no place are left over. */
function planRuns(logs: readonly KnownLog[], assigned: readonly PathAssignment[]): { runs: Planned[]; left: { path: string; reason: string }[] } {
  const left: { path: string; reason: string }[] = [];
  const clashes = clashesOf(logs.map(({ kind }, i) => ({ ...(assigned[i] as PathAssignment), kind })));
  const runs = new Map<string, Planned>();
  for (const [i, log] of logs.entries()) {
    const place = assigned[i] as PathAssignment;
    const others = clashes.get(log.path);
    if (place.trouble) left.push({ path: log.path, reason: place.trouble });
    else if (others) left.push({ path: log.path, reason: `it claims the same run as ${others.slice(0, 3).join(", ")}` });
    else {
      const key = `${place.setupId}\n${place.testKey}\n${place.number}`;
      const run = runs.get(key) ?? { place, parts: [] };
      run.parts.push(log);
      runs.set(key, run);
    }
  }
  return { runs: [...runs.values()], left };
}

/** What an import came to. */
export interface ImportSummary {
  logs: number;
  outcomes: FileOutcome[];
  left: { path: string; reason: string }[];
  seconds: number;
  bytes: number;
  frames: number;
}

interface ImportRequest {
  folder: string;
  label?: string;
  pattern?: string | undefined;
  look?: boolean;
  say: (line: string) => void;
  onProgress?: (done: number, of: number, bytes: number, seconds: number) => void;
}

/** Takes in a folder of logs, reading on two threads and storing here. Errors: a sentence where the import cannot begin. */
export async function importFolder(deps: Deps, actor: Actor, request: ImportRequest): Promise<ImportSummary | { sentence: string }> {
  const started = performance.now();
  const model = await loadIntake(deps);
  const files = await filesBelow(request.folder);
  if (files.length === 0) return { sentence: `There is no file below ${request.folder}.` };
  const { logs, left } = await learnShapes(files, model.profiles);
  for (const fingerprint of new Set(logs.map(({ shape }) => shapeFingerprint(shape)))) {
    const first = logs.find(({ shape }) => shapeFingerprint(shape) === fingerprint) as KnownLog;
    request.say(`  columns of ${first.path} and its like: ${wordsFor(first.shape, first.uses)}`);
  }
  const paths = logs.map((log) => log.path);
  const remembered = model.patterns.find((pattern) => assignPaths(paths.slice(0, 200), pattern, model.names).every(({ trouble }) => trouble === null));
  const pattern = request.pattern
    ? { template: request.pattern, meanings: remembered?.meanings ?? { setup: {}, test: {}, resolution: {} } }
    : (remembered ?? proposePattern(paths, model.names));
  request.say(`  paths read as: ${pattern.template}`);
  const plan = planRuns(logs, assignPaths(paths, pattern, model.names));
  left.push(...plan.left);
  request.say(`  ${plan.runs.length} runs from ${logs.length} logs; ${left.length} files left over`);
  const summary: ImportSummary = { logs: logs.length, outcomes: [], left, seconds: 0, bytes: 0, frames: 0 };
  if (request.look || plan.runs.length === 0) return summary;

  const draft = plan.runs.flatMap(({ place, parts }) =>
    parts.map((part) => ({
      path: part.path,
      stamp: part.stamp,
      setupId: place.setupId as string,
      testKey: place.testKey as string,
      number: place.number as number,
    })),
  );
  const opened = await openIntake(deps, actor, { label: request.label ?? path.resolve(request.folder), files: draft });
  if (!opened.ok) return { sentence: explain(opened.problem).sentence };
  const settled = new Set(opened.value.settled);
  const orders = plan.runs
    .filter(({ parts }) => parts.some((part) => !settled.has(part.path)))
    .map(
      ({ place, parts }, index): ReadOrder => ({
        index,
        place: {
          setupId: place.setupId as string,
          testKey: place.testKey as string,
          number: place.number as number,
          files: parts.map((part) => ({ path: part.path, stamp: part.stamp })),
        },
        parts: parts.map(({ file, path: name, stamp, shape, uses }) => ({ file, path: name, stamp, shape, uses })),
      }),
    );
  if (settled.size > 0) request.say(`  going on: ${settled.size} files were taken in before`);
  await readAndStore(deps, actor, opened.value.intakeId, orders, summary, request, started);
  const ended = await endIntake(deps, actor, { intakeId: opened.value.intakeId, state: "done" });
  if (!ended.ok) return { sentence: explain(ended.problem).sentence };
  summary.seconds = (performance.now() - started) / 1000;
  return summary;
}

/** Two threads read and derive while this one stores; what waits between them is bounded, so memory is too. */
async function readAndStore(
  deps: Deps,
  actor: Actor,
  intakeId: string,
  orders: readonly ReadOrder[],
  summary: ImportSummary,
  request: ImportRequest,
  started: number,
): Promise<void> {
  let next = 0;
  let done = 0;
  let waiting: PreparedRun[] = [];
  let refused: { path: string; stamp: string; reason: string }[] = [];
  let storing = Promise.resolve();
  const flush = () => {
    if (waiting.length + refused.length === 0) return;
    const batch = { intakeId, prepared: waiting, refused };
    waiting = [];
    refused = [];
    storing = storing.then(async () => {
      summary.outcomes.push(...(await storePatiently(deps, actor, batch, request.say)));
      done += batch.prepared.length + batch.refused.length;
      request.onProgress?.(done, orders.length, summary.bytes, (performance.now() - started) / 1000);
      inFlight -= batch.prepared.length + batch.refused.length;
      for (const feed of feeders) feed();
    });
  };
  let inFlight = 0;
  const feeders: (() => void)[] = [];
  await new Promise<void>((resolve, reject) => {
    let running = WORKERS;
    for (let w = 0; w < WORKERS; w += 1) {
      const worker = new Worker(THREAD, { eval: true, workerData: new URL("./importWorker.ts", import.meta.url).href });
      let busy = false;
      let ended = false;
      const feed = () => {
        if (busy || ended) return;
        if (next >= orders.length) {
          ended = true;
          void worker.terminate().then(() => {
            running -= 1;
            if (running > 0) return;
            flush();
            storing.then(resolve, reject);
          });
          return;
        }
        if (inFlight >= MOST_WAITING) return;
        busy = true;
        inFlight += 1;
        worker.postMessage(orders[next++]);
      };
      feeders.push(feed);
      worker.on("message", (reply: ReadReply) => {
        busy = false;
        summary.bytes += reply.bytes;
        if ("prepared" in reply) {
          summary.frames += reply.prepared.frames;
          waiting.push(reply.prepared);
        } else {
          // A run of two files counts once here, as it did when it was sent out.
          refused.push(...reply.refused);
          inFlight += reply.refused.length - 1;
        }
        if (waiting.length + refused.length >= RUNS_PER_BATCH) flush();
        feed();
        storing.catch(reject);
      });
      worker.on("error", reject);
      feed();
    }
  });
}

const PATIENCE_S = 60;

/** Stores a batch; where the database has gone away it is asked again for a minute, and then the import stops, to be gone on with. */
async function storePatiently(deps: Deps, actor: Actor, batch: Parameters<typeof storeRuns>[2], say: (line: string) => void): Promise<FileOutcome[]> {
  for (let waited = 0; ; waited += 2) {
    try {
      const stored = await storeRuns(deps, actor, batch);
      if (stored.ok) return stored.value;
      throw new Error(explain(stored.problem).sentence);
    } catch (error) {
      const { code, message } = error as { code?: string; message: string; cause?: { code?: string } };
      const why = code ?? (error as { cause?: { code?: string } }).cause?.code ?? "";
      if (!/^(ECONN|EPIPE|ETIMEDOUT|57P|08)|terminated/.test(`${why}${/terminat/i.test(message) ? "terminated" : ""}`) || waited >= PATIENCE_S) throw error;
      if (waited === 0) say(`  the database does not answer (${why || message}); asking again for a minute`);
      await new Promise((resolve) => setTimeout(resolve, 2000));
    }
  }
}

const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.round(seconds % 60)).padStart(2, "0")}`;

async function main(): Promise<number> {
  const { values, positionals } = parseArgs({
    args: process.argv.slice(2),
    allowPositionals: true,
    options: { pattern: { type: "string" }, as: { type: "string", default: "operator" }, look: { type: "boolean", default: false } },
  });
  const [folder] = positionals;
  if (!folder || positionals.length > 1) {
    console.error(USAGE);
    return 2;
  }
  const url = runningDatabase();
  if (!url) {
    console.error("The lab's database is not running: start Parvex with npm run demo, or name a server in DATABASE_URL.");
    return 1;
  }
  const database = openDatabase(url);
  try {
    const now = () => new Date();
    // The demo's day stands still for the application; it must for this command too, or its prices would age meanwhile.
    const deps: Deps = {
      database,
      now,
      today: process.env.PARVEX_TODAY ?? (process.env.DATABASE_URL ? now().toISOString().slice(0, 10) : DEMO_TODAY),
      dataDir: ".parvex/data",
    };
    const actor = await findActor(deps, values.as);
    if (!actor) {
      console.error(`Nobody in the lab has the id ${values.as}.`);
      return 2;
    }
    const tty = process.stdout.isTTY;
    let lastShown = 0;
    const summary = await importFolder(deps, actor, {
      folder,
      pattern: values.pattern,
      look: values.look,
      say: (line) => console.log(line),
      onProgress: (done, of, bytes, seconds) => {
        if (!tty && seconds - lastShown < 2 && done < of) return;
        lastShown = seconds;
        const line = `  ${done} of ${of} runs, ${(done / seconds).toFixed(0)} a second, ${(bytes / 1e6 / seconds).toFixed(0)} MB/s, ${clock(((of - done) * seconds) / Math.max(1, done))} left`;
        if (tty) process.stdout.write(`\r${line}\u001b[K${done === of ? "\n" : ""}`);
        else console.log(line);
      },
    });
    if ("sentence" in summary) {
      console.error(summary.sentence);
      return 1;
    }
    const count = (state: FileOutcome["state"]) => summary.outcomes.filter((one) => one.state === state).length;
    if (!values.look) {
      console.log(
        `  ${count("stored")} files stored, ${count("present")} were in the lab already, ${count("refused")} refused; ${(summary.frames / 1e6).toFixed(1)} million frames in ${summary.seconds.toFixed(1)} s`,
      );
    }
    const listed = [...summary.outcomes.filter(({ state }) => state === "refused").map(({ path: name, reason }) => ({ path: name, reason })), ...summary.left];
    for (const { path: name, reason } of listed.slice(0, 100)) console.log(`  ${name}: ${reason}`);
    if (listed.length > 100) console.log(`  … and ${listed.length - 100} more`);
    return listed.length > 0 ? 3 : 0;
  } finally {
    await database.$client.end().catch(() => {});
  }
}

if (process.argv[1] && import.meta.url.endsWith(path.basename(process.argv[1]))) {
  try {
    process.exitCode = await main();
  } catch (error) {
    console.error(`The import stopped: ${(error as Error).message}. What was stored is kept; run the same command again and it goes on.`);
    process.exitCode = 1;
  }
}
