import { covered, statistics } from '../series/index.ts';

/** What a wide-band sensor does, and why it is called so. */
export interface WideJudgement {
  verdict: 'at-target' | 'off-target' | 'restless' | 'undecided';
  mean: number;
  sd: number;
  why: string;
}

/** In closed loop λ stands this near 1.00 and moves this little. [house], from "steady near 1.00", common practice. */
const NEAR = 0.02;
const RESTLESS_SD = 0.03;

/** A wide-band sensor in closed loop: λ is near 1.00 and steady. It is never judged by crossings. Null of no samples. */
export function judgeWide(time: ArrayLike<number>, lambda: Float64Array): WideJudgement | null {
  const s = statistics(lambda);
  if (!s) return null;
  const { seconds } = covered(time);
  const figures = `λ ${s.mean.toFixed(3)} ± ${s.sd.toFixed(3)}`;
  const as = (verdict: WideJudgement['verdict'], why: string) => ({ verdict, mean: s.mean, sd: s.sd, why });
  if (!(seconds >= 8)) return as('undecided', `${seconds.toFixed(0)} s of signal: ten are needed`);
  if (s.sd > RESTLESS_SD) return as('restless', `${figures}: steady is expected in closed loop`);
  if (Math.abs(s.mean - 1) > NEAR)
    return as('off-target', `${figures}: ${s.mean > 1 ? 'lean' : 'rich'} of 1.00 although the loop is closed`);
  return as('at-target', `${figures}: at its target`);
}
