import { heldAt, heldIndex, median, type Series } from '../series/index.ts';
import { TRIM_AUTHORITY_PCT } from '../trims/index.ts';

/** How far trims have settled after a repair. */
export type RelearnState = 'settling' | 'settled' | 'not-settling' | 'no-closed-loop';

/** Where one bank's trims are going after a repair, without clearing anything. Displayed percentage points. */
export interface BankRelearn {
  bank: 1 | 2;
  state: RelearnState;
  /** Of the newest steady second; null without closed loop. */
  nowTotalPct: number | null;
  shortPct: number | null;
  longPct: number | null;
  /** The total once the short term is near 0, with its interval. */
  settled: { totalPct: number; low: number; high: number } | null;
  /** Until the long term is within a point of its end; null when settled or not settling. */
  longSettlesInS: number | null;
  lowS: number | null;
  highS: number | null;
  /** Of the long term, now. */
  ratePctPerMin: number | null;
}

/** The state with its figures, and how many s are left; null where nobody can say. */
export interface Relearn {
  banks: BankRelearn[];
  warnings: string[];
}

/** Long term within this of its end is settled, percentage points. */
const NEAR_PCT = 1;
/** A short term within this of 0 has handed over. [house] */
const SHORT_NEAR_PCT = 1.5;
/** Long-term values older than this say nothing of the moment, s. [house] */
const STALE_S = 30;
/** Seconds with other engine speeds than this share apart learn into other cells. [house] */
const SAME_SPEED = 0.15;
/** The least that can be judged, s of closed loop at one speed. [house] */
const LEAST_S = 8;
/** Less than this is judged with a warning, s. [house] */
const SHORT_S = 30;
/** Memories slower than this have not moved in a visit to the shop, s. [house] */
const SLOWEST_S = 3600;
/** A loop has found a new mixture within this, s. [house] */
const FINDS_S = 10;
/** How far from adding to multiplying is assumed where nothing tells: most ECUs multiply. Common practice, no source. */
const MULTIPLIES = 2 / 3;
/** What the steps of a tool leave open, percentage points. [house] */
const ROUNDING = 0.3;
const FASTEST_S = 2;
const STEPS = 160;
/** A falling curve must explain this much more than a level one, in deviations. [house] */
const WORTH = 9;
/** One shape must fit so much better than the other to be the only one, in deviations. [house] */
const APART = 9;
/** Two times this near each other are one, as a share and in s. [house] */
const LIKE_SHARE = 0.25;
const LIKE_S = 20;
/** A memory that moves in large steps is off alike for as long as it stands. [house] */
const MOST_ALIKE = 0.7;
/** Least deviations of a second's mean: a narrow-band loop swings, memory moves in steps. [house] */
const SHORT_SD = 0.3;
const LONG_SD = 0.3;

interface Second {
  t: number;
  short: number;
  long: number;
}

/**
 * Short term runs against long term after a repair: the total stays, the short term hands over, and the long term goes to
 * that total as a first-order lag does. Over the seconds in closed loop at the speed of the newest; `fromS`: in s of the
 * recording, what lies before it is another story.
 */
export function relearn(series: Series, fromS = Number.NEGATIVE_INFINITY): Relearn {
  const warnings: string[] = [];
  const banks = ([1, 2] as const).flatMap((bank) => {
    const short = series.channels.find((c) => c.id === `stft${bank}`);
    if (!short || short.time.length === 0) return [];
    const long = series.channels.find((c) => c.id === `ltft${bank}`);
    if (!long) {
      warnings.push(`Bank ${bank}: no long-term trim in the recording.`);
      return [];
    }
    return [bankOf(bank, secondsOf(series, bank, fromS), warnings)];
  });
  if (banks.length === 0) warnings.push('No fuel trims in the recording.');
  return { banks, warnings };
}

