import { type PlanCondition } from '@just-balance/core/readiness';
import { metricOf, shown, type UnitSystem } from '@just-balance/core/units';
import { format } from 'date-fns';

type Numbers = 'coolantC' | 'intakeC' | 'altitudeM' | 'fuelPct' | 'tankL' | 'consumptionLPer100Km' | 'batteryV';

export interface PlanField {
  key: Numbers;
  label: string;
  unit: string;
  low: number;
  high: number;
  role?: 'tank';
}

export const FIELDS: readonly PlanField[] = [
  { key: 'coolantC', label: 'Coolant now', unit: '°C', low: -60, high: 250 },
  { key: 'intakeC', label: 'Intake air now', unit: '°C', low: -60, high: 120 },
  { key: 'altitudeM', label: 'Altitude', unit: 'm', low: -500, high: 9000 },
  { key: 'fuelPct', label: 'Fuel in the tank', unit: '%', low: 0, high: 100 },
  { key: 'tankL', label: 'Tank holds', unit: 'L', low: 1, high: 2000, role: 'tank' },
  { key: 'batteryV', label: 'Battery at rest', unit: 'V', low: 0, high: 60 },
  { key: 'consumptionLPer100Km', label: 'Consumption', unit: 'L/100 km', low: 0.1, high: 200 },
];

export const STATE: Readonly<Record<PlanCondition['state'] | 'not-needed', { text: string; tag: string }>> = {
  'not-needed': { text: 'not needed', tag: 'badge-outline border-dashed' },
  holds: { text: '✓ holds', tag: 'badge-success' },
  'not-yet': { text: '… not yet', tag: 'badge-outline' },
  never: { text: '✗ not by waiting', tag: 'badge-warning' },
  unknown: { text: '? not known', tag: 'badge-outline border-dashed' },
};

export const day = (iso: string) => format(new Date(iso), 'EEE d MMM, HH:mm');

/** Miles a gallon goes at one litre per 100 km: 100 / 1.609344 miles, 3.785411784 L (NIST SP 811). Its own inverse. */
const MPG = (100 / 1.609_344) * 3.785_411_784;

/** A field as it is shown and typed: consumption is miles per gallon in the US, which runs the other way. */
export function planUnit(
  f: PlanField,
  units: UnitSystem,
): { unit: string; shown(v: number): number; metric(v: number): number } {
  if (f.key === 'consumptionLPer100Km' && units === 'us')
    return { unit: 'mpg', shown: (v) => MPG / v, metric: (v) => MPG / v };
  return {
    unit: shown(0, f.unit, 1, units, f.role).unit,
    shown: (v) => shown(v, f.unit, 1, units, f.role).value,
    metric: (v) => metricOf(v, f.unit, units, f.role),
  };
}

/** Figures of a car that are true for a while only. */
export const OF_THE_MOMENT: ReadonlySet<Numbers> = new Set<Numbers>(['coolantC', 'intakeC', 'batteryV']);

/** Since when it is off, for a field of the browser's clock: as it was planned, or since it last ran. */
export function offSince(planned: string | null | undefined, ran: string | null): string {
  const last = [planned, ran].flatMap((t) => t ?? []).reduce((a, b) => (a > b ? a : b), '');
  return last === '' ? '' : format(new Date(last), "yyyy-MM-dd'T'HH:mm");
}
