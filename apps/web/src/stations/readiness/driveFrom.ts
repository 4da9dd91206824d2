import { type PlanCondition } from '@just-balance/core/readiness';
import { format } from 'date-fns';

type Numbers = 'coolantC' | 'intakeC' | 'altitudeM' | 'fuelPct' | 'tankL' | 'consumptionLPer100Km' | 'batteryV';

export const FIELDS: readonly { key: Numbers; label: string; unit: string; low: number; high: number }[] = [
  { key: 'coolantC', label: 'Coolant now', unit: '°C', low: -60, high: 250 },
  { key: 'intakeC', label: 'Intake air now', unit: '°C', low: -60, high: 120 },
  { key: 'altitudeM', label: 'Altitude', unit: 'm', low: -500, high: 9000 },
  { key: 'fuelPct', label: 'Fuel in the tank', unit: '%', low: 0, high: 100 },
  { key: 'tankL', label: 'Tank holds', unit: 'L', low: 1, high: 2000 },
  { key: 'batteryV', label: 'Battery at rest', unit: 'V', low: 0, high: 60 },
  { key: 'consumptionLPer100Km', label: 'Consumption', unit: 'L/100 km', low: 0.1, high: 200 },
];

export const STATE: Readonly<Record<PlanCondition['state'], { text: string; tag: string }>> = {
  holds: { text: '✓ holds', tag: 'badge-success' },
  'not-yet': { text: '… not yet', tag: 'badge-outline' },
  never: { text: '✗ not by waiting', tag: 'badge-warning' },
  unknown: { text: '? not known', tag: 'badge-outline border-dashed' },
};

export const day = (iso: string) => format(new Date(iso), 'EEE d MMM, HH:mm');

/** Figures of a car that are true for a while only. */
export const OF_THE_MOMENT: ReadonlySet<Numbers> = new Set<Numbers>(['coolantC', 'intakeC', 'batteryV']);

/** Since when it is off, for a field of the browser's clock: as it was planned, or since it last ran. */
export function offSince(planned: string | null | undefined, ran: string | null): string {
  const last = [planned, ran].flatMap((t) => t ?? []).reduce((a, b) => (a > b ? a : b), '');
  return last === '' ? '' : format(new Date(last), "yyyy-MM-dd'T'HH:mm");
}
