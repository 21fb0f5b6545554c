export { columnTypes, type Value } from "./columns";
export { Manifest } from "./manifest";
export { RESOURCES, type Resource, resourceNamed } from "./resources";
export {
  type ExchangeRow,
  type ExchangeRows,
  keyText,
  type LabHas,
  type PackageProblem,
  ProblemList,
  parseTable,
  type RawTable,
  validatePackage,
} from "./validatePackage";
export { writeFrameLog, writeManifest, writeSensorLog, writeTable } from "./writePackage";
