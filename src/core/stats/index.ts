export { fCritical, fUpperTail, incompleteBeta, quickT95, studentTCritical, studentTUpperTail, t95 } from "./distributions";
export { digamma, inverseTrigamma, logGamma, trigamma } from "./gamma";
export { compensatedSum, geometricMean, mean, sampleSd, sumOfSquaredDeviations } from "./moments";
export { median, quantileSorted } from "./quantile";