/** Means of each second in closed loop, at the engine speed of the newest of them. */
function secondsOf(series: Series, bank: 1 | 2, fromS: number): Second[] {
  const short = series.channels.find((c) => c.id === `stft${bank}`)!;
  const long = series.channels.find((c) => c.id === `ltft${bank}`)!;
  const rpm = series.channels.find((c) => c.id === 'rpm');
  const loop = series.texts?.find((c) => c.id === `fuelSys${bank}`) ?? series.texts?.find((c) => c.id === 'fuelSys1');
  const closed = (t: number) => {
    if (!loop) return true;
    const i = heldIndex(loop.time, t);
    return i < 0 || loop.value[i] === 'not reported' || loop.value[i]!.startsWith('closed');
  };
  const bins = new Map<number, { n: number; t: number; short: number; long: number; rpm: number }>();
  for (const [i, time] of short.time.entries()) {
    const t: number = time;
    const l = heldAt(long, t, STALE_S);
    if (t < fromS || Number.isNaN(l) || !closed(t)) continue;
    const b = bins.get(Math.floor(t)) ?? { n: 0, t: 0, short: 0, long: 0, rpm: 0 };
    b.n++;
    b.t += t;
    b.short += short.value[i]!;
    b.long += l;
    b.rpm += rpm ? heldAt(rpm, t, STALE_S) : 0;
    bins.set(Math.floor(t), b);
  }
  const all = [...bins.values()].map(({ n, t, short: s, long: l, rpm: r }) => ({
    t: t / n,
    short: s / n,
    long: l / n,
    rpm: r / n,
  }));
  const speed = all.at(-1)?.rpm ?? 0;
  return all.filter((s) => !rpm || Math.abs(s.rpm - speed) <= SAME_SPEED * speed);
}

function bankOf(bank: 1 | 2, seconds: readonly Second[], warnings: string[]): BankRelearn {
  const nothing = { settled: null, longSettlesInS: null, lowS: null, highS: null, ratePctPerMin: null };
  const newest = seconds.at(-1);
  if (!newest) return { bank, state: 'no-closed-loop', nowTotalPct: null, shortPct: null, longPct: null, ...nothing };
  const now = {
    bank,
    nowTotalPct: two(newest.short + newest.long),
    shortPct: two(newest.short),
    longPct: two(newest.long),
  };
  const spanS = newest.t - seconds[0]!.t;
  if (spanS < SHORT_S)
    warnings.push(`Bank ${bank}: ${Math.round(spanS)} s of closed loop at one speed; half a minute says more.`);
  if (Math.abs(newest.long) >= TRIM_AUTHORITY_PCT - 0.8)
    warnings.push(`Bank ${bank}: the long term stands at the ECU's limit.`);
  const lately = seconds.filter((s) => s.t > newest.t - 10);
  const shortLately = mean(lately.map((s) => s.short));
  const plain = endOf(lately);
  const level = { totalPct: two(plain.end), low: two(plain.end - plain.half), high: two(plain.end + plain.half) };
  const fit = spanS >= LEAST_S ? falling(fromPeak(seconds)) : null;
  if (!fit) {
    const state = Math.abs(shortLately) <= SHORT_NEAR_PCT ? 'settled' : 'not-settling';
    if (state === 'not-settling' && spanS >= LEAST_S)
      warnings.push(`Bank ${bank}: the short term stands off and the long term does not take it over.`);
    return { ...now, state, ...nothing, settled: level, ratePctPerMin: two(slopePerMin(seconds)) };
  }
  const settled = { totalPct: two(fit.end), low: two(fit.endLow), high: two(fit.endHigh) };
  const sofar = newest.t - fit.t0;
  const { best } = fit;
  const rate = two(SHAPES[best.shape].ratePctPerS(best, sofar) * 60);
  if (leftOf(best, sofar) <= NEAR_PCT && Math.abs(shortLately) <= SHORT_NEAR_PCT)
    return { ...now, state: 'settled', ...nothing, settled, ratePctPerMin: rate };
  const wait = (w: Way) => Math.max(0, SHAPES[w.shape].waitS(w, sofar));
  const waits = [best, ...fit.also].map(wait);
  const [mine, other] = [wait(best), fit.other && wait(fit.other)];
  if (other !== null && Math.abs(other - mine) > Math.max(LIKE_SHARE * mine, LIKE_S))
    warnings.push(
      `Bank ${bank}: whether its memory moves in even steps or slows down cannot be told yet: ${Math.round(Math.min(mine, other))} s or ${Math.round(Math.max(mine, other))} s. Half a minute more says.`,
    );
  return {
    ...now,
    state: 'settling',
    settled,
    longSettlesInS: Math.round(mine),
    lowS: Math.round(Math.min(...waits)),
    highS: Math.round(Math.max(...waits)),
    ratePctPerMin: rate,
  };
}

