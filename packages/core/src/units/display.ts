import { convert, type Unit } from './convert.ts';

/** `us-gps`: US, with airflow in g/s, as many US tools show it. */
export const UNIT_SYSTEMS = ['metric', 'us', 'us-gps'] as const;
/** Which units a person reads. */
export type UnitSystem = (typeof UNIT_SYSTEMS)[number];

/** Which unit a US reader expects for a metric one, and the digits shown. Common practice, no source. */
const US_TWIN: Partial<Record<Unit, { unit: Unit; digits: number }>> = {
  kPa: { unit: 'inHg', digits: 1 },
  '°C': { unit: '°F', digits: 0 },
  'g/s': { unit: 'lb/min', digits: 2 },
  'km/h': { unit: 'mph', digits: 0 },
  km: { unit: 'mi', digits: 0 },
  m: { unit: 'ft', digits: 0 },
  N·m: { unit: 'lbf·ft', digits: 1 },
  mm: { unit: 'in', digits: 3 },
  cm: { unit: 'in', digits: 1 },
  mL: { unit: 'fl oz', digits: 1 },
  'mm²': { unit: 'in²', digits: 4 },
};

/** Fuel pressure and boost are read in psi, manifold pressure in inHg; a tank holds gallons. Common practice, no source. */
const ROLE_TWIN = {
  fuel: { unit: 'psi', digits: 1 },
  boost: { unit: 'psi', digits: 1 },
  tank: { unit: 'gal', digits: 1 },
} as const satisfies Record<string, { unit: Unit; digits: number }>;

/** What a US figure is in metric, and the digits shown. */
const METRIC_TWIN: Readonly<Record<string, { unit: Unit; digits: number }>> = {
  psi: { unit: 'kPa', digits: 0 },
  inHg: { unit: 'kPa', digits: 0 },
  '°F': { unit: '°C', digits: 0 },
  'lb/min': { unit: 'g/s', digits: 1 },
  mph: { unit: 'km/h', digits: 0 },
  mi: { unit: 'km', digits: 0 },
  ft: { unit: 'm', digits: 0 },
  lbf·ft: { unit: 'N·m', digits: 1 },
};

/** What a figure is of, where its unit alone does not say how it is read. */
export type Role = keyof typeof ROLE_TWIN;
/** What a quantity is of, where that decides its unit. */
export const ROLES = Object.keys(ROLE_TWIN) as readonly Role[];

/** A figure in the unit it is shown in, with its decimals. */
export interface Shown {
  value: number;
  unit: string;
  digits: number;
}

/** What a unit is shown as by a system: the unit and the digits there; undefined where it stays as it is. */
export function twinOf(unit: string, system: UnitSystem, role?: Role): { unit: Unit; digits: number } | undefined {
  if (system === 'metric') return METRIC_TWIN[unit];
  if (unit === 'g/s' && system === 'us-gps') return undefined;
  return (role && ROLE_TWIN[role]) ?? US_TWIN[unit as Unit];
}

/** A value as the chosen unit system shows it. Units without a twin there pass through. */
export function shown(value: number, unit: string, digits: number, system: UnitSystem, role?: Role): Shown {
  const twin = twinOf(unit, system, role);
  return twin ? { value: convert(value, unit as Unit, twin.unit), ...twin } : { value, unit, digits };
}

/** What a reader typed in the chosen unit system, in the metric unit; the inverse of `shown`. */
export function metricOf(value: number, unit: string, system: UnitSystem, role?: Role): number {
  const twin = system === 'metric' ? undefined : twinOf(unit, system, role);
  return twin ? convert(value, twin.unit, unit as Unit) : value;
}
