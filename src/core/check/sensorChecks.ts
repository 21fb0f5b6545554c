import { type LabTest, metricValue, type RunSummary } from "@/core/cell";
import { mean, median } from "@/core/stats";
import { type CheckedCell, cellEvidence, LOW, RESULT } from "./cellChecks";
import { type CheckThresholds, type Finding, findingId, percent } from "./finding";
import type { CheckedCells } from "./neighbourChecks";

/** Runs whose clock fell at the ceiling; one finding a cell. */
export function checkThrottling({ cell, test, thresholds }: CheckedCell): Finding | undefined {
  const hot = cell.valid.flatMap(({ run }) => {
    const throttling = run.facts?.throttling;
    return throttling && throttling.clockRatio < thresholds.throttlingClockRatio ? [{ run, throttling }] : [];
  });
  const worst = hot.sort((a, b) => a.throttling.clockRatio - b.throttling.clockRatio)[0];
  if (!worst) return undefined;
  const { part, clockRatio, fromS, temperatureC } = worst.throttling;
  return {
    id: findingId("throttling", [cell.setupId, test.key]),
    check: "throttling",
    checkVersion: 1,
    setupId: cell.setupId,
    testKey: test.key,
    runId: null,
    sentence: `In ${hot.length} of ${cell.valid.length} runs the ${part === "gpu" ? "graphics card" : "processor"} loses clock at its ceiling: ${percent(1 - clockRatio)} below its median before, from ${fromS.toFixed(0)} s of run ${worst.run.number} at ${temperatureC.toFixed(0)} °C.`,
    advice: "Look at cooler, fan and room; run again when it is cooled, or accept it as what this cooler does and say so.",
    runIds: hot.map(({ run }) => run.id),
    numbers: { clock_ratio: clockRatio, from_s: fromS, temperature_c: temperatureC },
    evidence: `${cellEvidence(cell)}|${hot.map(({ run, throttling }) => `${run.id}=${throttling.clockRatio.toFixed(4)}`).join(";")}`,
  };
}

/** How low the lows of a cell are beside its average. */
const lowShare = ({ cell }: CheckedCell): number | undefined => {
  const shares = cell.valid.flatMap(({ run }) => {
    const [low, rate] = [metricValue(run, LOW), metricValue(run, RESULT)];
    return low !== undefined && rate !== undefined ? [low / rate] : [];
  });
  return shares.length > 0 ? mean(shares) : undefined;
};

/** Video memory in use to its capacity while the lows collapse beside those of other setups in the same test. */
export function checkVideoMemory(one: CheckedCell, capacityGib: number | null, cells: CheckedCells, thresholds: CheckThresholds): Finding | undefined {
  const { cell, test } = one;
  const used = cell.valid.flatMap(({ run }) => run.facts?.vramGib ?? []);
  const share = lowShare(one);
  if (capacityGib === null || used.length === 0 || share === undefined) return undefined;
  const inUse = Math.max(...used) / capacityGib;
  const others = [...cells.entries()].flatMap(([setupId, row]) => {
    const other = row.get(test.key);
    return setupId !== cell.setupId && other ? (lowShare(other) ?? []) : [];
  });
  if (inUse < thresholds.memoryShare || others.length === 0) return undefined;
  const usual = median(others);
  if (share > thresholds.memoryLowCollapse * usual) return undefined;
  return {
    id: findingId("video memory full", [cell.setupId, test.key]),
    check: "video memory full",
    checkVersion: 1,
    setupId: cell.setupId,
    testKey: test.key,
    runId: null,
    sentence: `Video memory is ${percent(inUse, 0)} full (${(inUse * capacityGib).toFixed(1)} of ${capacityGib} GiB) and the 1 % low falls to ${percent(share, 0)} of the average; on other cards it is ${percent(usual, 0)}.`,
    advice: "A true result, but one of memory: accept it and say so, or test at settings that fit.",
    runIds: cell.valid.map(({ run }) => run.id),
    numbers: { in_use_ratio: inUse, low_share: share, usual_low_share: usual },
    evidence: `${cellEvidence(cell)}|${Math.max(...used).toFixed(3)}`,
  };
}

const ofTemperature = (test: LabTest) => test.kind === "soak" || ["°C", "C", "K"].includes(test.unit);

/** The room moved too far within a comparison of temperatures: one finding a test, on the setup furthest from the others. */
export function checkAmbient(test: LabTest, cells: readonly CheckedCell[], thresholds: CheckThresholds): Finding | undefined {
  if (!ofTemperature(test)) return undefined;
  const rooms = cells.flatMap(({ cell }) => {
    const known = cell.valid.flatMap(({ run }) => run.ambientC ?? run.facts?.ambientC ?? []);
    return known.length > 0
      ? [{ setupId: cell.setupId, runs: cell.valid.map(({ run }) => run), low: Math.min(...known), high: Math.max(...known), mean: mean(known) }]
      : [];
  });
  if (rooms.length === 0) return undefined;
  const spread = Math.max(...rooms.map(({ high }) => high)) - Math.min(...rooms.map(({ low }) => low));
  if (spread <= thresholds.ambientSpreadC) return undefined;
  const centre = median(rooms.map((room) => room.mean));
  const furthest = rooms.reduce((a, b) => (Math.max(b.high - centre, centre - b.low) > Math.max(a.high - centre, centre - a.low) ? b : a));
  return {
    id: findingId("ambient", [furthest.setupId, test.key]),
    check: "ambient",
    checkVersion: 1,
    setupId: furthest.setupId,
    testKey: test.key,
    runId: null,
    sentence: `The room moved by ${spread.toFixed(1)} °C within this comparison; here it was ${furthest.low === furthest.high ? furthest.low.toFixed(1) : `${furthest.low.toFixed(1)} to ${furthest.high.toFixed(1)}`} °C, elsewhere about ${centre.toFixed(1)} °C.`,
    advice: "Compare temperatures over ambient only, or run this one again in the room the others had.",
    runIds: furthest.runs.map(({ id }: RunSummary) => id),
    numbers: { spread_c: spread, centre_c: centre },
    evidence: rooms.map(({ setupId, low, high }) => `${setupId}:${low}-${high}`).join(";"),
  };
}