/** From where the loop has found the new mixture: within the first seconds the short term is still on its way. */
function fromPeak(seconds: readonly Second[]): readonly Second[] {
  const smooth = (i: number) => Math.abs(mean(seconds.slice(Math.max(0, i - 1), i + 2).map((s) => s.short)));
  let peak = 0;
  const soon = seconds.filter((s) => s.t < seconds[0]!.t + FINDS_S).length;
  for (let i = 1; i < Math.min(soon, seconds.length / 2); i++) if (smooth(i) > smooth(peak)) peak = i;
  return seconds.slice(peak);
}

/** How a memory goes to its end: slower and slower, as a first-order lag does, or in steps of one size at one pace. */
type ShapeId = 'slowing' | 'even';

/** One way there: the long term is `end` + `c`·left(t − t0, s), `s` its time constant or the time the whole way takes, s. */
interface Way {
  shape: ShapeId;
  s: number;
  c: number;
  fit: number;
}

const SHAPES: Readonly<
  Record<
    ShapeId,
    {
      /** Share of the way that is left after so many seconds. */
      left(t: number, s: number): number;
      /** From then on until it is within `NEAR_PCT` of its end. */
      waitS(w: Way, t: number): number;
      ratePctPerS(w: Way, t: number): number;
    }
  >
> = {
  slowing: {
    left: (t, s) => Math.exp(-t / s),
    waitS: (w, t) => w.s * Math.log(leftOf(w, t) / NEAR_PCT),
    ratePctPerS: (w, t) => (-w.c / w.s) * Math.exp(-t / w.s),
  },
  even: {
    left: (t, s) => Math.max(0, 1 - t / s),
    waitS: (w, t) => (w.s * (leftOf(w, t) - NEAR_PCT)) / Math.abs(w.c),
    ratePctPerS: (w, t) => (t < w.s ? -w.c / w.s : 0),
  },
};

/** How far it is from its end after so many seconds, percentage points. */
const leftOf = (w: Way, t: number) => Math.abs(w.c) * SHAPES[w.shape].left(t, w.s);

interface Fit {
  t0: number;
  end: number;
  endLow: number;
  endHigh: number;
  best: Way;
  /** The best way of the other shape, where it fits as well; null where it does not. */
  other: Way | null;
  /** Every other way that is within the interval: of both shapes where they cannot be told apart. */
  also: Way[];
}

/**
 * The total stays while the short term hands over to the long: where the long term ends is what both correct together now,
 * added up or multiplied, whichever the ECU does; the nearer the end, the nearer the two. Averaged over as many of the newest
 * seconds as say most: more of them swing less, older ones lie further apart.
 */
function endOf(seconds: readonly Second[]): { end: number; half: number } {
  const sd = noise(
    seconds.map((s) => s.short),
    SHORT_SD,
  );
  let best = { end: Number.NaN, half: Number.POSITIVE_INFINITY };
  let [total, between] = [0, 0];
  for (let k = 1; k <= seconds.length; k++) {
    const { short, long } = seconds[seconds.length - k]!;
    const added = short + long;
    const multiplied = ((1 + short / 100) * (1 + long / 100) - 1) * 100;
    total += added + MULTIPLIES * (multiplied - added);
    between += MULTIPLIES * Math.abs(multiplied - added);
    if (k < Math.min(LEAST_S, seconds.length)) continue;
    const half = between / k + (2 * sd) / Math.sqrt(k) + ROUNDING;
    if (half < best.half) best = { end: total / k, half };
  }
  return best;
}

