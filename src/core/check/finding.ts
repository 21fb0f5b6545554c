import { z } from "zod";
import type { RunSummary } from "@/core/cell";

/** The checks, by the product's names. */
export const CHECKS = [
  "too few runs",
  "scatter",
  "outlier run",
  "glitch",
  "frame cap",
  "resolution inversion",
  "wrong cell",
  "throttling",
  "video memory full",
  "unit slip",
  "duplicate",
  "drift",
  "stale",
  "not comparable",
  "too good",
  "sanity",
  "ambient",
] as const;
export type CheckName = (typeof CHECKS)[number];

/** Something the checks doubt, with the evidence that a person needs to decide. */
export interface Finding {
  /** Made from check and subject, so that the same doubt keeps its identity (and its decision) from check to check. */
  id: string;
  check: CheckName;
  checkVersion: number;
  setupId: string;
  /** Empty where the doubt is of the whole row. */
  testKey: string;
  /** The one run doubted, or null where the whole cell is. */
  runId: string | null;
  /** What is doubted and why, in one sentence with its numbers. */
  sentence: string;
  /** What to do about it. */
  advice: string;
  /** Runs to look at, doubted ones first. */
  runIds: string[];
  /** The cell that the doubted run or cell seems to belong to, where another fits far better. */
  fits?: { setupId: string; testKey: string };
  /** The numbers behind the sentence, by name with unit. */
  numbers: Record<string, number>;
  /** Changes when the runs behind the doubt change; a decision holds only as long as it stays the same. */
  evidence: string;
}

const share = z.number().gt(0).lt(1);

/** Thresholds a lab may set, each shown with its rule. Ratios, °C, days and times over as their names say. */
export const CheckThresholds = z.object({
  scatterAlpha: share.default(0.001),
  outlierAlpha: share.default(0.002),
  outlierLeastOff: share.default(0.02),
  glitchAlpha: share.default(0.0005),
  glitchLeastOff: share.default(0.12),
  inversionAlpha: share.default(0.0005),
  capShareWithin1Percent: share.default(0.15),
  capShareFaster: share.default(0.01),
  wrongCellLeastOff: share.default(0.05),
  wrongCellTimesCloser: z.number().min(2).max(100).default(4),
  throttlingClockRatio: share.default(0.97),
  memoryShare: share.default(0.95),
  memoryLowCollapse: share.default(0.75),
  unitSlipWithin: share.default(0.35),
  driftAlpha: share.default(0.002),
  staleOfferDays: z.number().min(1).max(365).default(14),
  tooGoodMargin: share.default(0.1),
  sanityAlpha: share.default(0.0005),
  sanityLeastOff: share.default(0.03),
  ambientSpreadC: z.number().gt(0).max(20).default(2),
});
export type CheckThresholds = z.infer<typeof CheckThresholds>;

/** Chosen so that all checks together raise fewer than 5 false alarms per 1,000 clean cells (measured, see docs/checks.md). */
export const DEFAULT_THRESHOLDS: CheckThresholds = CheckThresholds.parse({});

/** What a check doubts, in words, with the thresholds it reads. */
export interface CheckRule {
  check: CheckName;
  rule: string;
  thresholds: { key: keyof CheckThresholds; label: string; unit: "α" | "%" | "×" | "°C" | "days" }[];
}

const alpha = (key: keyof CheckThresholds) => ({ key, label: "level", unit: "α" as const });
const percentOf = (key: keyof CheckThresholds, label: string) => ({ key, label, unit: "%" as const });

