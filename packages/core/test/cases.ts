import type { Case, Reading, VehicleSpec } from '../src/case/index.ts';

/** Builders of cases for the checks; figures of our own unless a test says otherwise. */
export const FOUR: VehicleSpec = { fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4, banks: 1 };
export const SIX: VehicleSpec = { fuel: 'petrol', metering: 'maf', displacementL: 3, cylinders: 6, banks: 2 };

export function reading(
  at: Reading['at'],
  mafGps: number,
  total1: number,
  total2?: number,
  more: Partial<Reading> = {},
): Reading {
  const trim = (t: number) => ({ stft: Math.round(t * 20) / 100, ltft: Math.round(t * 80) / 100, sd: 0.8, n: 100 });
  return {
    at,
    mafGps,
    ectC: 90,
    loop: 'closed',
    trims: { bank1: trim(total1), ...(total2 === undefined ? {} : { bank2: trim(total2) }) },
    ...more,
  };
}

export function caseOf(vehicle: VehicleSpec, readings: Reading[], more: Partial<Case> = {}): Case {
  return {
    format: 'just-balance/case',
    version: 1,
    id: 'check',
    vehicle,
    ambient: { baroKPa: 100, airC: 20 },
    readings,
    ...more,
  };
}
