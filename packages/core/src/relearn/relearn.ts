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
  const end = newest.t;
  const left = (tau: number, c: number) => Math.abs(c) * Math.exp(-(end - fit.t0) / tau);
  const settled = { totalPct: two(fit.end), low: two(fit.endLow), high: two(fit.endHigh) };
  const rate = two((-fit.c / fit.tau) * Math.exp(-(end - fit.t0) / fit.tau) * 60);
  if (left(fit.tau, fit.c) <= NEAR_PCT && Math.abs(shortLately) <= SHORT_NEAR_PCT)
    return { ...now, state: 'settled', ...nothing, settled, ratePctPerMin: rate };
  const wait = (tau: number, c: number) => Math.max(0, tau * Math.log(left(tau, c) / NEAR_PCT));
  return {
    ...now,
    state: 'settling',
    settled,
    longSettlesInS: Math.round(wait(fit.tau, fit.c)),
    lowS: Math.round(Math.min(wait(fit.tauLow, fit.cLow), wait(fit.tau, fit.c))),
    highS: Math.round(Math.max(wait(fit.tauHigh, fit.cHigh), wait(fit.tau, fit.c))),
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

interface Fit {
  t0: number;
  tau: number;
  tauLow: number;
  tauHigh: number;
  /** The long term's end and how far it was from it at t0: L = end + c·exp(−(t − t0)/τ). */
  end: number;
  endLow: number;
  endHigh: number;
  c: number;
  cLow: number;
  cHigh: number;
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
 * The long term's way there, end + c·exp(−(t − t₀)/τ), by least squares at every τ of a grid; the interval of τ is what fits
 * within four of the best (about 95 %) at either end of the end's own. Null where a level line does as well, or where the
 * two do not run against each other.
 */
function falling(seconds: readonly Second[]): Fit | null {
  if (seconds.length < LEAST_S) return null;
  const t0 = seconds[0]!.t;
  const long = seconds.map((s) => s.long);
  const sd = noise(long, LONG_SD);
  const { end, half } = endOf(seconds);
  const at = (to: number) => {
    const tried = Array.from({ length: STEPS }, (_, k) => {
      const tau = FASTEST_S * (SLOWEST_S / FASTEST_S) ** (k / (STEPS - 1));
      const e = seconds.map((s) => Math.exp(-(s.t - t0) / tau));
      const c = sum(e.map((x, i) => x * (long[i]! - to))) / sum(e.map((x) => x * x));
      const fit = chi(
        long.map((v, i) => v - to - c * e[i]!),
        sd,
      );
      return { tau, c, fit };
    });
    const best = tried.reduce((a, b) => (b.fit < a.fit ? b : a));
    const scale = Math.max(1, best.fit / Math.max(1, seconds.length - 2));
    const within = tried.filter((x) => x.fit <= best.fit + 4 * scale);
    return { best, low: within[0]!, high: within.at(-1)! };
  };
  const { best, low, high } = at(end);
  const level = chi(
    long.map((v) => v - mean(long)),
    sd,
  );
  const early = mean(seconds.slice(0, Math.max(3, seconds.length >> 2)).map((s) => s.short));
  if (level - best.fit < WORTH || best.tau >= SLOWEST_S * 0.9 || early * best.c >= 0) return null;
  const ends = [at(end - half), at(end + half)];
  const all = [low, high, ...ends.flatMap((x) => [x.low, x.high])].sort((x, y) => x.tau - y.tau);
  return {
    t0,
    tau: best.tau,
    tauLow: all[0]!.tau,
    tauHigh: all.at(-1)!.tau,
    end,
    endLow: end - half,
    endHigh: end + half,
    c: best.c,
    cLow: all[0]!.c,
    cHigh: all.at(-1)!.c,
  };
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
