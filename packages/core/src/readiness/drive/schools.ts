import { type BeforeCondition, type DriveProcedure } from './format.ts';
import { inUnit } from './units.ts';

/** Where procedures ask for different things before a start, and what suits all of them. */
export interface SharedCondition {
  id: BeforeCondition['id'];
  unit: string;
  /** What each asks for, in that unit; null is open. */
  asked: { procedure: string; low: number | null; high: number | null }[];
  low: number | null;
  high: number | null;
  /** No figure suits all of them. */
  none: boolean;
}

/** Conditions that two or more procedures bound differently, with their intersection in the first one's unit. */
export function sharedConditions(procedures: readonly DriveProcedure[]): SharedCondition[] {
  const out: SharedCondition[] = [];
  for (const id of new Set(procedures.flatMap((p) => p.before.map((c) => c.id)))) {
    const bounded = procedures.flatMap((p) =>
      p.before.filter((c) => c.id === id && c.unit !== undefined).map((c) => ({ procedure: p.id, c })),
    );
    const unit = bounded[0]?.c.unit;
    if (unit === undefined || bounded.length < 2) continue;
    const difference = id === 'coolant-to-air';
    const asked = bounded.map(({ procedure, c }) => ({
      procedure,
      low: c.low === undefined ? null : inUnit(c.low, c.unit!, unit, difference),
      high: c.high === undefined ? null : inUnit(c.high, c.unit!, unit, difference),
    }));
    const lows = asked.flatMap((a) => (a.low === null ? [] : [a.low]));
    const highs = asked.flatMap((a) => (a.high === null ? [] : [a.high]));
    if (new Set(asked.map((a) => `${a.low} ${a.high}`)).size < 2) continue;
    const low = lows.length > 0 ? Math.max(...lows) : null;
    const high = highs.length > 0 ? Math.min(...highs) : null;
    out.push({ id, unit, asked, low, high, none: low !== null && high !== null && low > high });
  }
  return out;
}

/** What people say beyond figures, and what suits both. Common practice, no source. */
export const SCHOOLS: readonly { about: string; one: string; other: string; both: string }[] = [
  {
    about: 'Cruise control',
    one: 'it holds a steady speed well enough',
    other: 'a stubborn catalyst monitor wants the pedal held by foot',
    both: 'by foot, the pedal still',
  },
  {
    about: 'Soak',
    one: 'by the clock, eight hours',
    other: 'by temperature: coolant close to the intake air at key-on',
    both: 'wait for both',
  },
];
