import { pixelsOf, resolutionLabel } from "@/core/bench";
import { type LabTest, orientation, type RunSummary } from "@/core/cell";
import { mean, median, studentTCritical } from "@/core/stats";
import { type CheckedCell, cellEvidence } from "./cellChecks";
import { type CheckThresholds, type Finding, findingId, percent } from "./finding";

/** All cells of a review that have a value, by setup and test. */
export type CheckedCells = ReadonlyMap<string, ReadonlyMap<string, CheckedCell>>;

const logMean = ({ cell }: CheckedCell) => Math.log(mean(cell.values));

/** Pairs of tests that differ in resolution only, each with the next larger one. */
export function neighbouringResolutions(tests: readonly LabTest[]): [LabTest, LabTest][] {
  const families = new Map<string, LabTest[]>();
  for (const test of tests) {
    if (!test.resolution || test.better !== "higher") continue;
    const family = `${test.workloadId}\n${test.settings}`;
    families.set(family, [...(families.get(family) ?? []), test]);
  }
  return [...families.values()].flatMap((family) => {
    const ordered = family.sort((a, b) => pixelsOf(a.resolution) - pixelsOf(b.resolution) || (a.key < b.key ? -1 : 1));
    return ordered.slice(1).map((test, i): [LabTest, LabTest] => [ordered[i] as LabTest, test]);
  });
}

/** More pixels run faster than fewer, beyond noise, at otherwise equal settings: labels mixed up, or a CPU limit. */
export function checkInversion(fewer: CheckedCell, more: CheckedCell): Finding | undefined {
  const { yardstick: a, thresholds } = fewer;
  const b = more.yardstick;
  if (!a || !b || fewer.cell.values.length === 0 || more.cell.values.length === 0) return undefined;
  const gain = logMean(more) - logMean(fewer);
  const variance = a.s2 / fewer.cell.values.length + b.s2 / more.cell.values.length;
  if (variance <= 0) return undefined;
  const critical = studentTCritical(thresholds.inversionAlpha, Math.min(a.df, b.df));
  if (gain / Math.sqrt(variance) <= critical || Math.expm1(gain) <= thresholds.outlierLeastOff) return undefined;
  const [lowName, highName] = [fewer, more].map(({ test }) => resolutionLabel(test.resolution ?? "?"));
  return {
    id: findingId("resolution inversion", [more.cell.setupId, fewer.test.key, more.test.key]),
    check: "resolution inversion",
    checkVersion: 1,
    setupId: more.cell.setupId,
    testKey: more.test.key,
    runId: null,
    sentence: `${highName} runs ${percent(Math.expm1(gain))} faster than ${lowName}: ${mean(more.cell.values).toFixed(1)} against ${mean(fewer.cell.values).toFixed(1)} fps.`,
    advice: "The labels are likely mixed up: look at both cells; exchange them, discard and run again, or dismiss it where the CPU is the limit.",
    runIds: [...more.cell.valid, ...fewer.cell.valid].map(({ run }) => run.id),
    fits: { setupId: fewer.cell.setupId, testKey: fewer.test.key },
    numbers: { gain_ratio: Math.expm1(gain), t: gain / Math.sqrt(variance), t_limit: critical },
    evidence: `${cellEvidence(fewer.cell)}|${cellEvidence(more.cell)}`,
  };
}

/**
 * An outlier that fits a neighbouring cell far better than its own, where that cell is short of runs or holds an outlier that
 * fits here: one run filed in the wrong place, or two exchanged.
 */
