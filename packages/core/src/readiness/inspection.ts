import { MONITORS, type MonitorId, type MonitorStatus } from '../obd/index.ts';

/** An inspection rule: dated data with its source; local programmes decide. */
export interface InspectionRule {
  id: string;
  name: string;
  asOf: string;
  source: string;
  bands: readonly {
    fuel: 'petrol' | 'diesel';
    fromYear: number;
    toYear: number;
    allowed: number;
    only?: readonly MonitorId[];
  }[];
}

export const INSPECTION_RULES: readonly InspectionRule[] = [
  {
    id: 'us-federal',
    name: 'US federal guidance',
    asOf: '2001',
    source: 'US EPA guidance on OBD inspection (from memory); ask your local programme',
    bands: [
      { fuel: 'petrol', fromYear: 1996, toYear: 2000, allowed: 2 },
      { fuel: 'petrol', fromYear: 2001, toYear: 9999, allowed: 1 },
    ],
  },
  {
    id: 'strict-state',
    name: 'A strict state',
    asOf: 'end of 2020',
    source: 'common practice, no source; ask your local programme',
    bands: [
      { fuel: 'petrol', fromYear: 1996, toYear: 1999, allowed: 1 },
      { fuel: 'petrol', fromYear: 2000, toYear: 9999, allowed: 1, only: ['evap'] },
      { fuel: 'diesel', fromYear: 1998, toYear: 2006, allowed: 0 },
      { fuel: 'diesel', fromYear: 2007, toYear: 9999, allowed: 2 },
    ],
  },
];

export interface InspectionAnswer {
  rule: string;
  source: string;
  asOf: string;
  passes: boolean | null;
  reason: string;
}

/** What each rule says of this monitor status; `passes` null where the rule does not cover the vehicle. */
export function inspectionAnswers(
  status: MonitorStatus,
  year: number | undefined,
  fuel: 'petrol' | 'diesel',
): InspectionAnswer[] {
  const open = status.monitors.filter((m) => m.state === 'incomplete').map((m) => m.id);
  const names = open.map((id) => MONITORS[id]).join(', ');
  return INSPECTION_RULES.map((r) => {
    const base = { rule: r.name, source: r.source, asOf: r.asOf };
    if (year === undefined) return { ...base, passes: null, reason: 'model year unknown' };
    const band = r.bands.find((b) => b.fuel === fuel && year >= b.fromYear && year <= b.toYear);
    if (!band) return { ...base, passes: null, reason: 'no rule for this year and fuel' };
    if (status.lampOn) return { ...base, passes: false, reason: 'the lamp is on' };
    const counted = band.only ? open.filter((id) => !band.only!.includes(id)) : [];
    if (counted.length > 0)
      return {
        ...base,
        passes: false,
        reason: `only ${band.only!.map((id) => MONITORS[id]).join(', ')} may be open; open: ${names}`,
      };
    const passes = open.length <= band.allowed;
    return { ...base, passes, reason: open.length === 0 ? 'all complete' : `open: ${names}; ${band.allowed} allowed` };
  });
}

/** Signs that codes were cleared or the battery lost not long ago. Common practice, no source. */
export function recentlyCleared(warmups: number | null, distanceKm: number | null): boolean | null {
  if (warmups === null && distanceKm === null) return null;
  return (warmups ?? 99) < 5 || (distanceKm ?? 9999) < 80;
}

export interface MonitorNote {
  proves: string;
}

/** What a complete monitor proves. The fuel-system monitor is continuous: it proves nothing alone. Common practice. */
export const MONITOR_NOTES: Partial<Record<MonitorId, MonitorNote>> = {
  misfire: { proves: 'continuous: reads complete almost always' },
  fuelSystem: { proves: 'continuous: proves nothing alone, the trims do' },
  comprehensive: { proves: 'continuous: circuits in range' },
  catalyst: { proves: 'the catalyst stores oxygen' },
  evap: { proves: 'the tank system holds; last and hardest' },
  o2Sensor: { proves: 'the sensors switch fast enough' },
  o2Heater: { proves: 'the heaters draw current' },
  egrVvt: { proves: 'recirculation or valve timing responds' },
};
