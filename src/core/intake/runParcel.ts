import { z } from "zod";
import { decodeTrace, type EncodedTrace, encodeTrace, type TraceCodec } from "@/core/capture";
import { fail, ok, type Result } from "@/core/result";
import type { TakenLog } from "./takeInLog";

/** Where a run belongs and which files it came from. */
export const RunPlace = z.object({
  setupId: z.string().min(1),
  testKey: z.string().regex(/^.+@\d+$/),
  number: z.int().min(1).max(100_000),
  files: z.array(z.object({ path: z.string().max(1000), stamp: z.string().max(80) })).max(2),
});
export type RunPlace = z.infer<typeof RunPlace>;

const Header = z.object({
  runs: z
    .array(
      RunPlace.extend({
        series: z
          .array(z.object({ name: z.string().max(80), codec: z.string().max(4), count: z.int().min(1).max(200_000_000), bytes: z.int().min(1) }))
          .max(200),
      }),
    )
    .max(500),
  refused: z.array(z.object({ path: z.string().max(1000), stamp: z.string().max(80), reason: z.string().max(1000) })).max(5000),
});

/** A file that could not be read, with its place and reason in one sentence. */
export type RefusedFile = z.infer<typeof Header>["refused"][number];

/** Runs on their way from a browser to the server: compact series instead of text. */
export interface RunParcel {
  runs: (RunPlace & { log: TakenLog })[];
  refused: RefusedFile[];
}

const FRAMES = "frames";
const TIME = "t_s";

/** Packs runs as one message: the length of its head, the head as JSON, then the series one behind the other. */
export function encodeParcel({ runs, refused }: RunParcel): Uint8Array {
  const parts: EncodedTrace[] = [];
  const head = {
    runs: runs.map(({ setupId, testKey, number, files, log }) => {
      const named: [string, Float64Array][] = [];
      if (log.frameTimesMs) named.push([FRAMES, log.frameTimesMs]);
      if (log.sensors) named.push([TIME, log.sensors.timeS], ...log.sensors.channels.map(({ name, values }): [string, Float64Array] => [name, values]));
      const series = named.map(([name, values]) => {
        const encoded = encodeTrace(values);
        parts.push(encoded);
        return { name, codec: encoded.codec, count: encoded.count, bytes: encoded.bytes.length };
      });
      return { setupId, testKey, number, files, series };
    }),
    refused,
  };
  const json = new TextEncoder().encode(JSON.stringify(head));
  const whole = new Uint8Array(4 + json.length + parts.reduce((sum, { bytes }) => sum + bytes.length, 0));
  new DataView(whole.buffer).setUint32(0, json.length, true);
  whole.set(json, 4);
  let at = 4 + json.length;
  for (const { bytes } of parts) {
    whole.set(bytes, at);
    at += bytes.length;
  }
  return whole;
}

/** Unpacks a parcel. Errors: `bad-parcel` where the message is not what `encodeParcel` makes, or holds impossible values. */
export function decodeParcel(whole: Uint8Array): Result<RunParcel, { kind: "bad-parcel"; reason: string }> {
  const refuse = (reason: string) => fail({ kind: "bad-parcel" as const, reason });
  if (whole.length < 4) return refuse("the message is too short");
  const length = new DataView(whole.buffer, whole.byteOffset, whole.byteLength).getUint32(0, true);
  if (length > whole.length - 4) return refuse("the message is cut off");
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder().decode(whole.subarray(4, 4 + length)));
  } catch {
    return refuse("the head of the message is no JSON");
  }
  const head = Header.safeParse(json);
  if (!head.success) return refuse(`${head.error.issues[0]?.path.join(".")}: ${head.error.issues[0]?.message}`);
  let at = 4 + length;
  const runs: RunParcel["runs"] = [];
  for (const { series, ...place } of head.data.runs) {
    const log: TakenLog = { frameTimesMs: null, sensors: null };
    for (const { name, codec, count, bytes } of series) {
      if (at + bytes > whole.length) return refuse("the message is cut off");
      let values: Float64Array;
      try {
        values = decodeTrace({ codec: codec as TraceCodec, count, bytes: whole.subarray(at, at + bytes) });
      } catch (error) {
        return refuse((error as RangeError).message);
      }
      at += bytes;
      if (name === FRAMES) {
        if (values.some((frame) => !(frame > 0 && frame <= 60_000))) return refuse("a frame time is not above 0 and below a minute");
        log.frameTimesMs = values;
      } else if (name === TIME) log.sensors = { timeS: values, channels: [] };
      else if (!log.sensors || values.length !== log.sensors.timeS.length || !/^[a-z][a-z0-9_]*_[a-z]+$/.test(name))
        return refuse(`the channel ${name} does not fit its times`);
      else log.sensors.channels.push({ name, values });
    }
    if (!log.frameTimesMs && !log.sensors) return refuse("a run without any series");
    runs.push({ ...place, log });
  }
  return ok({ runs, refused: head.data.refused });
}