export function checkWrongRun(
  outlier: Finding,
  home: CheckedCell,
  neighbours: readonly CheckedCell[],
  wanted: ReadonlyMap<string, number>,
): Finding | undefined {
  const run = home.cell.valid.find(({ run: one }) => one.id === outlier.runId);
  if (!run || !home.yardstick) return undefined;
  const { thresholds } = home;
  const own = home.cell.valid.filter((other) => other !== run).map(({ value }) => value);
  const distance = (value: number, values: readonly number[]) => Math.abs(Math.log(value) - Math.log(mean(values)));
  const away = distance(run.value, own);
  if (away < thresholds.wrongCellLeastOff) return undefined;
  const noise = 3 * Math.sqrt(home.yardstick.s2);
  for (const near of neighbours) {
    if (near.cell.values.length === 0) continue;
    const short = near.cell.values.length < (wanted.get(near.test.key) ?? 1);
    // One of its own runs that fits here instead, without which it is judged.
    const exchanged = near.cell.valid.findIndex(({ value }) => distance(value, own) < noise && distance(value, [run.value]) > thresholds.wrongCellLeastOff);
    const others = near.cell.values.filter((_, i) => i !== exchanged);
    if ((!short && exchanged < 0) || others.length === 0) continue;
    const close = distance(run.value, others);
    if (close > noise || close * thresholds.wrongCellTimesCloser > away) continue;
    const where = near.cell.setupId === home.cell.setupId ? resolutionLabel(near.test.resolution ?? near.test.name) : near.cell.setupId;
    return {
      ...outlier,
      id: findingId("wrong cell", [run.run.id]),
      check: "wrong cell",
      sentence: `Run ${run.run.number} is ${percent(Math.expm1(away))} off its cell and ${percent(Math.expm1(close))} off that of ${where}, which ${exchanged >= 0 ? "holds a run that fits here" : "is short of a run"}.`,
      advice: "Move it to the cell it fits, or discard it with a reason and run again.",
      fits: { setupId: near.cell.setupId, testKey: near.test.key },
      numbers: { off_own_ratio: Math.expm1(away), off_other_ratio: Math.expm1(close) },
      evidence: `${cellEvidence(home.cell)}|${cellEvidence(near.cell)}`,
    };
  }
  return undefined;
}

/** One way of asking how two setups differ in a test, and what the other tests say of it. */
interface PairView {
  test: LabTest;
  a: CheckedCell;
  b: CheckedCell;
  /** ln of a over b, here and elsewhere. */
  here: number;
  elsewhere: number;
}

/**
 * Two setups whose cells in one test look exchanged: their ratio is turned over against the other tests (those of the same
 * workload count most), and turned back it fits, many times closer than it stands. Judged against how far such ratios
 * usually lie from what the other tests say, so that cards that suit a game are no doubt. Cells that another check explains
 * (`setup/test` in `explained`) say nothing about their neighbours.
 */
export function checkSwappedSetups(
  cells: CheckedCells,
  setupIds: readonly string[],
  tests: readonly LabTest[],
  explained: ReadonlySet<string>,
  thresholds: CheckThresholds,
): Finding[] {
  // Groups are asked apart: a part may well be ahead in games and behind in production.
  const groups = [...new Set(tests.map(({ group }) => group))];
  return groups.flatMap((group) =>
    swappedInGroup(
      cells,
      setupIds,
      tests.filter((test) => test.group === group),
      explained,
      thresholds,
    ),
  );
}

