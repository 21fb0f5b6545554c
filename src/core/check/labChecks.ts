import { type HeldDifference, propertyName } from "@/core/bench";
import type { RunSummary } from "@/core/cell";
import { mean, studentTCritical } from "@/core/stats";
import type { CheckedCell } from "./cellChecks";
import { type CheckThresholds, evidenceOf, type Finding, findingId, percent, plural } from "./finding";
import type { CheckedCells } from "./neighbourChecks";

/** What the checks know of a row beside its runs. */
export interface CheckedSetup {
  id: string;
  label: string;
  benchId: string;
  benchRevision: number;
  /** Driver, firmware, build … of its bench revision, and what its own state overrides. */
  state: Record<string, string>;
  /** The parts under test, sorted. */
  partIds: string[];
  /** Facts of the part under test that say what it can do on paper; null where not known. */
  paper: { kind: string; architecture: string | null; clockGhz: number | null; units: number | null; bandwidthGbs: number | null } | null;
  vramGib: number | null;
  /** The newest street price of its parts in each region. */
  newestOffers: { partId: string; region: string; seenOn: string }[];
}

const ofSetup = (setupId: string) => ({ checkVersion: 1, setupId, testKey: "", runId: null, runIds: [] as string[] });

/** Runs with the same trace, frame for frame: one of them was copied. */
export function checkDuplicates(runs: readonly RunSummary[], inReview: ReadonlySet<string>): Finding[] {
  const byContent = new Map<string, RunSummary[]>();
  for (const run of runs) if (run.content && run.status === "valid") byContent.set(run.content, [...(byContent.get(run.content) ?? []), run]);
  return [...byContent.values()].flatMap((same) => {
    if (same.length < 2) return [];
    const ordered = [...same].sort((a, b) => (a.startedAt ?? "~").localeCompare(b.startedAt ?? "~") || (a.id < b.id ? -1 : 1));
    const [first, ...copies] = ordered as [RunSummary, ...RunSummary[]];
    return copies
      .filter(({ setupId, testKey }) => inReview.has(`${setupId}/${testKey}`))
      .map(
        (copy): Finding => ({
          id: findingId("duplicate", [copy.id]),
          check: "duplicate",
          checkVersion: 1,
          setupId: copy.setupId,
          testKey: copy.testKey,
          runId: copy.id,
          sentence: `Run ${copy.number} has the same trace, frame for frame, as ${first.setupId === copy.setupId && first.testKey === copy.testKey ? `run ${first.number} of this cell` : first.id}: one of them was copied.`,
          advice: "Find out which is the original; discard the other and run it again.",
          runIds: [copy.id, first.id],
          numbers: { same_runs: same.length },
          evidence: ordered.map(({ id }) => id).join(";"),
        }),
      );
  });
}

/** A setup repeated first and last: whether it became faster or slower in between, over all tests that were repeated. */
export function checkDrift(cells: readonly CheckedCell[], thresholds: CheckThresholds): Finding | undefined {
  const pairs = cells.flatMap((one) => {
    const of = (block: string) => one.cell.valid.filter(({ run }) => run.block === block);
    const [first, last] = [of("first"), of("last")];
    const s2 = one.yardstick?.s2;
    if (first.length === 0 || last.length === 0 || !s2) return [];
    const off = Math.log(mean(last.map(({ value }) => value))) - Math.log(mean(first.map(({ value }) => value)));
    const turned = one.test.better === "lower" ? -off : off;
    return [
      { one, off: turned, variance: s2 * (1 / first.length + 1 / last.length), df: one.yardstick?.df ?? 1, runs: [...last, ...first].map(({ run }) => run) },
    ];
  });
  const [any] = pairs;
  if (!any) return undefined;
  // Weighted by how well each test repeats.
  const weight = pairs.reduce((sum, { variance }) => sum + 1 / variance, 0);
  const drift = pairs.reduce((sum, { off, variance }) => sum + off / variance, 0) / weight;
  const t = Math.abs(drift) * Math.sqrt(weight);
  const limit = studentTCritical(thresholds.driftAlpha / 2, Math.min(...pairs.map(({ df }) => df)));
  if (t <= limit) return undefined;
  const runs = pairs.flatMap((pair) => pair.runs);
  return {
    id: findingId("drift", [any.one.cell.setupId]),
    check: "drift",
    ...ofSetup(any.one.cell.setupId),
    sentence: `Between its first and its last runs this setup became ${percent(Math.abs(Math.expm1(drift)))} ${drift < 0 ? "slower" : "faster"} over ${plural(pairs.length, "repeated test")}; what was run in between may have moved with it.`,
    advice: "Find what changed (warmth, updates, background tasks); run what lies between again, or say how large the drift is.",
    runIds: runs.map(({ id }) => id),
    numbers: { drift_ratio: Math.expm1(drift), t, t_limit: limit },
    evidence: evidenceOf(runs, (run) => run.frames?.averageFps ?? run.result ?? undefined),
  };
}

