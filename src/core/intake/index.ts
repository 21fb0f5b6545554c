export { ColumnUse, judgeUses, type LogKind, proposeUses, SENSOR_UNITS, type SensorUnit, storedChannel, type TimeUnit } from "./columnUses";
export type { IntakeModel, OpenIntake, PastIntake } from "./intakeModel";
export { type DetectedShape, detectShape, type LogProblem, LogShape, matchShape, shapeFingerprint } from "./logShape";
export {
  assignPaths,
  clashesOf,
  type LabNames,
  NO_MEANINGS,
  type PathAssignment,
  PathPattern,
  PIECES,
  type PieceName,
  proposePattern,
  resolutionOf,
} from "./pathPattern";
export { decodeParcel, encodeParcel, type RefusedFile, type RunParcel, RunPlace } from "./runParcel";
export { splitCells } from "./splitCells";
export { LogIntake, type TakenLog, takeInLog } from "./takeInLog";
export { type ParsedSlot, parseSlot, parseTypedValue, splitBlock, type TypedValue } from "./typedValue";