/** The same within tests of one group, whose ratios can be asked about each other. */
function swappedInGroup(
  cells: CheckedCells,
  setupIds: readonly string[],
  tests: readonly LabTest[],
  explained: ReadonlySet<string>,
  thresholds: CheckThresholds,
): Finding[] {
  const found: Finding[] = [];
  for (const [i, aId] of setupIds.entries()) {
    for (const bId of setupIds.slice(i + 1)) {
      const both = tests.flatMap((test) => {
        const [a, b] = [cells.get(aId)?.get(test.key), cells.get(bId)?.get(test.key)];
        if (explained.has(`${aId}/${test.key}`) || explained.has(`${bId}/${test.key}`)) return [];
        return a && b && a.cell.values.length > 0 && b.cell.values.length > 0
          ? [{ test, a, b, here: orientation(test.better) * (logMean(a) - logMean(b)) }]
          : [];
      });
      if (both.length < 6) continue;
      const usualAll = median(both.map(({ here }) => here));
      const byResolution = new Map<string | null, number[]>();
      const byWorkload = new Map<string, { test: LabTest; here: number }[]>();
      for (const one of both) {
        byResolution.set(one.test.resolution, [...(byResolution.get(one.test.resolution) ?? []), one.here]);
        byWorkload.set(one.test.workloadId, [...(byWorkload.get(one.test.workloadId) ?? []), one]);
      }
      const usualAt = new Map([...byResolution].map(([resolution, list]) => [resolution, list.length > 3 ? median(list) : usualAll]));
      const views = both.map((one): PairView => {
        const near = (byWorkload.get(one.test.workloadId) ?? []).filter((other) => other.test !== one.test).map(({ here }) => here);
        const usual = usualAt.get(one.test.resolution) ?? usualAll;
        // One other resolution alone could be the exchanged one: the usual ratio is asked as well.
        return { ...one, elsewhere: near.length >= 2 ? median(near) : near.length === 1 ? ((near[0] as number) + usual) / 2 : usual };
      });
      const spread = 1.4826 * median(views.map(({ here, elsewhere }) => Math.abs(here - elsewhere)));
      for (const view of views) {
        const off = Math.abs(view.here - view.elsewhere);
        const turned = Math.abs(view.here + view.elsewhere);
        const noise = Math.sqrt((view.a.yardstick?.s2 ?? 0) + (view.b.yardstick?.s2 ?? 0));
        if (Math.abs(view.elsewhere) < thresholds.wrongCellLeastOff || Math.sign(view.here) === Math.sign(view.elsewhere)) continue;
        if (off < 5 * Math.max(spread, noise / 2) || turned * thresholds.wrongCellTimesCloser > off * 1.6) continue;
        found.push(swapFinding(view, turned));
      }
    }
  }
  return found;
}

function swapFinding({ test, a, b, here, elsewhere }: PairView, turned: number): Finding {
  const ratio = (x: number) => (Math.exp(Math.abs(x)) - 1) * 100;
  return {
    id: findingId("wrong cell", [a.cell.setupId, b.cell.setupId, test.key]),
    check: "wrong cell",
    checkVersion: 1,
    setupId: a.cell.setupId,
    testKey: test.key,
    runId: null,
    sentence: `${here > 0 ? a.cell.setupId : b.cell.setupId} is ${ratio(here).toFixed(1)} % ahead of ${here > 0 ? b.cell.setupId : a.cell.setupId} here, and ${ratio(elsewhere).toFixed(1)} % behind it elsewhere; exchanged, the two cells fit within ${ratio(turned).toFixed(1)} %.`,
    advice: "The two setups are likely mixed up in this test: exchange the cells, or run both again.",
    runIds: [...a.cell.valid, ...b.cell.valid].map(({ run }) => run.id),
    fits: { setupId: b.cell.setupId, testKey: test.key },
    numbers: { here_log: here, elsewhere_log: elsewhere },
    evidence: `${cellEvidence(a.cell)}|${cellEvidence(b.cell)}`,
  };
}

const SLIPS = [
  { factor: 1000, words: "1,000 times too large" },
  { factor: 1 / 1000, words: "1,000 times too small" },
  { factor: 60, words: "60 times too large" },
  { factor: 1 / 60, words: "60 times too small" },
] as const;

/** What a test's cells usually hold, and how far each setup usually lies from that: what a cell is expected to hold from its neighbours alone. */
export interface UsualLevels {
  test: ReadonlyMap<string, number>;
  setup: ReadonlyMap<string, number>;
}

/** The usual levels of tests and setups, as medians on the log scale: one slipped cell moves neither. */
export function usualLevels(cells: CheckedCells): UsualLevels {
  const byTest = new Map<string, number[]>();
  for (const row of cells.values()) for (const [key, one] of row) if (one.cell.values.length > 0) byTest.set(key, [...(byTest.get(key) ?? []), logMean(one)]);
  const test = new Map([...byTest].filter(([, list]) => list.length >= 3).map(([key, list]) => [key, median(list)]));
  const setup = new Map<string, number>();
  for (const [setupId, row] of cells) {
    const offs = [...row].flatMap(([key, one]) => (one.cell.values.length > 0 && test.has(key) ? [logMean(one) - (test.get(key) as number)] : []));
    if (offs.length > 0) setup.set(setupId, median(offs));
  }
  return { test, setup };
}

