export {
  BENCH_STATE_NAMES,
  type BenchChange,
  type BenchPart,
  type BenchRevision,
  benchProperties,
  compareRevisions,
  type HeldDifference,
  type HeldRow,
  heldDifferences,
  propertyName,
} from "./benchRevision";
export { type FitAnswer, type FitPart, type FitVerdict, HEADROOM_RULE, judgeFit, overallFit } from "./judgeFit";
export { pixelsOf, resolutionLabel, testKey } from "./resolution";
export {
  Better,
  CacheState,
  FindingState,
  LoadedComponent,
  LowSchool,
  OfferCondition,
  OfferKind,
  PartKind,
  PowerAt,
  RebateKind,
  Resolution,
  RunStatus,
  SetupRole,
  Slug,
  TestKind,
} from "./schema";
export { definitionGaps, expandTests, TestDefinition, type TestVariants } from "./testDefinition";
