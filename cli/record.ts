import { spawn } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { mkdir, mkdtemp, readFile, rm, stat, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { parseArgs } from "node:util";
import { type ExchangeRow, type ExchangeRows, ProblemList, RESOURCES, resourceNamed, type Value, writeManifest, writeTable } from "@/core/exchange";
import { openFolder } from "@/server/packageSource";
import { openPackage } from "@/server/readPackage";

const USAGE = `npm run record -- --label NAME [--runs 5] [--workload NAME] [--review NAME] [--output FILE] [--into FOLDER] -- COMMAND …

Times a command line repeatedly and writes (or adds to) an exchange package.
  --label     what this setup is called, such as "level 6"; recording another label adds a row to the same review
  --workload  what is done, such as "compress text"; each name is a test of its own
  --review    the review's title, and --question what it asks
  --output    a file that the command writes: its size is recorded beside the time
  --into      the package's folder (default: recorded)`;

/** Ids are lower-case letters, digits and hyphens. */
const slug = (text: string) =>
  text
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, "-")
    .replaceAll(/^-|-$/g, "")
    .slice(0, 60) || "unnamed";

interface Timing {
  wallS: number;
  exitCode: number;
  /** Undefined where Debian's `time` is not there: not known, not zero. */
  userS?: number;
  systemS?: number;
  peakBytes?: number;
}

/** Runs a command line once; user and system time and peak memory come from Debian's `time` where it is present. */
async function timeOnce(command: readonly string[], folder: string): Promise<Timing> {
  const timer = "/usr/bin/time";
  const notes = path.join(folder, "time.txt");
  const argv = existsSync(timer) ? [timer, "-q", "-o", notes, "-f", "%U %S %M", ...command] : [...command];
  const started = process.hrtime.bigint();
  const exitCode = await new Promise<number>((resolve, reject) => {
    const child = spawn(argv[0] as string, argv.slice(1), { stdio: ["ignore", "ignore", "inherit"] });
    child.on("error", reject);
    child.on("close", (code) => resolve(code ?? 1));
  });
  const timing: Timing = { wallS: Number(process.hrtime.bigint() - started) / 1e9, exitCode };
  if (!existsSync(notes)) return timing;
  const [userS, systemS, peakKib] = (await readFile(notes, "utf8")).trim().split("\n").at(-1)?.split(" ").map(Number) ?? [];
  await rm(notes, { force: true });
  return { ...timing, userS, systemS, peakBytes: peakKib === undefined ? undefined : peakKib * 1024 };
}

/** Rows of a package that is already in the folder, or none. */
async function readExisting(folder: string): Promise<ExchangeRows> {
  if (!existsSync(path.join(folder, "datapackage.json"))) return {};
  const problems = new ProblemList();
  const opened = await openPackage(await openFolder(folder, problems), () => false, problems);
  if (problems.total > 0)
    throw new Error(`${folder} is no good package: ${problems.first.map(({ file, line, reason }) => `${file}:${line ?? ""} ${reason}`).join("; ")}`);
  return opened.rows;
}

/** Adds a row unless one with its key is there. */
function put(rows: ExchangeRows, resource: string, values: Record<string, Value>): void {
  const { key, columns } = resourceNamed(resource);
  const complete = Object.fromEntries(columns.map(({ name }) => [name, values[name] ?? null]));
  const list = rows[resource] ?? [];
  rows[resource] = list;
  if (!list.some((row) => key.every((name) => row.values[name] === complete[name]))) list.push({ values: complete, extra: null } satisfies ExchangeRow);
}

