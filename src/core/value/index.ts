export { type ValueInput, type ValueRow, valueRows } from "./costPerFrame";
export {
  type EffectivePrice,
  effectivePrice,
  type Offer,
  type PriceProblem,
  type PriceRule,
  priceOf,
  priceProblemText,
  type Region,
  STALE_PRICE_DAYS,
} from "./offers";
