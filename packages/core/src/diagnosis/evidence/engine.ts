import type { Reading, TestResult, VehicleSpec } from '../../case/index.ts';
import { type EngineKind, TESTS } from '../../catalogue/index.ts';

/** Whoever has done one of these has found a pressure sensor. */
const PRESSURE_TESTS: readonly string[] = TESTS.filter((t) => t.needs?.includes('map') || t.id === 'boost-compare').map(
  (t) => t.id,
);

/** The vehicle with the sensors that it must have, by what was read of it and tested on it: what is read is fitted. */
export function engineOf(
  vehicle: VehicleSpec,
  readings: readonly Pick<Reading, 'mapKPa'>[],
  tests: readonly Pick<TestResult, 'id'>[] = [],
): EngineKind {
  return {
    ...vehicle,
    pressureRead: readings.some((r) => r.mapKPa !== undefined) || tests.some((t) => PRESSURE_TESTS.includes(t.id)),
  };
}
