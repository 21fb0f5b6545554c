import type { Cell, LabTest, MetricChoice, RunSummary, Yardstick } from "@/core/cell";
import { metricValue, scatterFails, scatterLimit } from "@/core/cell";
import { mean, sampleSd, studentTCritical } from "@/core/stats";
import { type CheckThresholds, evidenceOf, type Finding, findingId, percent, plural } from "./finding";
import { judgeCap } from "./judgeCap";

/** What the checks know of one cell. */
export interface CheckedCell {
  cell: Cell;
  test: LabTest;
  yardstick: Yardstick | undefined;
  /** The usual spread of the test's 1 % lows; undefined where there are none. */
  lowYardstick: Yardstick | undefined;
  thresholds: CheckThresholds;
}

/** The checks look at rates and typed values, and at the 1 % low of the percentile school. */
export const RESULT: MetricChoice = { metric: "result", school: "percentile", powerAt: "device" };
export const LOW: MetricChoice = { metric: "low1", school: "percentile", powerAt: "device" };

/** The other runs of an outlier must agree at least this well. */
const OTHERS_AGREE_ALPHA = 0.01;

const resultOf = (run: RunSummary) => metricValue(run, RESULT);
export const cellEvidence = (cell: Cell) => evidenceOf(cell.runs, resultOf);

const ofCell = ({ cell, test }: CheckedCell) => ({ checkVersion: 1, setupId: cell.setupId, testKey: test.key, runId: null, evidence: cellEvidence(cell) });

/** Fewer valid runs than the suite asks for. A cell that only failed is a result, not a gap; an empty one is merely missing. */
export function checkRunCount(one: CheckedCell, wanted: number): Finding | undefined {
  const { cell, test } = one;
  const valid = cell.values.length;
  if (valid >= wanted || valid === 0) return undefined;
  const lost = cell.runs.filter((run) => run.status !== "valid");
  const because = lost.length > 0 ? ` (${lost.map((run) => `run ${run.number} ${run.status}: ${run.reason ?? "no reason given"}`).join("; ")})` : "";
  return {
    ...ofCell(one),
    id: findingId("too few runs", [cell.setupId, test.key]),
    check: "too few runs",
    sentence: `${valid} of ${wanted} runs are valid${because}.`,
    advice: `Run it ${plural(wanted - valid, "more time")}, or accept the wider interval and say so.`,
    runIds: cell.runs.map((run) => run.id),
    numbers: { valid_runs: valid, wanted_runs: wanted },
  };
}

/** How far the most doubtful of some values lies from the mean of the others. */
interface WorstValue {
  at: number;
  /** On the log scale. */
  off: number;
  t: number;
  limit: number;
}

function worstOf(values: readonly number[], yardstick: Yardstick, alpha: number): WorstValue {
  const n = values.length;
  const logs = values.map(Math.log);
  const offOf = (i: number) => (logs[i] as number) - mean(logs.filter((_, j) => j !== i));
  const at = logs.map((_, i) => i).reduce((a, b) => (Math.abs(offOf(b)) > Math.abs(offOf(a)) ? b : a), 0);
  const off = offOf(at);
  return { at, off, t: Math.abs(off) / Math.sqrt(yardstick.s2 * (1 + 1 / (n - 1))), limit: studentTCritical(alpha / n / 2, yardstick.df) };
}

/** The most doubtful run of a cell, beyond t at α/n against the mean of the others and more than 2 % off. */
export function checkOutlier(one: CheckedCell): Finding | undefined {
  const { cell, test, yardstick, thresholds } = one;
  const n = cell.values.length;
  // Of two runs that disagree nobody can say which is wrong: that is left to the scatter check.
  if (!yardstick || yardstick.s2 <= 0 || n < 3) return undefined;
  const { at: worst, off, t, limit } = worstOf(cell.values, yardstick, thresholds.outlierAlpha);
  if (t <= limit || Math.abs(Math.expm1(off)) <= thresholds.outlierLeastOff) return undefined;
  // Where the others disagree as well, nobody can say which run is wrong: that is scatter.
  const others = cell.values.filter((_, i) => i !== worst);
  if (scatterFails(others, yardstick, OTHERS_AGREE_ALPHA)) return undefined;
  const { run, value } = cell.valid[worst] as { run: RunSummary; value: number };
  return {
    ...ofCell(one),
    id: findingId("outlier run", [run.id]),
    check: "outlier run",
    runId: run.id,
    testKey: test.key,
    sentence: `Run ${run.number} is ${percent(Math.abs(Math.expm1(off)))} ${off < 0 ? "below" : "above"} the mean of the other ${n - 1}; the usual spread here is ${percent(Math.sqrt(yardstick.s2))}.`,
    advice: "Look at its trace; discard it with a reason and run again, or accept it.",
    runIds: [run.id, ...cell.valid.filter((_, i) => i !== worst).map((other) => other.run.id)],
    numbers: { value, off_ratio: Math.expm1(off), t, t_limit: limit, usual_spread_ratio: Math.sqrt(yardstick.s2) },
  };
}

