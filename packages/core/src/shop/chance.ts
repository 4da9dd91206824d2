/** ln n! for whole n ≥ 0, summed. */
function lnFactorial(n: number): number {
  let sum = 0;
  for (let i = 2; i <= n; i++) sum += Math.log(i);
  return sum;
}
const lnChoose = (n: number, k: number) => lnFactorial(n) - lnFactorial(k) - lnFactorial(n - k);

/** Chances as small as the one seen, and ties that rounding parts. */
const asSmall = (p: number, seen: number) => p <= seen * (1 + 1e-9);

/**
 * How often luck alone would part two groups as far as this or further, 0–1: Fisher's exact test, two-sided by the smaller
 * chances. Fisher 1935.
 *
 * @param a Of the first group those that did, of `n`; of the second `b` of `m`.
 */
export function luckOfTwo(a: number, n: number, b: number, m: number): number {
  const did = a + b;
  const p = (x: number) => Math.exp(lnChoose(n, x) + lnChoose(m, did - x) - lnChoose(n + m, did));
  const seen = p(a);
  let sum = 0;
  for (let x = Math.max(0, did - m); x <= Math.min(n, did); x++) if (asSmall(p(x), seen)) sum += p(x);
  return Math.min(1, sum);
}

/** How often luck alone would bring `k` of `n` where each has the chance `share`, or anything less likely, 0–1. Exact binomial test. */
export function luckOfOne(k: number, n: number, share: number): number {
  const p = (x: number) => Math.exp(lnChoose(n, x) + x * Math.log(share) + (n - x) * Math.log1p(-share));
  const seen = p(k);
  let sum = 0;
  for (let x = 0; x <= n; x++) if (asSmall(p(x), seen)) sum += p(x);
  return Math.min(1, sum);
}