/**
 * The long term's way there by least squares, in both shapes at every length of a grid. The interval is what fits within
 * four of the best (about 95 %) at either end of the end's own; of the other shape too, where that fits as well. Null where
 * a level line does, or where the two do not run against each other.
 */
function falling(seconds: readonly Second[]): Fit | null {
  if (seconds.length < LEAST_S) return null;
  const t0 = seconds[0]!.t;
  const long = seconds.map((s) => s.long);
  const sd = noise(long, LONG_SD);
  const { end, half } = endOf(seconds);
  const at = (shape: ShapeId, to: number) => {
    const tried = Array.from({ length: STEPS }, (_, k): Way => {
      const s = FASTEST_S * (SLOWEST_S / FASTEST_S) ** (k / (STEPS - 1));
      const e = seconds.map((x) => SHAPES[shape].left(x.t - t0, s));
      const c = sum(e.map((x, i) => x * (long[i]! - to))) / sum(e.map((x) => x * x));
      const fit = chi(
        long.map((v, i) => v - to - c * e[i]!),
        sd,
      );
      return { shape, s, c, fit };
    });
    const best = tried.reduce((a, b) => (b.fit < a.fit ? b : a));
    const off = seconds.map((x, i) => long[i]! - to - best.c * SHAPES[shape].left(x.t - t0, best.s));
    const scale = Math.max(1, best.fit / Math.max(1, seconds.length - 2));
    const within = tried.filter((x) => x.fit <= best.fit + 4 * scale * alike(off));
    return { best, low: within[0]!, high: within.at(-1)!, scale };
  };
  const ways = (['slowing', 'even'] as const).map((shape) => {
    const mid = at(shape, end);
    return { ...mid, all: [mid, at(shape, end - half), at(shape, end + half)].flatMap((x) => [x.low, x.high]) };
  });
  const [mine, other] = ways.sort((a, b) => a.best.fit - b.best.fit) as [(typeof ways)[0], (typeof ways)[0]];
  const level = chi(
    long.map((v) => v - mean(long)),
    sd,
  );
  const { best } = mine;
  const early = mean(seconds.slice(0, Math.max(3, seconds.length >> 2)).map((s) => s.short));
  if (level - best.fit < WORTH || best.s >= SLOWEST_S * 0.9 || early * best.c >= 0) return null;
  const either = other.best.fit - best.fit < APART * mine.scale;
  return {
    t0,
    end,
    endLow: end - half,
    endHigh: end + half,
    best,
    other: either ? other.best : null,
    also: either ? [...mine.all, other.best, ...other.all] : mine.all,
  };
}

/** Neighbours that are off alike say less than as many of their own: how many of them make one (Bartlett 1946, first order). */
function alike(off: readonly number[]): number {
  const squares = sum(off.map((x) => x * x));
  const r = squares === 0 ? 0 : sum(off.slice(1).map((x, i) => x * off[i]!)) / squares;
  return (1 + Math.min(MOST_ALIKE, Math.max(0, r))) / (1 - Math.min(MOST_ALIKE, Math.max(0, r)));
}

/** Deviation of one second's mean from its neighbours', by the median of their steps; at least `least`. */
function noise(values: readonly number[], least: number): number {
  const steps = values.slice(1).map((v, i) => Math.abs(v - values[i]!));
  // A step between two of them is √2 wider than each; the median of a normal's size is 0.6745 of its deviation.
  return Math.max(least, steps.length === 0 ? 0 : median(steps) / 0.6745 / Math.SQRT2);
}

function slopePerMin(seconds: readonly Second[]): number {
  const last = seconds.filter((s) => s.t > seconds.at(-1)!.t - 60);
  const mt = mean(last.map((s) => s.t));
  const tt = sum(last.map((s) => (s.t - mt) ** 2));
  return tt === 0 ? 0 : (60 * sum(last.map((s) => (s.t - mt) * s.long))) / tt;
}

const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0);
const mean = (list: readonly number[]) => sum(list) / list.length;
const chi = (residuals: readonly number[], sd: number) => sum(residuals.map((r) => (r / sd) ** 2));
const two = (v: number) => Math.round(v * 100) / 100;
