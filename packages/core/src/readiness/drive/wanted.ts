import { MONITORS } from '../../obd/index.ts';
import { type Said, said } from '../../units/index.ts';
import { type CarState, conditionsMet } from './conditions.ts';
import type { BeforeCondition, DriveProcedure, DriveStep } from './format.ts';
import { incompleteOf } from './monitors.ts';

/** Steps that a car with these incomplete monitors still needs, with those that come before them; all where unknown. */
export function neededSteps(p: DriveProcedure, incomplete: readonly string[] | null): Set<string> {
  const all = new Set(p.steps.map((s) => s.id));
  if (!incomplete || incomplete.length === 0) return all;
  const out = new Set<string>();
  const add = (s: DriveStep) => {
    out.add(s.id);
    for (const a of s.after ?? []) add(p.steps.find((x) => x.id === a)!);
  };
  for (const s of p.steps) if (!s.finishes || s.finishes.some((m) => incomplete.includes(m))) add(s);
  return out.size > 0 ? out : all;
}

/** Conditions before the start that a needed step depends on. */
export function wantedConditions(p: DriveProcedure, incomplete: readonly string[] | null): BeforeCondition[] {
  const needed = neededSteps(p, incomplete);
  return p.before.filter((c) => !c.steps || c.steps.some((s) => needed.has(s)));
}

/** Steps that cannot succeed while these conditions do not hold, with those that come after them. */
export function impossibleSteps(p: DriveProcedure, unmet: readonly BeforeCondition[]): Set<string> {
  const out = new Set<string>();
  for (const step of p.steps)
    if (unmet.some((c) => !c.steps || c.steps.includes(step.id)) || (step.after ?? []).some((a) => out.has(a)))
      out.add(step.id);
  return out;
}

/** Conditions before the start that are known not to hold for this car. */
export function unmetConditions(p: DriveProcedure, car: CarState): BeforeCondition[] {
  const met = conditionsMet(p, car);
  return p.before.filter((_, i) => met[i]!.state === 'not-met');
}

/**
 * The steps to be driven: those that are needed and can succeed; all that are needed where none can and it was started
 * all the same.
 */
export function wantedSteps(p: DriveProcedure, car: CarState, open: readonly string[] | null): Set<string> {
  const needed = neededSteps(p, open);
  const cannot = impossibleSteps(p, unmetConditions(p, car));
  const can = new Set([...needed].filter((id) => !cannot.has(id)));
  const brings = p.steps.some((s) => can.has(s.id) && s.finishes);
  return brings ? can : needed;
}

/** A step in words: what it is driven for, else what is done in it. */
export function stepWords(p: DriveProcedure, id: string): Said {
  const step = p.steps.find((s) => s.id === id);
  if (!step) return id.replaceAll('-', ' ');
  const monitors = (step.finishes ?? []).map((m) => MONITORS[m]);
  return monitors.length > 0 ? `the step for ${listed(monitors)}` : said`“${withoutStop(step.says)}”`;
}

/** Where it is plain words: a figure may stand at the end of others. */
const withoutStop = (s: Said): Said => (typeof s === 'string' ? s.replace(/\.$/, '') : s);

const listed = (names: readonly string[]) =>
  names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;

/** Height of the standard atmosphere at a pressure, m (ISO 2533, troposphere); weather moves it by some 200 m. */
const altitudeOf = (baroKPa: number) => Math.round(44_330.8 * (1 - (baroKPa / 101.325) ** 0.190_263));

/** What a vehicle says of itself at a moment, as the start of a plan or a drive; values in the units of the link. */
export function carFromValues(values: Readonly<Record<string, number | string>>): CarState {
  const put = (key: keyof CarState, channel: string, f = (v: number) => v) => {
    const v = values[channel];
    return typeof v === 'number' ? { [key]: f(v) } : {};
  };
  const status = values.monitorStatus;
  const incomplete = typeof status === 'string' ? incompleteOf(status) : null;
  const byte = incomplete === null ? Number.NaN : Number.parseInt((status as string).slice(0, 2), 16);
  const count = byte & 0x7f;
  return {
    ...put('coolantC', 'ect'),
    ...put('intakeC', 'iat'),
    ...put('ambientC', 'ambient'),
    ...put('fuelPct', 'fuelLevel'),
    ...put('batteryV', 'vbat'),
    ...(Number.isNaN(byte) ? {} : { lamp: byte & 0x80 ? ('on' as const) : ('off' as const) }),
    ...(Number.isNaN(byte) ? {} : { codes: count === 0 ? [] : [`${count} stored`] }),
    ...put('altitudeM', 'baro', altitudeOf),
  };
}
