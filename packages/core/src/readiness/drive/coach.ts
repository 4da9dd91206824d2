import { channelName, type MonitorId } from '../../obd/index.ts';
import { type Said, said } from '../../units/index.ts';
import { boundsText } from './conditions.ts';
import { type Band, CHANNEL_UNIT, type DriveProcedure, type DriveStep, type Stretch, stretchesOf } from './format.ts';
import { inUnit } from './units.ts';

/** A held channel not heard for longer than this says nothing of the moment, s. */
const GAP_S = 5;
/** What moves slowly and is asked seldom may be this old, s. [house] */
const SLOW_GAP_S = 60;
const SLOW: ReadonlySet<string> = new Set(['ect', 'iat', 'ambient', 'fuelLevel', 'baro', 'vbat']);
const gapOf = (b: Band) => (b.ifKnown && SLOW.has(b.channel) ? SLOW_GAP_S : GAP_S);
/** A station that was only passed through was not tried: less than this share of it, and than these seconds. [house] */
const TRIED_SHARE = 0.1;
const TRIED_S = 60;
/** A wheel that stands is read as this much at most, km/h. */
export const STANDING: Band & { high: number } = { channel: 'vss', high: 0.5, unit: 'km/h' };
const IGNITION_OFF: Band = { channel: 'rpm', high: 0, unit: 'rpm', ifKnown: true };

/** A pause or a break, at the second the band was left. */
export interface Lapse {
  atS: number;
  /** The channel, or `throttle` where it moved too fast. */
  condition: string;
  value: number | null;
  unit: string | null;
  why: Said;
  paused?: true;
}

interface StepState {
  done: boolean;
  /** Why it is done: driven, or the monitor itself said so. */
  byMonitor: boolean;
  begun: boolean;
  phase: number;
  fromS: number | null;
  toS: number | null;
  heldS: number;
  /** Seconds counted since each held channel was last heard: not yet certain. */
  open: Readonly<Record<string, number>>;
  inside: boolean;
  outside: Lapse | null;
  broke: boolean;
  /** Seconds that stopped counting when it was last broken or silent, and why. */
  lost: { heldS: number; lapse: Lapse } | null;
  lapses: readonly Lapse[];
}

/** The coach's whole memory: a value, advanced by `coachSample`. Times in s from the first sample of the drive. */
export interface CoachState {
  procedure: DriveProcedure;
  /** Channels this drive is known to carry; a band on another that is left out of account `ifKnown`. */
  known: ReadonlySet<string>;
  nowS: number | null;
  last: Readonly<Record<string, { t: number; v: number }>>;
  steps: readonly StepState[];
  /** Incomplete monitors at the first and the last report; null before there is one. */
  before: readonly MonitorId[] | null;
  after: readonly MonitorId[] | null;
  overAtS: number | null;
}

/** What was heard at one moment: values in the channel's own unit, or the monitors that are still incomplete. */
export interface CoachSample {
  t: number;
  values: Readonly<Record<string, number>>;
  incomplete?: readonly MonitorId[];
}

const FRESH: StepState = {
  done: false,
  byMonitor: false,
  begun: false,
  phase: 0,
  fromS: null,
  toS: null,
  heldS: 0,
  open: {},
  inside: false,
  outside: null,
  broke: false,
  lost: null,
  lapses: [],
};

/** Throttle position, as the car reports it. */
const THROTTLES = ['tp', 'tpRel', 'app'] as const;

/** A drive at its second 0. `known`: channels the vehicle is known to give. */
export function coachStart(procedure: DriveProcedure, known: ReadonlySet<string>): CoachState {
  return {
    procedure,
    known,
    nowS: null,
    last: {},
    steps: procedure.steps.map(() => FRESH),
    before: null,
    after: null,
    overAtS: null,
  };
}

/** A band with its bounds in the channel's own unit: what is heard many times a second is not converted each time. */
interface OwnBand {
  band: Band;
  channel: string;
  low: number;
  high: number;
}

