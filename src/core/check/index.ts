export { type CheckInput, checkCells } from "./checkCells";
export { CHECK_RULES, type CheckName, type CheckRule, CheckThresholds, DEFAULT_THRESHOLDS, type Finding, findingId, subjectOf } from "./finding";
export { type CapJudgement, judgeCap } from "./judgeCap";
export { type JudgedLimit, judgeLimits, type Limit, type LimitCell } from "./judgeLimits";
export { type CheckedSetup, paperUplift } from "./labChecks";
export { neighbouringResolutions } from "./neighbourChecks";
