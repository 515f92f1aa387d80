/** What is used of jstat (MIT), which brings no types of its own. */
declare module 'jstat' {
  interface Distribution {
    pdf(x: number, ...parameters: number[]): number;
    cdf(x: number, ...parameters: number[]): number;
  }
  const jstat: {
    readonly beta: Distribution;
    readonly binomial: Pick<Distribution, 'cdf'>;
    readonly normal: Distribution;
    betaln(a: number, b: number): number;
  };
  export default jstat;
}
