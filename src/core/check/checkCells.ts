import type { HeldDifference } from "@/core/bench";
import type { KeyedCellRuns, LabTest, MetricChoice, RunSummary } from "@/core/cell";
import { cellsOf, yardsticks } from "@/core/cell";
import { type CheckedCell, checkCap, checkGlitch, checkOutlier, checkRunCount, checkScatter, heldRates, LOW, RESULT } from "./cellChecks";
import type { CheckThresholds, Finding } from "./finding";
import {
  type CheckedSetup,
  checkComparable,
  checkDrift,
  checkDuplicates,
  checkStaleBenches,
  checkStaleOffers,
  checkStaleTests,
  checkTooGood,
} from "./labChecks";
import {
  type CheckedCells,
  checkInversion,
  checkSanity,
  checkSwappedSetups,
  checkUnitSlip,
  checkWrongRun,
  neighbouringResolutions,
  type UsualLevels,
  usualLevels,
} from "./neighbourChecks";
import { checkAmbient, checkThrottling, checkVideoMemory } from "./sensorChecks";

/** What is checked: the cells a suite asks for, and all runs of the lab on those tests (they carry the repeatability). */
export interface CheckInput {
  tests: readonly LabTest[];
  /** The review's rows, in order. */
  setups: readonly CheckedSetup[];
  /** Other setups of the lab by the parts they test: earlier results of the same part. */
  otherSetups: readonly { id: string; partIds: readonly string[] }[];
  runs: readonly RunSummary[];
  /** Runs the suite asks for, by test key. */
  runsWanted: ReadonlyMap<string, number>;
  differences: readonly (HeldDifference & { declared: unknown })[];
  /** Tests of the suite that have a newer version, by key. */
  newerVersions: ReadonlyMap<string, { key: string; newer: string; name: string }>;
  today: string;
  thresholds: CheckThresholds;
}

/** The yardsticks of all cells under a metric. */
function yardsticksOf(runs: readonly RunSummary[], choice: MetricChoice, testOf: ReadonlyMap<string, LabTest>, alpha: number) {
  const cells = cellsOf(runs, choice);
  const keyed: KeyedCellRuns[] = [...cells.values()].flatMap((cell) => {
    const test = testOf.get(cell.testKey);
    return test ? [{ key: cell.key, testKey: cell.testKey, group: test.group, values: cell.values }] : [];
  });
  return { cells, yardstickOf: yardsticks(keyed, alpha) };
}

/** The doubts that one cell's own runs raise; a unit slip, and a run in the wrong cell, say what others would only hint at. */
function checkOwn(one: CheckedCell, cells: CheckedCells, held: ReturnType<typeof heldRates>, levels: UsualLevels, input: CheckInput): Finding[] {
  const { thresholds, runsWanted } = input;
  const slip = checkUnitSlip(one, levels);
  const outlier = slip ? undefined : checkOutlier(one);
  const row = [...(cells.get(one.cell.setupId)?.values() ?? [])].filter((other) => other !== one && other.test.workloadId === one.test.workloadId);
  const column = [...cells.values()].flatMap((others) => others.get(one.test.key) ?? []).filter((other) => other !== one);
  const wrong = outlier && checkWrongRun(outlier, one, [...row, ...column], runsWanted);
  const setup = input.setups.find(({ id }) => id === one.cell.setupId);
  return [
    checkRunCount(one, runsWanted.get(one.test.key) ?? 1),
    slip,
    wrong ?? outlier,
    slip ? undefined : checkScatter(one, outlier),
    outlier || slip ? undefined : checkGlitch(one),
    checkCap(one, held),
    checkThrottling(one),
    checkVideoMemory(one, setup?.vramGib ?? null, cells, thresholds),
  ].filter((finding) => finding !== undefined);
}

/**
 * Runs all checks over the cells of one review. One cause, one doubt: a cap explains an inversion, an inversion explains
 * exchanged setups, a unit slip explains whatever else its value would raise. Order: by setup, then test, then check; the
 * same input gives the same findings.
 *
 * Source: the product's table of checks; see each check for its rule.
 */