/** A value a factor of 1000 or 60 from what its neighbours say, or its own inverse in ms: somebody took another unit. */
export function checkUnitSlip({ cell, test, thresholds }: CheckedCell, levels: UsualLevels): Finding | undefined {
  const [level, offset] = [levels.test.get(test.key), levels.setup.get(cell.setupId)];
  const fromNeighbours = level === undefined || offset === undefined ? undefined : Math.exp(level + offset);
  for (const { run, value } of cell.valid) {
    const own = cell.valid.filter((other) => other.run !== run).map((other) => other.value);
    // A whole cell that slipped has only its neighbours to be judged by.
    for (const expected of [own.length >= 2 ? median(own) : undefined, fromNeighbours]) {
      if (expected === undefined) continue;
      const within = Math.log1p(thresholds.unitSlipWithin);
      const slip = SLIPS.find(({ factor }) => Math.abs(Math.log(value / expected / factor)) < within);
      const inverse =
        (test.unit === "fps" || test.unit === "ms") &&
        Math.abs(Math.log((value * expected) / 1000)) < within &&
        Math.abs(Math.log(value / expected)) > Math.log(4);
      if (!slip && !inverse) continue;
      return {
        id: findingId("unit slip", [run.id]),
        check: "unit slip",
        checkVersion: 1,
        setupId: cell.setupId,
        testKey: test.key,
        runId: run.id,
        sentence: slip
          ? `Run ${run.number} reads ${Number(value.toPrecision(4))} ${test.unit}, about ${slip.words} against its neighbours (${Number(expected.toPrecision(4))}).`
          : `Run ${run.number} reads ${Number(value.toPrecision(4))} ${test.unit} where its neighbours read ${Number(expected.toPrecision(4))}: frames per second where milliseconds belong, or the other way.`,
        advice: "Correct the unit of the column or of the typed value; discard this run and take it in again.",
        runIds: [run.id],
        numbers: { value, expected },
        evidence: cellEvidence(cell),
      };
    }
  }
  return undefined;
}

/** A synthetic that differs from earlier results of the same parts, beyond noise and by more than the least. */
export function checkSanity(
  one: CheckedCell,
  earlier: readonly { setupId: string; runs: readonly RunSummary[]; values: readonly number[] }[],
): Finding | undefined {
  const { cell, test, yardstick, thresholds } = one;
  if (test.group !== "synthetic" || !yardstick || yardstick.s2 <= 0 || cell.values.length === 0) return undefined;
  for (const past of earlier) {
    if (past.values.length === 0) continue;
    const off = orientation(test.better) * (Math.log(mean(cell.values)) - Math.log(mean(past.values)));
    const t = Math.abs(off) / Math.sqrt(yardstick.s2 * (1 / cell.values.length + 1 / past.values.length));
    const limit = studentTCritical(thresholds.sanityAlpha / 2, yardstick.df);
    if (t <= limit || Math.abs(Math.expm1(off)) <= thresholds.sanityLeastOff) continue;
    return {
      id: findingId("sanity", [cell.setupId, test.key]),
      check: "sanity",
      checkVersion: 1,
      setupId: cell.setupId,
      testKey: test.key,
      runId: null,
      sentence: `${test.name} is ${percent(Math.abs(Math.expm1(off)))} ${off < 0 ? "worse" : "better"} than the same parts gave before (${past.setupId}).`,
      advice: "Something of this setup does not behave as it should: look at clocks, memory profile and cooling before its other results are believed.",
      runIds: cell.valid.map(({ run }) => run.id),
      numbers: { off_ratio: Math.expm1(off), t, t_limit: limit },
      evidence: `${cellEvidence(cell)}|${past.runs.map(({ id }) => id).join(";")}`,
    };
  }
  return undefined;
}
