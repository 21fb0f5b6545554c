import { sql } from "drizzle-orm";
import { FRAME_METHOD_VERSION } from "@/core/capture";
import { type ExchangeRow, type ExchangeRows, keyText, type PackageProblem, type ProblemList, RESOURCES, type Resource, resourceNamed } from "@/core/exchange";
import { fail, ok, type Result } from "@/core/result";
import type { Tx } from "@/db/client";
import { insertRows, readRows, replaceRow } from "@/db/exchangeRows";
import { seriesSha256, type TraceSeries } from "@/db/packTraces";
import { runStatistics } from "@/db/schema";
import { insertTraces, readTraceHashes, readTraces } from "@/db/traces";
import { checkAllReviews } from "./checkReviews";
import { deriveRun } from "./deriveRun";
import type { PackageSource } from "./packageSource";
import { type OpenedPackage, openPackage, type RunLogs, readLogs } from "./readPackage";
import { logsOf, seriesOf } from "./runSeries";
import { type Actor, type Deps, recordAudit } from "./useCase";

/** A row that the lab already has under the same key with other content. */
export interface ImportConflict {
  /** Names the conflict in the choices. */
  id: string;
  resource: string;
  key: string;
  differences: { column: string; lab: string; package: string }[];
  /** Records of what was done cannot be replaced: keep the lab's, or give the package's row another id. */
  canReplace: boolean;
}

/** What importing a package would do. */
export interface ImportPreview {
  name: string | null;
  resources: { resource: string; added: number; same: number; conflicts: number }[];
  logs: { files: number; frames: number; bytes: number };
  conflicts: ImportConflict[];
  leftAlone: string[];
}

export type ImportProblem =
  | { kind: "refused"; problems: PackageProblem[]; total: number }
  | { kind: "conflicts"; conflicts: ImportConflict[] }
  | { kind: "cancelled" };

export type ConflictChoice = "keep-lab" | "take-package";

/** Told as the work goes on. */
export type ReportProgress = (progress: { phase: "tables" | "logs" | "checks"; done: number; of: number }) => void;

interface Request {
  source: PackageSource;
  problems: ProblemList;
  onProgress?: ReportProgress;
  signal?: AbortSignal;
}

/** The lab's rows that matter to a package, and whether it holds what a package refers to. */
async function readLab(tx: Tx) {
  const lab: ExchangeRows = {};
  for (const resource of RESOURCES) lab[resource.name] = await readRows(tx, resource);
  const indexes = new Map<string, Set<string>>();
  const has = (name: string, columns: readonly string[], key: string) => {
    const indexName = `${name}/${columns.join()}`;
    let index = indexes.get(indexName);
    if (!index) {
      index = new Set((lab[name] ?? []).map((row) => keyText(row.values, columns)));
      indexes.set(indexName, index);
    }
    return index.has(key);
  };
  return { lab, has };
}

/** Columns of a row that are stored; the paths of logs are made on export. */
const comparedColumns = (resource: Resource) => resource.columns.map(({ name }) => name).filter((name) => name !== "frames_path" && name !== "sensors_path");

function differencesOf(resource: Resource, lab: ExchangeRow, incoming: ExchangeRow): ImportConflict["differences"] {
  const text = (value: unknown) => (value === null || value === undefined ? "" : String(value));
  const columns = comparedColumns(resource).map((column) => ({ column, lab: text(lab.values[column]), package: text(incoming.values[column]) }));
  const own = [...new Set([...Object.keys(lab.extra ?? {}), ...Object.keys(incoming.extra ?? {})])].map((column) => ({
    column,
    lab: text(lab.extra?.[column]),
    package: text(incoming.extra?.[column]),
  }));
  return [...columns, ...own].filter((difference) => difference.lab !== difference.package);
}

/** Sorts a package's rows into new ones, known ones and conflicts. */
function compareWithLab(rows: ExchangeRows, lab: ExchangeRows) {
  const added: ExchangeRows = {};
  const conflicts: ImportConflict[] = [];
  const replacements = new Map<string, { resource: Resource; row: ExchangeRow }>();
  const resources: ImportPreview["resources"] = [];
  for (const resource of RESOURCES) {
    const incoming = rows[resource.name];
    if (!incoming) continue;
    const known = new Map((lab[resource.name] ?? []).map((row) => [keyText(row.values, resource.key), row]));
    const fresh: ExchangeRow[] = [];
    let same = 0;
    let conflicting = 0;
    for (const row of incoming) {
      const key = keyText(row.values, resource.key);
      const existing = known.get(key);
      if (!existing) {
        fresh.push(row);
        continue;
      }
      const differences = differencesOf(resource, existing, row);
      if (differences.length === 0) {
        same += 1;
        continue;
      }
      conflicting += 1;
      const id = `${resource.name}:${key}`;
      conflicts.push({
        id,
        resource: resource.name,
        key: resource.key.map((column) => row.values[column]).join(" "),
        differences,
        canReplace: !resource.immutable,
      });
      replacements.set(id, { resource, row });
    }
    added[resource.name] = fresh;
    resources.push({ resource: resource.name, added: fresh.length, same, conflicts: conflicting });
  }
  return { added, conflicts, replacements, resources };
}

