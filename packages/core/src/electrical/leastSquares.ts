/** One weighted equation: Σ row·x = right, with the standard deviation of its right side. */
export interface Equation {
  row: readonly number[];
  right: number;
  sd: number;
}

/**
 * Weighted linear least squares by the normal equations and Gauss–Jordan with pivoting: for the handful of unknowns of a
 * connector. `value` and `sd` per unknown; NaN for one that no equation determines.
 */
export function leastSquares(n: number, equations: readonly Equation[]): { value: number[]; sd: number[] } {
  // [AᵀWA | I | AᵀWb], reduced to [I | covariance | solution].
  const m = Array.from({ length: n }, (_, i) => {
    const row = Array<number>(2 * n + 1).fill(0);
    row[n + i] = 1;
    return row;
  });
  for (const { row, right, sd } of equations) {
    const w = 1 / (sd * sd);
    for (let i = 0; i < n; i++) {
      if (row[i] === 0) continue;
      for (let j = 0; j < n; j++) m[i]![j]! += w * row[i]! * row[j]!;
      m[i]![2 * n]! += w * row[i]! * right;
    }
  }
  const bad = new Set<number>();
  for (let c = 0; c < n; c++) {
    let p = c;
    for (let r = c + 1; r < n; r++) if (Math.abs(m[r]![c]!) > Math.abs(m[p]![c]!)) p = r;
    if (Math.abs(m[p]![c]!) < 1e-9) {
      bad.add(c);
      continue;
    }
    [m[c], m[p]] = [m[p]!, m[c]!];
    const pivot = m[c]![c]!;
    for (let k = 0; k <= 2 * n; k++) m[c]![k]! /= pivot;
    for (let r = 0; r < n; r++) {
      const f = m[r]![c]!;
      if (r === c || f === 0) continue;
      for (let k = 0; k <= 2 * n; k++) m[r]![k]! -= f * m[c]![k]!;
    }
  }
  return {
    value: m.map((row, i) => (bad.has(i) ? Number.NaN : row[2 * n]!)),
    sd: m.map((row, i) => (bad.has(i) ? Number.NaN : Math.sqrt(Math.max(0, row[n + i]!)))),
  };
}
