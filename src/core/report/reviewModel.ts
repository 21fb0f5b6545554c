import type { FitAnswer, HeldDifference, LowSchool, PartKind, SetupRole } from "@/core/bench";
import type { FrameStatistics } from "@/core/capture";
import type { LabTest, RunSummary } from "@/core/cell";
import type { CheckThresholds, JudgedLimit } from "@/core/check";
import type { Offer, PriceRule, Region } from "@/core/value";

/** A setup as a row of a review. */
export interface ReviewSetup {
  id: string;
  label: string;
  role: SetupRole | null;
  position: number;
  benchId: string;
  benchRevision: number;
  /** The parts under test: what a buyer would pay for. */
  partIds: string[];
  maker: string | null;
  /** Kinds of the parts under test. */
  kinds: PartKind[];
  /** Processor and card that it runs with, whether under test or the bench's own; null where there is none. */
  cpuId: string | null;
  gpuId: string | null;
  /** Everything that tells it from another setup: parts by role, bench state, its own state. */
  properties: Record<string, string>;
  releasedOn: string | null;
  /** What no test measures, as dated facts of the parts under test. */
  facts: { key: string; value: string; unit: string | null }[];
}

/** A test of the review's suite. */
export interface ReviewTest extends LabTest {
  runsWanted: number;
  position: number;
}

/** A finding as it stands. */
export interface ReviewFinding {
  id: string;
  check: string;
  subject: string;
  setupId: string;
  /** Empty where the doubt is of the whole row. */
  testKey: string;
  runId: string | null;
  /** The cell that the doubted run or cell fits far better. */
  fits?: { setupId: string; testKey: string };
  state: "open" | "accepted" | "dismissed";
  reason: string | null;
  who: string | null;
  at: string | null;
  sentence: string;
  advice: string;
  runIds: string[];
  numbers: Record<string, number>;
  /** False once the checks no longer raise it. */
  raised: boolean;
  rowVersion: number;
}

/** A sentence of the verdict, tied to the computation that makes it true. */
export interface ReviewClaim {
  id: string;
  sentence: string;
  computation: string;
  holds: boolean | null;
  rowVersion: number;
}

/** What was made of a difference. */
export interface DeclaredDifference {
  property: string;
  decision: "declared" | "split";
  why: string;
  who: string;
  at: string;
}

/** The Bench step of a review: what its rows stand on, what differs, what was made of it, and whether each setup goes together. */
export interface HeldModel {
  differences: (HeldDifference & { declared: DeclaredDifference | null })[];
  setups: { id: string; benchId: string; benchRevision: number; benchName: string; newestRevision: number; state: string; fit: FitAnswer[] }[];
  common: { property: string; value: string }[];
}

/** A review with all that its steps show and compute from; plain data. */
export interface ReviewModel {
  id: string;
  title: string;
  question: string | null;
  questionKind: string | null;
  baselineId: string;
  margin: number;
  lowSchool: LowSchool;
  priceRule: PriceRule;
  embargoUntil: string | null;
  today: string;
  setups: ReviewSetup[];
  tests: ReviewTest[];
  /** All runs of the lab on these tests: those of other setups carry the repeatability. */
  runs: RunSummary[];
  findings: ReviewFinding[];
  /** What limited each cell that has frames, of every setup of the lab on these tests. */
  limits: JudgedLimit[];
  /** Every setup of the lab that has runs on these tests, with the processor and card it runs with. */
  labSetups: { id: string; label: string; cpuId: string | null; gpuId: string | null }[];
  /** Names of the parts that `labSetups` and setups name. */
  partNames: Record<string, string>;
  /** The lab's thresholds of the checks. */
  thresholds: CheckThresholds;
  claims: ReviewClaim[];
  regions: Region[];
  offers: Offer[];
  bench: { name: string; revision: number; state: { key: string; value: string }[]; parts: { role: string; name: string }[] }[];
  reports: { slug: string; version: number; publishedAt: string }[];
  held: HeldModel;
  suiteId: string | null;
  constants: string[];
  plan: { number: number; started: boolean } | null;
  /** Bench time that the open runs of each row still take, without swaps. */
  workLeft: { setupId: string; seconds: number; sd: number }[];
}

/** What is recorded of one run beside its statistics. */
export interface RunRecord {
  id: string;
  rowVersion: number;
  setupLabel: string;
  sessionId: string | null;
  startedAt: string | null;
  ambientC: number | null;
  note: string | null;
  statistics: FrameStatistics | null;
  /** Values typed or recorded beside the logs: time, size, memory, watts … */
  values: { metric: string; value: number; unit: string; at: string | null }[];
  /** Stretches left out of its statistics, those taken back too. */
  trims: { fromS: number; toS: number; reason: string; who: string | null; at: string | null; undone: boolean }[];
  /** Who did what to this run, and when; oldest first. */
  history: { who: string; action: string; at: string; reason: string | null }[];
  channels: { log: string; channel: string; unit: string; count: number; sha256: string }[];
}

/** A part with its facts and all its prices. */
export interface PartLine {
  id: string;
  kind: PartKind;
  name: string;
  maker: string | null;
  releasedOn: string | null;
  facts: { key: string; value: string; unit: string | null }[];
  offers: Offer[];
}