/** A run number that the lab already uses under another id cannot be added. */
function checkRunNumbers(added: ExchangeRow[], lab: ExchangeRow[], problems: ProblemList): void {
  const cell = ["setup_id", "test_id", "test_version", "number"];
  const taken = new Map(lab.map((row) => [keyText(row.values, cell), row.values.id]));
  for (const row of added) {
    const other = taken.get(keyText(row.values, cell));
    if (other)
      problems.add("runs.csv", null, "number", `run ${row.values.id} has the number of the lab's run ${other} in the same cell; give it the next free number`);
  }
}

const hashesOf = (series: readonly TraceSeries[]) =>
  [...series]
    .sort((a, b) => (a.log < b.log ? -1 : a.log > b.log ? 1 : a.position - b.position))
    .map(({ log, position, channel, unit, values }) => `${log}/${position}/${channel}_${unit}/${seriesSha256(values)}`);

/** Reads every log of a package, one run at a time, and compares those of known runs with the lab's. */
async function walkLogs(
  tx: Tx,
  request: Request,
  opened: OpenedPackage,
  lab: ExchangeRows,
  visit: (run: ExchangeRow, logs: RunLogs, isNew: boolean) => Promise<void>,
): Promise<{ conflicts: ImportConflict[]; cancelled: boolean; files: number; frames: number; bytes: number }> {
  const withLogs = (opened.rows.runs ?? []).filter(({ values }) => values.frames_path || values.sensors_path);
  const knownIds = new Set((lab.runs ?? []).map(({ values }) => values.id as string));
  const hashes = await readTraceHashes(
    tx,
    withLogs.map(({ values }) => values.id as string).filter((id) => knownIds.has(id)),
  );
  const result = { conflicts: [] as ImportConflict[], cancelled: false, files: 0, frames: 0, bytes: 0 };
  for (const [i, run] of withLogs.entries()) {
    if (request.signal?.aborted) return { ...result, cancelled: true };
    const id = run.values.id as string;
    for (const path of [run.values.frames_path, run.values.sensors_path]) {
      if (!path) continue;
      result.files += 1;
      result.bytes += request.source.sizeOf(path as string);
    }
    const logs = await readLogs(request.source, run, request.problems);
    if (logs) {
      result.frames += logs.frames?.length ?? 0;
      const isNew = !knownIds.has(id);
      if (!isNew && hashesOf(seriesOf(id, logs)).join("\n") !== (hashes.get(id) ?? []).join("\n")) {
        result.conflicts.push({
          id: `logs:${id}`,
          resource: "logs",
          key: id,
          differences: [{ column: "content", lab: hashes.has(id) ? "another log" : "no log", package: "this log" }],
          canReplace: false,
        });
      }
      await visit(run, logs, isNew);
    }
    if (i % 8 === 7) {
      request.onProgress?.({ phase: "logs", done: i + 1, of: withLogs.length });
      // Parsing is synchronous: give requests and the cancel button a turn.
      await new Promise((resolve) => setImmediate(resolve));
    }
  }
  request.onProgress?.({ phase: "logs", done: withLogs.length, of: withLogs.length });
  return result;
}

const refused = (problems: ProblemList) => fail<ImportProblem>({ kind: "refused", problems: problems.first, total: problems.total });

/** Reads a whole package, logs included, and says what importing it would do. Nothing is written. */
export async function previewImport(deps: Deps, request: Request): Promise<Result<ImportPreview, ImportProblem>> {
  const { lab, has } = await readLab(deps.database);
  const opened = await openPackage(request.source, has, request.problems);
  if (request.problems.total > 0) return refused(request.problems);
  const compared = compareWithLab(opened.rows, lab);
  checkRunNumbers(compared.added.runs ?? [], lab.runs ?? [], request.problems);
  const logs = await walkLogs(deps.database, request, opened, lab, async () => {});
  if (logs.cancelled) return fail({ kind: "cancelled" });
  if (request.problems.total > 0) return refused(request.problems);
  return ok({
    name: opened.name,
    resources: compared.resources,
    logs: { files: logs.files, frames: logs.frames, bytes: logs.bytes },
    conflicts: [...compared.conflicts, ...logs.conflicts],
    leftAlone: opened.leftAlone,
  });
}

/** What an import did. */
export interface ImportOutcome {
  added: number;
  replaced: number;
  logs: number;
  frames: number;
}

class Refusal extends Error {
  constructor(readonly problem: ImportProblem) {
    super("import refused");
  }
}

const RUNS_PER_BATCH = 24;