const AGEING = ["gpu_driver", "chipset_driver", "firmware", "os_build"] as const;

/** Rows run on an older revision of the same bench than their neighbours, where what ages differs: a forgotten update. */
export function checkStaleBenches(setups: readonly CheckedSetup[]): Finding[] {
  return setups.flatMap((setup) => {
    const newer = setups
      .filter((other) => other.benchId === setup.benchId && other.benchRevision > setup.benchRevision)
      .sort((a, b) => b.benchRevision - a.benchRevision)[0];
    if (!newer) return [];
    const older = AGEING.filter((key) => setup.state[key] !== undefined && newer.state[key] !== undefined && setup.state[key] !== newer.state[key]);
    if (older.length === 0) return [];
    return [
      {
        id: findingId("stale", [setup.id, "bench"]),
        check: "stale" as const,
        ...ofSetup(setup.id),
        sentence: `${older.map((key) => `${propertyName(key)} ${setup.state[key]}`).join(", ")} here; ${newer.label} has ${older.map((key) => newer.state[key]).join(", ")}.`,
        advice: "Update and run this row again, or declare the difference on the Bench step.",
        numbers: { revision: setup.benchRevision, newest_revision: newer.benchRevision },
        evidence: older.map((key) => `${key}:${setup.state[key]}/${newer.state[key]}`).join(";"),
      },
    ];
  });
}

/** Rows measured under an older version of a test that others have in a newer one. */
export function checkStaleTests(
  setups: readonly CheckedSetup[],
  newestVersions: ReadonlyMap<string, { key: string; newer: string; name: string }>,
  cells: CheckedCells,
): Finding[] {
  return [...newestVersions.values()].flatMap(({ key, newer, name }) =>
    setups.flatMap((setup): Finding[] => {
      const cell = cells.get(setup.id)?.get(key);
      if (!cell || cell.cell.values.length === 0) return [];
      return [
        {
          id: findingId("stale", [setup.id, key]),
          check: "stale",
          checkVersion: 1,
          setupId: setup.id,
          testKey: key,
          runId: null,
          sentence: `${name} has a newer definition (${newer}); this cell stands on the older one.`,
          advice: "Run it again under the new definition; the two are never mixed in one chart.",
          runIds: cell.cell.valid.map(({ run }) => run.id),
          numbers: {},
          evidence: newer,
        },
      ];
    }),
  );
}

const dayNumber = (isoDay: string) =>
  Math.floor(Date.UTC(Number(isoDay.slice(0, 4)), Number(isoDay.slice(5, 7)) - 1, Number(isoDay.slice(8, 10))) / 86_400_000);

/** Rows whose newest street price in a region is older than the threshold. */
export function checkStaleOffers(setups: readonly CheckedSetup[], today: string, thresholds: CheckThresholds): Finding[] {
  return setups.flatMap((setup) => {
    const old = setup.newestOffers.filter(({ seenOn }) => dayNumber(today) - dayNumber(seenOn) > thresholds.staleOfferDays);
    if (old.length === 0) return [];
    const oldest = Math.max(...old.map(({ seenOn }) => dayNumber(today) - dayNumber(seenOn)));
    return [
      {
        id: findingId("stale", [setup.id, "price"]),
        check: "stale" as const,
        ...ofSetup(setup.id),
        sentence: `The newest street price is ${oldest} days old in ${old.map(({ region }) => region).join(", ")}.`,
        advice: "Look the price up again on the Value step, or accept it and say from when it is.",
        numbers: { oldest_days: oldest },
        evidence: old.map(({ partId, region, seenOn }) => `${partId}/${region}/${seenOn}`).join(";"),
      },
    ];
  });
}

