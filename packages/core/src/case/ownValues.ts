import type { VehicleSpec } from './case.ts';

/** Figures of one vehicle, entered with where they came from: they win over everything generic. */
export interface OwnValue {
  quantity: string;
  value: number;
  unit: string;
}

/** What the tightening torque of a part is called among a vehicle's own figures, N·m. */
export const torqueOf = (part: string) => `Torque: ${part}`;

/** What a bound of a measured quantity is called among a vehicle's own figures, in the unit of its step. */
export const limitOf = (quantity: string, side: 'low' | 'high') =>
  `${side === 'low' ? 'At least' : 'At most'}: ${quantity}`;

type Limits = NonNullable<VehicleSpec['limits']>;

/** Quantities that the judgement knows by name; any other is shown beside its step. */
export const OWN_VALUES: readonly {
  quantity: string;
  units: readonly string[];
  into: (v: OwnValue) => Partial<Limits>;
}[] = [
  {
    quantity: 'Relative throttle at hot idle, at most',
    units: ['%', '°'],
    into: (v) => ({ relativeThrottleIdle: v.value, relativeThrottleUnit: v.unit === '°' ? 'deg' : '%' }),
  },
  { quantity: 'Fuel pressure at idle', units: ['kPa'], into: (v) => ({ fuelPressureKPa: v.value }) },
];

/** A vehicle's limits with what was entered for it; the newest of a quantity stands. */
export function limitsWith(limits: Limits | undefined, values: readonly OwnValue[]): Limits | undefined {
  let out = limits;
  for (const v of values) {
    const row = OWN_VALUES.find((r) => r.quantity === v.quantity && r.units.includes(v.unit));
    if (row) out = { ...out, ...row.into(v) };
  }
  return out;
}

/** The vehicle's limit for the relative throttle at hot idle, with the one unit it may be held against; null without. */
export function throttleLimit(limits: Limits | undefined): { limit: number; unit: '°' | '%' } | null {
  const limit = limits?.relativeThrottleIdle ?? limits?.relativeThrottleIdleDeg;
  if (limit === undefined) return null;
  const inDegrees = limits?.relativeThrottleIdle === undefined || (limits.relativeThrottleUnit ?? 'deg') === 'deg';
  return { limit, unit: inDegrees ? '°' : '%' };
}

/** A pressure further than this below or above the vehicle's own is low or high; under load it may sag less. [house] */
const IDLE_SHARE = 0.08;
const LOAD_SHARE = 0.07;
/** A regulator that follows the manifold lets less stand at idle by about so much, kPa. Common practice, no source. */
const MANIFOLD_KPA = 60;

/** What a healthy fuel pressure lies between by the vehicle's own figure, kPa; null where none is known. */
export function fuelPressureLimits(
  limits: Limits | undefined,
  specKPa = limits?.fuelPressureKPa,
): { idle: { low: number; high: number }; load: { low: number; high: number }; idleKPa: number } | null {
  if (specKPa === undefined) return null;
  const idleKPa = limits?.fuelPressureReference === 'manifold' ? specKPa - MANIFOLD_KPA : specKPa;
  return {
    idle: { low: idleKPa * (1 - IDLE_SHARE), high: idleKPa * (1 + IDLE_SHARE) },
    load: { low: specKPa * (1 - LOAD_SHARE), high: specKPa * (1 + IDLE_SHARE) },
    idleKPa,
  };
}
