import type { Better, LowSchool, PowerAt, RunStatus, TestKind } from "@/core/bench";
import type { FramePacing, FrameStatistics, RunFacts } from "@/core/capture";

/** A test version as comparisons need it. */
export interface LabTest {
  key: string;
  id: string;
  version: number;
  workloadId: string;
  workloadName: string;
  group: string;
  name: string;
  kind: TestKind;
  unit: string;
  better: Better;
  resolution: string | null;
  /** Everything else that sets two tests of one workload apart: preset, ray tracing, upscaling, API, scene … */
  settings: string;
  /** The ladder it is a rung of, and its level there. */
  ladder: { id: string; level: number } | null;
  /** Length of the footage that a timed test works through, in seconds: what a realtime factor is reckoned from. */
  mediaS: number | null;
}

/** What comparisons need of a run's frames; the full statistics stay with the run. */
export type FrameRates = Pick<FrameStatistics, "frames" | "durationS" | "averageFps" | "low1" | "low01">;

/** One run with what was derived from its logs, without the logs. */
export interface RunSummary {
  id: string;
  setupId: string;
  testKey: string;
  number: number;
  status: RunStatus;
  reason: string | null;
  startedAt: string | null;
  frames: FrameRates | null;
  /** The next four only where the checks ask for them. */
  pacing: FramePacing | null;
  facts: RunFacts | null;
  /** The hash of its frames: the same trace has the same. */
  content: string | null;
  /** First or last of a baseline that is repeated. */
  block: string | null;
  ambientC: number | null;
  /** Energy over the run's window where it was metered, by the place of the meter; places are never mixed in one ranking. */
  energy: Partial<Record<PowerAt, { joules: number; meanW: number }>>;
  /** The typed-in or recorded main value of tests without frames. */
  result: number | null;
  /** Size of what the run put out: an encoder's file. */
  outputBytes: number | null;
  /** Typed by hand: no log stands behind it, and it may be typed over. */
  typed: boolean;
  rowVersion: number;
  /** Median load of the processor, 0 to 1, where it was recorded. */
  cpuLoad: number | null;
  /** What people thought of it, 1 to 5, on average; null where nobody said. */
  opinion: number | null;
}

/** What is compared. `result` is the rate of a frame test and the typed value of any other. */
export type Metric = "result" | "low1" | "low01" | "frames_per_joule";

/** A metric with the choices it depends on: the school of lows and the place of the power meter. */
export interface MetricChoice {
  metric: Metric;
  school: LowSchool;
  powerAt: PowerAt;
}

/** The value of a run under a metric, finite and above 0; undefined where the run cannot say. */
export function metricValue(run: RunSummary, { metric, school, powerAt }: MetricChoice): number | undefined {
  const low = (lows: FrameStatistics["low1"] | undefined) =>
    lows && { percentile: lows.percentileFps, tail_mean: lows.tailMeanFps, time_share: lows.timeShareFps }[school];
  const value = {
    result: run.frames?.averageFps ?? run.result,
    low1: low(run.frames?.low1),
    low01: low(run.frames?.low01),
    frames_per_joule: framesPerEnergy(run, powerAt),
  }[metric];
  return value !== null && value !== undefined && value > 0 && Number.isFinite(value) ? value : undefined;
}

function framesPerEnergy(run: RunSummary, at: PowerAt): number | undefined {
  const joules = run.energy[at]?.joules;
  return run.frames && joules !== undefined && joules > 0 ? run.frames.frames / joules : undefined;
}

/** The key of a cell: one setup under one test version. */
export function cellKey(setupId: string, key: string): string {
  return `${setupId}/${key}`;
}

/** All runs of one cell under one metric. Discarded and failed runs stay visible but carry no value. */
export interface Cell {
  key: string;
  setupId: string;
  testKey: string;
  runs: RunSummary[];
  valid: { run: RunSummary; value: number }[];
  values: number[];
}

/** Sorts runs into cells (ordered by run number) with the values of the valid ones. */
export function cellsOf(runs: readonly RunSummary[], choice: MetricChoice): Map<string, Cell> {
  const cells = new Map<string, Cell>();
  const ordered = [...runs].sort((a, b) => a.number - b.number || (a.id < b.id ? -1 : 1));
  for (const run of ordered) {
    const key = cellKey(run.setupId, run.testKey);
    let cell = cells.get(key);
    if (!cell) {
      cell = { key, setupId: run.setupId, testKey: run.testKey, runs: [], valid: [], values: [] };
      cells.set(key, cell);
    }
    cell.runs.push(run);
    const value = run.status === "valid" ? metricValue(run, choice) : undefined;
    if (value !== undefined) {
      cell.valid.push({ run, value });
      cell.values.push(value);
    }
  }
  return cells;
}

/** A metric's direction: rates, lows and frames per joule are better higher; typed values as their test says. */
export function betterOf(test: LabTest, metric: Metric): Better {
  return metric === "result" ? test.better : "higher";
}