export function checkCells(input: CheckInput): Finding[] {
  const { thresholds, tests, setups } = input;
  const testOf = new Map(tests.map((test) => [test.key, test]));
  const { cells, yardstickOf } = yardsticksOf(input.runs, RESULT, testOf, thresholds.scatterAlpha);
  const lows = yardsticksOf(input.runs, LOW, testOf, thresholds.scatterAlpha).yardstickOf;
  const setupIds = setups.map(({ id }) => id);
  const checked = new Map<string, Map<string, CheckedCell>>(setupIds.map((id) => [id, new Map()]));
  for (const cell of cells.values()) {
    const test = testOf.get(cell.testKey);
    if (test) checked.get(cell.setupId)?.set(cell.testKey, { cell, test, yardstick: yardstickOf.get(cell.key), lowYardstick: lows.get(cell.key), thresholds });
  }
  const all = [...checked.values()].flatMap((row) => [...row.values()]);
  const held = heldRates(all);
  const levels = usualLevels(checked);
  const findings: Finding[] = [];
  const explained = new Set<string>();
  const neighbours = neighbouringResolutions(tests);

  for (const setupId of setupIds) {
    const row = checked.get(setupId) as Map<string, CheckedCell>;
    for (const test of tests) {
      const one = row.get(test.key);
      if (!one) continue;
      const own = checkOwn(one, checked, held, levels, input);
      if (own.some(({ check }) => check === "frame cap" || check === "unit slip")) explained.add(`${setupId}/${test.key}`);
      const sameParts = input.otherSetups.filter(
        ({ id, partIds }) => id !== setupId && partIds.join() === (setups.find((setup) => setup.id === setupId)?.partIds.join() ?? ""),
      );
      const sanity = checkSanity(
        one,
        sameParts.map(({ id }) => ({ setupId: id, runs: cells.get(`${id}/${test.key}`)?.runs ?? [], values: cells.get(`${id}/${test.key}`)?.values ?? [] })),
      );
      findings.push(...own, ...(sanity ? [sanity] : []));
    }
    for (const [fewer, more] of neighbours) {
      const [a, b] = [row.get(fewer.key), row.get(more.key)];
      if (!a || !b || explained.has(`${setupId}/${fewer.key}`) || explained.has(`${setupId}/${more.key}`)) continue;
      const inversion = checkInversion(a, b);
      if (inversion) findings.push(inversion);
    }
    const drift = checkDrift([...row.values()], thresholds);
    if (drift) findings.push(drift);
  }
  for (const finding of findings)
    if (["resolution inversion", "too few runs"].includes(finding.check))
      for (const key of [finding.testKey, finding.fits?.testKey]) explained.add(`${finding.setupId}/${key}`);
  findings.push(
    ...checkSwappedSetups(checked, setupIds, tests, explained, thresholds),
    ...tests.flatMap(
      (test) =>
        checkAmbient(
          test,
          all.filter((one) => one.test === test),
          thresholds,
        ) ?? [],
    ),
    ...checkDuplicates(input.runs, new Set(setupIds.flatMap((id) => tests.map(({ key }) => `${id}/${key}`)))),
    ...checkStaleBenches(setups),
    ...checkStaleTests(setups, input.newerVersions, checked),
    ...checkStaleOffers(setups, input.today, thresholds),
    ...checkComparable(
      input.differences.filter(({ property }) => !stalePropertyOf(input.setups, property)),
      setupIds,
    ),
    ...checkTooGood(setups, checked, thresholds),
  );
  return findings;
}

/** A difference that the stale check has said already. */
function stalePropertyOf(setups: readonly CheckedSetup[], property: string): boolean {
  return checkStaleBenches(setups).some(({ evidence }) => evidence.split(";").some((one) => one.startsWith(`${property}:`)));
}
