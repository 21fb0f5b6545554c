export {
  type DrawnSeries,
  type FrameDistribution,
  frameDistribution,
  frameStartsS,
  framesBetween,
  matchingShiftS,
  percentileCurve,
  thinSeries,
} from "./drawnSeries";
export { countFrames, type FrameHistogram } from "./frameHistogram";
export { FRAME_METHOD_VERSION, type FrameStatistics, findStutters, frameStatistics, type Lows } from "./frameStatistics";
export { InstrumentList, InstrumentMessage, InstrumentReadings, joinRecording, type Recording } from "./instrumentMessage";
export { type FramePacing, measurePacing } from "./measurePacing";
export { parseFrameLog, parseSensorLog, type SensorLog } from "./parseFrameLog";
export { type NumericTable, type NumericTableProblem, parseNumericTable } from "./parseNumericTable";
export { RunFacts, runFacts } from "./runFacts";
export { decodeTrace, type EncodedTrace, encodeTrace, type TraceCodec } from "./traceCodec";
export { keptStretches, type Trim, withoutTrims } from "./trims";
