export {
  buildMatrix,
  equalWorkloadWeights,
  geometricMeanOfRow,
  INDEX_METHOD_VERSION,
  type IndexRow,
  type Matrix,
  type Ranking,
  rankByIndex,
  ratioOf,
} from "./rankByIndex";
