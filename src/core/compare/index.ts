export { type Aggregate, compileIndex, type IndexTable, testWeights, type WeighedRow, weighIndex } from "./indexTable";
export { EXACT_TO, influenceOfWorkloads, type SmallestSubset, smallestSubset, type WorkloadInfluence } from "./influence";
export { DEFAULT_LADDER_RULE, type JudgedRung, judgeLadder, type LadderRule, type Rung } from "./ladder";
export { buildMatrix, type Matrix } from "./matrix";
export { amdahl, compareWithPaper, karpFlatt, type PaperComparison, type PaperPart } from "./onPaper";
export { arithmeticMeans, type Ordering, type RankSpread, rankSpreads, ranksOf } from "./orderings";
export {
  cpusForGpu,
  type EnoughCpu,
  fitPairs,
  type MeasuredPair,
  type PairModel,
  type PairPrediction,
  predictPair,
  softMinimum,
} from "./predictPairs";
export {
  geometricMeanOfRow,
  INDEX_METHOD_VERSION,
  type IndexRow,
  type Ranking,
  type RankingRequest,
  rankByIndex,
  ratioOf,
  ratiosToBaseline,
  sharedTests,
} from "./rankByIndex";
export { compareTimes, type SizedTime, sizeForTime, type TimedComparison, timeText } from "./timedWork";
export { type FitProblem, type FittedRow, fitTwoWay, type KnownCell, MOST_MISSING, type TwoWayFit } from "./twoWayFit";
export { type ChoiceInterval, choiceOfWorkloads, expandedTail, workloadMeans } from "./workloadChoice";
