import { DEMO_TESTS } from "#sim/summaries";
import { CARDS } from "#sim/world";
import type { RunSummary } from "@/core/cell";
import { type CheckInput, checkCells, DEFAULT_THRESHOLDS, type Finding } from "@/core/check";

/** The demo lab's cards as rows of which nothing but their runs is known. */
export const setupsOf = (ids: readonly string[]): CheckInput["setups"] =>
  ids.map((id) => ({ id, label: id, benchId: "alder", benchRevision: 1, state: {}, partIds: [id], paper: null, vramGib: null, newestOffers: [] }));

export const DEMO_SETUPS = CARDS.map(({ id }) => id);

/** All checks over runs of the demo lab, three of them wanted in each cell. */
export const checkDemoRuns = (runs: readonly RunSummary[], more: Partial<CheckInput> = {}): Finding[] =>
  checkCells({
    tests: DEMO_TESTS,
    setups: setupsOf(DEMO_SETUPS),
    otherSetups: [],
    runs,
    runsWanted: new Map(DEMO_TESTS.map(({ key }) => [key, 3])),
    differences: [],
    newerVersions: new Map(),
    today: "2026-11-20",
    thresholds: DEFAULT_THRESHOLDS,
    ...more,
  });
