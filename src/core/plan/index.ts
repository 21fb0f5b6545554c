export {
  inPriceBand,
  type KnownSetup,
  type KnownSuite,
  ofEqualSpeed,
  type Proposal,
  type ProposedSetup,
  proposeReview,
  QUESTIONS,
  QuestionKind,
} from "./askReview";
export type { Caution } from "./cautions";
export { type PlanNames, toICalendar, toPlanCsv } from "./exportPlan";
export { afterOpenSeconds, DAYS_AHEAD, LabHours, type OpenStretch, openSeconds, openStretches } from "./labHours";
export { type IndexUncertainty, type LabHistory, type LeaveOut, proposeLeaveOuts } from "./leaveOut";
export {
  finishSearch,
  lowerBound,
  type OrderBench,
  type OrderFound,
  type OrderProblem,
  orderOnBenches,
  type SearchProgress,
} from "./orderOnBenches";
export { PlanChoices, type PlanModel, planInputOf, revivePlan, StoredPlan, timesOf } from "./planModel";
export {
  NO_CUTS,
  type OrderPolicy,
  type Plan,
  type PlanBench,
  type PlanBlock,
  type PlanCuts,
  type PlanInput,
  type PlanSetup,
  type PlanTest,
  planReview,
} from "./planReview";
export {
  actualTimes,
  benchSeconds,
  foldSheet,
  haveCooled,
  mayMove,
  type Sheet,
  type SheetCheck,
  type SheetEvent,
  type SheetProblem,
  type SheetStep,
  type StepState,
  sheetSteps,
  timeLeft,
  timerSeconds,
} from "./runSheet";
export { type Schedule, type ScheduledItem, schedulePlan } from "./schedulePlan";
export {
  type Activity,
  ASSUMED_TIMES,
  type ChangeTask,
  type FittedSetup,
  sumTimes,
  type TimeEstimate,
  type TimeModel,
  type TimeObservation,
} from "./timeModel";
export { workLeft } from "./workLeft";
