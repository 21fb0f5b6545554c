import {
  type ColumnUse,
  type DetectedShape,
  detectShape,
  encodeParcel,
  LogIntake,
  type LogShape,
  matchShape,
  type RefusedFile,
  type RunParcel,
  type RunPlace,
  type TakenLog,
} from "@/core/intake";

import { type Unzipped, unzipLogs } from "./unzipLogs";

/** A file with its path and stamp (size and time of change). */
export interface IntakeFile {
  path: string;
  stamp: string;
  file: File;
}

/** One run to read, with the files it comes from. */
export interface RunOrder {
  place: RunPlace;
  parts: (IntakeFile & { shape: LogShape; uses: ColumnUse[] })[];
}

/** What the page asks of a worker: to look at files for their shape, or to read runs and pack them for the server. */
export type IntakeRequest =
  | { kind: "unzip"; file: File; path: string }
  | { kind: "look"; files: IntakeFile[]; shapes: LogShape[] }
  | { kind: "read"; orders: RunOrder[] };

export type IntakeReply =
  | ({ kind: "unzipped" } & Unzipped)
  | { kind: "looked"; found: { path: string; shape: LogShape }[]; fresh: DetectedShape[]; left: { path: string; reason: string }[] }
  | { kind: "packed"; parcel: Uint8Array; bytes: number; runs: number }
  | { kind: "failed"; reason: string };

const SAMPLE = 64 * 1024;
const LARGEST_FILE = 2 ** 30;

async function look({ files, shapes }: Extract<IntakeRequest, { kind: "look" }>): Promise<IntakeReply> {
  const known = [...shapes];
  const fresh: DetectedShape[] = [];
  const found: { path: string; shape: LogShape }[] = [];
  const left: { path: string; reason: string }[] = [];
  for (const { path, file } of files) {
    if (file.size > LARGEST_FILE) {
      left.push({ path, reason: `it has ${(file.size / 2 ** 30).toFixed(2)} GB; the limit for one file is 1 GB` });
      continue;
    }
    const head = new Uint8Array(await file.slice(0, SAMPLE).arrayBuffer());
    const matched = matchShape(head, known);
    if (matched) {
      found.push({ path, shape: matched });
      continue;
    }
    const detected = detectShape(head, head.length === file.size);
    if (detected.ok) {
      known.push(detected.value.shape);
      fresh.push(detected.value);
      found.push({ path, shape: detected.value.shape });
    } else left.push({ path, reason: `${detected.problem.line > 0 ? `line ${detected.problem.line}: ` : ""}${detected.problem.reason}` });
  }
  return { kind: "looked", found, fresh, left };
}

/** Reads a file as it streams in, in bounded memory; a sentence where it cannot be read or changed meanwhile. */
async function readFile({ file, path, shape, uses }: RunOrder["parts"][number]): Promise<{ log: TakenLog } | { reason: string }> {
  try {
    const intake = new LogIntake(shape, uses);
    const reader = file.stream().getReader();
    for (;;) {
      const { value, done } = await reader.read();
      if (done) break;
      if (!intake.push(value)) {
        await reader.cancel();
        break;
      }
    }
    const taken = intake.finish();
    if (taken.ok) return { log: taken.value };
    const { line, column, reason } = taken.problem;
    return { reason: `${path}${line > 0 ? `, line ${line}` : ""}${column ? `, column “${column.slice(0, 80)}”` : ""}: ${reason}` };
  } catch (error) {
    return { reason: `${path} cannot be read; it changed or went away meanwhile (${(error as Error).name}). Drop it again.` };
  }
}

async function read({ orders }: Extract<IntakeRequest, { kind: "read" }>): Promise<IntakeReply> {
  const runs: RunParcel["runs"] = [];
  const refused: RefusedFile[] = [];
  let bytes = 0;
  for (const { place, parts } of orders) {
    const log: TakenLog = { frameTimesMs: null, sensors: null };
    let trouble: string | null = null;
    for (const part of parts) {
      const one = await readFile(part);
      bytes += part.file.size;
      if ("reason" in one) trouble ??= one.reason;
      else {
        log.frameTimesMs ??= one.log.frameTimesMs;
        log.sensors ??= one.log.sensors;
      }
    }
    if (trouble === null) runs.push({ ...place, log });
    else refused.push(...parts.map(({ path, stamp }) => ({ path, stamp, reason: (trouble as string).slice(0, 1000) })));
  }
  return { kind: "packed", parcel: encodeParcel({ runs, refused }), bytes, runs: orders.length };
}

self.onmessage = async ({ data }: MessageEvent<IntakeRequest>) => {
  try {
    if (data.kind === "unzip") self.postMessage({ kind: "unzipped", ...(await unzipLogs(data.file, data.path)) } satisfies IntakeReply);
    else self.postMessage(data.kind === "look" ? await look(data) : await read(data));
  } catch (error) {
    self.postMessage({ kind: "failed", reason: `the files could not be read (${(error as Error).message})` } satisfies IntakeReply);
  }
};
