import type { SensorLog } from "@/core/capture";
import { fail, ok, type Result } from "@/core/result";
import { ColumnReader, type ReadColumns, type WantedColumn } from "./columnReader";
import { type ColumnUse, judgeUses, SENSOR_UNITS, type SensorUnit, storedChannel, type TimeUnit } from "./columnUses";
import type { LogProblem, LogShape } from "./logShape";

/** What a log gives: frames, sensors or both, on one clock that starts with the log. */
export interface TakenLog {
  frameTimesMs: Float64Array | null;
  sensors: SensorLog | null;
}

/** A frame longer than this is a hang, not a frame: no instrument of the trade records one. */
const LONGEST_FRAME_MS = 60_000;
const TO_MS: Record<TimeUnit, number> = { s: 3, ms: 0, us: -3, ns: -6 };
const TO_S: Record<TimeUnit, number> = { s: 0, ms: -3, us: -6, ns: -9 };

/** Rounds a difference of decimals to the decimals they were written with: what binary subtraction adds is not in the log. */
const toDecimals = (value: number, decimals: number) => {
  const scale = 10 ** Math.min(12, Math.max(0, decimals));
  return Math.round(value * scale) / scale;
};

/** Reads a log by its shape and the uses of its columns as its bytes come in; finish gives its series. */
export class LogIntake {
  private readonly reader: ColumnReader;
  private readonly wanted: { use: ColumnUse; name: string }[];

  /** Errors: RangeError for uses that make no log (the caller has judged them). */
  constructor(shape: LogShape, uses: readonly ColumnUse[]) {
    const judged = judgeUses(uses);
    if (!judged.ok) throw new RangeError(judged.problem.reason);
    const used = uses.flatMap((use, index) => (use.use === "ignore" ? [] : [{ use, index, name: shape.columns[index]?.name ?? `column ${index + 1}` }]));
    this.wanted = used;
    this.reader = new ColumnReader(
      shape,
      used.map(({ use, index, name }): WantedColumn => {
        const clock = (use.use === "time" || use.use === "frame-stamp") && use.unit === "clock";
        const shift =
          use.use === "frame-time" || use.use === "frame-stamp"
            ? use.unit === "clock"
              ? 0
              : TO_MS[use.unit]
            : use.use === "time" && use.unit !== "clock"
              ? TO_S[use.unit]
              : 0;
        return { index, name, clock, mayBeMissing: use.use === "channel", shift };
      }),
    );
  }

  /** Takes the next bytes; false once the log is known to be bad. */
  push(bytes: Uint8Array): boolean {
    return this.reader.push(bytes);
  }

  /** The series of the log, or why it gives none. */
  finish(): Result<TakenLog, LogProblem> {
    const read = this.reader.finish();
    if (!read.ok) return read;
    const frames = this.framesOf(read.value);
    if (!frames.ok) return frames;
    const sensors = this.sensorsOf(read.value, frames.value);
    return sensors.ok ? ok({ frameTimesMs: frames.value, sensors: sensors.value }) : sensors;
  }

  private at(...uses: ColumnUse["use"][]): number {
    return this.wanted.findIndex(({ use }) => uses.includes(use.use));
  }

  private framesOf(read: ReadColumns): Result<Float64Array | null, LogProblem> {
    const i = this.at("frame-time", "frame-stamp", "fps");
    if (i < 0) return ok(null);
    const { use, name } = this.wanted[i] as { use: ColumnUse; name: string };
    const values = read.values[i] as Float64Array;
    const refuse = (row: number, reason: string) => fail<LogProblem>({ kind: "bad-log", line: read.lineOfRow(row), column: name, reason });
    let frames = values;
    if (use.use === "frame-stamp") {
      if (values.length < 2) return refuse(0, "one time alone makes no frame; there must be two or more");
      const decimals = read.decimals[i] as number;
      const toMs = use.unit === "clock" ? 1000 : 1;
      frames = Float64Array.from({ length: values.length - 1 }, (_, k) => toDecimals((values[k + 1] as number) - (values[k] as number), decimals) * toMs);
    } else if (use.use === "fps") {
      for (let k = 0; k < values.length; k += 1) if (!((values[k] as number) > 0)) return refuse(k, `a frame rate must be above 0, this one is ${values[k]}`);
      // A tenth of a microsecond is finer than any instantaneous rate is written.
      frames = values.map((fps) => toDecimals(1000 / fps, 4));
    }
    for (let k = 0; k < frames.length; k += 1) {
      const frame = frames[k] as number;
      if (frame > 0 && frame <= LONGEST_FRAME_MS) continue;
      const row = use.use === "frame-stamp" ? k + 1 : k;
      if (frame > LONGEST_FRAME_MS) return refuse(row, `a frame of ${frame} ms is longer than a minute; is the unit right?`);
      return refuse(row, use.use === "frame-stamp" ? "the time does not rise from the row before" : `a frame time must be above 0, this one is ${frame} ms`);
    }
    return ok(frames);
  }

