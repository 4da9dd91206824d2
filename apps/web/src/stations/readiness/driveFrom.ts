import { type JobView } from '@just-balance/contract';
import { type CarState, type PlanCondition } from '@just-balance/core/readiness';
import { format } from 'date-fns';
import { openMonitors } from '../../job/work/drives.tsx';

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

/** What the latest record says of the car; the rest is typed. */
export function fromRecord(job: JobView): CarState {
  const record = job.records.at(-1);
  const open = openMonitors(record);
  return {
    ...(record ? { lamp: record.lampOn ? ('on' as const) : ('off' as const) } : {}),
    ...(record ? { codes: record.codes.filter((c) => c.state !== 'permanent').map((c) => c.code) } : {}),
    ...(open ? { incomplete: open } : {}),
  };
}

/** For a field of the browser's clock: local time, to the minute. */
export const localMinute = (iso: string) => format(new Date(iso), "yyyy-MM-dd'T'HH:mm");
