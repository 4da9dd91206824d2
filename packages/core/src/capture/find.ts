import type { OperatingPoint, Reading } from '../case/index.ts';
import type { Sample } from '../link/index.ts';
import { type Channel, indexAt, type Series, type TextChannel } from '../series/index.ts';
import { FLARES_S, type GuidedSetup } from './conditions.ts';
import { GUIDED_START, type GuidedState, guide, guidedSetup, windowOf } from './guided.ts';
import { CAPTURE_POINTS, type CapturePoint } from './points.ts';
import { flagsOf, readingOf } from './windowReading.ts';

/** The engine a recording is read for. */
export interface RecordedEngine {
  banks: 1 | 2;
  metered: boolean;
  fuel: 'petrol' | 'diesel';
  turbo: boolean;
  baroKPa: number;
}

/**
 * An operating point found in a recording: its stretch in s from the start, its reading, and what speaks against it.
 */
export interface FoundPoint {
  at: OperatingPoint;
  fromS: number;
  toS: number;
  reading: Reading;
  /** Why the reading is doubtful; empty when it is not. */
  flags: string[];
  /** Windows of this point in the whole recording; the steadiest (of a peak: the one of most air) is given. */
  windows: number;
}

/** Signal before a window that steadiness is judged on, and by which a start is seen, s. */
const LEAD_S = FLARES_S + 1;
/** A gap of engine speed in range shorter than this does not end a span, s. [house] */
const BRIDGE_S = 1;
/** Windows tried per point; a day's log idles for hours. [house] */
const MOST_WINDOWS = 24;
/** Idle with the air conditioning on looks like idle: a log does not say which. Not searched for. */
const NOT_SEARCHED: readonly OperatingPoint[] = ['idle-ac'];

interface Span {
  from: number;
  to: number;
}

/** A channel's value at rising moments: the newest before each. NaN before its first. */
function follower(c: Channel | undefined): (t: number) => number {
  let i = -1;
  return (t) => {
    while (c && i + 1 < c.time.length && c.time[i + 1]! <= t) i++;
    return c && i >= 0 ? c.value[i]! : Number.NaN;
  };
}

/** A peak may fall between two engine speeds: load is asked a little less strictly here. The capture itself is strict. [house] */
const SLACK = 0.1;

/** Times in which engine speed, and road speed and load where the point asks for them, fit: only these are played. */
function spansOf(series: Series, p: CapturePoint, baroKPa: number): Span[] {
  const find = (id: string) => series.channels.find((c) => c.id === id);
  const rpm = find('rpm')!;
  const speed = follower(find('vss'));
  const pressure = follower(find('map'));
  const off = p.rpmHigh === 0;
  const spans: Span[] = [];
  for (let i = 0; i < rpm.time.length; i++) {
    const v = rpm.value[i]!;
    const t = rpm.time[i]!;
    const load = pressure(t + 0.5) / baroKPa;
    const kmh = speed(t);
    if (!(off ? v < 50 : v >= p.rpmLow && v <= p.rpmHigh)) continue;
    if (p.speedLowKmh !== undefined && !(kmh >= p.speedLowKmh)) continue;
    if (p.loadAbove !== undefined && !(load >= p.loadAbove - SLACK)) continue;
    if (p.loadBelow !== undefined && !(load <= p.loadBelow + SLACK)) continue;
    const last = spans.at(-1);
    if (last && t - last.to <= BRIDGE_S) last.to = t;
    else spans.push({ from: t, to: t });
  }
  // Of something that passes, a moment is enough; what is steady takes its whole window.
  return spans
    .filter((s) => p.kind === 'peak' || s.to - s.from >= p.windowS)
    .map((s) => (p.kind === 'peak' ? { from: s.from - BRIDGE_S, to: s.to + BRIDGE_S } : s));
}

/**
 * Operating points of a recording, found by the same rules as a guided capture. `step` is called between spans with the
 * share done; it may throw to cancel.
 */
