import type { BenchRevision, FitAnswer, TestDefinition } from "@/core/bench";
import type { InstrumentList } from "@/core/capture";
import type { KnownSetup, KnownSuite, LabHours, SheetEvent, SheetStep } from "@/core/plan";
import type { FindingEffect } from "./findingEffect";

/** A test version with its definition and its place in the lab. */
export interface TestLine extends TestDefinition {
  key: string;
  version: number;
  newest: boolean;
  workloadName: string;
  group: string;
  dataSet: string | null;
  sha256: string | null;
  runs: number;
}

/** A suite with its tests in order and the reviews that use it. */
export interface SuiteLine {
  id: string;
  name: string;
  rowVersion: number;
  tests: { testKey: string; runs: number }[];
  reviews: { id: string; title: string }[];
}

export interface SuitesModel {
  tests: TestLine[];
  suites: SuiteLine[];
  workloads: { id: string; name: string; group: string; dataSet: string | null; sha256: string | null }[];
}

/** What a review can be started from: the lab's setups with price and index, its suites, benches and parts. */
export interface AskModel {
  setups: KnownSetup[];
  suites: KnownSuite[];
  benches: { id: string; revision: number; name: string }[];
  parts: { id: string; name: string; kind: string; maker: string | null }[];
  region: { code: string; currency: string } | null;
  reviewIds: string[];
}

/** A run sheet with everything that its screen folds and shows. */
export interface SheetModel {
  review: { id: string; title: string; deadlineMs: number | null };
  bench: { id: string; revision: number; name: string; state: { key: string; value: string }[] };
  planNumber: number;
  plannedSeconds: number;
  startAtMs: number;
  steps: SheetStep[];
  events: SheetEvent[];
  hours: LabHours;
  /** The step whose recording runs on this server now. */
  recording: string | null;
}

/** The benches of the lab, every revision with whether its own parts go together. */
export interface BenchesModel {
  revisions: (BenchRevision & { fit: FitAnswer[] })[];
  twins: { benchId: string; revision: number; twinBenchId: string; twinRevision: number; declaredBy: string | null; why: string | null }[];
  parts: { id: string; name: string; kind: string }[];
}

/** A host of instruments with what it says of itself, or why it does not. */
export interface HostLine {
  address: string;
  name: string;
  list: InstrumentList | null;
  trouble: string | null;
}

/** The lab's open doubts, by review. */
export interface DeskModel {
  reviews: {
    id: string;
    title: string;
    doubts: { id: string; check: string; setup: string; test: string | null; sentence: string; effect: FindingEffect | null }[];
  }[];
}