const trimsOf = (rows: readonly ExchangeRow[], runId: string) =>
  rows.flatMap(({ values }) => (values.run_id === runId && values.undone_at === null ? [{ fromS: values.from_s as number, toS: values.to_s as number }] : []));

/** Rederives runs whose trims changed by an import although their logs were in the lab before. */
async function rederive(tx: Tx, runIds: readonly string[], edits: readonly ExchangeRow[]): Promise<void> {
  for (const runId of runIds) {
    const { frames, sensors } = logsOf(await readTraces(tx, [runId]));
    const derived = { methodVersion: FRAME_METHOD_VERSION, ...deriveRun(frames, sensors, trimsOf(edits, runId)) };
    await tx
      .insert(runStatistics)
      .values({ runId, ...derived })
      .onConflictDoUpdate({ target: runStatistics.runId, set: derived });
  }
}

/**
 * Imports a package, all or nothing, in one transaction: rows, logs with their statistics, then the checks of all reviews.
 * The same package twice changes nothing. Conflicts must have a choice each, or nothing is imported.
 */
export async function importPackage(
  deps: Deps,
  actor: Actor,
  request: Request & { choices?: Record<string, ConflictChoice>; label: string },
): Promise<Result<ImportOutcome, ImportProblem>> {
  const { problems, onProgress } = request;
  try {
    return await deps.database.transaction(async (tx) => {
      // One import at a time: two could each add what the other is about to add.
      await tx.execute(sql`select pg_advisory_xact_lock(hashtext('parvex import'))`);
      const { lab, has } = await readLab(tx);
      onProgress?.({ phase: "tables", done: 0, of: 1 });
      const opened = await openPackage(request.source, has, problems);
      if (problems.total > 0) throw new Refusal({ kind: "refused", problems: problems.first, total: problems.total });
      const { added, conflicts, replacements } = compareWithLab(opened.rows, lab);
      checkRunNumbers(added.runs ?? [], lab.runs ?? [], problems);
      const open = conflicts.filter(({ id, canReplace }) => {
        const choice = request.choices?.[id];
        return !choice || (choice === "take-package" && !canReplace);
      });
      if (open.length > 0) throw new Refusal({ kind: "conflicts", conflicts: open });

      for (const resource of RESOURCES) await insertRows(tx, resource, added[resource.name] ?? []);
      const taken = conflicts.filter(({ id }) => request.choices?.[id] === "take-package");
      for (const { id } of taken) {
        const replacement = replacements.get(id);
        if (replacement) await replaceRow(tx, replacement.resource, replacement.row);
      }
      onProgress?.({ phase: "tables", done: 1, of: 1 });

      const edits = await readRows(tx, resourceNamed("trace_edits"));
      let series: TraceSeries[] = [];
      let derived: (typeof runStatistics.$inferInsert)[] = [];
      const flush = async () => {
        await insertTraces(tx, series);
        if (derived.length > 0) await tx.insert(runStatistics).values(derived);
        series = [];
        derived = [];
      };
      const logs = await walkLogs(tx, request, opened, lab, async (run, runLogs, isNew) => {
        if (!isNew || problems.total > 0) return;
        const runId = run.values.id as string;
        series.push(...seriesOf(runId, runLogs));
        derived.push({ runId, methodVersion: FRAME_METHOD_VERSION, ...deriveRun(runLogs.frames, runLogs.sensors, trimsOf(edits, runId)) });
        if (derived.length >= RUNS_PER_BATCH) await flush();
      });
      if (logs.cancelled) throw new Refusal({ kind: "cancelled" });
      if (problems.total > 0) throw new Refusal({ kind: "refused", problems: problems.first, total: problems.total });
      const openLogs = logs.conflicts.filter(({ id }) => request.choices?.[id] !== "keep-lab");
      if (openLogs.length > 0) throw new Refusal({ kind: "conflicts", conflicts: openLogs });
      await flush();
      const known = new Set((lab.runs ?? []).map(({ values }) => values.id as string));
      await rederive(
        tx,
        [...new Set((added.trace_edits ?? []).map(({ values }) => values.run_id as string))].filter((id) => known.has(id)),
        edits,
      );

      const addedRows = Object.values(added).reduce((sum, rows) => sum + rows.length, 0);
      const outcome = { added: addedRows, replaced: taken.length, logs: logs.files, frames: logs.frames };
      if (addedRows + taken.length === 0) return ok(outcome);
      onProgress?.({ phase: "checks", done: 0, of: 1 });
      await checkAllReviews(tx, deps);
      await recordAudit(tx, deps, actor, { action: "import package", subject: request.label, detail: { ...outcome } });
      onProgress?.({ phase: "checks", done: 1, of: 1 });
      return ok(outcome);
    });
  } catch (error) {
    if (error instanceof Refusal) return fail(error.problem);
    throw error;
  }
}
