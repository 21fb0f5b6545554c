import type { OpenStretch } from "./labHours";
import { openSeconds } from "./labHours";
import type { Plan, PlanBlock, PlanSetup, PlanTest } from "./planReview";
import { changeTimes, onceTimes, runTimes } from "./planReview";
import { changeTasks, sumTimes, type TimeEstimate, type TimeModel } from "./timeModel";

/** One stretch of planned work with its time. */
export interface ScheduledItem {
  benchId: string;
  blockIndex: number;
  setupId: string;
  kind: "pre-flight" | "change" | "test";
  /** Of a test. */
  testKey: string | null;
  runs: number;
  part: PlanBlock["part"];
  seconds: number;
  sd: number;
  fromMs: number;
  toMs: number;
}

/** A plan laid over the lab's hours. */
export interface Schedule {
  items: ScheduledItem[];
  benches: { benchId: string; seconds: number; sd: number; endsMs: number | null }[];
  /** All work of all benches. */
  seconds: number;
  sd: number;
  /** When the last bench ends; null where the calendar ends before. */
  endsMs: number | null;
  /** One standard deviation of the end, in open seconds of the last bench. */
  endSd: number;
  /** Open seconds from the end to the deadline; negative where it is missed; null without deadline or end. */
  slackSeconds: number | null;
  /** Items that end after the deadline. */
  late: ScheduledItem[];
}

interface Piece extends Omit<ScheduledItem, "fromMs" | "toMs" | "seconds" | "sd"> {
  times: TimeEstimate[];
  hands: boolean;
}

/** The pieces of work of a plan, bench by bench. Every bench opens with its pre-flight list. */
function piecesOf(plan: Plan, setups: readonly PlanSetup[], tests: readonly PlanTest[], times: TimeModel): Piece[][] {
  const setupOf = new Map(setups.map((setup) => [setup.id, setup]));
  const testOf = new Map(tests.map((test) => [test.key, test]));
  return plan.benches.map(({ id, blocks }) => {
    const pieces: Piece[] = [];
    let fitted: PlanSetup | undefined;
    blocks.forEach((block, blockIndex) => {
      const setup = setupOf.get(block.setupId) as PlanSetup;
      const common = { benchId: id, blockIndex, setupId: setup.id, part: block.part };
      if (blockIndex === 0) pieces.push({ ...common, kind: "pre-flight", testKey: null, runs: 0, times: [times.estimate("pre-flight", id)], hands: true });
      const change = changeTimes(times, changeTasks(fitted, setup));
      if (change.length > 0) pieces.push({ ...common, kind: "change", testKey: null, runs: 0, times: change, hands: true });
      fitted = setup;
      for (const { testKey, runs } of block.tests) {
        const test = testOf.get(testKey) as PlanTest;
        // A cell may be cut by the end of a day between two runs, so that each is a piece of its own.
        for (let run = 0; run < runs; run += 1) {
          pieces.push({
            ...common,
            kind: "test",
            testKey,
            runs: 1,
            times: run === 0 ? [...onceTimes(times, test), ...runTimes(times, test)] : runTimes(times, test),
            hands: false,
          });
        }
      }
    });
    return pieces;
  });
}

/** Lays work into open stretches: a piece that does not fit before closing waits for the next opening, unless no day is long enough. */
function placer(stretches: readonly OpenStretch[]) {
  const longestMs = Math.max(0, ...stretches.map((one) => one.toMs - one.fromMs));
  /** The first stretch that ends after an instant, by halving. */
  const firstAfter = (ms: number) => {
    let [low, high] = [0, stretches.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((stretches[middle] as OpenStretch).toMs > ms) high = middle;
      else low = middle + 1;
    }
    return low;
  };
  return (fromMs: number, seconds: number): { fromMs: number; toMs: number } | undefined => {
    const lengthMs = seconds * 1000;
    for (let i = firstAfter(fromMs); i < stretches.length; i += 1) {
      const stretch = stretches[i] as OpenStretch;
      const start = Math.max(stretch.fromMs, fromMs);
      if (start + lengthMs <= stretch.toMs) return { fromMs: start, toMs: start + lengthMs };
      if (lengthMs <= longestMs) continue;
      let restMs = lengthMs - (stretch.toMs - start);
      for (const later of stretches.slice(i + 1)) {
        if (restMs <= later.toMs - later.fromMs) return { fromMs: start, toMs: later.fromMs + restMs };
        restMs -= later.toMs - later.fromMs;
      }
      return undefined;
    }
    return undefined;
  };
}

