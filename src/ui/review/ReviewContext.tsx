"use client";

import { createSerializer, parseAsString, parseAsStringLiteral, useQueryState, useQueryStates } from "nuqs";
import { createContext, type Dispatch, type ReactNode, type SetStateAction, useCallback, useContext, useMemo, useRef, useState } from "react";
import type { LowSchool } from "@/core/bench";
import type { Metric } from "@/core/cell";
import type { Matrix, Ranking } from "@/core/compare";
import {
  chartModel,
  commonPowerAt,
  groupsOf,
  matrixOf,
  middleResolution,
  type PackedRuns,
  type ReviewModel,
  type ReviewSetup,
  rankReview,
  resolutionsOf,
  unpackRuns,
} from "@/core/report";

/** What an action answers: done, or a sentence for the person. */
export type ActionAnswer<T = unknown> = { ok: true; value: T } | { ok: false; sentence: string };

/** What the steps of a review may ask the server to do; handed in by the application. */
export interface ReviewActions {
  decideFinding(input: {
    findingId: string;
    rowVersion: number;
    decision: "accept" | "dismiss" | "discard-runs" | "rerun" | "move-runs" | "reopen";
    reason: string;
  }): Promise<ActionAnswer>;
  changeRun(input: { runId: string; rowVersion: number; status: "valid" | "discarded"; reason: string }): Promise<ActionAnswer>;
  trimRun(input: { runId: string; rowVersion: number; fromS: number; toS: number; reason: string }): Promise<ActionAnswer>;
  undoTrim(input: { runId: string; rowVersion: number; fromS: number; toS: number; at: string | null }): Promise<ActionAnswer>;
  relabelRun(input: { runId: string; rowVersion: number; setupId: string; testKey: string; reason: string }): Promise<ActionAnswer<{ number: number }>>;
  enterValues(input: { edits: SlotEdit[] }): Promise<ActionAnswer<{ written: { slot: string; rowVersion: number | null }[] }>>;
  planOpenRuns(input: { reviewId: string }): Promise<ActionAnswer<{ number: number; benchId: string }>>;
  endIntake(input: unknown): Promise<ActionAnswer>;
  saveProfile(input: unknown): Promise<ActionAnswer>;
  setThreshold(input: { key: string; value: number | null }): Promise<ActionAnswer>;
  updateOffer(input: { offerId: string; rowVersion: number; price: string }): Promise<ActionAnswer<{ rowVersion: number; price: string }>>;
  addClaim(input: { reviewId: string; sentence: string; computation: unknown }): Promise<ActionAnswer>;
  removeClaim(input: { claimId: string }): Promise<ActionAnswer>;
  declareDifference(input: { reviewId: string; property: string; decision: "declared" | "split" | null; why: string }): Promise<ActionAnswer>;
  changeReview(input: { reviewId: string; suiteId?: string | null; question?: string; embargoUntil?: string | null }): Promise<ActionAnswer>;
  publish(input: { reviewId: string; acknowledgeDoubts: boolean }): Promise<ActionAnswer<{ slug: string; version: number }>>;
}

/** What is typed into one slot of the grid: a run of a cell by its number. */
export interface SlotEdit {
  setupId: string;
  testKey: string;
  number: number;
  text: string;
  /** Version of the run that was seen there; null where the slot was empty. */
  seen: number | null;
}

interface ReviewContextValue {
  /** What the charts show: the whole review, or the rows of one value where its charts are split. */
  model: ReviewModel;
  whole: ReviewModel;
  actions: ReviewActions;
  /** What steps remember by name, for as long as the review is open. */
  kept: Map<string, unknown>;
}

const ReviewContext = createContext<ReviewContextValue | undefined>(undefined);

/** Makes a review known to its steps. Its runs come packed: they are most of what a page is sent. */
export function ReviewProvider({
  model,
  packedRuns,
  actions,
  children,
}: {
  model: Omit<ReviewModel, "runs">;
  packedRuns: PackedRuns;
  actions: ReviewActions;
  children: ReactNode;
}) {
  const whole = useMemo((): ReviewModel => ({ ...model, runs: unpackRuns(packedRuns) }), [model, packedRuns]);
  const [chart] = useQueryState("chart", parseAsString);
  const { current: kept } = useRef(new Map<string, unknown>());
  const value = useMemo(() => ({ model: chartModel(whole, chart), whole, actions, kept }), [whole, chart, actions, kept]);
  return <ReviewContext.Provider value={value}>{children}</ReviewContext.Provider>;
}

export function useReview(): ReviewContextValue {
  const value = useContext(ReviewContext);
  if (!value) throw new Error("useReview outside of a review");
  return value;
}

/**
 * State that outlives its step: a page is made anew when it is read again under an address that has changed meanwhile, and
 * what a person could still undo must not go with it.
 */