function inOwn(band: Band): OwnBand {
  const unit = CHANNEL_UNIT[band.channel] ?? band.unit;
  const to = (v: number | undefined, none: number) => {
    if (v === undefined) return none;
    const own = inUnit(v, band.unit, unit);
    // What was converted is not held against its last digits.
    return own + Math.sign(none) * 1e-6 * Math.max(1, Math.abs(own));
  };
  return {
    band,
    channel: band.channel,
    low: to(band.low, Number.NEGATIVE_INFINITY),
    high: to(band.high, Number.POSITIVE_INFINITY),
  };
}
const outside = (b: OwnBand, v: number) => v < b.low || v > b.high;

const prepared = new WeakMap<ReadonlySet<string>, WeakMap<Stretch, OwnBand[]>>();
/** Bands of a stretch that this drive can be held against. */
function bandsOf(stretch: Stretch, known: ReadonlySet<string>): readonly OwnBand[] {
  let ofDrive = prepared.get(known);
  if (!ofDrive) {
    ofDrive = new WeakMap();
    prepared.set(known, ofDrive);
  }
  let bands = ofDrive.get(stretch);
  if (!bands) {
    const all = [...(stretch.hold ?? []), ...(stretch.standing ? [STANDING] : [])];
    if (stretch.engineOff) all.push(IGNITION_OFF);
    bands = all.filter((b) => !b.ifKnown || known.has(b.channel)).map(inOwn);
    ofDrive.set(stretch, bands);
  }
  return bands;
}

const untils = new WeakMap<Band, OwnBand>();
function untilOf(band: Band): OwnBand {
  let own = untils.get(band);
  if (!own) {
    own = inOwn(band);
    untils.set(band, own);
  }
  return own;
}

/** A value of a channel in the unit of a band. */
const inUnitOf = (b: Band, v: number) => inUnit(v, CHANNEL_UNIT[b.channel] ?? b.unit, b.unit);

/** What does not hold now, to be put in words where it matters; null where all holds. */
function lapseOf(
  step: DriveStep,
  stretch: Stretch,
  s: CoachState,
  t: number,
  rate: number | null,
): (() => Lapse) | null {
  for (const own of bandsOf(stretch, s.known)) {
    const { band, channel } = own;
    const seen = s.last[channel];
    if (!seen || t - seen.t > gapOf(band)) {
      if (stretch.engineOff) continue;
      return () => silence(band, seen ? seen.t : t);
    }
    if (outside(own, seen.v))
      return () => ({
        atS: t,
        condition: channel,
        value: Math.round(inUnitOf(band, seen.v) * 10) / 10,
        unit: band.unit,
        why: said`${channelName(channel)} left ${boundsText(band)}`,
      });
  }
  if (step.smooth !== undefined && rate !== null && rate > step.smooth)
    return () => ({
      atS: t,
      condition: 'throttle',
      value: Math.round(rate * 10) / 10,
      unit: '%/s',
      why: `the throttle moved faster than ${step.smooth} %/s`,
    });
  return null;
}

const silence = (b: Band, atS: number): Lapse => ({
  atS,
  condition: b.channel,
  value: null,
  unit: b.unit,
  why: `${channelName(b.channel)} was not heard for more than ${gapOf(b)} s`,
});

/** Seconds that are certain: no channel may still turn out to have been silent. */
const certain = (x: StepState) => x.heldS - Math.max(0, ...Object.values(x.open));

/** Throttle change since it was last heard, %/s; null where it was not heard now. */
function throttleRate(s: CoachState, { t, values }: CoachSample): number | null {
  for (const c of THROTTLES) {
    const [v, was] = [values[c], s.last[c]];
    if (v !== undefined && was && t > was.t) return Math.abs(v - was.v) / Math.max(1, t - was.t);
  }
  return null;
}

