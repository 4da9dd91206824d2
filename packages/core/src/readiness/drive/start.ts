import type { MonitorId } from '../../obd/index.ts';
import { isoOf, unixOf } from '../../time/index.ts';
import type { Said } from '../../units/index.ts';
import { type CarState, type ConditionMet, conditionsMet, NAMES } from './conditions.ts';
import type { DriveProcedure } from './format.ts';
import { inUnit } from './units.ts';
import { carFromValues, impossibleSteps, neededSteps, wantedConditions } from './wanted.ts';

/** A condition before the start, held against the car at key-on. */
export interface StartRow {
  id: ConditionMet['id'];
  name: string;
  state: 'go' | 'no-go' | 'unknown';
  why: Said;
  /** Monitors that cannot complete in this drive while it does not hold. */
  spoils: MonitorId[];
}

/** Go or no-go at key-on. `no-go`: something that is known does not hold; `unknown`: nothing stands against it, and not all was looked at. */
export interface StartCheck {
  verdict: 'go' | 'no-go' | 'unknown';
  rows: StartRow[];
}

const STATE = { met: 'go', 'not-met': 'no-go', unknown: 'unknown' } as const;

/**
 * Every condition that a wanted step of the procedure needs, held against the car.
 *
 * @param open Monitors that are not complete; null: not known, every step is wanted.
 */
export function startCheck(p: DriveProcedure, car: CarState, open: readonly string[] | null): StartCheck {
  const needed = neededSteps(p, open);
  const before = wantedConditions(p, open);
  const met = conditionsMet({ ...p, before }, car);
  const rows = before.map((c, i): StartRow => {
    const spoilt = impossibleSteps(p, [c]);
    const spoils = p.steps.flatMap((s) => (needed.has(s.id) && spoilt.has(s.id) ? (s.finishes ?? []) : []));
    return {
      id: c.id,
      name: NAMES[c.id],
      state: STATE[met[i]!.state],
      why: met[i]!.why,
      spoils: [...new Set(spoils)].filter((m) => !open || open.length === 0 || open.includes(m)),
    };
  });
  const is = (state: StartRow['state']) => rows.some((r) => r.state === state);
  return { verdict: is('no-go') ? 'no-go' : is('unknown') ? 'unknown' : 'go', rows };
}

/** What is known of a car when the drive is about to begin. */
export interface KeyOn {
  /** Now, ISO 8601. */
  at: string;
  /** As it was planned or typed; older than what the car says of itself. */
  planned: CarState;
  /** The newest figures of the link, in its units, by channel. */
  values: Readonly<Record<string, number | string>>;
  /** Moments at which the engine is known to have run, ISO 8601. */
  ranAt: readonly string[];
  /** Engine speed as the link heard it lately, rpm; moments in s of the Unix clock, rising. */
  rpm: readonly { t: number; v: number }[];
}

/** The car at key-on: what it says of itself beats what was typed, but for the height, which weather moves. */
export function carAtKeyOn(p: DriveProcedure, { at, planned, values, ranAt, rpm }: KeyOn): CarState {
  const { altitudeM, codes: counted, ...said } = carFromValues(values);
  const heard = keyOnHeard(rpm);
  const startedAt = heard.startedS === null ? at : isoOf(heard.startedS);
  const ran = [...ranAt, ...(heard.offS === null ? [] : [isoOf(heard.offS)])].flatMap((t) => unixOf(t) ?? []);
  const started = unixOf(startedAt)!;
  const lastRan = Math.max(...ran.filter((t) => t <= started), Number.NEGATIVE_INFINITY);
  const typed = planned.engineOffSince ? unixOf(planned.engineOffSince) : null;
  const off = engineOff(typed, lastRan, started, soakHours(p));
  // Temperatures and volts were of the moment at which it was planned.
  const { engineOffSince: _, codes: named, coolantC: _c, intakeC: _i, batteryV: _b, ...rest } = planned;
  // The link counts codes, a record names them: how many there are says nothing of which.
  const codes = counted?.length === 0 ? [] : (named ?? (namesCodes(p) ? undefined : counted));
  return {
    ...(altitudeM === undefined ? {} : { altitudeM }),
    ...rest,
    ...said,
    ...(codes ? { codes } : {}),
    startedAt,
    ...(off === null ? {} : { engineOffSince: isoOf(off) }),
  };
}

const namesCodes = (p: DriveProcedure) => p.before.some((c) => c.id === 'codes' && c.codes);

/** The soak a procedure asks for, h; 0 where it asks for none. */
const soakHours = (p: DriveProcedure) =>
  p.before.reduce(
    (h, c) => (c.id === 'soak' && c.low !== undefined ? Math.max(h, inUnit(c.low, c.unit ?? 'h', 'h')) : h),
    0,
  );

/** When it was switched off, s. A run after what was typed ends the soak; a run alone proves only one that is too short. */
function engineOff(typed: number | null, lastRan: number, started: number, soakH: number): number | null {
  if (typed !== null) return Math.max(typed, lastRan);
  return started - lastRan < soakH * 3600 ? lastRan : null;
}

/** When the engine that runs now was started, and when it had been switched off before; null where the link did not hear it. */
function keyOnHeard(rpm: KeyOn['rpm']): { startedS: number | null; offS: number | null } {
  let i = rpm.length - 1;
  while (i >= 0 && rpm[i]!.v > 0) i--;
  // It runs since longer than the link remembers: neither is known.
  if (i < 0) return { startedS: null, offS: null };
  const startedS = i < rpm.length - 1 ? rpm[i + 1]!.t : null;
  while (i >= 0 && !(rpm[i]!.v > 0)) i--;
  return { startedS, offS: i < 0 ? null : rpm[i]!.t };
}
