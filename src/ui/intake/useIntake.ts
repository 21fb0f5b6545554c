"use client";

import { useCallback, useEffect, useRef, useState } from "react";
import type { DetectedShape, LogShape } from "@/core/intake";
import type { IntakeFile, IntakeReply, IntakeRequest, RunOrder } from "@/workers/intake.worker";

const RUNS_PER_MESSAGE = 8;
const FILES_PER_LOOK = 200;
const WORKERS = 2;

const startWorker = () => new Worker(new URL("../../workers/intake.worker.ts", import.meta.url), { type: "module" });

/** What became of a file. */
export interface FileState {
  path: string;
  state: "stored" | "present" | "refused";
  reason: string | null;
}

/** Sends packed runs to the server; a sentence where they were not stored. */
async function send(intakeId: string, parcel: Uint8Array): Promise<FileState[] | string> {
  try {
    const response = await fetch(`/api/intakes/${intakeId}`, { method: "POST", body: parcel as BodyInit });
    const answer = (await response.json()) as { ok: true; outcomes: FileState[] } | { ok: false; sentence: string };
    return answer.ok ? answer.outcomes : answer.sentence;
  } catch (error) {
    return `The server does not answer (${(error as Error).message}).`;
  }
}

/** Asks a worker one thing and waits for its answer. */
const ask = (worker: Worker, request: IntakeRequest) =>
  new Promise<IntakeReply>((resolve) => {
    worker.onmessage = ({ data }: MessageEvent<IntakeReply>) => resolve(data);
    worker.onerror = (event) => resolve({ kind: "failed", reason: event.message });
    worker.postMessage(request);
  });

/** Unpacks the zips among dropped files in a worker; what could not be unpacked is named. */
export async function unpackZips(
  files: readonly { path: string; file: File }[],
): Promise<{ files: { path: string; file: File }[]; left: { path: string; reason: string }[] }> {
  const result = { files: files.filter(({ path }) => !/\.zip$/i.test(path)), left: [] as { path: string; reason: string }[] };
  for (const { path, file } of files.filter(({ path: name }) => /\.zip$/i.test(name))) {
    const worker = startWorker();
    try {
      const reply = await ask(worker, { kind: "unzip", file, path });
      if (reply.kind === "unzipped") {
        result.files.push(...reply.files);
        result.left.push(...reply.left);
      } else result.left.push({ path, reason: reply.kind === "failed" ? reply.reason : "it cannot be unpacked" });
    } finally {
      worker.terminate();
    }
  }
  return result;
}

/** What was found out of dropped files: which shape each has, each shape once with its first rows, and what is no log. */
export interface LookedAt {
  shapeOf: Map<string, LogShape>;
  fresh: DetectedShape[];
  left: { path: string; reason: string }[];
}

/** Finds the shapes of many files in a worker. */
export async function lookAt(files: readonly IntakeFile[], onProgress: (done: number) => void): Promise<LookedAt> {
  const worker = startWorker();
  const result: LookedAt = { shapeOf: new Map(), fresh: [], left: [] };
  try {
    for (let from = 0; from < files.length; from += FILES_PER_LOOK) {
      const reply = await ask(worker, { kind: "look", files: files.slice(from, from + FILES_PER_LOOK), shapes: result.fresh.map(({ shape }) => shape) });
      if (reply.kind !== "looked") throw new Error(reply.kind === "failed" ? reply.reason : "unexpected answer");
      for (const { path, shape } of reply.found) result.shapeOf.set(path, shape);
      result.fresh.push(...reply.fresh);
      result.left.push(...reply.left);
      onProgress(Math.min(files.length, from + FILES_PER_LOOK));
    }
    return result;
  } finally {
    worker.terminate();
  }
}

/** How far an import is. */
export interface IntakeProgress {
  state: "running" | "paused" | "ended";
  done: number;
  of: number;
  bytes: number;
  seconds: number;
  outcomes: FileState[];
  /** Why it stands still, where the server went away. */
  trouble: string | null;
}

/** Reads runs in two workers that send them to the server; pauses, goes on, and stops between messages. */
export function useIntake() {
  const [progress, setProgress] = useState<IntakeProgress | undefined>(undefined);
  const control = useRef({ paused: false, stopped: false, wake: () => {} });
  useEffect(() => {
    const own = control.current;
    return () => {
      own.stopped = true;
      own.wake();
    };
  }, []);

  const pause = useCallback((trouble: string | null = null) => {
    control.current.paused = true;
    setProgress((now) => now && { ...now, state: "paused", trouble });
  }, []);
  const goOn = useCallback(() => {
    control.current.paused = false;
    setProgress((now) => now && { ...now, state: "running", trouble: null });
    control.current.wake();
  }, []);
  const stop = useCallback(() => {
    control.current.stopped = true;
    control.current.paused = false;
    control.current.wake();
  }, []);

  const run = useCallback(
    async (intakeId: string, orders: readonly RunOrder[]): Promise<{ ended: "done" | "stopped"; outcomes: FileState[] }> => {
      const outcomes: FileState[] = [];
      const own = { paused: false, stopped: false, wake: () => {} };
      control.current = own;
      setProgress({ state: "running", done: 0, of: orders.length, bytes: 0, seconds: 0, outcomes: [], trouble: null });
      const batches: RunOrder[][] = [];
      for (let from = 0; from < orders.length; from += RUNS_PER_MESSAGE) batches.push(orders.slice(from, from + RUNS_PER_MESSAGE));
      let active = performance.now();
      const sleepers = new Set<() => void>();
      own.wake = () => {
        for (const sleeper of sleepers) sleeper();
        sleepers.clear();
      };
      const work = async () => {
        const worker = startWorker();
        try {
          for (;;) {
            while (own.paused && !own.stopped) await new Promise<void>((resolve) => sleepers.add(resolve));
            const batch = own.stopped ? undefined : batches.shift();
            if (!batch) return;
            const reply = await ask(worker, { kind: "read", orders: batch });
            const stored =
              reply.kind === "packed" ? await send(intakeId, reply.parcel) : reply.kind === "failed" ? reply.reason : "The worker gave an unexpected answer.";
            if (typeof stored === "string" || reply.kind !== "packed") {
              // Nothing of this message was stored, or all of it was: sending it again changes nothing twice.
              batches.unshift(batch);
              pause(typeof stored === "string" ? stored : null);
              continue;
            }
            outcomes.push(...stored);
            const spent = (performance.now() - active) / 1000;
            active = performance.now();
            setProgress(
              (now) =>
                now && {
                  ...now,
                  done: now.done + reply.runs,
                  bytes: now.bytes + reply.bytes,
                  seconds: now.seconds + spent,
                  outcomes: [...now.outcomes, ...stored],
                },
            );
          }
        } finally {
          worker.terminate();
        }
      };
      await Promise.all(Array.from({ length: Math.min(WORKERS, Math.max(1, batches.length)) }, work));
      setProgress((now) => now && { ...now, state: "ended" });
      return { ended: own.stopped ? "stopped" : "done", outcomes };
    },
    [pause],
  );
  return { progress, run, pause, goOn, stop };
}