export function useKeptState<T>(name: string, initial: T): [T, Dispatch<SetStateAction<T>>] {
  const { kept } = useReview();
  const [state, setState] = useState<T>(() => (kept.has(name) ? (kept.get(name) as T) : initial));
  const latest = useRef(state);
  latest.current = state;
  const set = useCallback(
    (next: SetStateAction<T>) => {
      const value = typeof next === "function" ? (next as (before: T) => T)(latest.current) : next;
      latest.current = value;
      kept.set(name, value);
      setState(value);
    },
    [kept, name],
  );
  return [state, set];
}

export const ORDERS = ["rank", "review"] as const;
export const SCHOOLS = ["percentile", "tail_mean", "time_share"] as const;
export const OVERALL = "all";

/** The state of a review's screens; it lives in the address, so that any view can be linked and reloaded. */
export function useReviewState() {
  const { model } = useReview();
  const parsers = useMemo(
    () => ({
      baseline: parseAsString.withDefault(model.baselineId),
      res: parseAsString.withDefault(middleResolution(model) ?? OVERALL),
      school: parseAsStringLiteral(SCHOOLS).withDefault(model.lowSchool),
      order: parseAsStringLiteral(ORDERS).withDefault("review"),
      region: parseAsString.withDefault(model.regions[0]?.code ?? ""),
      chart: parseAsString,
      group: parseAsString,
      weights: parseAsString.withDefault(""),
      row: parseAsString,
      show: parseAsString,
    }),
    [model],
  );
  const [state, setState] = useQueryStates(parsers, { history: "replace", shallow: true });
  // What the links to other steps carry. It is the state as it is now: the address itself follows a moment later.
  // What is shown beside one number belongs to its step.
  const search = createSerializer(parsers)({ ...state, show: null });
  // An address may name what is no longer there; fall back rather than break.
  const baseline = model.setups.some(({ id }) => id === state.baseline) ? state.baseline : model.baselineId;
  const known = [...resolutionsOf(model), OVERALL];
  const res = known.includes(state.res) ? state.res : (middleResolution(model) ?? OVERALL);
  const groups = groupsOf(model);
  const group = state.group !== null && groups.includes(state.group) ? state.group : groups[0];
  return { ...state, baseline, res, resolution: res === OVERALL ? undefined : res, group, search, setState };
}

/** The reader's weights as the address carries them: `workload:2,other:0`; what is not named weighs 1. */
export function readWeights(text: string): Map<string, number> {
  return new Map(
    text.split(",").flatMap((part): [string, number][] => {
      const at = part.lastIndexOf(":");
      const weight = Number(part.slice(at + 1));
      return at > 0 && Number.isFinite(weight) && weight >= 0 && weight <= 5 ? [[part.slice(0, at), weight]] : [];
    }),
  );
}

/** Weights as the address carries them; equal ones are left out. */
export const writeWeights = (weights: ReadonlyMap<string, number>): string =>
  [...weights].flatMap(([id, weight]) => (weight === 1 ? [] : [`${id}:${weight}`])).join(",");

const matrixCache = new WeakMap<ReviewModel, Map<string, Matrix>>();

/** A review's matrix under a metric, computed once for each version of its data. */
export function cachedMatrix(model: ReviewModel, metric: Metric, school: LowSchool): Matrix {
  let cache = matrixCache.get(model);
  if (!cache) {
    cache = new Map();
    matrixCache.set(model, cache);
  }
  const key = `${metric}/${school}`;
  let matrix = cache.get(key);
  if (!matrix) {
    matrix = matrixOf(model, metric, school, commonPowerAt(model) ?? "device");
    cache.set(key, matrix);
  }
  return matrix;
}

/** The ranking under a metric by the address's baseline, resolution and school. */
export function useRanking(metric: Metric): { matrix: Matrix; ranking: Ranking } {
  const { model } = useReview();
  const { baseline, resolution, school, group, weights } = useReviewState();
  return useMemo(() => {
    const matrix = cachedMatrix(model, metric, school);
    return { matrix, ranking: rankReview(model, matrix, { baselineId: baseline, resolution, group, weights: readWeights(weights) }) };
  }, [model, metric, school, baseline, resolution, group, weights]);
}

/** The review's setups in the order chosen: by rank at the present resolution, or as the review lists them. */
export function useOrderedSetups(): ReviewSetup[] {
  const { model } = useReview();
  const { order } = useReviewState();
  const { ranking } = useRanking("result");
  return useMemo(() => {
    if (order === "review") return model.setups;
    const index = new Map(ranking.rows.map((row) => [row.setupId, row.index]));
    return [...model.setups].sort((a, b) => (index.get(b.id) ?? 0) - (index.get(a.id) ?? 0) || a.position - b.position);
  }, [model, order, ranking]);
}
