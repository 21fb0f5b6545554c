import { Zip, ZipDeflate } from "fflate";
import { type ExchangeRow, type ExchangeRows, RESOURCES, writeFrameLog, writeManifest, writeSensorLog, writeTable } from "@/core/exchange";
import type { Tx } from "@/db/client";
import { readRows } from "@/db/exchangeRows";
import { readTraceHashes, readTraces } from "@/db/traces";
import type { Deps } from "./useCase";

/** One file of an export. */
export interface ExportFile {
  name: string;
  content: string;
}

const idsOf = (rows: readonly ExchangeRow[] | undefined, column: string) =>
  new Set((rows ?? []).flatMap(({ values }) => (values[column] === null ? [] : [String(values[column])])));

/** Cuts a lab down to what one review needs: its setups, suite, runs, benches, parts, prices, findings and claims. */
function onlyReview(lab: ExchangeRows, reviewId: string): ExchangeRows {
  const keep = (name: string, test: (values: ExchangeRow["values"]) => boolean) => (lab[name] ?? []).filter(({ values }) => test(values));
  const has = (set: Set<string>, value: unknown) => value !== null && set.has(String(value));
  const both = (a: unknown, b: unknown) => `${a} ${b}`;

  const reviews = keep("reviews", ({ id }) => id === reviewId);
  const reviewSetups = keep("review_setups", ({ review_id }) => review_id === reviewId);
  const setupIds = idsOf(reviewSetups, "setup_id");
  const suiteIds = idsOf(reviews, "suite_id");
  const suiteTests = keep("suite_tests", ({ suite_id }) => has(suiteIds, suite_id));
  const testKeys = new Set(suiteTests.map(({ values }) => both(values.test_id, values.test_version)));
  const tests = keep("tests", ({ id, version }) => testKeys.has(both(id, version)));
  const runs = keep("runs", (run) => has(setupIds, run.setup_id) && testKeys.has(both(run.test_id, run.test_version)));
  const runIds = idsOf(runs, "id");
  const sessionIds = idsOf(runs, "session_id");
  const sessions = keep("sessions", ({ id }) => has(sessionIds, id));
  const setups = keep("setups", ({ id }) => has(setupIds, id));
  const benchKeys = new Set([...setups, ...sessions].map(({ values }) => both(values.bench_id, values.bench_revision)));
  const onBench = (values: ExchangeRow["values"]) => benchKeys.has(both(values.bench_id, values.revision));
  const setupParts = keep("setup_parts", ({ setup_id }) => has(setupIds, setup_id));
  const benchParts = keep("bench_parts", onBench);
  const partIds = new Set([...idsOf(setupParts, "part_id"), ...idsOf(benchParts, "part_id")]);
  const contents = keep("part_contents", ({ part_id }) => has(partIds, part_id));
  for (const id of idsOf(contents, "contains_part_id")) partIds.add(id);
  const offers = keep("offers", ({ part_id }) => has(partIds, part_id));
  const regionCodes = idsOf(offers, "region");
  const cells = new Set(runs.map(({ values }) => `${values.setup_id}/${values.test_id}@${values.test_version}`));
  const sampleIds = idsOf(setupParts, "sample_id");
  return {
    regions: keep("regions", ({ code }) => has(regionCodes, code)),
    parts: keep("parts", ({ id }) => has(partIds, id)),
    part_specs: keep("part_specs", ({ part_id }) => has(partIds, part_id)),
    part_contents: contents,
    samples: keep("samples", ({ id, part_id }) => has(sampleIds, id) && has(partIds, part_id)),
    offers,
    benches: keep("benches", ({ id, revision }) => benchKeys.has(both(id, revision))),
    bench_parts: benchParts,
    bench_state: keep("bench_state", onBench),
    bench_twins: keep("bench_twins", (twin) => onBench(twin) && benchKeys.has(both(twin.twin_bench_id, twin.twin_revision))),
    workloads: keep("workloads", ({ id }) => has(idsOf(tests, "workload_id"), id)),
    tests,
    suites: keep("suites", ({ id }) => has(suiteIds, id)),
    suite_tests: suiteTests,
    setups,
    setup_parts: setupParts,
    setup_state: keep("setup_state", ({ setup_id }) => has(setupIds, setup_id)),
    reviews,
    review_setups: reviewSetups,
    sessions,
    mounts: keep("mounts", ({ id }) => has(idsOf(runs, "mount_id"), id)),
    runs,
    run_values: keep("run_values", ({ run_id }) => has(runIds, run_id)),
    opinions: keep("opinions", ({ run_id }) => has(runIds, run_id)),
    trace_edits: keep("trace_edits", ({ run_id }) => has(runIds, run_id)),
    findings: keep("findings", ({ subject }) => has(cells, String(subject).replace(/^cell:/, "")) || has(runIds, String(subject).replace(/^run:/, ""))),
    claims: keep("claims", ({ review_id }) => review_id === reviewId),
  };
}

