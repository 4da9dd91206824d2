import { type Said, said } from '../../units/index.ts';
import { type CoachState, driveLeftS, fits, missingS } from './coach.ts';
import { beyond, boundsText, type CarState, NAMES, tenths } from './conditions.ts';
import { type BeforeCondition, CONDITION_UNIT, type DriveStep } from './format.ts';
import { inUnit } from './units.ts';
import { carFromValues, impossibleSteps, unmetConditions } from './wanted.ts';

/**
 * What a condition before the start may stray beyond its bounds on the way before it counts as lost: a tank sloshes, a hill
 * is crossed, a sensor stands in the wind. In the unit of `CONDITION_UNIT`. [house]
 */
const STRAYS: Readonly<Partial<Record<BeforeCondition['id'], number>>> = { ambient: 2, altitude: 300, 'fuel-level': 5 };
/** Of the car on the way. */
const FIGURE = { ambient: 'ambientC', altitude: 'altitudeM', 'fuel-level': 'fuelPct' } as const;

/** A condition that held at the start and holds no longer, with its figure now. */
export interface LostCondition {
  condition: BeforeCondition;
  why: Said;
}

/**
 * Conditions that the drive has driven out of: another height, colder air, an emptier tank.
 *
 * @param car The car at key-on: what did not hold then is said already.
 */
export function lostConditions(s: CoachState, car: CarState): LostCondition[] {
  const against = new Set(unmetConditions(s.procedure, car));
  const heard = carFromValues(Object.fromEntries(Object.entries(s.last).map(([c, { v }]) => [c, v])));
  return s.procedure.before.flatMap((c) => {
    const strays = STRAYS[c.id];
    const own = heard[FIGURE[c.id as keyof typeof FIGURE]];
    if (against.has(c) || strays === undefined || typeof own !== 'number' || !c.unit) return [];
    const unit = CONDITION_UNIT[c.id]!;
    const v = inUnit(own, unit, c.unit);
    if (Math.abs(beyond(v, c)) <= inUnit(strays, unit, c.unit, true)) return [];
    return [{ condition: c, why: said`${NAMES[c.id]} ${tenths(v, c)} now: ${boundsText(c)}` }];
  });
}

const minutes = (s: number) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}`;

/** A step that was to be driven and cannot be in this drive any more. */
export interface LeftOut {
  step: DriveStep;
  why: Said;
}

/** Of the steps that are left, those that no longer fit or whose condition is lost; the others are driven meanwhile. */
export function leftOutOf(s: CoachState, left: readonly DriveStep[], car: CarState): LeftOut[] {
  const lost = lostConditions(s, car);
  return left.flatMap((step): LeftOut[] => {
    const of = lost.find((l) => impossibleSteps(s.procedure, [l.condition]).has(step.id));
    if (of) return [{ step, why: of.why }];
    if (fits(s, step)) return [];
    return [{ step, why: `${minutes(missingS(s, step)!)} needed, ${minutes(driveLeftS(s)!)} left` }];
  });
}
