import type { CarSpec } from '../engine/index.ts';

/** A car's facts as a shop writes them on its card. Pressures of direct injection's high side are left out. */
export function cardOf(spec: CarSpec) {
  return {
    label: spec.label,
    note: spec.note,
    year: spec.year,
    vin: spec.vin,
    odometerKm: spec.odometerKm,
    ...engineCardOf(spec),
  };
}

/** The engine alone, as a case holds it. */
export function engineCardOf(spec: CarSpec) {
  return {
    fuel: spec.fuel,
    metering: spec.metering,
    induction: spec.induction,
    injection: spec.injection,
    displacementL: spec.displacementL,
    cylinders: spec.cylinders,
    banks: spec.banks,
    ethanolPctCalibrated: spec.ethanolCalibratedPct,
    ...(spec.railKPa <= 765
      ? { limits: { fuelPressureKPa: spec.railKPa, fuelPressureReference: spec.railReference } }
      : {}),
  };
}