/** The 1 % low of a run fails the outlier test while its average passes it: one burst of long frames that the mean hides. */
export function checkGlitch(one: CheckedCell): Finding | undefined {
  const { cell, lowYardstick, thresholds } = one;
  const lows = cell.valid.flatMap(({ run }) => {
    const low = metricValue(run, LOW);
    return low === undefined ? [] : [{ run, low }];
  });
  const n = lows.length;
  if (!lowYardstick || lowYardstick.s2 <= 0 || n < 3) return undefined;
  const { at, off, t, limit } = worstOf(
    lows.map(({ low }) => low),
    lowYardstick,
    thresholds.glitchAlpha,
  );
  // Only a low that falls is a glitch; one that rises has no harm in it.
  if (off >= 0 || t <= limit || -Math.expm1(off) <= thresholds.glitchLeastOff) return undefined;
  const { run, low } = lows[at] as { run: RunSummary; low: number };
  return {
    ...ofCell(one),
    id: findingId("glitch", [run.id]),
    check: "glitch",
    runId: run.id,
    sentence: `The 1 % low of run ${run.number} is ${percent(-Math.expm1(off))} below that of the other ${n - 1}, while its average agrees; lows usually spread by ${percent(Math.sqrt(lowYardstick.s2))} here.`,
    advice: "Look for a burst of long frames in its trace; discard it and run again, or accept it if the scene does that.",
    runIds: [run.id, ...lows.filter((_, i) => i !== at).map((other) => other.run.id)],
    numbers: { low_fps: low, off_ratio: Math.expm1(off), t, t_limit: limit, usual_spread_ratio: Math.sqrt(lowYardstick.s2) },
    evidence: evidenceOf(cell.runs, (other) => metricValue(other, LOW)),
  };
}

/** Scatter beyond F at α; where one run explains it, the outlier check has said so already. */
export function checkScatter(one: CheckedCell, outlier: Finding | undefined): Finding | undefined {
  const { cell, test, yardstick, thresholds } = one;
  const kept = cell.valid.filter(({ run }) => run.id !== outlier?.runId).map(({ value }) => value);
  if (!yardstick || kept.length < 2 || !scatterFails(kept, yardstick, thresholds.scatterAlpha)) return undefined;
  const cv = sampleSd(kept) / mean(kept);
  const usual = Math.sqrt(yardstick.s2);
  return {
    ...ofCell(one),
    id: findingId("scatter", [cell.setupId, test.key]),
    check: "scatter",
    sentence: `The ${plural(kept.length, "run")} scatter by ${percent(cv)}; the usual spread here is ${percent(usual)}.`,
    advice: "Look for a warm-up, a background task or a wrong scene; run again, or accept it: its own spread is then used.",
    runIds: cell.valid.map(({ run }) => run.id),
    numbers: { cv_ratio: cv, usual_spread_ratio: usual, limit_ratio: scatterLimit(kept.length, yardstick, thresholds.scatterAlpha) },
  };
}

/** Rates at which runs of a workload are surely held; a weaker sign at the same rate is then enough. */
export function heldRates(cells: readonly CheckedCell[]): Map<string, { rateFps: number; cellKey: string }[]> {
  const held = new Map<string, { rateFps: number; cellKey: string }[]>();
  for (const { cell, test, thresholds } of cells) {
    for (const { run } of cell.valid) {
      const cap = judgeCap(run.pacing, run.frames?.frames ?? 0, thresholds);
      if (cap.capped === "yes") held.set(test.workloadId, [...(held.get(test.workloadId) ?? []), { rateFps: cap.rateFps, cellKey: cell.key }]);
    }
  }
  return held;
}

/** Runs of a cell held down by a frame cap; one finding a cell, naming its runs. */
export function checkCap(one: CheckedCell, held: ReturnType<typeof heldRates>): Finding | undefined {
  const { cell, test, thresholds } = one;
  const weaker = { capShareWithin1Percent: thresholds.capShareWithin1Percent / 2, capShareFaster: thresholds.capShareFaster * 2 };
  const elsewhere = (held.get(test.workloadId) ?? []).filter((other) => other.cellKey !== cell.key);
  const judged = cell.valid.map(({ run }) => {
    const frames = run.frames?.frames ?? 0;
    const cap = judgeCap(run.pacing, frames, thresholds);
    if (cap.capped !== "no") return { run, cap, level: false };
    // Level with another cell of the workload: the same limit may be at work where its own signs are weak.
    const weak = judgeCap(run.pacing, frames, weaker);
    const level = weak.capped !== "no" && elsewhere.some(({ rateFps }) => Math.abs(rateFps / weak.rateFps - 1) < 0.01);
    return { run, cap: level ? weak : cap, level };
  });
  const capped = judged.filter(({ cap }) => cap.capped !== "no");
  const [first] = capped;
  if (!first || first.cap.capped === "no") return undefined;
  const partly = capped.every(({ cap }) => cap.capped === "partly");
  const rate = first.cap.rateFps;
  const which = capped.length === judged.length ? `All ${judged.length} runs` : `${capped.length} of ${judged.length} runs`;
  return {
    ...ofCell(one),
    id: findingId("frame cap", [cell.setupId, test.key]),
    check: "frame cap",
    sentence: `${which} look ${partly ? "partly " : ""}capped at ${rate.toFixed(1)} fps: ${percent(first.cap.shareWithin10Percent, 0)} of the frames lie within 10 % of ${(1000 / rate).toFixed(2)} ms and ${first.cap.shareFaster < 0.0005 ? "none is" : `only ${percent(first.cap.shareFaster)} are`} faster${first.level ? "; other cells of this workload are level there" : ""}.`,
    advice: "Turn off v-sync and every frame limit in game and driver, discard these runs and run again.",
    runIds: capped.map(({ run }) => run.id),
    numbers: { cap_fps: rate, share_within_1_percent: first.cap.shareWithin1Percent, share_faster: first.cap.shareFaster },
  };
}