async function main(): Promise<void> {
  const { values: options, positionals: command } = parseArgs({
    allowPositionals: true,
    options: {
      label: { type: "string" },
      runs: { type: "string", default: "5" },
      workload: { type: "string", default: "command" },
      review: { type: "string", default: "Recorded" },
      question: { type: "string" },
      output: { type: "string" },
      into: { type: "string", default: "recorded" },
    },
  });
  const runs = Number(options.runs);
  if (!options.label || command.length === 0 || !Number.isInteger(runs) || runs < 1) {
    console.error(USAGE);
    process.exitCode = 2;
    return;
  }
  const into = path.resolve(options.into);
  const rows = await readExisting(into);
  const [setupId, testId, reviewId] = [slug(options.label), slug(options.workload), slug(options.review)];
  const today = new Date().toISOString().slice(0, 10);

  put(rows, "parts", { id: "this-machine", kind: "system", name: "The machine under test" });
  put(rows, "benches", { id: "command-line", revision: 1, name: "A command line", created_on: today });
  put(rows, "workloads", { id: testId, name: options.workload, group: "production" });
  put(rows, "tests", {
    id: testId,
    version: 1,
    workload_id: testId,
    name: options.workload,
    kind: "time",
    unit: "s",
    better: "lower",
    loads: "cpu",
    start_at: "start of the process",
    stop_at: "its end",
    definition: "Wall time of the command line, started without a shell.",
  });
  put(rows, "suites", { id: reviewId, name: options.review });
  put(rows, "suite_tests", { suite_id: reviewId, test_id: testId, test_version: 1, runs, position: (rows.suite_tests?.length ?? 0) + 1 });
  put(rows, "setups", { id: setupId, bench_id: "command-line", bench_revision: 1, label: options.label });
  put(rows, "setup_parts", { setup_id: setupId, part_id: "this-machine", role: "system", quantity: 1, under_test: true });
  put(rows, "reviews", {
    id: reviewId,
    title: options.review,
    question_kind: "one factor",
    question: options.question ?? null,
    baseline_setup_id: setupId,
    suite_id: reviewId,
  });
  if (!rows.review_setups?.some((row) => row.values.review_id === reviewId && row.values.setup_id === setupId)) {
    put(rows, "review_setups", { review_id: reviewId, setup_id: setupId, position: (rows.review_setups?.length ?? 0) + 1 });
  }

  const scratch = await mkdtemp(path.join(tmpdir(), "parvex-record-"));
  const before = (rows.runs ?? []).filter((row) => row.values.setup_id === setupId && row.values.test_id === testId).length;
  try {
    for (let number = before + 1; number <= before + runs; number += 1) {
      const startedAt = Math.floor(Date.now() / 1000) * 1000;
      const timing = await timeOnce(command, scratch);
      const id = `${setupId}-${testId}-${number}-${createHash("sha256").update(`${startedAt} ${timing.wallS}`).digest("hex").slice(0, 6)}`;
      const failed = timing.exitCode !== 0;
      put(rows, "runs", {
        id,
        setup_id: setupId,
        test_id: testId,
        test_version: 1,
        number,
        started_at: startedAt,
        status: failed ? "failed" : "valid",
        reason: failed ? `the command ended with code ${timing.exitCode}` : null,
      });
      const value = (metric: string, amount: number | undefined, unit: string) =>
        amount !== undefined && put(rows, "run_values", { run_id: id, metric, value: amount, unit });
      if (!failed) value("result", Math.round(timing.wallS * 1e6) / 1e6, "s");
      value("user_time", timing.userS, "s");
      value("system_time", timing.systemS, "s");
      value("peak_memory", timing.peakBytes, "B");
      if (options.output && existsSync(options.output)) value("output_bytes", (await stat(options.output)).size, "B");
      console.log(`${options.label}, ${options.workload}, run ${number}: ${failed ? `failed with code ${timing.exitCode}` : `${timing.wallS.toFixed(3)} s`}`);
    }
  } finally {
    await rm(scratch, { recursive: true, force: true });
  }

  await mkdir(into, { recursive: true });
  const filled = RESOURCES.filter(({ name }) => (rows[name]?.length ?? 0) > 0);
  for (const resource of filled) await writeFile(path.join(into, `${resource.name}.csv`), writeTable(resource, rows[resource.name] ?? []));
  await writeFile(
    path.join(into, "datapackage.json"),
    writeManifest(
      reviewId,
      filled.map(({ name }) => name),
    ),
  );
  console.log(`written to ${options.into}: drop the folder on the lab's home page`);
}

await main();
