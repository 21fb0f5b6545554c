"use client";

import { useCallback, useEffect, useRef, useState } from "react";
import type { LeaveOut, Plan, PlanChoices, PlanModel, Schedule } from "@/core/plan";
import type { PlanReply } from "@/workers/plan.worker";

const SEED = 20261119;

/** A plan made in a worker whenever the choices change; the page is never blocked. */
export function usePlan(model: PlanModel, choices: PlanChoices) {
  const [made, setMade] = useState<{ plan: Plan; schedule: Schedule; startMs: number } | undefined>(undefined);
  const [leaveOuts, setLeaveOuts] = useState<LeaveOut[] | undefined>(undefined);
  const [progress, setProgress] = useState<{ share: number; gap: number } | undefined>(undefined);
  const [trouble, setTrouble] = useState<string | undefined>(undefined);
  const [tookMs, setTookMs] = useState<number | undefined>(undefined);
  const worker = useRef<Worker | undefined>(undefined);
  const cancel = useCallback(() => {
    worker.current?.terminate();
    worker.current = undefined;
    setProgress(undefined);
  }, []);
  useEffect(() => {
    cancel();
    if (choices.benches.length === 0) {
      setTrouble("Choose at least one bench.");
      return;
    }
    setTrouble(undefined);
    const started = performance.now();
    const own = new Worker(new URL("../../workers/plan.worker.ts", import.meta.url), { type: "module" });
    worker.current = own;
    setProgress({ share: 0, gap: Number.NaN });
    own.onmessage = ({ data }: MessageEvent<PlanReply>) => {
      if (data.kind === "progress") return setProgress({ share: data.share, gap: data.makespanMinutes / data.lowerBoundMinutes - 1 });
      setProgress(undefined);
      if (data.kind === "planned") {
        setMade({ plan: data.plan, schedule: data.schedule, startMs: Date.parse(choices.startAt) });
        setTookMs(performance.now() - started);
        return;
      }
      if (data.kind === "failed") setTrouble(data.reason);
      else setLeaveOuts(data.leaveOuts);
      own.terminate();
    };
    own.onerror = (event) => setTrouble(`The plan could not be made: ${event.message}`);
    own.postMessage({ model, choices, seed: SEED });
    return () => own.terminate();
  }, [model, choices, cancel]);
  return { ...made, leaveOuts, progress, trouble, tookMs, cancel };
}