export function findPoints(
  series: Series,
  engine: RecordedEngine,
  step: (share: number) => void = () => {},
): FoundPoint[] {
  const rpm = series.channels.find((c) => c.id === 'rpm');
  if (!rpm || rpm.time.length === 0) return [];
  const unreported = new Set<'loop' | 'ect'>();
  if (!series.channels.some((c) => c.id === 'ect')) unreported.add('ect');
  if (!series.texts?.some((c) => c.id === 'fuelSys1')) unreported.add('loop');
  const metered = engine.metered && series.channels.some((c) => c.id === 'maf');
  const searched = CAPTURE_POINTS.filter(
    (p) =>
      !NOT_SEARCHED.includes(p.at) &&
      (p.at !== 'boost' || engine.turbo) &&
      // Cold cannot be told from warm without coolant.
      (p.coldBelowC === undefined || !unreported.has('ect')),
  );
  const out: FoundPoint[] = [];
  searched.forEach((p, k) => {
    let best: (FoundPoint & { score: number }) | null = null;
    let windows = 0;
    const { banks, fuel, baroKPa } = engine;
    const setup = guidedSetup(p, { banks, metered, fuel, baroKPa, unreported });
    const spans = spansOf(series, p, engine.baroKPa);
    for (const [i, span] of spans.entries()) {
      step((k + i / spans.length) / searched.length);
      if (windows >= MOST_WINDOWS) break;
      for (let from = span.from - LEAD_S; windows < MOST_WINDOWS; ) {
        const end = play(setup, series, from, span.to);
        if (!end) break;
        const hit = windowOf(end)!;
        from = hit.toS;
        if (p.kind === 'peak' && !runsOn(rpm, hit.toS)) continue;
        windows++;
        const reading = readingOf(setup, end);
        const score = scoreOf(p, series, hit, metered);
        if (!best || score < best.score)
          best = { at: p.at, ...hit, reading, flags: flagsOf(setup, end), windows, score };
      }
    }
    if (best) {
      const { score: _, ...found } = best;
      out.push({ ...found, windows });
    }
  });
  step(1);
  return out;
}

/** Feed [from, to] second by second until the window closes; null when it never does. */
function play(setup: GuidedSetup, series: Series, from: number, to: number): GuidedState | null {
  // Loop state from before the span still holds.
  const held = (series.texts ?? []).flatMap((c): Sample[] => {
    const i = indexAt(c.time, from) - 1;
    return i >= 0 ? [{ channel: c.id, atUs: c.time[i]! * 1e6, value: c.value[i]! }] : [];
  });
  const slow = series.channels.flatMap((c): Sample[] => {
    const i = indexAt(c.time, from) - 1;
    return i >= 0 && from - c.time[i]! < 120 && (c.id === 'ect' || c.id === 'ltft1' || c.id === 'ltft2')
      ? [{ channel: c.id, atUs: from * 1e6, value: c.value[i]! }]
      : [];
  });
  let [state] = guide(setup, GUIDED_START, { kind: 'samples', samples: [...held, ...slow] });
  for (let t = from; t < to + 1; t += 1) {
    const batch: Sample[] = [];
    for (const c of series.channels) push(batch, c, t);
    for (const c of series.texts ?? []) push(batch, c, t);
    batch.sort((a, b) => a.atUs - b.atUs);
    const [next, actions] = guide(setup, state, { kind: 'samples', samples: batch });
    if (actions.some((a) => a.kind === 'keep')) return next;
    // A recording cannot be asked to settle: a refused window is tried again later in it.
    state = actions.some((a) => a.kind === 'refuse') ? guide(setup, next, { kind: 'again' })[0] : next;
  }
  return null;
}

function push(batch: Sample[], c: Channel | TextChannel, t: number) {
  const end = indexAt(c.time, t + 1);
  for (let i = indexAt(c.time, t); i < end; i++)
    batch.push({ channel: c.id, atUs: c.time[i]! * 1e6, value: c.value[i]! });
}

/** Switched off, a manifold fills like a pull: a peak counts when the engine still runs this much later, s. */
const RUNS_ON_S = 2;

function runsOn(rpm: Channel, t: number): boolean {
  const i = indexAt(rpm.time, t + RUNS_ON_S);
  return i < rpm.time.length && rpm.value[i]! > 300;
}

/** Least is best: relative spread of the air of a steady window; of one that passes its peak, turned round, or its least. */
function scoreOf(p: CapturePoint, series: Series, w: { fromS: number; toS: number }, metered: boolean): number {
  const air = series.channels.find(
    (c) => c.id === (metered && p.rpmHigh > 0 && p.loadBelow === undefined ? 'maf' : 'map'),
  );
  if (!air) return 0;
  const v = air.value.subarray(indexAt(air.time, w.fromS), indexAt(air.time, w.toS));
  if (v.length === 0) return 0;
  const mean = v.reduce((a, b) => a + b, 0) / v.length;
  // Foot off: the deepest vacuum. Foot down: the most air.
  if (p.kind === 'peak') return p.loadBelow !== undefined ? Math.min(...v) : -Math.max(...v);
  return v.reduce((a, b) => a + (b - mean) ** 2, 0) / v.length / Math.max(mean * mean, 1e-9);
}
