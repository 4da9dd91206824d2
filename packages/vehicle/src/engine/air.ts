import type { CarSpec } from './spec.ts';

/** Gas constant of air, J/(kg·K). */
export const R_AIR = 287;
/** Throttle discharge coefficient. Heywood ch. 7 gives 0.6–0.9 (from memory). */
export const THROTTLE_CD = 0.8;
/** Ragged hole. [house] */
export const HOLE_CD = 0.7;
/** Effective throttle area wide open, mm² per litre: about 3 % pressure drop at full flow. [house] */
export const WIDE_OPEN_MM2_PER_L = 1150;
/** Choked below this pressure ratio: (2/(γ+1))^(γ/(γ−1)), γ 1.4. */
const CRITICAL = 0.528282;
/** Ψ at and below the critical ratio, γ 1.4. Heywood app. C (from memory). */
const CHOKED_PSI = 0.684731;

/** Flow function of a compressible orifice, γ 1.4; the inner loop's own, checked against core's in the tests. */
function psi(ratio: number): number {
  if (ratio <= CRITICAL) return CHOKED_PSI;
  if (ratio >= 1) return 0;
  const a = ratio ** (1 / 1.4);
  return Math.sqrt(7 * (a * a - a * ratio));
}

/** Mass flow through a hole, g/s: area mm², pressures kPa, upstream kelvin. */
export function holeFlowGps(areaMm2: number, upKPa: number, upK: number, downKPa: number, cd: number): number {
  if (areaMm2 <= 0 || downKPa >= upKPa) return 0;
  return (cd * areaMm2 * upKPa * psi(downKPa / upKPa)) / Math.sqrt(R_AIR * upK);
}

/**
 * Volumetric efficiency referred to manifold density: residual gas takes room at low manifold pressure, breathing
 * peaks at mid speed. Shape after Heywood ch. 6 (from memory); the cars' own factor is their breathing.
 */
export function volumetricEfficiency(mapKPa: number, exhaustKPa: number, rpm: number, spec: CarSpec): number {
  const ratio = Math.min(mapKPa / exhaustKPa, 1.6);
  const breathing = 1 - ((rpm - 3600) / 11_000) ** 2;
  return spec.veFactor * (0.58 + 0.36 * ratio ** 0.85) * breathing;
}

/** Gas pumped by the cylinders, g/s. */
export function pumpedGps(ve: number, mapKPa: number, chargeK: number, displacementL: number, rpm: number): number {
  return (ve * mapKPa * 1000 * displacementL * rpm) / (R_AIR * chargeK * 120);
}
