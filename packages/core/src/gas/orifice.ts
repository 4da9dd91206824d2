import { R_AIR } from './atmosphere.ts';

/** Ratio of specific heats of air. Heywood, Internal Combustion Engine Fundamentals, appendix C (from memory). */
export const GAMMA_AIR = 1.4;

/** Discharge coefficient of a ragged hole [house]; 0.6–0.8 is its interval. */
export const LEAK_CD = 0.7;
/** Discharge coefficient of a sharp-edged leak, least and most. Heywood app. C (from memory). */
export const LEAK_CD_INTERVAL = [0.6, 0.8] as const;

/** Pressure ratio at and below which flow is choked: (2/(γ+1))^(γ/(γ−1)). Heywood app. C (from memory). */
export function criticalPressureRatio(gamma = GAMMA_AIR): number {
  return (2 / (gamma + 1)) ** (gamma / (gamma - 1));
}

/**
 * Flow function Ψ(p/p₀), relative to its choked value: 1 when choked, falling to 0 at p/p₀ = 1.
 * Given downstream over upstream pressure, 0…1; above 1 returns 0.
 */
export function relativeFlow(pressureRatio: number, gamma = GAMMA_AIR): number {
  if (!(pressureRatio < 1)) return 0;
  const r = Math.max(pressureRatio, criticalPressureRatio(gamma));
  return flowFunction(r, gamma) / flowFunction(criticalPressureRatio(gamma), gamma);
}

function flowFunction(r: number, gamma: number): number {
  return Math.sqrt(((2 * gamma) / (gamma - 1)) * (r ** (2 / gamma) - r ** ((gamma + 1) / gamma)));
}

/**
 * Mass flow through a hole, g/s. Compressible orifice, Heywood app. C (from memory).
 * Given areaMm2 ≥ 0, upstream pressure kPa, upstream temperature °C, downstream pressure kPa, discharge coefficient.
 */
export function orificeFlowGps(
  areaMm2: number,
  upstreamKPa: number,
  upstreamC: number,
  downstreamKPa: number,
  cd = LEAK_CD,
): number {
  const ratio = downstreamKPa / upstreamKPa;
  if (!(ratio < 1)) return 0;
  const r = Math.max(ratio, criticalPressureRatio());
  const rt = Math.sqrt(R_AIR * (upstreamC + 273.15));
  return cd * areaMm2 * 1e-6 * ((upstreamKPa * 1000) / rt) * flowFunction(r, GAMMA_AIR) * 1000;
}

/** A round hole: mm across, and between which it may lie. */
export interface Hole {
  areaMm2: number;
  diameterMm: number;
}

/** The round hole that passes `leakGps` between two pressures; null where no flow is possible. */
export function holeForFlow(
  leakGps: number,
  upstreamKPa: number,
  upstreamC: number,
  downstreamKPa: number,
  cd = LEAK_CD,
): Hole | null {
  const perMm2 = orificeFlowGps(1, upstreamKPa, upstreamC, downstreamKPa, cd);
  if (!(perMm2 > 0) || !(leakGps >= 0)) return null;
  const areaMm2 = leakGps / perMm2;
  return { areaMm2, diameterMm: Math.sqrt((4 * areaMm2) / Math.PI) };
}
