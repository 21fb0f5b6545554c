export { chartModel, chartsOf } from "./charts";
export { type ClaimCheck, Computation, checkClaim, type SuggestedClaim, suggestClaims } from "./claims";
export {
  commonPowerAt,
  gapsOf,
  matrixOf,
  meanPowerW,
  middleResolution,
  type ReviewGaps,
  type ReviewLine,
  type ReviewValue,
  rankReview,
  resolutionsOf,
  type SetupPrice,
  setupPrice,
  setupsWithRuns,
  type ValueLine,
  valueOfReview,
} from "./comparison";
export { columnDecimals, decimalsFor, figure, percentDifference, signedPercent } from "./figures";
export { doubtedRuns, type FindingEffect, findingEffects } from "./findingEffect";
export type { AskModel, BenchesModel, DeskModel, HostLine, SheetModel, SuiteLine, SuitesModel, TestLine } from "./labModels";
export type { DeclaredDifference, HeldModel, PartLine, ReviewClaim, ReviewFinding, ReviewModel, ReviewSetup, ReviewTest, RunRecord } from "./reviewModel";
export { buildSnapshot, migrateSnapshot, type RankingSnapshot, SNAPSHOT_VERSION, Snapshot, type ValueSnapshot } from "./snapshot";
