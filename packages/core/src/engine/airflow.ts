import { airDensity } from '../gas/index.ts';

/**
 * Air an engine takes in, g/s: ṁ = VE · ρ · V_d · N / 120 (four-stroke).
 * Given volumetric efficiency (ratio), density g/L, displacement L, rpm.
 * Heywood, Internal Combustion Engine Fundamentals, ch. 2 (from memory).
 */
export function engineAirflowGps(ve: number, densityGPerL: number, displacementL: number, rpm: number): number {
  return (ve * densityGPerL * displacementL * rpm) / 120;
}

/** Speed-density airflow, g/s: the same with density from manifold pressure (kPa) and charge temperature (°C). */
export function speedDensityGps(
  ve: number,
  mapKPa: number,
  chargeC: number,
  displacementL: number,
  rpm: number,
): number {
  return engineAirflowGps(ve, airDensity(mapKPa, chargeC), displacementL, rpm);
}

/**
 * Volumetric efficiency of a healthy engine at part load, referred to manifold density: residual gas at low
 * manifold pressure takes up room. Common practice, no source; model error ±10 % is added where it is used.
 */
export function partLoadVe(mapKPa: number, baroKPa: number): number {
  const ratio = Math.min(Math.max(mapKPa / baroKPa, 0.15), 1.1);
  return Math.min(0.92, 0.62 + 0.32 * ratio);
}

/** Absolute load, 0…1 and above: g air per intake stroke over 1.184 g/L · displacement per cylinder. SAE J1979. */
export function absoluteLoad(airflowGps: number, rpm: number, displacementL: number): number {
  if (!(rpm > 0)) return Number.NaN;
  return (airflowGps * 120) / rpm / (1.184 * displacementL);
}

/** Air of one cylinder per intake stroke, mg: what diesel service information states. g/s, rpm, cylinders. NaN for a standing engine. */
export function airPerStrokeMg(airflowGps: number, rpm: number, cylinders: number): number {
  if (!(rpm > 0) || !(cylinders > 0)) return Number.NaN;
  return (airflowGps * 1000 * 120) / (rpm * cylinders);
}

/** The other way round: g/s of that many mg of air per intake stroke. mg, rpm, cylinders. NaN for a standing engine. */
export function airflowOfStrokeMg(mg: number, rpm: number, cylinders: number): number {
  if (!(rpm > 0) || !(cylinders > 0)) return Number.NaN;
  return (mg * rpm * cylinders) / (1000 * 120);
}

/**
 * Airflow of a sensor's signal by its curve (volts rising, g/s): straight between its points in the logarithm, as hot
 * wires nearly are; NaN outside the curve, or with fewer than two points.
 */
export function airflowOfVolts(curve: readonly { volts: number; gps: number }[], volts: number): number {
  const points = [...curve].sort((a, b) => a.volts - b.volts);
  const i = points.findIndex((p) => p.volts >= volts);
  const [a, b] = [points[i - 1], points[i]];
  if (b && b.volts === volts) return b.gps;
  if (!a || !b) return Number.NaN;
  const share = (volts - a.volts) / (b.volts - a.volts);
  return a.gps > 0 ? a.gps * (b.gps / a.gps) ** share : a.gps + share * (b.gps - a.gps);
}