/** One moment more. Samples come in the order of their time; one that is older is put aside. */
export function coachSample(s: CoachState, sample: CoachSample): CoachState {
  const { t } = sample;
  if (s.nowS !== null && t < s.nowS) return s;
  const dt = s.nowS === null ? 0 : t - s.nowS;
  const rate = throttleRate(s, sample);
  const heard = Object.entries(sample.values).filter(([, v]) => Number.isFinite(v));
  const last = { ...s.last };
  for (const [c, v] of heard) last[c] = { t, v };
  const overAtS =
    s.overAtS ??
    (s.procedure.totalMinutes !== undefined && t > s.procedure.totalMinutes * 60
      ? s.procedure.totalMinutes * 60
      : null);
  const before = s.before ?? sample.incomplete ?? null;
  const after = sample.incomplete ?? s.after;
  const next: CoachState = { ...s, nowS: t, last, overAtS, before, after };
  const doneBefore = new Set(s.procedure.steps.filter((_, i) => s.steps[i]!.done).map((x) => x.id));
  const ctx: Moment = { was: s, now: next, t, dt, rate, heard: heard.map(([c]) => c) };
  next.steps = s.procedure.steps.map((step, i) => {
    const x = s.steps[i]!;
    if (x.done || overAtS !== null) return x;
    if (sample.incomplete && finishedByMonitor(step, s, sample.incomplete))
      return { ...x, done: true, byMonitor: true, fromS: x.fromS ?? t, toS: t };
    if (!(step.after ?? []).every((a) => doneBefore.has(a))) return x;
    return advance(step, x, ctx);
  });
  return next;
}

/** All monitors of a step complete now, and one of them was not at first. */
function finishedByMonitor(step: DriveStep, s: CoachState, incomplete: readonly MonitorId[]): boolean {
  const finishes = step.finishes ?? [];
  return (
    s.before !== null && finishes.some((m) => s.before!.includes(m)) && !finishes.some((m) => incomplete.includes(m))
  );
}

interface Moment {
  was: CoachState;
  now: CoachState;
  t: number;
  dt: number;
  rate: number | null;
  heard: readonly string[];
}

function advance(step: DriveStep, x: StepState, m: Moment): StepState {
  const stretches = stretchesOf(step);
  const stretch = stretches[x.phase]!;
  const bands = bandsOf(stretch, m.now.known);
  let y = x;
  const silent = ({ band, channel }: OwnBand) => {
    const seen = m.was.last[channel];
    return !seen || m.t - seen.t > gapOf(band);
  };
  // The time since the moment before: held where it was inside and nothing has fallen silent.
  if (y.inside && y.outside === null) {
    const lost = bands.filter((b) => silent(b) && !stretch.engineOff);
    if (lost.length > 0) {
      // What was counted since the silent channel was last heard is not known to have held.
      const back = Math.max(...lost.map((b) => y.open[b.channel] ?? 0));
      const since = Math.min(...lost.map((b) => m.was.last[b.channel]?.t ?? m.t));
      const quiet = silence(lost[0]!.band, since);
      y = { ...y, heldS: y.heldS - back, open: {}, outside: quiet, lost: { heldS: back, lapse: quiet } };
    } else {
      const open: Record<string, number> = {};
      for (const b of bands) if (!m.heard.includes(b.channel)) open[b.channel] = (y.open[b.channel] ?? 0) + m.dt;
      y = { ...y, heldS: y.heldS + m.dt, open };
    }
  }
  const lapse = lapseOf(step, stretch, m.now, m.t, m.rate);
  y = lapse === null ? comeInside(step, y, m.t) : goOutside(step, y, lapse, m.t);
  // With the ignition off a log may say nothing: what is only said is not waited for.
  while (!y.done && y.begun && y.outside === null && reached(stretches[y.phase]!, y, m.now)) {
    const rest = stretches.slice(y.phase + 1);
    if (rest.every((r) => r.unseen)) {
      y = { ...y, done: true, toS: m.t };
      break;
    }
    y = { ...y, phase: y.phase + 1, heldS: 0, open: {}, inside: false };
    const first = lapseOf(step, stretches[y.phase]!, m.now, m.t, m.rate);
    // The next stretch may take a moment to get into: that is no break of it.
    if (first !== null) break;
    y = { ...y, inside: true };
  }
  return y;
}

function reached(stretch: Stretch, x: StepState, s: CoachState): boolean {
  if (!x.inside) return false;
  if (stretch.seconds !== undefined && certain(x) < stretch.seconds - 1e-6) return false;
  if (!stretch.until) return true;
  const seen = s.last[stretch.until.channel];
  return seen !== undefined && !outside(untilOf(stretch.until), seen.v);
}