/** The rules of all checks, in the product's order. */
export const CHECK_RULES: readonly CheckRule[] = [
  { check: "too few runs", rule: "Fewer valid runs than the suite asks for.", thresholds: [] },
  { check: "scatter", rule: "The spread of a cell's runs is beyond F at α against the usual spread of its test.", thresholds: [alpha("scatterAlpha")] },
  {
    check: "outlier run",
    rule: "One run lies beyond t at α ÷ n from the mean of the others, and further off than the least; the usual spread is taken without this cell.",
    thresholds: [alpha("outlierAlpha"), percentOf("outlierLeastOff", "least off")],
  },
  {
    check: "glitch",
    rule: "The 1 % low of a run fails the outlier test while its average passes it.",
    thresholds: [alpha("glitchAlpha"), percentOf("glitchLeastOff", "least off")],
  },
  {
    check: "frame cap",
    rule: "A share of frames within ± 1 % of one interval that free frames do not reach, and almost none faster; half of that where another cell of the workload is held at the same rate.",
    thresholds: [percentOf("capShareWithin1Percent", "share within ± 1 %"), percentOf("capShareFaster", "share faster, at most")],
  },
  {
    check: "resolution inversion",
    rule: "More pixels run faster than fewer, beyond noise.",
    thresholds: [alpha("inversionAlpha"), percentOf("outlierLeastOff", "least off")],
  },
  {
    check: "wrong cell",
    rule: "A run or cell fits a neighbouring cell (other resolution, other setup) far better than its own.",
    thresholds: [percentOf("wrongCellLeastOff", "least off"), { key: "wrongCellTimesCloser", label: "times closer", unit: "×" }],
  },
  {
    check: "throttling",
    rule: "The clock stays below this share of its earlier median for 2 s or more, within 1 K of the hottest reading.",
    thresholds: [percentOf("throttlingClockRatio", "of the median")],
  },
  {
    check: "video memory full",
    rule: "Use reaches this share of the capacity, and the low falls to this share of what it is on other setups, beside the average.",
    thresholds: [percentOf("memoryShare", "in use"), percentOf("memoryLowCollapse", "of the usual low")],
  },
  {
    check: "unit slip",
    rule: "A value a factor of 1,000 or 60 from its neighbours, or frames per second where milliseconds belong.",
    thresholds: [percentOf("unitSlipWithin", "within")],
  },
  { check: "duplicate", rule: "Two runs with the same trace, frame for frame.", thresholds: [] },
  { check: "drift", rule: "The baseline's first and last runs differ beyond noise, over all tests that were repeated.", thresholds: [alpha("driftAlpha")] },
  {
    check: "stale",
    rule: "An older driver, firmware or build than other rows of the chart, or a price older than this.",
    thresholds: [{ key: "staleOfferDays", label: "price older than", unit: "days" }],
  },
  { check: "not comparable", rule: "Rows differ in what was to be held constant, and nobody declared it.", thresholds: [] },
  {
    check: "too good",
    rule: "A measured uplift beyond what clocks, units and bandwidth allow on paper.",
    thresholds: [percentOf("tooGoodMargin", "beyond paper by")],
  },
  {
    check: "sanity",
    rule: "A synthetic differs from earlier results of the same part.",
    thresholds: [alpha("sanityAlpha"), percentOf("sanityLeastOff", "least off")],
  },
  {
    check: "ambient",
    rule: "The room moved by more than this within a comparison of temperatures.",
    thresholds: [{ key: "ambientSpreadC", label: "more than", unit: "°C" }],
  },
];

/** A subject in one string, as the exchange format has it: `run:<id>`, `cell:<setup>/<test>@<version>` or `setup:<id>`. */
export function subjectOf(finding: Pick<Finding, "runId" | "setupId" | "testKey">): string {
  if (finding.runId) return `run:${finding.runId}`;
  return finding.testKey === "" ? `setup:${finding.setupId}` : `cell:${finding.setupId}/${finding.testKey}`;
}

/** The id of a finding: the check and the subject as a slug. */
export function findingId(check: CheckName, parts: readonly string[]): string {
  return [check.replaceAll(" ", "-"), ...parts].join(".").replaceAll("@", "-v").toLowerCase();
}

/** The state of runs that a decision rests on: ids, statuses and values, in a fixed order. */
export function evidenceOf(runs: readonly RunSummary[], valueOf: (run: RunSummary) => number | undefined): string {
  return [...runs]
    .sort((a, b) => (a.id < b.id ? -1 : 1))
    .map((run) => `${run.id}=${run.status}:${valueOf(run) ?? "unknown"}`)
    .join(";");
}

export const percent = (ratio: number, digits = 1) => `${(100 * ratio).toFixed(digits)} %`;
export const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "s"}`;
