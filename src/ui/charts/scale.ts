/** A linear scale with round ticks; positions are percentages of its width, so that marks scroll and resize with rows. */
export interface LinearScale {
  min: number;
  max: number;
  major: number[];
  minor: number[];
  /** Position in percent of the width. */
  at: (value: number) => number;
}

/** A scale over [low, high] with about `wanted` major ticks at 1, 2 or 5 times a power of ten, five minor ones between. */
export function linearScale(low: number, high: number, wanted = 8): LinearScale {
  const span = Math.max(high - low, Math.abs(high) * 1e-6, 1e-9);
  const rough = span / wanted;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = ([1, 2, 5, 10].find((factor) => factor * power >= rough) ?? 10) * power;
  const fine = step / 5;
  const min = Math.floor(low / fine) * fine;
  const max = Math.ceil(high / fine) * fine;
  const ticks = (by: number) => {
    const result: number[] = [];
    for (let i = Math.ceil(min / by - 1e-9); i * by <= max + by * 1e-9; i += 1) result.push(Number((i * by).toPrecision(12)));
    return result;
  };
  const major = ticks(step);
  return { min, max, major, minor: ticks(fine).filter((value) => !major.includes(value)), at: (value) => ((value - min) / (max - min)) * 100 };
}
