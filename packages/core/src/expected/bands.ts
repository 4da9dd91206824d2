import type { OperatingPoint } from '../case/index.ts';
import { partLoadVe, speedDensityGps } from '../engine/index.ts';
import { pressureAtAltitudeKPa, SEA_LEVEL_KPA } from '../gas/index.ts';
import { figure, type Said, said } from '../units/index.ts';

/** Where an expected value came from; the better layer wins. */
export type Provenance = 'physics' | 'entered' | 'shop' | 'trade';

/** A figure expected between two limits, in its unit, with what it is expected from. */
export interface Band {
  low: number;
  high: number;
  unit: string;
  from: Provenance;
  note: Said;
}

/** Of a vehicle and its place, what figures are expected from. */
export interface EngineFacts {
  displacementL: number;
  baroKPa: number;
  airC: number;
  induction?: 'na' | 'turbo';
  fuel?: 'petrol' | 'diesel';
}

/** Model error of part-load volumetric efficiency, ± share. [house] */
export const VE_MODEL_ERROR = 0.1;
/** Warm coolant, °C. Common practice, no source. */
export const COOLANT_BAND = { low: 80, high: 105 } as const;

/** Station pressure: measured wins, then altitude, then sea level with wider noise. */
export function stationPressure(ambient: { baroKPa?: number; altitudeM?: number } | undefined): {
  baroKPa: number;
  from: 'measured' | 'altitude' | 'assumed';
} {
  if (ambient?.baroKPa !== undefined) return { baroKPa: ambient.baroKPa, from: 'measured' };
  if (ambient?.altitudeM !== undefined) {
    const p = pressureAtAltitudeKPa(ambient.altitudeM);
    if (!Number.isNaN(p)) return { baroKPa: p, from: 'altitude' };
  }
  return { baroKPa: SEA_LEVEL_KPA, from: 'assumed' };
}

/** Manifold pressure by operating point at sea level, kPa absolute. Common practice, no source. */
const PRESSURES: Readonly<Record<string, { low: number; high: number; what: string }>> = {
  idle: { low: 25, high: 45, what: 'warm idle' },
  'cold-idle': { low: 28, high: 52, what: 'cold idle' },
  'idle-ac': { low: 28, high: 55, what: 'idle with the compressor on' },
  'hold-2500': { low: 22, high: 42, what: 'no-load hold' },
  'road-load': { low: 35, high: 75, what: 'steady road' },
  decel: { low: 14, high: 30, what: 'throttle shut, rolling' },
};

/** Manifold pressure, kPa absolute; null where it depends on the vehicle. Common practice at sea level, scaled by station pressure. */
export function manifoldBand(at: OperatingPoint, facts: EngineFacts): Band | null {
  const k = facts.baroKPa / SEA_LEVEL_KPA;
  if (at === 'koeo') {
    return {
      low: facts.baroKPa - 3,
      high: facts.baroKPa + 3,
      unit: 'kPa',
      from: 'physics',
      note: said`engine off: station pressure within ${figure(3, 'kPa', 0, { difference: true })}`,
    };
  }
  if (facts.fuel === 'diesel' && at !== 'full-load' && at !== 'boost')
    return {
      low: facts.baroKPa - 6,
      high: facts.baroKPa + (facts.induction === 'turbo' ? 25 : 2),
      unit: 'kPa',
      from: 'physics',
      note: 'a diesel is not throttled: about station pressure',
    };
  const row = PRESSURES[at];
  if (row)
    return { low: row.low * k, high: row.high * k, unit: 'kPa', from: 'trade', note: `${row.what}, common practice` };
  if (at === 'full-load' && facts.induction !== 'turbo') {
    return {
      low: facts.baroKPa - 9,
      high: facts.baroKPa + 1,
      unit: 'kPa',
      from: 'physics',
      note: 'open throttle: station pressure less what filter and duct take',
    };
  }
  return null;
}

/** Speed taken where none was read. CONTRACT for idle and hold; [house] for the rest. */
const RPM: Readonly<Record<string, number>> = { idle: 700, 'idle-ac': 750, 'hold-2500': 2500, 'road-load': 2200 };

