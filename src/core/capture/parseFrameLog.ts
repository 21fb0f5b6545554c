import { fail, ok, type Result } from "@/core/result";
import { type NumericTableProblem, parseNumericTable } from "./parseNumericTable";

/** A frame longer than this is a hang, not a frame: no instrument of the trade records one. */
const LONGEST_FRAME_MS = 60_000;

/**
 * Reads a frame log of the exchange format: the one column `frame_time_ms`, one row a frame in order.
 *
 * Errors: `bad-log` with line, column and reason for anything that is not a finite frame time above 0.
 */
export function parseFrameLog(bytes: Uint8Array): Result<Float64Array, NumericTableProblem> {
  const table = parseNumericTable(bytes, { mayBeEmpty: () => false });
  if (!table.ok) return table;
  const refuse = (line: number, reason: string) => fail<NumericTableProblem>({ kind: "bad-log", line, column: "frame_time_ms", reason });
  if (table.value.columns.join() !== "frame_time_ms") {
    return refuse(1, `a frame log has the one column frame_time_ms, this one has ${table.value.columns.slice(0, 8).join(", ")}`);
  }
  const frames = table.value.values[0] as Float64Array;
  if (frames.length === 0) return refuse(1, "there are no frames below the header");
  for (let i = 0; i < frames.length; i += 1) {
    const frame = frames[i] as number;
    if (!(frame > 0)) return refuse(i + 2, `a frame time must be above 0 ms, this one is ${frame}`);
    if (frame > LONGEST_FRAME_MS) return refuse(i + 2, `a frame of ${frame} ms is longer than a minute; are these microseconds?`);
  }
  return ok(frames);
}

/** A sensor log: times in seconds from the start of the run (rising, maybe irregular) and one series a channel. */
export interface SensorLog {
  timeS: Float64Array;
  /** Channel name as in the file, `gpu_w`; NaN where the instrument gave nothing. */
  channels: { name: string; values: Float64Array }[];
}

/**
 * Reads a sensor log of the exchange format: `t_s`, then one column a channel named `<channel>_<unit>`.
 *
 * Errors: `bad-log` with line, column and reason; times must rise from row to row.
 */
export function parseSensorLog(bytes: Uint8Array): Result<SensorLog, NumericTableProblem> {
  const table = parseNumericTable(bytes, { mayBeEmpty: (column) => column !== "t_s" });
  if (!table.ok) return table;
  const { columns, values } = table.value;
  const refuse = (line: number, column: string, reason: string) => fail<NumericTableProblem>({ kind: "bad-log", line, column, reason });
  if (columns[0] !== "t_s" || columns.length < 2) {
    return refuse(1, columns[0] as string, "a sensor log begins with the column t_s and has at least one channel after it");
  }
  const unnamed = columns.slice(1).find((column) => !/^[a-z][a-z0-9_]*_[a-z]+$/.test(column));
  if (unnamed) return refuse(1, unnamed, `a channel is named <channel>_<unit>, such as gpu_w; "${unnamed}" is not`);
  const timeS = values[0] as Float64Array;
  if (timeS.length === 0) return refuse(1, "t_s", "there are no samples below the header");
  for (let i = 1; i < timeS.length; i += 1) {
    if (!((timeS[i] as number) > (timeS[i - 1] as number))) {
      return refuse(i + 2, "t_s", `time must rise from row to row; ${timeS[i]} s follows ${timeS[i - 1]} s`);
    }
  }
  const channels = columns.slice(1).map((name, i) => ({ name, values: values[i + 1] as Float64Array }));
  return ok({ timeS, channels });
}
