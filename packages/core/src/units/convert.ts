/**
 * One table of units: what each unit is in the base unit of its quantity.
 * value_base = value · factor + offset. Sources per row.
 */
interface UnitRow {
  quantity: Quantity;
  factor: number;
  offset?: number;
  source: string;
}

type Quantity =
  | 'pressure'
  | 'temperature'
  | 'massFlow'
  | 'speed'
  | 'distance'
  | 'torque'
  | 'length'
  | 'volume'
  | 'voltage'
  | 'area';

const SI = 'SI definition';
const NIST = 'NIST SP 811 (2008) appendix B.8';

/** The units that are converted, by quantity, each with its factor and offset. NIST SP 811. */
export const UNITS = {
  Pa: { quantity: 'pressure', factor: 1, source: SI },
  kPa: { quantity: 'pressure', factor: 1e3, source: SI },
  hPa: { quantity: 'pressure', factor: 1e2, source: SI },
  mbar: { quantity: 'pressure', factor: 1e2, source: NIST },
  bar: { quantity: 'pressure', factor: 1e5, source: NIST },
  MPa: { quantity: 'pressure', factor: 1e6, source: SI },
  mmHg: { quantity: 'pressure', factor: 133.3224, source: `${NIST}, conventional millimetre of mercury` },
  inH2O: { quantity: 'pressure', factor: 249.08891, source: `${NIST}, conventional inch of water` },
  'kgf/cm²': { quantity: 'pressure', factor: 98_066.5, source: NIST },
  psi: { quantity: 'pressure', factor: 6894.757293168, source: NIST },
  inHg: { quantity: 'pressure', factor: 3386.389, source: `${NIST}, conventional inch of mercury (0 °C)` },
  K: { quantity: 'temperature', factor: 1, source: SI },
  '°C': { quantity: 'temperature', factor: 1, offset: 273.15, source: SI },
  '°F': { quantity: 'temperature', factor: 5 / 9, offset: 273.15 - (32 * 5) / 9, source: NIST },
  'g/s': { quantity: 'massFlow', factor: 1, source: SI },
  'kg/h': { quantity: 'massFlow', factor: 1 / 3.6, source: SI },
  'lb/min': { quantity: 'massFlow', factor: 453.59237 / 60, source: NIST },
  'm/s': { quantity: 'speed', factor: 1, source: SI },
  'km/h': { quantity: 'speed', factor: 1 / 3.6, source: SI },
  mph: { quantity: 'speed', factor: 0.44704, source: NIST },
  m: { quantity: 'distance', factor: 1, source: SI },
  km: { quantity: 'distance', factor: 1e3, source: SI },
  ft: { quantity: 'distance', factor: 0.3048, source: NIST },
  mi: { quantity: 'distance', factor: 1609.344, source: NIST },
  N·m: { quantity: 'torque', factor: 1, source: SI },
  lbf·ft: { quantity: 'torque', factor: 1.3558179483314, source: NIST },
  lbf·in: { quantity: 'torque', factor: 0.11298482902762, source: NIST },
  mm: { quantity: 'length', factor: 1e-3, source: SI },
  cm: { quantity: 'length', factor: 1e-2, source: SI },
  in: { quantity: 'length', factor: 0.0254, source: NIST },
  L: { quantity: 'volume', factor: 1, source: SI },
  mL: { quantity: 'volume', factor: 1e-3, source: SI },
  'fl oz': { quantity: 'volume', factor: 0.0295735295625, source: `${NIST}, US fluid ounce` },
  gal: { quantity: 'volume', factor: 3.785411784, source: `${NIST}, US gallon` },
  'in³': { quantity: 'volume', factor: 0.016387064, source: NIST },
  V: { quantity: 'voltage', factor: 1, source: SI },
  mV: { quantity: 'voltage', factor: 1e-3, source: SI },
  'mm²': { quantity: 'area', factor: 1, source: SI },
  'in²': { quantity: 'area', factor: 645.16, source: NIST },
} as const satisfies Record<string, UnitRow>;

/** One of them. */
export type Unit = keyof typeof UNITS;

/**
 * Convert `value` from one unit to another of the same quantity.
 * Returns the converted number; NaN stays NaN. Throws when the quantities differ.
 */
export function convert(value: number, from: Unit, to: Unit): number {
  const a: UnitRow = UNITS[from];
  const b: UnitRow = UNITS[to];
  if (a.quantity !== b.quantity) {
    throw new Error(`cannot convert ${from} (${a.quantity}) to ${to} (${b.quantity})`);
  }
  return (value * a.factor + (a.offset ?? 0) - (b.offset ?? 0)) / b.factor;
}
