import { z } from "zod";

/** A part of an instrument that Parvex knows by its channel and unit, as in the sensor logs: `gpu_c`, `wall_w`, `noise_dba`. */
const Channel = z.string().regex(/^[a-z0-9]+(_[a-z0-9]+)+$/, "a channel reads like gpu_c or wall_w: name, underscore, unit");

/** What a host of instruments says of itself. */
export const InstrumentList = z.object({
  name: z.string().max(120),
  instruments: z.array(z.object({ id: z.string().max(60), name: z.string().max(120), channels: z.array(Channel) })).max(50),
  /** Only of stand-ins: which faults can be switched, which are on. */
  simulated: z
    .object({ faults: z.array(z.object({ id: z.string(), name: z.string() })), on: z.array(z.string()), practising: z.boolean() })
    .nullable()
    .default(null),
});
export type InstrumentList = z.infer<typeof InstrumentList>;

const finite = z.number();

/** One message of a recording, each the data of one server-sent event. Times are seconds from the start of the run. */
export const InstrumentMessage = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("frames"), t_s: finite, frame_time_ms: z.array(z.number().positive()).max(20_000) }),
  z.object({ kind: z.literal("sensors"), t_s: finite, values: z.record(Channel, finite) }),
  z.object({ kind: z.literal("result"), t_s: finite, value: z.number().positive(), unit: z.string().max(20) }),
  z.object({ kind: z.literal("gone"), t_s: finite, instrument: z.string(), reason: z.string().max(300) }),
  z.object({ kind: z.literal("back"), t_s: finite, instrument: z.string() }),
  z.object({ kind: z.literal("crash"), t_s: finite, reason: z.string().max(300) }),
  z.object({ kind: z.literal("end"), t_s: finite }),
]);
export type InstrumentMessage = z.infer<typeof InstrumentMessage>;

/** What instruments read at a moment outside of a recording. */
export const InstrumentReadings = z.object({ values: z.record(Channel, finite) });

/** What a recording came to. */
export interface Recording {
  frameTimesMs: Float64Array;
  /** Channels of several instruments at their own times, joined to one log: a time of every reading, gaps where others were silent. */
  sensors: { timeS: Float64Array; channels: { name: string; values: Float64Array }[] } | null;
  /** Of a test that is timed or scored. */
  result: number | null;
  gaps: { instrument: string; fromS: number; toS: number | null; reason: string }[];
  crash: string | null;
  complete: boolean;
}

/**
 * Joins the messages of a recording into logs. Frames and readings before the run (negative times: warm-up) stay out of
 * the frame log and in the sensor log. A reading that is not there is NaN: not known, never zero.
 *
 * Shapes: messages in the order in which they came; times of one instrument ascend, those of several may interleave.
 */
export function joinRecording(messages: readonly InstrumentMessage[]): Recording {
  const frames: number[] = [];
  const readings = new Map<number, Record<string, number>>();
  const gaps: Recording["gaps"] = [];
  let crash: string | null = null;
  let result: number | null = null;
  let complete = false;
  for (const message of messages) {
    if (message.kind === "frames" && message.t_s >= 0) frames.push(...message.frame_time_ms);
    else if (message.kind === "sensors") readings.set(message.t_s, { ...readings.get(message.t_s), ...message.values });
    else if (message.kind === "result") result = message.value;
    else if (message.kind === "gone") gaps.push({ instrument: message.instrument, fromS: message.t_s, toS: null, reason: message.reason });
    else if (message.kind === "back") {
      const gap = gaps.findLast(({ instrument, toS }) => instrument === message.instrument && toS === null);
      if (gap) gap.toS = message.t_s;
    } else if (message.kind === "crash") crash = message.reason;
    else if (message.kind === "end") complete = true;
  }
  const times = [...readings.keys()].sort((a, b) => a - b);
  const names = [...new Set(times.flatMap((time) => Object.keys(readings.get(time) ?? {})))].sort();
  const sensors =
    times.length === 0
      ? null
      : {
          timeS: Float64Array.from(times),
          channels: names.map((name) => ({ name, values: Float64Array.from(times, (time) => readings.get(time)?.[name] ?? Number.NaN) })),
        };
  return { frameTimesMs: Float64Array.from(frames), sensors, result, gaps, crash, complete };
}
