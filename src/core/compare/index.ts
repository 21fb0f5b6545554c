export { type Aggregate, compileIndex, type IndexTable, testWeights, type WeighedRow, weighIndex } from "./indexTable";
export { buildMatrix, type Matrix } from "./matrix";
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
