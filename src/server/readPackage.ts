import { parse } from "csv-parse/sync";
import { type NumericTableProblem, parseFrameLog, parseSensorLog, type SensorLog } from "@/core/capture";
import { type ExchangeRow, type ExchangeRows, type LabHas, Manifest, type ProblemList, type RawTable, RESOURCES, validatePackage } from "@/core/exchange";
import type { Result } from "@/core/result";
import type { PackageSource } from "./packageSource";

/** A package once its tables are parsed and checked; its logs are read run by run later. */
export interface OpenedPackage {
  name: string | null;
  rows: ExchangeRows;
  /** Files that are none of the format's and were left alone. */
  leftAlone: string[];
}

async function readBytes(source: PackageSource, name: string, problems: ProblemList): Promise<Uint8Array | undefined> {
  try {
    return await source.read(name);
  } catch (error) {
    problems.add(name, null, null, `the file cannot be read (${error instanceof Error ? error.message : error}); is the zip cut off? Make it again`);
    return undefined;
  }
}

/** Cuts a small CSV file into cells, keeping line numbers. */
function cutTable(file: string, bytes: Uint8Array, problems: ProblemList): RawTable | undefined {
  if (bytes.subarray(0, 4096).includes(0)) {
    problems.add(file, null, null, "the file is binary, not text; export it as plain UTF-8 CSV");
    return undefined;
  }
  let text: string;
  try {
    text = new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    problems.add(file, null, null, "the file is not UTF-8; save it as UTF-8 (an older encoding garbles names)");
    return undefined;
  }
  try {
    const records = parse(text, { bom: true, info: true, relax_column_count: true, skip_empty_lines: true }) as unknown as {
      record: string[];
      info: { lines: number };
    }[];
    const [head, ...rest] = records;
    if (!head) {
      problems.add(file, 1, null, "the file is empty; it needs at least its header line");
      return undefined;
    }
    if (head.record.length === 1 && head.record[0]?.includes(";")) {
      problems.add(file, 1, null, "columns are separated by semicolons; this format uses commas, and a point for decimals");
      return undefined;
    }
    return { file, header: head.record, rows: rest.map(({ record, info }) => ({ line: info.lines, cells: record })) };
  } catch (error) {
    const at = (error as { lines?: number }).lines ?? null;
    problems.add(file, at, null, `the CSV cannot be read: ${error instanceof Error ? error.message : error}`);
    return undefined;
  }
}

async function readManifest(source: PackageSource, problems: ProblemList): Promise<string | null> {
  if (!source.names.includes("datapackage.json")) {
    problems.add("datapackage.json", null, null, 'the file is missing; a package holds a datapackage.json with "parvex_format": 1 beside its CSV files');
    return null;
  }
  const bytes = await readBytes(source, "datapackage.json", problems);
  if (!bytes) return null;
  let content: unknown;
  try {
    content = JSON.parse(new TextDecoder().decode(bytes).replace(/^\uFEFF/, ""));
  } catch (error) {
    problems.add("datapackage.json", null, null, `it is not JSON: ${error instanceof Error ? error.message : error}`);
    return null;
  }
  const manifest = Manifest.safeParse(content);
  if (!manifest.success) {
    for (const issue of manifest.error.issues) problems.add("datapackage.json", null, issue.path.join(".") || null, issue.message);
    return null;
  }
  for (const { name, path } of manifest.data.resources) {
    if (!RESOURCES.some((resource) => resource.name === name && path === `${name}.csv`)) {
      problems.add("datapackage.json", null, name, `${path} is not a file of the format; known are ${RESOURCES.map((one) => `${one.name}.csv`).join(", ")}`);
    } else if (!source.names.includes(path)) {
      problems.add(path, null, null, "datapackage.json lists the file, but it is missing; add it or take it off the list");
    }
  }
  return manifest.data.name ?? null;
}

/** Logs that runs name must be there, once; logs that no run names must not. */
function checkPaths(source: PackageSource, runs: readonly ExchangeRow[], problems: ProblemList): void {
  const present = new Set(source.names);
  const named = new Map<string, string>();
  runs.forEach(({ values }) => {
    for (const column of ["frames_path", "sensors_path"]) {
      const path = values[column] as string | null;
      if (!path) continue;
      if (!present.has(path)) problems.add("runs.csv", null, column, `run ${values.id} names ${path}, which is missing; add it or empty the cell`);
      const other = named.get(path);
      if (other) problems.add("runs.csv", null, column, `runs ${other} and ${values.id} both name ${path}; each run has its own log`);
      named.set(path, values.id as string);
    }
  });
  for (const name of source.names) {
    if (/^(frames|sensors)\//.test(name) && !named.has(name))
      problems.add(name, null, null, "no run in runs.csv names this log; add its run or take the file out");
  }
}

/** Opens a package: tables parsed, checked against the format, each other and the lab. Problems are collected, not thrown. */
export async function openPackage(source: PackageSource, labHas: LabHas, problems: ProblemList): Promise<OpenedPackage> {
  const empty: OpenedPackage = { name: null, rows: {}, leftAlone: [] };
  if (problems.total > 0) return empty;
  const name = await readManifest(source, problems);
  const tables = new Map<string, RawTable>();
  const leftAlone: string[] = [];
  for (const file of source.names) {
    const resource = RESOURCES.find((one) => `${one.name}.csv` === file);
    if (!resource) {
      if (/^[^/]+\.csv$/.test(file)) problems.add(file, null, null, "is not a file of the format; rename it or take it out");
      else if (!/^(frames|sensors)\/[^/]+\.csv$/.test(file) && file !== "datapackage.json") leftAlone.push(file);
      continue;
    }
    const bytes = await readBytes(source, file, problems);
    const table = bytes && cutTable(file, bytes, problems);
    if (table) tables.set(resource.name, table);
  }
  const rows = validatePackage(tables, labHas, problems);
  checkPaths(source, rows.runs ?? [], problems);
  return { name, rows, leftAlone };
}

/** The logs of one run. */
export interface RunLogs {
  frames: Float64Array | null;
  sensors: SensorLog | null;
}

/** Reads and checks the logs that a run names; undefined (with problems) where one cannot be read. */
export async function readLogs(source: PackageSource, run: ExchangeRow, problems: ProblemList): Promise<RunLogs | undefined> {
  const before = problems.total;
  const read = async <T>(column: string, parseLog: (bytes: Uint8Array) => Result<T, NumericTableProblem>) => {
    const path = run.values[column] as string | null;
    const bytes = path && (await readBytes(source, path, problems));
    if (!path || !bytes) return null;
    const parsed = parseLog(bytes);
    if (parsed.ok) return parsed.value;
    problems.add(path, parsed.problem.line, parsed.problem.column, parsed.problem.reason);
    return null;
  };
  const logs = { frames: await read("frames_path", parseFrameLog), sensors: await read("sensors_path", parseSensorLog) };
  return problems.total === before ? logs : undefined;
}
