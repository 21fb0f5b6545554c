// The parts of jstat that the tests hold the project's own statistics against; the package brings no types.
declare module "jstat" {
  interface Distribution {
    cdf(x: number, ...parameters: number[]): number;
    inv(p: number, ...parameters: number[]): number;
  }
  interface JStat {
    studentt: Distribution;
    centralF: Distribution;
    beta: Distribution;
    quantiles(values: readonly number[], shares: readonly number[], alphap: number, betap: number): number[];
    geomean(values: readonly number[]): number;
    gammaln(x: number): number;
  }
  const jstat: JStat;
  export default jstat;
}
