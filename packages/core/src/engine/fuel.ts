/** Stoichiometric air/fuel ratios by mass and densities kg/L. Heywood, table D.4 (from memory). */
export const PETROL = { afr: 14.7, densityKgPerL: 0.745 };
/** Ethanol as a fuel: stoichiometric ratio by mass, density in kg/L. Heywood table D.4 (from memory). */
export const ETHANOL = { afr: 9.0, densityKgPerL: 0.789 };

/** Stoichiometric AFR by mass of petrol with `pct` % ethanol by volume, 0…100. */
export function blendAfr(pct: number): number {
  const e = (pct / 100) * ETHANOL.densityKgPerL;
  const p = (1 - pct / 100) * PETROL.densityKgPerL;
  return (e * ETHANOL.afr + p * PETROL.afr) / (e + p);
}

/** Density kg/L of the same blend, volumes added. */
export function blendDensity(pct: number): number {
  return (pct / 100) * ETHANOL.densityKgPerL + (1 - pct / 100) * PETROL.densityKgPerL;
}

/** Trim % that running on `pct` ethanol asks for when calibrated for `calibratedPct`: AFR ratio times √density ratio. */
export function ethanolTrimPct(pct: number, calibratedPct: number): number {
  return (
    100 * ((blendAfr(calibratedPct) / blendAfr(pct)) * Math.sqrt(blendDensity(calibratedPct) / blendDensity(pct)) - 1)
  );
}

/** Trim % that a share of the injector's pressure difference asks for: q ∝ √Δp (Bernoulli). 0.8 → +11.8. */
export function pressureTrimPct(pressureShare: number): number {
  if (!(pressureShare > 0)) return Number.POSITIVE_INFINITY;
  return 100 * (1 / Math.sqrt(pressureShare) - 1);
}
