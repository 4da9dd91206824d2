import { holdOnto } from '../series/index.ts';

/** Common practice, no source: inside ±10 % for the set time, ±5 % the aim. The time and the slowest speed are [house]. */
export const ROAD_TEST = { insidePct: 10, aimPct: 5, seconds: 60, slowestKmh: 40, gapS: 5 } as const;

/** One moment on the road: seconds, total trim of each bank in %, road speed where it is known. */
export interface RoadSample {
  t: number;
  totalsPct: readonly number[];
  vssKmh?: number;
}

/** The sheet of a road test: what is read at which speed, and between which limits. */
export interface RoadTest {
  /** Seconds held up to the last sample, and the longest stretch so far. */
  heldS: number;
  bestS: number;
  neededS: number;
  /** Why the count stands still now; null while it runs. */
  waitsFor: string | null;
  /** Farthest from zero in the best stretch, %. */
  farthestPct: number | null;
  verdict: 'waiting' | 'holding' | 'stable' | 'stable within the aim';
}

/**
 * The guided road-load stretch: every bank inside ±10 % without a break for `neededS`. A gap of more than 5 s, a bank
 * outside or a speed below 40 km/h starts the count again; what was held once stays held.
 */
export function roadTest(samples: readonly RoadSample[], neededS: number = ROAD_TEST.seconds): RoadTest {
  let from: number | null = null;
  let before: number | null = null;
  let farthest = 0;
  let waitsFor: string | null = 'trims of a moving car';
  let best: { seconds: number; farthestPct: number } | null = null;
  let heldS = 0;
  for (const s of samples) {
    const out = s.totalsPct.findIndex((v) => Math.abs(v) > ROAD_TEST.insidePct);
    const slow = s.vssKmh !== undefined && s.vssKmh < ROAD_TEST.slowestKmh;
    const known = s.totalsPct.length > 0;
    waitsFor = slow
      ? 'a steady road speed'
      : !known
        ? 'trims of a moving car'
        : out >= 0
          ? `bank ${out + 1} inside ±${ROAD_TEST.insidePct} %`
          : null;
    if (waitsFor !== null) from = null;
    else if (from === null || before === null || s.t - before > ROAD_TEST.gapS) {
      from = s.t;
      farthest = 0;
    }
    before = s.t;
    if (from === null) {
      heldS = 0;
      continue;
    }
    farthest = Math.max(farthest, ...s.totalsPct.map(Math.abs));
    heldS = s.t - from;
    // The aim is asked of the stretch that was needed, not of all that came after it.
    if (best === null || (best.seconds < neededS && heldS > best.seconds))
      best = { seconds: heldS, farthestPct: farthest };
    else if (heldS >= neededS) best = { seconds: Math.max(best.seconds, heldS), farthestPct: best.farthestPct };
  }
  const held = best !== null && best.seconds >= neededS;
  return {
    heldS,
    bestS: best?.seconds ?? 0,
    neededS,
    waitsFor,
    farthestPct: best?.farthestPct ?? null,
    verdict: held
      ? best!.farthestPct <= ROAD_TEST.aimPct
        ? 'stable within the aim'
        : 'stable'
      : waitsFor === null
        ? 'holding'
        : 'waiting',
  };
}

interface Point {
  t: number;
  v: number;
}

/** A long term or a road speed may be this old, s; a short term as old as a gap. [house] */
const SLOW_STALE_S = 30;

/** Total of each bank at every answer of the first short term, with what was last heard; a bank fallen silent: none. */
export function roadSamples(traces: ReadonlyMap<string, readonly Point[]>, banks: number): RoadSample[] {
  const moments = (traces.get('stft1') ?? []).map((p) => p.t);
  const held = (channel: string, staleS: number) => {
    const list = traces.get(channel) ?? [];
    const at = holdOnto(
      moments,
      list.map((p) => p.t),
    );
    return moments.map((t, i) => {
      const p = list[at[i]!];
      return p && t - p.t <= staleS ? p.v : undefined;
    });
  };
  const trims = Array.from({ length: banks }, (_, b) => ({
    short: held(`stft${b + 1}`, ROAD_TEST.gapS),
    long: held(`ltft${b + 1}`, SLOW_STALE_S),
  }));
  const speed = held('vss', SLOW_STALE_S);
  return moments.map((t, i) => {
    const totals = trims.flatMap(({ short, long }) => (short[i] === undefined ? [] : [short[i] + (long[i] ?? 0)]));
    const vssKmh = speed[i];
    return { t, totalsPct: totals.length === banks ? totals : [], ...(vssKmh === undefined ? {} : { vssKmh }) };
  });
}
