import { MONITORS, type MonitorId } from '../obd/index.ts';

/** Without a count of warm-ups a record this long after speaks for two trips, days. [house] */
const SURELY_DAYS = 2;
/** Two warm-ups take at least this long, days: fewer, and they are from before. [house] */
const LEAST_DAYS = 0.2;
const DAY_MS = 86_400_000;
/** A count that stands at its end says nothing. SAE J1979 PID 30 is one byte (from memory). */
const FULL = 255;

/** What a record says of the drives before it. */
export interface TripRecord {
  atMs: number;
  warmupsSinceClear: number | null;
}

/**
 * Whether a record shows two trips since a moment (ms since 1970): a pending code that is not in it stays away only then.
 * `earlier`: the record before that moment, whose count goes on where nothing was cleared. Common practice, no source.
 */
export function twoTripsSince(
  sinceMs: number,
  record: TripRecord,
  earlier: Pick<TripRecord, 'warmupsSinceClear'> | null = null,
): boolean {
  const days = (record.atMs - sinceMs) / DAY_MS;
  const [then, now] = [earlier?.warmupsSinceClear ?? null, record.warmupsSinceClear];
  if (now === null || now >= FULL) return days >= SURELY_DAYS;
  const trips = then === null || now < then ? now : now - then;
  return trips >= 2 && days > LEAST_DAYS;
}

/** Which monitor judges what a code is about, by its group. SAE J2012 (from memory); the first that fits. */
const MONITOR_OF_CODE: readonly (readonly [RegExp, MonitorId])[] = [
  [/^P030[0-9]|^P031[0-2]/, 'misfire'],
  [/^P017[0-5]|^P219[0-9]/, 'fuelSystem'],
  [/^P04[23]\d/, 'catalyst'],
  [/^P04[45]\d/, 'evap'],
  [/^P040\d|^P001\d|^P000[0-9]/, 'egrVvt'],
  [/^P041\d/, 'secondaryAir'],
  [/^P01(35|41|47|55|61|67)|^P003[0-9]|^P005[0-9]/, 'o2Heater'],
  [/^P01(3|4|5|6)\d/, 'o2Sensor'],
];

/** The monitor that has to run before a code's staying away says anything; null where none is known. */
export function monitorOfCode(code: string): MonitorId | null {
  return MONITOR_OF_CODE.find(([re]) => re.test(code))?.[1] ?? null;
}

/** Codes whose monitor has not run by a record's list of open ones, as `P0420 (Catalyst)`. */
export function notYetJudged(codes: readonly string[], open: readonly MonitorId[] | null | undefined): string[] {
  return codes.flatMap((code) => {
    const monitor = monitorOfCode(code);
    return monitor && open?.includes(monitor) ? [`${code} (${MONITORS[monitor]})`] : [];
  });
}
