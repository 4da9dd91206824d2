import { DEFAULT_LIMITS, type TrimLimits } from './total.ts';

/** Total trims at one point, %, with the airflow in g/s where it is known. */
export interface TrimPoint {
  at: string;
  airflowGps: number;
  totals: { bank: 1 | 2; totalPct: number }[];
}

/** Lean, rich, or right. */
export type MixtureCall = 'lean' | 'rich' | 'crossing' | 'split' | 'balanced' | 'undetermined';

/**
 * Which banks are off, and what the mixture is called. CONTRACT's rule: a bank is off past the act limit at any
 * closed-loop point, or past the watch limit with the same sign at two.
 */
export function classifyMixture(
  points: readonly TrimPoint[],
  limits: TrimLimits = DEFAULT_LIMITS,
): { mixture: MixtureCall; banks: (1 | 2)[] } {
  const byBank = new Map<1 | 2, number[]>();
  for (const p of points) {
    for (const t of p.totals) byBank.set(t.bank, [...(byBank.get(t.bank) ?? []), t.totalPct]);
  }
  if (byBank.size === 0) return { mixture: 'undetermined', banks: [] };
  const off: { bank: 1 | 2; sign: -1 | 1; crossing: boolean }[] = [];
  for (const [bank, totals] of [...byBank].sort((a, b) => a[0] - b[0])) {
    const past = totals.some((t) => Math.abs(t) > limits.actPct);
    const twice = ([1, -1] as const).some((s) => totals.filter((t) => t * s > limits.watchPct).length >= 2);
    if (!past && !twice) continue;
    const crossing = totals.some((t) => t <= -limits.watchPct) && totals.some((t) => t >= limits.watchPct);
    const strongest = totals.reduce((a, b) => (Math.abs(b) > Math.abs(a) ? b : a));
    off.push({ bank, sign: strongest > 0 ? 1 : -1, crossing });
  }
  const banks = off.map((o) => o.bank);
  if (off.length === 0) return { mixture: 'balanced', banks };
  if (off.some((o) => o.crossing)) return { mixture: 'crossing', banks };
  if (off.length === 2 && off[0]!.sign !== off[1]!.sign) return { mixture: 'split', banks };
  return { mixture: off[0]!.sign > 0 ? 'lean' : 'rich', banks };
}

/** How the error goes with airflow. */
export type ShapeWord = 'fades' | 'grows' | 'flat' | 'crosses' | 'turns' | 'one point';

/**
 * How totals move with airflow, in one word. `points` in any order; a change under 4 points is flat, and one that goes
 * there and back by more in between is no shape of one cause. [house]
 */
export function shapeWord(points: readonly { airflowGps: number; totalPct: number }[]): ShapeWord {
  if (points.length < 2) return 'one point';
  const s = [...points].sort((a, b) => a.airflowGps - b.airflowGps);
  const first = s[0]!.totalPct;
  const last = s[s.length - 1]!.totalPct;
  if (first * last < 0 && Math.abs(first) >= 5 && Math.abs(last) >= 5) return 'crosses';
  const between = s.slice(1, -1).map((p) => p.totalPct);
  const [low, high] = [Math.min(first, last), Math.max(first, last)];
  if (between.some((t) => t < low - 4 || t > high + 4)) return 'turns';
  const change = Math.abs(last) - Math.abs(first);
  return change > 4 ? 'grows' : change < -4 ? 'fades' : 'flat';
}
