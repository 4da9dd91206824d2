import type { CoachState } from './coach.ts';
import { stepProgress } from './coach.ts';
import { CHANNEL_UNIT, type DriveStep, type Stretch, stretchesOf } from './format.ts';
import { inUnit } from './units.ts';

/** What the passenger is told at this moment. Bounds and value in the channel's own unit. */
export interface CoachNow {
  state: 'driving' | 'all-done' | 'over';
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
  /** Until the drive as a whole is over; null where nothing limits it. */
  driveLeftS: number | null;
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
  driveLeftS: null,
} as const;

/** The step in hand and how it goes; `needed`: ids of the steps that are wanted at all. */
export function coachNow(s: CoachState, needed: ReadonlySet<string>): CoachNow {
  const done = new Set(s.procedure.steps.filter((_, i) => s.steps[i]!.done).map((x) => x.id));
  const left = s.procedure.steps.filter((x) => needed.has(x.id) && !done.has(x.id));
  if (left.length === 0) return { ...NOTHING, state: 'all-done' };
  if (s.overAtS !== null) return { ...NOTHING, state: 'over' };
  const [step, next] = [left.find((x) => (x.after ?? []).every((a) => done.has(a))) ?? left[0]!, left[1] ?? null];
  const x = s.steps[s.procedure.steps.indexOf(step)]!;
  const stretch = stretchesOf(step)[x.phase]!;
  const band = stretch.hold?.find((b) => !b.ifKnown) ?? null;
  const channel = band?.channel ?? (stretch.standing ? 'vss' : null);
  const unit = channel === null ? null : (CHANNEL_UNIT[channel] ?? band?.unit ?? null);
  const own = (v: number | undefined) => (v === undefined || !band || !unit ? null : inUnit(v, band.unit, unit));
  const low = band ? own(band.low) : null;
  const high = band ? own(band.high) : channel === null ? null : 0.5;
  const seen = channel === null ? undefined : s.last[channel];
  const fresh = seen !== undefined && s.nowS !== null && s.nowS - seen.t <= 5;
  const { heldS, neededS } = stepProgress(step, x);
  return {
    state: 'driving',
    step,
    next: next === step ? (left[2] ?? null) : next,
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
    leftS: neededS === null ? null : Math.max(0, neededS - (x.begun || x.phase > 0 ? heldS : 0)),
    outsideS: x.outside && s.nowS !== null ? Math.max(0, s.nowS - x.outside.atS) : 0,
    graceS: step.graceSeconds ?? 0,
    driveLeftS:
      s.procedure.totalMinutes === undefined ? null : Math.max(0, s.procedure.totalMinutes * 60 - (s.nowS ?? 0)),
  };
}

function awaited(stretch: Stretch, s: CoachState): CoachNow['until'] {
  const b = stretch.until;
  const bound = b?.low ?? b?.high;
  if (!b || bound === undefined) return null;
  const unit = CHANNEL_UNIT[b.channel] ?? b.unit;
  return { channel: b.channel, bound: inUnit(bound, b.unit, unit), value: s.last[b.channel]?.v ?? null, unit };
}
