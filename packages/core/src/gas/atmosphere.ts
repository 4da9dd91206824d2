/** Specific gas constant of dry air, J/(kg·K). US Standard Atmosphere 1976: 8314.32 over 28.9644. */
export const R_AIR = 287.05;
/** Sea-level standard pressure, Pa. US Standard Atmosphere 1976, table 2. */
const P0_PA = 101_325;
/** The same in kPa: what is assumed where nobody measured, and what tables are for. */
export const SEA_LEVEL_KPA = P0_PA / 1000;
/** Temperature lapse over sea-level temperature, 1/m, and exponent. US Standard Atmosphere 1976, eq. 33b, rearranged. */
const LAPSE_PER_M = 2.25577e-5;
const EXPONENT = 5.25588;

/**
 * Station pressure at a geopotential altitude.
 * Given altitudeM in m, −1,000…11,000 (troposphere). Returns kPa; NaN outside the range.
 * Agrees with the published table to 1e-4 (tested).
 */
export function pressureAtAltitudeKPa(altitudeM: number): number {
  if (!(altitudeM >= -1000 && altitudeM <= 11_000)) return Number.NaN;
  return (P0_PA * (1 - LAPSE_PER_M * altitudeM) ** EXPONENT) / 1000;
}

/** Altitude in m whose standard pressure is `kPa`; the inverse of pressureAtAltitudeKPa. */
export function altitudeAtPressureM(kPa: number): number {
  return (1 - ((kPa * 1000) / P0_PA) ** (1 / EXPONENT)) / LAPSE_PER_M;
}

/** Dry air density, kg/m³ (= g/L), from pressure in kPa and temperature in °C. Ideal gas law. */
export function airDensity(pressureKPa: number, temperatureC: number): number {
  return (pressureKPa * 1000) / (R_AIR * (temperatureC + 273.15));
}
