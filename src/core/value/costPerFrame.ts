/** One row of a value comparison; price and performance above 0, or undefined where not known. */
export interface ValueInput {
  id: string;
  /** Major units of one currency. */
  price: number | undefined;
  /** Frames per second, or index points. */
  performance: number | undefined;
}

/** What a row's money buys. Ratios are relative to the baseline; all are undefined where something is not known. */
export interface ValueRow {
  id: string;
  costPerFrame: number | undefined;
  framesPerCurrency: number | undefined;
  /** Frames per unit of currency against the baseline's: 1.12 is 12 % better value. */
  relativeValue: number | undefined;
  /** The price at which the row would be worth exactly what the baseline is. */
  breakEvenPrice: number | undefined;
  /** Extra price ÷ extra frames over the baseline; undefined where it gives no extra frames. */
  marginalCostPerFrame: number | undefined;
  /** Whether nothing costs no more and gives no less, one of them strictly. */
  onFrontier: boolean | undefined;
}

const known = (value: number | undefined): value is number => value !== undefined && value > 0 && Number.isFinite(value);

/**
 * Cost per frame, relative value, break-even price, marginal cost and frontier of several rows.
 *
 * Errors: an unknown or non-positive price or performance gives no value (undefined), never 0.
 * Source: common practice; frontier: Pareto dominance, ties stay.
 */
export function valueRows(inputs: readonly ValueInput[], baselineId: string): ValueRow[] {
  const base = inputs.find((input) => input.id === baselineId);
  const baseKnown = base && known(base.price) && known(base.performance) ? { price: base.price, performance: base.performance } : undefined;
  return inputs.map((input) => {
    const { price, performance } = input;
    const breakEvenPrice = baseKnown && known(performance) ? (baseKnown.price * performance) / baseKnown.performance : undefined;
    if (!known(price) || !known(performance)) {
      return {
        id: input.id,
        costPerFrame: undefined,
        framesPerCurrency: undefined,
        relativeValue: undefined,
        breakEvenPrice,
        marginalCostPerFrame: undefined,
        onFrontier: undefined,
      };
    }
    const dominated = inputs.some(
      (other) =>
        known(other.price) &&
        known(other.performance) &&
        other.price <= price &&
        other.performance >= performance &&
        (other.price < price || other.performance > performance),
    );
    const extra = baseKnown && performance !== baseKnown.performance ? performance - baseKnown.performance : undefined;
    return {
      id: input.id,
      costPerFrame: price / performance,
      framesPerCurrency: performance / price,
      relativeValue: baseKnown && performance / price / (baseKnown.performance / baseKnown.price),
      breakEvenPrice,
      marginalCostPerFrame: baseKnown && extra !== undefined ? (price - baseKnown.price) / extra : undefined,
      onFrontier: !dominated,
    };
  });
}
