export {
  aggregateCell,
  type CellAggregate,
  type CellRatio,
  type ComparableCell,
  cellLogError,
  cellRatio,
  combineErrors,
  type LogError,
  orientation,
} from "./cellRatio";
export { type KeyedCellRuns, scatterFails, scatterLimit, type Yardstick, yardsticks } from "./checkedSpread";
export {
  type CellRuns,
  fitVariancePrior,
  logScatter,
  moderateVariance,
  poolRepeatability,
  type Repeatability,
  type VariancePrior,
} from "./repeatability";
export {
  betterOf,
  type Cell,
  cellKey,
  cellsOf,
  type FrameRates,
  type LabTest,
  type Metric,
  type MetricChoice,
  metricValue,
  type RunSummary,
} from "./runSummary";
export { type JudgedInterval, judgeInterval, runsToSettle, type Verdict } from "./verdict";
