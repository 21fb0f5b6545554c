"use client";

import { useEffect, useState } from "react";
import { frameStartsS, type SensorLog } from "@/core/capture";

/** A run's frames with the moment each begins. */
export interface LoadedFrames {
  runId: string;
  frameTimesMs: Float64Array;
  startsS: Float64Array;
}

export type Loading<T> = { state: "loading" } | { state: "none" } | { state: "failed"; why: string } | { state: "ready"; value: T };

// A log never changes: what was read once is kept while the page is open, the oldest goes first.
const MOST_KEPT = 24;
const framesRead = new Map<string, Promise<LoadedFrames>>();
const sensorsRead = new Map<string, Promise<SensorLog>>();

function kept<T>(cache: Map<string, Promise<T>>, runId: string, read: () => Promise<T>): Promise<T> {
  const known = cache.get(runId);
  if (known) return known;
  const fresh = read();
  cache.set(runId, fresh);
  fresh.catch(() => cache.delete(runId));
  const [oldest] = cache.keys();
  if (cache.size > MOST_KEPT && oldest !== undefined) cache.delete(oldest);
  return fresh;
}

async function get(runId: string, what: "frames" | "sensors"): Promise<Response> {
  const response = await fetch(`/api/runs/${encodeURIComponent(runId)}/${what}`);
  if (!response.ok) throw new Error(`the server answered ${response.status}`);
  return response;
}

const readFrames = (runId: string) =>
  kept(framesRead, runId, async (): Promise<LoadedFrames> => {
    const frameTimesMs = new Float64Array(await (await get(runId, "frames")).arrayBuffer());
    return { runId, frameTimesMs, startsS: frameStartsS(frameTimesMs) };
  });

const readSensors = (runId: string) =>
  kept(sensorsRead, runId, async (): Promise<SensorLog> => {
    const sent = (await (await get(runId, "sensors")).json()) as { timeS: number[]; channels: { name: string; values: (number | null)[] }[] };
    return {
      timeS: Float64Array.from(sent.timeS),
      channels: sent.channels.map(({ name, values }) => ({ name, values: Float64Array.from(values, (value) => value ?? Number.NaN) })),
    };
  });

function useRead<T>(key: string, has: boolean, read: () => Promise<T>): Loading<T> {
  const [loaded, setLoaded] = useState<Loading<T>>({ state: has ? "loading" : "none" });
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key names what is read
  useEffect(() => {
    if (!has) return setLoaded({ state: "none" });
    let gone = false;
    setLoaded((now) => (now.state === "ready" ? now : { state: "loading" }));
    read()
      .then((value) => !gone && setLoaded({ state: "ready", value }))
      .catch((error: unknown) => !gone && setLoaded({ state: "failed", why: error instanceof Error ? error.message : "no connection" }));
    return () => {
      gone = true;
    };
  }, [key, has]);
  return loaded;
}

/** The frames of some runs, read once each; those without frames are passed over. */
export function useFrames(runIds: readonly string[]): Loading<LoadedFrames[]> {
  return useRead(runIds.join("\n"), runIds.length > 0, () => Promise.all(runIds.map(readFrames)));
}

/** The sensor log of a run. */
export function useSensors(runId: string, has: boolean): Loading<SensorLog> {
  return useRead(runId, has, () => readSensors(runId));
}