const RUNS_AT_ONCE = 16;

/**
 * The files of an export, one after the other, in a fixed order: the manifest, the tables, then each run's logs.
 * The same content gives the same bytes: rows are sorted by key and numbers written in their shortest exact form.
 */
export async function* exportFiles(tx: Tx, scope: { reviewId?: string }): AsyncGenerator<ExportFile> {
  const lab: ExchangeRows = {};
  for (const resource of RESOURCES) lab[resource.name] = await readRows(tx, resource);
  const rows = scope.reviewId ? onlyReview(lab, scope.reviewId) : lab;
  const runIds = (rows.runs ?? []).map(({ values }) => values.id as string).sort();
  const hashes = await readTraceHashes(tx, runIds);
  for (const { values } of rows.runs ?? []) {
    const id = values.id as string;
    const path = (log: string) => (hashes.get(id)?.some((hash) => hash.startsWith(`${log}/`)) ? `${log}/${id}.csv` : null);
    values.frames_path = path("frames");
    values.sensors_path = path("sensors");
  }
  const filled = RESOURCES.filter((resource) => (rows[resource.name] ?? []).length > 0);
  yield {
    name: "datapackage.json",
    content: writeManifest(
      scope.reviewId ?? "parvex-lab",
      filled.map(({ name }) => name),
    ),
  };
  for (const resource of filled) yield { name: `${resource.name}.csv`, content: writeTable(resource, rows[resource.name] ?? []) };
  for (let from = 0; from < runIds.length; from += RUNS_AT_ONCE) {
    const batch = runIds.slice(from, from + RUNS_AT_ONCE);
    const series = await readTraces(tx, batch);
    for (const runId of batch) {
      const own = series.filter((one) => one.runId === runId);
      const frames = own.find(({ log }) => log === "frames");
      if (frames) yield { name: `frames/${runId}.csv`, content: writeFrameLog(frames.values) };
      const [time, ...channels] = own.filter(({ log }) => log === "sensors");
      if (time) {
        const named = channels.map(({ channel, unit, values }) => ({ name: `${channel}_${unit}`, values }));
        yield { name: `sensors/${runId}.csv`, content: writeSensorLog(time.values, named) };
      }
    }
  }
}

/** Fixed times in the zip: the same lab gives the same bytes on any day. */
const ZIP_TIME = new Date(1980, 0, 1);

/** An export as a zip, streamed file by file. */
export function exportZip(deps: Deps, scope: { reviewId?: string }): ReadableStream<Uint8Array> {
  const files = exportFiles(deps.database, scope);
  const encoder = new TextEncoder();
  const zip = new Zip();
  return new ReadableStream<Uint8Array>({
    start(controller) {
      zip.ondata = (error, chunk, final) => {
        if (error) controller.error(error);
        else controller.enqueue(chunk);
        if (final) controller.close();
      };
    },
    async pull() {
      const next = await files.next();
      if (next.done) {
        zip.end();
        return;
      }
      const entry = new ZipDeflate(next.value.name, { level: 6 });
      entry.mtime = ZIP_TIME;
      zip.add(entry);
      entry.push(encoder.encode(next.value.content), true);
    },
    async cancel() {
      zip.terminate();
      await files.return(undefined);
    },
  });
}
