import { unixOf } from '../../time/index.ts';
import { type Figure, figure, type Said, said } from '../../units/index.ts';
import type { BeforeCondition, DriveProcedure } from './format.ts';
import { CONDITION_UNIT } from './format.ts';
import { inUnit, plainUnit } from './units.ts';

/** The car before a start, as far as it is known. Times ISO 8601. */
export interface CarState {
  engineOffSince?: string | null;
  /** Key-on of the drive that is looked at. */
  startedAt?: string;
  coolantC?: number;
  intakeC?: number;
  ambientC?: number;
  altitudeM?: number;
  fuelPct?: number;
  tankL?: number;
  consumptionLPer100Km?: number;
  lamp?: 'on' | 'off';
  codes?: string[];
  batteryV?: number;
  /** Monitors that are not complete. */
  incomplete?: string[];
}

/** A condition before the start with the figure it was held against. */
export interface ConditionMet {
  id: BeforeCondition['id'];
  state: 'met' | 'not-met' | 'unknown';
  value: number | string | null;
  unit: string | null;
  why: Said;
}

/** Hours between two ISO times; undefined where one of them is none. */
export function hoursBetween(from: string, to: string): number | undefined {
  const [a, b] = [unixOf(from), unixOf(to)];
  return a === null || b === null ? undefined : (b - a) / 3600;
}

export const NAMES: Readonly<Record<BeforeCondition['id'], string>> = {
  soak: 'Soak',
  'coolant-start': 'Coolant at the start',
  'coolant-to-air': 'Coolant above intake air',
  ambient: 'Outside air',
  intake: 'Intake air',
  altitude: 'Altitude',
  'fuel-level': 'Fuel level',
  lamp: 'Lamp',
  codes: 'Codes',
  battery: 'Battery',
};

/** Codes of the car that a condition is about. */
export function codesAgainst(c: BeforeCondition, codes: readonly string[]): string[] {
  return codes.filter((code) => !c.codes || c.codes.some((start) => code.startsWith(start)));
}

/** What the car has for a condition, in the unit of its bounds; undefined where it is not known. */
export function carValue(c: BeforeCondition, car: CarState): number | undefined {
  const own = (() => {
    switch (c.id) {
      case 'soak':
        return car.engineOffSince && car.startedAt ? hoursBetween(car.engineOffSince, car.startedAt) : undefined;
      case 'coolant-start':
        return car.coolantC;
      case 'coolant-to-air':
        return car.coolantC === undefined || car.intakeC === undefined ? undefined : car.coolantC - car.intakeC;
      case 'ambient':
        return car.ambientC;
      case 'intake':
        return car.intakeC;
      case 'altitude':
        return car.altitudeM;
      case 'fuel-level':
        return car.fuelPct;
      case 'battery':
        return car.batteryV;
      default:
        return undefined;
    }
  })();
  const unit = CONDITION_UNIT[c.id];
  return own === undefined || !Number.isFinite(own) || !unit || !c.unit
    ? undefined
    : inUnit(own, unit, c.unit, c.id === 'coolant-to-air');
}

/** How far a value lies outside the bounds: negative below, positive above, 0 inside. */
export function beyond(v: number, { low, high }: { low?: number; high?: number }): number {
  // What was converted is not held against its last digits.
  const slack = 1e-6 * Math.max(1, Math.abs(v));
  if (low !== undefined && v < low - slack) return v - low;
  if (high !== undefined && v > high + slack) return v - high;
  return 0;
}

const tenth = (v: number) => Math.round(v * 10) / 10;

/** A figure of a condition or a band, to the tenth. */
export function tenths(values: number | readonly number[], c: { id?: string; unit?: string }): Figure {
  const list = typeof values === 'number' ? [values] : values;
  return figure(list.map(tenth), plainUnit(c.unit ?? ''), undefined, {
    between: ' to ',
    ...(c.id === 'coolant-to-air' ? { difference: true as const } : {}),
  });
}

/** What a condition or a band asks for; empty where it bounds nothing. */
export function boundsText(c: { id?: string; low?: number; high?: number; unit?: string }): Said {
  if (c.low !== undefined && c.high !== undefined) return said`${tenths([c.low, c.high], c)}`;
  if (c.low !== undefined) return said`at least ${tenths(c.low, c)}`;
  return c.high !== undefined ? said`at most ${tenths(c.high, c)}` : '';
}

function hours(h: number): string {
  const minutes = Math.round(h * 60);
  if (minutes < 60) return `${minutes} minutes`;
  return minutes % 60 === 0 ? `${minutes / 60} h` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

/** Every condition before the start, held against what is known of the car. */
export function conditionsMet(p: DriveProcedure, car: CarState): ConditionMet[] {
  return p.before.map((c): ConditionMet => {
    const name = NAMES[c.id];
    if (c.id === 'lamp') {
      if (car.lamp === undefined)
        return { id: c.id, state: 'unknown', value: null, unit: null, why: 'Lamp not known.' };
      const off = car.lamp === 'off';
      return { id: c.id, state: off ? 'met' : 'not-met', value: car.lamp, unit: null, why: `The lamp is ${car.lamp}.` };
    }
    if (c.id === 'codes') {
      if (!car.codes) return { id: c.id, state: 'unknown', value: null, unit: null, why: 'Codes not read.' };
      const against = codesAgainst(c, car.codes);
      return {
        id: c.id,
        state: against.length === 0 ? 'met' : 'not-met',
        value: against.join(', ') || 'none',
        unit: null,
        why: against.length === 0 ? 'No code that stands against it.' : `${against.join(', ')} must be gone first.`,
      };
    }
    const v = carValue(c, car);
    const unit = c.unit ?? null;
    if (v === undefined)
      return {
        id: c.id,
        state: 'unknown',
        value: null,
        unit,
        why: said`${name} not known; asked for ${boundsText(c)}.`,
      };
    const off = beyond(v, c);
    const value = Math.round(v * 100) / 100;
    if (off === 0)
      return { id: c.id, state: 'met', value, unit, why: said`${name} ${tenths(v, c)}: ${boundsText(c)}.` };
    const short = c.id === 'soak' && off < 0 ? ` It was ${hours(inUnit(-off, c.unit!, 'h'))} short.` : '';
    return {
      id: c.id,
      state: 'not-met',
      value,
      unit,
      why: said`${name} ${tenths(v, c)} is ${off < 0 ? 'under' : 'over'} ${tenths(off < 0 ? c.low! : c.high!, c)}.${short}`,
    };
  });
}