function comeInside(step: DriveStep, x: StepState, t: number): StepState {
  if (!x.begun) return { ...x, begun: true, fromS: t, toS: null, heldS: 0, open: {}, inside: true };
  if (x.outside !== null) {
    const long = !step.inAll && t - x.outside.atS > (step.graceSeconds ?? 0);
    const y = long
      ? broken(step, x)
      : { ...x, lapses: [...x.lapses, { ...x.outside, paused: true as const }], outside: null };
    return long ? { ...y, begun: true, fromS: t, toS: null, heldS: 0, open: {}, inside: true } : { ...y, inside: true };
  }
  return { ...x, inside: true };
}

function goOutside(step: DriveStep, x: StepState, lapse: () => Lapse, t: number): StepState {
  // Not begun, or between two stretches: nothing is broken by what was never held.
  if (!x.begun || (!x.inside && x.outside === null)) return x;
  const outside = x.outside ?? lapse();
  const y = { ...x, outside, inside: false };
  return !step.inAll && t - outside.atS > (step.graceSeconds ?? 0) ? broken(step, y) : y;
}

/** The count ends at the second the band was left; the next stretch inside begins it anew. */
function broken(step: DriveStep, x: StepState): StepState {
  const { heldS, neededS } = stepProgress(step, x);
  const tried = !step.repeatable || heldS >= Math.min(TRIED_S, TRIED_SHARE * (neededS ?? Number.POSITIVE_INFINITY));
  if (!tried) return { ...x, begun: false, phase: 0, inside: false, outside: null, open: {}, heldS: 0, fromS: null };
  return {
    ...x,
    begun: false,
    broke: true,
    lost: { heldS, lapse: x.outside! },
    phase: 0,
    inside: false,
    outside: null,
    open: {},
    toS: x.outside!.atS,
    lapses: [...x.lapses, x.outside!],
  };
}

/** Held, needed and where it stands; a step of several stretches counts those behind it. */
export function stepProgress(step: DriveStep, x: StepState): { heldS: number; neededS: number | null } {
  const stretches = stretchesOf(step);
  const seconds = (list: readonly Stretch[]) => list.reduce((n, s) => n + (s.unseen ? 0 : (s.seconds ?? 0)), 0);
  const behind = seconds(stretches.slice(0, x.phase));
  const counts = stretches.some((s) => s.seconds !== undefined && !s.unseen);
  // A stretch that waits for something has no seconds to hold: its own are none of those that count.
  const here = counts && stretches[x.phase]!.seconds === undefined ? 0 : certain(x);
  return { heldS: Math.round((behind + here) * 10) / 10, neededS: counts ? seconds(stretches) : null };
}

/** Seconds that a step still has to hold; null where something else ends it. */
export function missingS(s: CoachState, step: DriveStep): number | null {
  const x = s.steps[s.procedure.steps.indexOf(step)]!;
  const { heldS, neededS } = stepProgress(step, x);
  return neededS === null ? null : Math.max(0, neededS - (x.begun || x.phase > 0 ? heldS : 0));
}

/** Seconds until the drive as a whole is over; null where nothing limits it. */
export function driveLeftS(s: CoachState): number | null {
  const { totalMinutes } = s.procedure;
  return totalMinutes === undefined ? null : Math.max(0, totalMinutes * 60 - (s.nowS ?? 0));
}

/** Whether a step fits into what is left of the drive. */
export function fits(s: CoachState, step: DriveStep): boolean {
  const left = driveLeftS(s);
  return left === null || (missingS(s, step) ?? 0) <= left;
}

/** Whether a monitor can still be finished: of the steps that are left, one that finishes one fits. */
export function timeLeft(s: CoachState, left: ReadonlySet<string>): boolean {
  const brings = s.procedure.steps.filter((x) => left.has(x.id) && x.finishes);
  return brings.length === 0 || brings.some((x) => fits(s, x));
}

export type { StepState };
