"use client";

import { useCallback, useEffect, useRef, useState } from "react";
import type { ChoiceInterval, IndexTable, SmallestSubset } from "@/core/compare";
import type { CompareReply, CompareRequest } from "@/workers/compare.worker";

/** Drawings for the choice of workloads, and the seed that makes them the same each time. */
export const RESAMPLES = 10_000;
export const CHOICE_SEED = 20261125;

const startWorker = () => new Worker(new URL("../../workers/compare.worker.ts", import.meta.url), { type: "module" });

/** The interval for the choice of workloads, reckoned off the page; the last one stands until the next is there. */
export function useChoice(table: IndexTable | undefined, baselineId: string, weights: ReadonlyMap<string, number>): Map<string, ChoiceInterval> {
  const [intervals, setIntervals] = useState<Map<string, ChoiceInterval>>(new Map());
  const worker = useRef<Worker | undefined>(undefined);
  useEffect(() => () => worker.current?.terminate(), []);
  useEffect(() => {
    if (!table || table.setupIds.length < 2) return setIntervals(new Map());
    worker.current?.terminate();
    const own = startWorker();
    worker.current = own;
    own.onmessage = ({ data }: MessageEvent<CompareReply>) => {
      if (data.kind === "choice") setIntervals(new Map((data.intervals ?? []).map((one) => [one.setupId, one])));
      own.terminate();
    };
    own.postMessage({ kind: "choice", table, baselineId, weights: [...weights], resamples: RESAMPLES, seed: CHOICE_SEED } satisfies CompareRequest);
    return () => own.terminate();
  }, [table, baselineId, weights]);
  return intervals;
}

/** The smallest subset of workloads that keeps the order: started by a person, with progress, cancelled by another press. */
export function useSubset(table: IndexTable | undefined, baselineId: string) {
  const [state, setState] = useState<{ progress?: { tried: number; of: number }; subset?: SmallestSubset; trouble?: string }>({});
  const worker = useRef<Worker | undefined>(undefined);
  const cancel = useCallback(() => {
    worker.current?.terminate();
    worker.current = undefined;
    setState({});
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another table makes the search pointless
  useEffect(() => cancel, [cancel, table, baselineId]);
  const start = useCallback(() => {
    if (!table) return;
    cancel();
    const own = startWorker();
    worker.current = own;
    setState({ progress: { tried: 0, of: 1 } });
    own.onmessage = ({ data }: MessageEvent<CompareReply>) => {
      if (data.kind === "progress") return setState({ progress: { tried: data.tried, of: data.of } });
      own.terminate();
      if (data.kind === "subset") setState({ subset: data.subset });
      if (data.kind === "failed") setState({ trouble: data.reason });
    };
    own.onerror = (event) => setState({ trouble: event.message });
    own.postMessage({ kind: "subset", table, baselineId } satisfies CompareRequest);
  }, [table, baselineId, cancel]);
  return { ...state, start, cancel };
}
