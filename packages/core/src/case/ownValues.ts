import type { VehicleSpec } from './case.ts';

/** Figures of one vehicle, entered with where they came from: they win over everything generic. */
export interface OwnValue {
  quantity: string;
  value: number;
  unit: string;
}

/** What the tightening torque of a part is called among a vehicle's own figures, N·m. */
export const torqueOf = (part: string) => `Torque: ${part}`;

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