/**
 * Lays a plan over the lab's open hours: what is finished when, and what is late. Benches work side by side; what needs
 * hands (pre-flight, changes) waits where one operator serves several benches.
 *
 * Units: milliseconds since 1970; durations in seconds with one standard deviation.
 */
export function schedulePlan(input: {
  plan: Plan;
  setups: readonly PlanSetup[];
  tests: readonly PlanTest[];
  times: TimeModel;
  stretches: readonly OpenStretch[];
  startMs: number;
  deadlineMs: number | null;
  oneOperator: boolean;
}): Schedule {
  const { plan, stretches, startMs, deadlineMs } = input;
  const pieces = piecesOf(plan, input.setups, input.tests, input.times);
  const cursor = pieces.map(() => startMs);
  const next = pieces.map(() => 0);
  const place = placer(stretches);
  const placed: ScheduledItem[] = [];
  const lastOf = new Map<string, ScheduledItem>();
  const ended = pieces.map(() => true);
  let handsFreeMs = startMs;
  for (;;) {
    let b = -1;
    for (let i = 0; i < pieces.length; i += 1) {
      if ((next[i] as number) < (pieces[i] as Piece[]).length && (b < 0 || (cursor[i] as number) < (cursor[b] as number))) b = i;
    }
    if (b < 0) break;
    const piece = (pieces[b] as Piece[])[next[b] as number] as Piece;
    next[b] = (next[b] as number) + 1;
    const { seconds, sd } = sumTimes(piece.times);
    const from = piece.hands && input.oneOperator ? Math.max(cursor[b] as number, handsFreeMs) : (cursor[b] as number);
    const slot = place(from, seconds);
    if (!slot) {
      ended[b] = false;
      next[b] = (pieces[b] as Piece[]).length;
      continue;
    }
    cursor[b] = slot.toMs;
    if (piece.hands) handsFreeMs = slot.toMs;
    const { times: _, hands: __, ...shown } = piece;
    const last = lastOf.get(piece.benchId);
    // Runs of one cell that follow each other without a break are one item.
    if (
      last &&
      last.kind === "test" &&
      piece.kind === "test" &&
      last.testKey === piece.testKey &&
      last.blockIndex === piece.blockIndex &&
      last.toMs === slot.fromMs
    ) {
      last.toMs = slot.toMs;
      last.runs += 1;
      last.seconds += seconds;
      last.sd = Math.hypot(last.sd, sd);
    } else {
      const item = { ...shown, seconds, sd, ...slot };
      placed.push(item);
      lastOf.set(piece.benchId, item);
    }
  }
  const benches = plan.benches.map(({ id }, b) => ({
    benchId: id,
    ...sumTimes((pieces[b] as Piece[]).flatMap(({ times }) => times)),
    endsMs: ended[b] ? (cursor[b] as number) : null,
  }));
  const total = sumTimes(pieces.flat().flatMap(({ times }) => times));
  const ends = benches.map(({ endsMs }) => endsMs);
  const endsMs = ends.includes(null) || ends.length === 0 ? null : Math.max(...(ends as number[]));
  const last = benches.find((bench) => bench.endsMs === endsMs);
  const slackSeconds =
    deadlineMs === null || endsMs === null
      ? null
      : endsMs <= deadlineMs
        ? openSeconds(stretches, endsMs, deadlineMs)
        : -openSeconds(stretches, deadlineMs, endsMs);
  return {
    items: placed,
    benches,
    ...total,
    endsMs,
    endSd: last?.sd ?? 0,
    slackSeconds,
    late: deadlineMs === null ? [] : placed.filter(({ toMs }) => toMs > deadlineMs),
  };
}
