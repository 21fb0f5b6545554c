import type { PartKind } from "@/core/bench";
import { mean, sampleSd } from "@/core/stats";

/** What takes time in the lab. Swaps are told apart by the kind of part. */
export type Activity =
  | `swap:${PartKind}`
  | "state change"
  | "driver clean-up"
  | "pre-flight"
  | "settings"
  | "launch"
  | "warm-up"
  | "run"
  | "reset"
  | "soak"
  | "cool-down";

/** What one activity once took. `detail` tells two of a kind apart: from → to of a swap, the test of a run. */
export interface TimeObservation {
  activity: Activity;
  detail: string;
  seconds: number;
}

/** How long something will take: the mean, how much single ones differ, how unsure the mean is, and where that comes from. */
export interface TimeEstimate {
  activity: Activity;
  detail: string;
  seconds: number;
  /** From one time to the next. */
  sd: number;
  /** Of the mean itself, shared by all times of the same activity. */
  sdOfMean: number;
  observations: number;
  source: "assumed" | "learned from its kind" | "learned";
}

const MINUTE = 60;

/** What a lab takes before anything is known of it: mean and spread in seconds. Common practice; a written length replaces it. */
export const ASSUMED_TIMES: Readonly<Record<Activity, readonly [seconds: number, sd: number]>> = {
  "swap:gpu": [12 * MINUTE, 4 * MINUTE],
  "swap:cpu": [35 * MINUTE, 10 * MINUTE],
  "swap:cooler": [25 * MINUTE, 8 * MINUTE],
  "swap:board": [120 * MINUTE, 30 * MINUTE],
  "swap:memory": [6 * MINUTE, 2 * MINUTE],
  "swap:psu": [30 * MINUTE, 8 * MINUTE],
  "swap:storage": [8 * MINUTE, 3 * MINUTE],
  "swap:system": [10 * MINUTE, 3 * MINUTE],
  "state change": [5 * MINUTE, 2 * MINUTE],
  "driver clean-up": [15 * MINUTE, 5 * MINUTE],
  "pre-flight": [8 * MINUTE, 3 * MINUTE],
  settings: [60, 30],
  launch: [45, 15],
  "warm-up": [60, 5],
  run: [60, 5],
  reset: [15, 8],
  soak: [30 * MINUTE, 3 * MINUTE],
  "cool-down": [15 * MINUTE, 5 * MINUTE],
};

/** An assumption weighs as much as this many times really taken. */
const WEIGHT_OF_ASSUMPTION = 2;

/** Times learned from what the lab really took. */
export interface TimeModel {
  estimate(activity: Activity, detail: string, written?: number | null): TimeEstimate;
  observations: number;
}

function shrink(prior: { seconds: number; sd: number }, seen: readonly number[], weight: number) {
  if (seen.length === 0) return prior;
  const n = seen.length;
  const seconds = (weight * prior.seconds + n * mean(seen)) / (weight + n);
  const own = n > 1 ? sampleSd(seen) : prior.sd;
  // The spread moves from the assumed to the seen as degrees of freedom come in.
  const sd = Math.sqrt((weight * prior.sd ** 2 + (n - 1) * own ** 2) / (weight + n - 1));
  return { seconds, sd };
}

/**
 * Learns how long things take: each activity's assumption is drawn towards the times of its kind, and those towards the
 * times of the very same detail (this swap from → to, this test), by how many there are.
 *
 * Units:  seconds. Where a length is written in the definition, kinds are learned as ratios to what was written.
 * Source: shrinkage of a mean towards its prior by pseudo-observations (common practice; weight 2).
 */
