export { chartModel, chartsOf } from "./charts";
export { type ClaimCheck, Computation, checkClaim, type SuggestedClaim, suggestClaims } from "./claims";
export {
  type ComparisonChoice,
  commonPowerAt,
  gapsOf,
  groupsOf,
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
  testsAsked,
  type ValueLine,
  valueOfReview,
} from "./comparison";
export {
  type DifferingProperty,
  type Duel,
  type DuelLine,
  differingProperties,
  duelOf,
  duelWords,
  foreignLimits,
  oneFactorPairs,
  partIsLimit,
  SCHOOL_WORDS,
} from "./duel";
export { columnDecimals, decimalsFor, figure, percentDifference, signedPercent } from "./figures";
export { doubtedRuns, type FindingEffect, findingEffects } from "./findingEffect";
export type { AskModel, BenchesModel, DeskModel, HostLine, SheetModel, SuiteLine, SuitesModel, TestLine } from "./labModels";
export {
  type ClimbedLadder,
  familyOf,
  laddersOf,
  type MoneyLine,
  measuredPairs,
  moneyAgainstSpeed,
  type PerClock,
  perClockOf,
  timedWorkOf,
  type Uplift,
  upliftsOf,
  type WorkLine,
} from "./machines";
export { type FailureCost, failureCosts, knownCells, orderingsOf, robustnessOf, sparseIndex } from "./orders";
export { type PackedRuns, packRuns, unpackRuns } from "./packedRuns";
export type { DeclaredDifference, HeldModel, PartLine, ReviewClaim, ReviewFinding, ReviewModel, ReviewSetup, ReviewTest, RunRecord } from "./reviewModel";
export { type ChartRow, type RowChart, rowChartSvg } from "./rowChartSvg";
export { buildSnapshot, migrateSnapshot, type RankingSnapshot, SNAPSHOT_VERSION, Snapshot, type ValueSnapshot } from "./snapshot";