  private sensorsOf(read: ReadColumns, frames: Float64Array | null): Result<SensorLog | null, LogProblem> {
    const raw = this.wanted.flatMap(({ use }, i) =>
      use.use === "channel" ? [{ use, values: read.values[i] as Float64Array, isSparse: i >= read.sensorsFrom }] : [],
    );
    if (raw.length === 0) return ok(null);
    const i = this.at("time", "frame-stamp");
    const stamps = i < 0 ? startsOf(frames as Float64Array) : (read.values[i] as Float64Array);
    const use = i < 0 ? null : (this.wanted[i]?.use ?? null);
    const toS = use?.use === "frame-stamp" && use.unit !== "clock" ? 1e-3 : 1;
    const decimals = (i < 0 ? 7 : (read.decimals[i] as number)) + (toS === 1 ? 0 : 3);
    const scale = 10 ** Math.min(12, decimals);
    const secondsOf = (row: number) => Math.round(((stamps[row] as number) - (stamps[0] as number)) * toS * scale) / scale;
    const rows = frames ? changingRows(secondsOf, read.rows, raw, read.changed) : Int32Array.from({ length: read.rows }, (_, k) => k);
    const timeS = Float64Array.from(rows, secondsOf);
    const channels = raw.map(({ use: { channel, unit }, values, isSparse }) => ({
      name: storedChannel({ use: "channel", channel, unit }),
      values: converted(isSparse ? heldAt(values, read.changed, rows) : Float64Array.from(rows, (k) => values[k] as number), unit),
    }));
    if (frames) return ok({ timeS, channels });
    for (let k = 1; k < timeS.length; k += 1) {
      if ((timeS[k] as number) > (timeS[k - 1] as number)) continue;
      const name = this.wanted[i]?.name ?? null;
      return fail({ kind: "bad-log", line: read.lineOfRow(k), column: name, reason: "the time does not rise from the row before" });
    }
    return ok({ timeS, channels });
  }
}

/** When each frame begins, in seconds. */
function startsOf(frames: Float64Array): Float64Array {
  let atMs = 0;
  return frames.map((frame) => {
    const startMs = atMs;
    atMs += frame;
    return startMs / 1000;
  });
}

/** A channel in its stored unit. Six decimals are kept: a conversion must not add digits that nobody measured. */
function converted(values: Float64Array, unit: SensorUnit): Float64Array {
  const { convert } = SENSOR_UNITS[unit];
  return convert(1) === 1 && convert(2) === 2 ? values : values.map((value) => toDecimals(convert(value), 6));
}

/** A sensor that is known where it changed, at rows (ascending): what it read last. */
function heldAt(values: Float64Array, changed: Int32Array, rows: Int32Array): Float64Array {
  let at = 0;
  return Float64Array.from(rows, (row) => {
    while (at + 1 < changed.length && (changed[at + 1] as number) <= row) at += 1;
    return values[at] as number;
  });
}

/** A channel as it was read: a value a row, or where it is sparse only for the rows in which the text of the sensors changed. */
interface RawChannel {
  values: Float64Array;
  isSparse: boolean;
}

/** The rows at which a channel reads another number than in the row before (or the change before). */
function movesOf(columns: readonly RawChannel[], isSparse: boolean, length: number): number[] {
  const series = columns.filter((column) => column.isSparse === isSparse).map(({ values }) => values);
  const moves: number[] = [];
  if (series.length === 0) return moves;
  for (let k = 1; k < length; k += 1) {
    const moved = series.some((values) => {
      const [now, then] = [values[k] as number, values[k - 1] as number];
      return now !== then && !(Number.isNaN(now) && Number.isNaN(then));
    });
    if (moved) moves.push(k);
  }
  return moves;
}

/** Sensors that stand still are heard of this often nevertheless: a hole in a log and a steady reading are not the same. */
const HEARD_EVERY_S = 1;

/**
 * Sensors that are written with every frame stand still between two readings: rows in which nothing changed are left out; the
 * first, the last and one a second are kept. Held values are the same at every moment, so nothing is lost.
 */
function changingRows(secondsOf: (row: number) => number, rows: number, columns: readonly RawChannel[], changed: Int32Array): Int32Array {
  const moves = new Set([...movesOf(columns, true, changed.length).map((k) => changed[k] as number), ...movesOf(columns, false, rows)]);
  const kept = [0];
  for (const move of [...moves, rows - 1].sort((a, b) => a - b)) {
    const last = kept.at(-1) as number;
    // A row at the very time of the one before waits for the next: its change is not lost.
    let row = move;
    while (row < rows && row > last && !(secondsOf(row) > secondsOf(last))) row += 1;
    if (row <= last || row >= rows) continue;
    let heard = secondsOf(last);
    if (secondsOf(row) - heard > HEARD_EVERY_S) {
      for (let between = last + 1; between < row; between += 1) {
        if (secondsOf(between) - heard < HEARD_EVERY_S) continue;
        kept.push(between);
        heard = secondsOf(between);
      }
    }
    kept.push(row);
  }
  return Int32Array.from(kept);
}

/** Reads a whole log that is in memory. */
export function takeInLog(bytes: Uint8Array, shape: LogShape, uses: readonly ColumnUse[]): Result<TakenLog, LogProblem> {
  const judged = judgeUses(uses);
  if (!judged.ok) return judged;
  const intake = new LogIntake(shape, uses);
  intake.push(bytes);
  return intake.finish();
}
