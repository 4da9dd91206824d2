/** The part of jStat that the checks use; the package ships no types. */
declare module 'jstat' {
  const jstat: {
    jStat: {
      beta: { inv(p: number, a: number, b: number): number; mean(a: number, b: number): number };
      studentt: { inv(p: number, df: number): number };
      binomial: { pdf(k: number, n: number, p: number): number };
    };
  };
  export default jstat;
}