/** Rows that differ in what was to be held constant, where nobody declared it. */
export function checkComparable(differences: readonly (HeldDifference & { declared: unknown })[], setupIds: readonly string[]): Finding[] {
  return differences.flatMap(({ property, values, declared }) => {
    if (declared) return [];
    // The smallest group is the odd one out.
    const [odd] = [...values].sort((a, b) => a.setupIds.length - b.setupIds.length);
    const setupId = odd?.setupIds.find((id) => setupIds.includes(id));
    if (!odd || !setupId) return [];
    return [
      {
        id: findingId("not comparable", [setupId, property.replace(/[^a-z0-9]+/gi, "-")]),
        check: "not comparable" as const,
        ...ofSetup(setupId),
        sentence: `${propertyName(property.replace("part:", ""))} was to be held constant and is not: ${values.map(({ value, setupIds: ids }) => `${value ?? "not said"} (${plural(ids.length, "row")})`).join(", ")}.`,
        advice: "Declare the difference on the Bench step, split the chart, or run the odd row again.",
        numbers: { values: values.length },
        evidence: values.map(({ value, setupIds: ids }) => `${value}:${ids.join(",")}`).join(";"),
      },
    ];
  });
}

/** What specifications allow a setup to be ahead of another: clocks × units, or bandwidth where that is more. Null where not known. */
export function paperUplift(a: CheckedSetup["paper"], b: CheckedSetup["paper"]): number | null {
  if (!a || !b || a.kind !== b.kind || a.architecture === null || a.architecture !== b.architecture) return null;
  if (a.clockGhz === null || b.clockGhz === null || a.units === null || b.units === null) return null;
  const compute = (a.clockGhz * a.units) / (b.clockGhz * b.units);
  return a.bandwidthGbs !== null && b.bandwidthGbs !== null ? Math.max(compute, a.bandwidthGbs / b.bandwidthGbs) : compute;
}

/** Cells that are further ahead of another row of the same architecture than clocks, units and bandwidth allow. */
export function checkTooGood(setups: readonly CheckedSetup[], cells: CheckedCells, thresholds: CheckThresholds): Finding[] {
  return setups.flatMap((setup) => {
    const rivals = setups.flatMap((other) => {
      // The same parts in another state (one memory stick, a lower clock) differ by what no sheet says.
      const same = setup.partIds.join() === other.partIds.join();
      const allowed = other === setup || same ? null : paperUplift(setup.paper, other.paper);
      // Where another component is the limit, a weaker row comes level: that alone is no doubt.
      return allowed === null ? [] : [{ other, allowed: Math.max(1, allowed) }];
    });
    const worst = new Map<string, Finding & { beyond: number }>();
    for (const [testKey, one] of cells.get(setup.id) ?? []) {
      for (const { other, allowed } of rivals) {
        const theirs = cells.get(other.id)?.get(testKey);
        if (!theirs || theirs.cell.values.length === 0 || one.cell.values.length === 0 || !one.yardstick) continue;
        const raw = mean(one.cell.values) / mean(theirs.cell.values);
        const measured = one.test.better === "lower" ? 1 / raw : raw;
        const se = Math.sqrt(one.yardstick.s2 * (1 / one.cell.values.length + 1 / theirs.cell.values.length));
        // Memory that is full slows the other row: what it lacks is not on this row's paper.
        const beyond = Math.log(measured) - 2 * se - Math.log(allowed);
        if (beyond <= Math.log1p(thresholds.tooGoodMargin) || (worst.get(testKey)?.beyond ?? 0) >= beyond) continue;
        worst.set(testKey, {
          beyond,
          id: findingId("too good", [setup.id, testKey]),
          check: "too good",
          checkVersion: 1,
          setupId: setup.id,
          testKey,
          runId: null,
          sentence: `${percent(measured - 1)} ahead of ${other.label}, where clocks, units and bandwidth allow ${percent(allowed - 1)} on paper.`,
          advice: "Look for other settings, a wrong cell or a limit of the slower row; run again, or explain it.",
          runIds: one.cell.valid.map(({ run }) => run.id),
          numbers: { measured_ratio: measured, allowed_ratio: allowed },
          evidence: `${one.cell.values.join(",")}|${theirs.cell.values.join(",")}`,
        });
      }
    }
    return [...worst.values()].map(({ beyond: _, ...finding }) => finding);
  });
}
