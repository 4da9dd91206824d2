import type { VehicleSpec } from '../../case/index.ts';

/** Air at sea level, kPa. US Standard Atmosphere 1976. */
export const STANDARD_KPA = 101.325;
/** From this share of missing air on power is missing by the air alone; by this much more every owner feels it. [house] */
const THIN_AIR = { from: 0.1, more: 0.3 };

/** How much an owner feels of thin air, 0 to 1: without a charger power goes with the air there is. */
export function feelsThinAir({ induction }: Pick<VehicleSpec, 'induction'>, baroKPa: number): number {
  if (induction === 'turbo') return 0;
  return Math.min(Math.max((1 - baroKPa / STANDARD_KPA - THIN_AIR.from) / THIN_AIR.more, 0), 1);
}