export function learnTimes(observations: readonly TimeObservation[], writtenOf?: (activity: Activity, detail: string) => number | null): TimeModel {
  const ratios = new Map<Activity, number[]>();
  const details = new Map<string, number[]>();
  const push = <K>(into: Map<K, number[]>, key: K, value: number) => {
    const list = into.get(key);
    if (list) list.push(value);
    else into.set(key, [value]);
  };
  for (const { activity, detail, seconds } of observations) {
    if (!(seconds > 0)) continue;
    const base = writtenOf?.(activity, detail) || ASSUMED_TIMES[activity][0];
    push(ratios, activity, seconds / base);
    push(details, `${activity}/${detail}`, seconds);
  }
  // A kind is learned as a ratio to what was written or assumed, once for all of its details.
  const kinds = new Map<Activity, { seconds: number; sd: number; n: number }>();
  for (const activity of Object.keys(ASSUMED_TIMES) as Activity[]) {
    const [assumed, assumedSd] = ASSUMED_TIMES[activity];
    const seen = ratios.get(activity) ?? [];
    kinds.set(activity, { ...shrink({ seconds: 1, sd: assumedSd / assumed }, seen, WEIGHT_OF_ASSUMPTION), n: seen.length });
  }
  const known = new Map<string, TimeEstimate>();
  return {
    observations: observations.length,
    estimate(activity, detail, written) {
      const name = `${activity}/${detail}/${written ?? ""}`;
      const before = known.get(name);
      if (before) return before;
      const base = written ?? ASSUMED_TIMES[activity][0];
      const own = details.get(`${activity}/${detail}`) ?? [];
      const kind = kinds.get(activity) as { seconds: number; sd: number; n: number };
      const { seconds, sd } = shrink({ seconds: base * kind.seconds, sd: base * kind.sd }, own, WEIGHT_OF_ASSUMPTION);
      const estimate: TimeEstimate = {
        activity,
        detail,
        seconds,
        sd,
        sdOfMean: sd / Math.sqrt(WEIGHT_OF_ASSUMPTION + kind.n),
        observations: own.length,
        source: own.length > 0 ? "learned" : kind.n > 0 ? "learned from its kind" : "assumed",
      };
      known.set(name, estimate);
      return estimate;
    },
  };
}

/**
 * Adds up times: single ones differ independently, while the error of an activity's mean is shared by all of its times.
 *
 * Units: seconds; `sd` is one standard deviation of the sum.
 */
export function sumTimes(estimates: readonly TimeEstimate[]): { seconds: number; sd: number } {
  let seconds = 0;
  let variance = 0;
  const shared = new Map<Activity, number>();
  for (const one of estimates) {
    seconds += one.seconds;
    variance += one.sd ** 2;
    shared.set(one.activity, (shared.get(one.activity) ?? 0) + one.sdOfMean);
  }
  for (const sum of shared.values()) variance += sum ** 2;
  return { seconds, sd: Math.sqrt(variance) };
}

/** A setup as changes between setups need it: what is fitted in each role, how it is set, who makes the card's driver. */
export interface FittedSetup {
  id: string;
  parts: readonly { partId: string; kind: PartKind; maker: string | null }[];
  state: Readonly<Record<string, string>>;
}

/** A change of board takes processor, cooler and memory along; a change of processor takes the cooler off. */
const COVERED_BY: Readonly<Partial<Record<PartKind, readonly PartKind[]>>> = { system: [], board: ["cpu", "cooler", "memory"], cpu: ["cooler"] };

/** One thing to do between two setups. */
export interface ChangeTask {
  activity: Activity;
  detail: string;
  /** The parts that come in by this task. */
  partIds: string[];
}

/**
 * What has to be done to get a bench from one setup to another (undefined: nothing under test is fitted yet): a swap a
 * kind of part that differs, larger swaps covering the smaller ones they include, a driver clean-up where the maker of
 * the card changes, and one change of settings where only the state differs.
 */
export function changeTasks(from: FittedSetup | undefined, to: FittedSetup): ChangeTask[] {
  const idsOf = (setup: FittedSetup | undefined, kind: PartKind) =>
    (setup?.parts ?? [])
      .filter((part) => part.kind === kind)
      .map(({ partId }) => partId)
      .sort();
  const kinds = [...new Set([...(from?.parts ?? []), ...to.parts].map(({ kind }) => kind))];
  const differing = kinds.filter((kind) => idsOf(from, kind).join() !== idsOf(to, kind).join());
  const covered = new Set(differing.flatMap((kind) => COVERED_BY[kind] ?? []));
  const tasks: ChangeTask[] = differing
    .filter((kind) => !covered.has(kind))
    .sort()
    .map((kind) => ({
      activity: `swap:${kind}`,
      detail: `${idsOf(from, kind).join("+") || "nothing"} → ${idsOf(to, kind).join("+") || "nothing"}`,
      partIds: [kind, ...(COVERED_BY[kind] ?? [])].flatMap((one) => (differing.includes(one) ? idsOf(to, one) : [])),
    }));
  const makerOf = (setup: FittedSetup | undefined) => setup?.parts.find(({ kind }) => kind === "gpu")?.maker;
  const [old, fresh] = [makerOf(from), makerOf(to)];
  if (from && fresh && old !== fresh) tasks.push({ activity: "driver clean-up", detail: `${old ?? "none"} → ${fresh}`, partIds: [] });
  const states = new Set([...Object.keys(from?.state ?? {}), ...Object.keys(to.state)]);
  const changed = from ? [...states].filter((key) => from.state[key] !== to.state[key]) : [];
  if (changed.length > 0) tasks.push({ activity: "state change", detail: changed.sort().join(", "), partIds: [] });
  return tasks;
}