/**
 * Airflow of a healthy engine, g/s. With manifold pressure and rpm: speed-density physics ± model error; at full load
 * VE 0.75–1.05 of station pressure; without pressure: idle about 1–2.2 g/s per litre, scaled by rpm at a hold.
 */
export function airflowBand(
  at: OperatingPoint,
  facts: EngineFacts,
  reading: { rpm?: number; mapKPa?: number; iatC?: number; recirculation?: 'open' | 'shut' },
): Band | null {
  const charge = reading.iatC ?? facts.airC + 8;
  const rpm = reading.rpm ?? RPM[at];
  if (at === 'koeo' || rpm === undefined) return null;
  if (at === 'full-load' || at === 'boost') {
    const turbo = facts.induction === 'turbo';
    // A turbo engine by what its manifold holds; without that reading nothing can be said.
    if (turbo && reading.mapKPa === undefined) return null;
    const pressure = turbo ? reading.mapKPa! : facts.baroKPa;
    const one = speedDensityGps(1, pressure, turbo ? charge : facts.airC, facts.displacementL, rpm);
    return {
      low: 0.75 * one,
      high: 1.05 * one,
      unit: 'g/s',
      from: 'physics',
      note: turbo ? 'VE 0.75–1.05 at manifold pressure and charge temperature' : 'VE 0.75–1.05 at station pressure',
    };
  }
  if (facts.fuel === 'diesel') {
    const one = speedDensityGps(1, reading.mapKPa ?? facts.baroKPa, charge, facts.displacementL, rpm);
    const of = (low: number, high: number, note: string): Band => ({
      low: low * one,
      high: high * one,
      unit: 'g/s',
      from: 'physics',
      note: `a diesel is not throttled; ${note}`,
    });
    if (reading.recirculation === 'shut') return of(0.8, 1.05, 'recirculation shut: VE 0.8–1.05 of its manifold');
    if (reading.recirculation === 'open')
      return of(0.4, 0.9, 'recirculated exhaust takes a tenth to a half of the air');
    return of(0.4, 1, 'recirculated exhaust may take half of the air');
  }
  if (reading.mapKPa !== undefined) {
    const m = speedDensityGps(
      partLoadVe(reading.mapKPa, facts.baroKPa),
      reading.mapKPa,
      charge,
      facts.displacementL,
      rpm,
    );
    return {
      low: m * (1 - VE_MODEL_ERROR),
      high: m * (1 + VE_MODEL_ERROR),
      unit: 'g/s',
      from: 'physics',
      note: 'from rpm and manifold pressure',
    };
  }
  if (at === 'idle' || at === 'cold-idle' || at === 'idle-ac') {
    return {
      low: facts.displacementL,
      high: 2.2 * facts.displacementL,
      unit: 'g/s',
      from: 'trade',
      note: said`${figure([1, 2.2], 'g/s')} per litre, common practice`,
    };
  }
  if (at === 'road-load') {
    const k = (facts.displacementL * rpm) / 2200;
    return {
      low: 4 * k,
      high: 13 * k,
      unit: 'g/s',
      from: 'physics',
      note: said`steady road at ${figure([35, 75], 'kPa')}, pressure not read`,
    };
  }
  if (at === 'hold-2500') {
    const k = (facts.displacementL * rpm) / 2500;
    return {
      low: 3.6 * k,
      high: 6 * k,
      unit: 'g/s',
      from: 'physics',
      note: said`no-load hold at ${figure([22, 38], 'kPa')}`,
    };
  }
  return null;
}

/** Boost of a light diesel at full load, kPa above the air outside. Common practice, no source; the vehicle's own target wins. */
export const DIESEL_BOOST: Band = {
  low: 80,
  high: 150,
  unit: 'kPa',
  from: 'trade',
  note: 'light diesels at full load, above the air outside, common practice',
};

/** Middle of a band: the figure used where one number is needed. */
export function middle(band: Band): number {
  return (band.low + band.high) / 2;
}
