import type { CarSpec } from '../engine/index.ts';

/** Invented cars; makes, models and VINs belong to nobody (manufacturer code ZZZ is not assigned). */
export const FLEET: readonly CarSpec[] = [
  {
    id: 'quillon-18',
    label: 'Quillon 1.8',
    note: 'green hatch',
    year: 2014,
    vin: 'ZZZK18AB9E0004217',
    displacementL: 1.8,
    cylinders: 4,
    banks: 1,
    upstream: 'wide',
    idleRpm: 740,
    railKPa: 350,
    calibrationId: 'QLN18-0413-B',
    odometerKm: 121_300,
    incomplete: ['evap'],
    unsupported: ['heatedCatalyst', 'secondaryAir', 'acOrGpf'],
    warmupsSinceClear: 214,
    distanceSinceClearKm: 8920,
    minutesSinceClear: 14_200,
    fuelLevelPct: 62,
  },
  {
    id: 'aldwin-30',
    label: 'Aldwin 3.0 V6',
    note: 'grey estate',
    year: 2012,
    vin: 'ZZZA30V64C0011853',
    displacementL: 3.0,
    cylinders: 6,
    banks: 2,
    upstream: 'narrow',
    idleRpm: 680,
    railKPa: 390,
    calibrationId: 'ALD30-1207-F',
    odometerKm: 148_200,
    incomplete: [],
    unsupported: ['heatedCatalyst', 'acOrGpf'],
    warmupsSinceClear: 97,
    distanceSinceClearKm: 4310,
    minutesSinceClear: 6900,
    fuelLevelPct: 48,
  },
];

/** The car with this id. Throws RangeError naming the known ids. */
export function carById(id: string): CarSpec {
  const spec = FLEET.find((c) => c.id === id);
  if (!spec) throw new RangeError(`unknown vehicle "${id}": ${FLEET.map((c) => c.id).join(', ')}`);
  return spec;
}
