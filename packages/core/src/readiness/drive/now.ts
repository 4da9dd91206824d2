import type { MonitorId } from '../../obd/index.ts';
import type { CoachState, Lapse } from './coach.ts';
import { driveLeftS, fits, missingS, STANDING, timeLeft } from './coach.ts';
import type { CarState } from './conditions.ts';
import { CHANNEL_UNIT, type DriveStep, type Stretch, stretchesOf } from './format.ts';
import { type LeftOut, leftOutOf } from './onTheWay.ts';
import { inUnit } from './units.ts';
import { wantedSteps } from './wanted.ts';

/** What the passenger is told at this moment. Bounds and value in the channel's own unit. */
export interface CoachNow {
  /** `no-time`: what is left of the drive is shorter than any step that is left. */
  state: 'driving' | 'all-done' | 'over' | 'no-time';
  step: DriveStep | null;
  next: DriveStep | null;
  channel: string | null;
  low: number | null;
  high: number | null;
  unit: string | null;
  value: number | null;
  side: 'inside' | 'under' | 'over' | 'unknown';
  /** Seconds still to be held; null where something else ends the step. */
  leftS: number | null;
  /** What else ends it: the bound and the figure now, in the channel's own unit. */
  until: { channel: string; bound: number; value: number | null; unit: string } | null;
  /** Seconds outside so far, and how many may pass before the count is lost. */
  outsideS: number;
  graceS: number;
  /** What the step in hand lost, s, and why: its count began anew, or went back. */
  lost: { heldS: number; lapse: Lapse } | null;
  /** The vehicle is to stand; it rolls, or the pedal is not where it should be. */
  standing: boolean;
  /** Until the drive as a whole is over; null where nothing limits it. */
  driveLeftS: number | null;
  /** Steps that bring a monitor and can no longer be driven in this drive; another is in hand meanwhile. */
  leftOut: readonly LeftOut[];
}

const NOTHING = {
  step: null,
  next: null,
  channel: null,
  low: null,
  high: null,
  unit: null,
  value: null,
  side: 'unknown',
  leftS: null,
  until: null,
  outsideS: 0,
  graceS: 0,
  lost: null,
  standing: false,
  driveLeftS: null,
  leftOut: [],
} as const;

/**
 * The step in hand and how it goes.
 *
 * @param open Monitors that were not complete before the drive; null: not known.
 * @param car The car at key-on: a step that it spoils is not asked for while another can be driven.
 */
export function coachNow(s: CoachState, open: readonly MonitorId[] | null, car: CarState = {}): CoachNow {
  const p = s.procedure;
  const needed = wantedSteps(p, car, open ?? s.before);
  const done = new Set(p.steps.filter((_, i) => s.steps[i]!.done).map((x) => x.id));
  const left = p.steps.filter((x) => needed.has(x.id) && !done.has(x.id));
  if (left.length === 0 || nothingOpen(s, open)) return { ...NOTHING, state: 'all-done' };
  if (s.overAtS !== null) return { ...NOTHING, state: 'over' };
  // What only leads to a step that no longer fits brings nothing.
  if (!timeLeft(s, new Set(left.map((x) => x.id)))) return { ...NOTHING, state: 'no-time', driveLeftS: driveLeftS(s) };
  const out = leftOutOf(s, left, car);
  const gone = new Set(out.map((x) => x.step));
  const still = left.filter((x) => !gone.has(x));
  // A condition that is lost may come back: where nothing else brings anything, its step stays in hand.
  const brings = still.some((x) => x.finishes);
  const fit = brings ? still : left.filter((x) => fits(s, x));
  const [step, next] = [fit.find((x) => (x.after ?? []).every((a) => done.has(a))) ?? fit[0]!, fit[1] ?? null];
  const x = s.steps[p.steps.indexOf(step)]!;
  const stretch = stretchesOf(step)[x.phase]!;
  const rolls = stretch.standing === true && (s.last.vss?.v ?? 0) > STANDING.high;
  // To stand comes first: what the pedal should do is said once it does.
  const band = rolls ? null : (stretch.hold?.find((b) => !b.ifKnown) ?? null);
  const channel = band?.channel ?? (stretch.standing ? 'vss' : null);
  const unit = channel === null ? null : (CHANNEL_UNIT[channel] ?? band?.unit ?? null);
  const own = (v: number | undefined) => (v === undefined || !band || !unit ? null : inUnit(v, band.unit, unit));
  const low = band ? own(band.low) : null;
  const high = band ? own(band.high) : channel === null ? null : STANDING.high;
  const seen = channel === null ? undefined : s.last[channel];
  const fresh = seen !== undefined && s.nowS !== null && s.nowS - seen.t <= 5;
  return {
    state: 'driving',
    step,
    next: next === step ? (fit[2] ?? null) : next,
    channel,
    low,
    high,
    unit,
    value: fresh ? seen.v : null,
    side: !fresh
      ? 'unknown'
      : low !== null && seen.v < low - 1e-6
        ? 'under'
        : high !== null && seen.v > high + 1e-6
          ? 'over'
          : 'inside',
    until: awaited(stretch, s),
    leftS: missingS(s, step),
    outsideS: x.outside && s.nowS !== null ? Math.max(0, s.nowS - x.outside.atS) : 0,
    graceS: step.graceSeconds ?? 0,
    lost: x.lost,
    standing: stretch.standing === true,
    driveLeftS: driveLeftS(s),
    leftOut: out.filter((x) => x.step.finishes),
  };
}

function awaited(stretch: Stretch, s: CoachState): CoachNow['until'] {
  const b = stretch.until;
  const bound = b?.low ?? b?.high;
  if (!b || bound === undefined) return null;
  const unit = CHANNEL_UNIT[b.channel] ?? b.unit;
  return { channel: b.channel, bound: inUnit(bound, b.unit, unit), value: s.last[b.channel]?.v ?? null, unit };
}

/** Of the monitors that were open and that this drive can finish, the vehicle says that all are complete. */
function nothingOpen(s: CoachState, open: readonly MonitorId[] | null): boolean {
  const before = open ?? s.before;
  if (!before || !s.after) return false;
  const finishes = new Set(s.procedure.steps.flatMap((x) => x.finishes ?? []));
  const mine = before.filter((m) => finishes.has(m));
  return mine.length > 0 && mine.every((m) => !s.after!.includes(m));
}
