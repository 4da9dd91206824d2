import { partLoadVe, speedDensityGps } from '../engine/index.ts';
import { airflowBand, middle, stationPressure } from '../expected/index.ts';
import { displayedTotal, isPegged } from '../trims/index.ts';
import { FAULTS } from './faults.ts';
import { NO_EVIDENCE, TEST_BY_ID, type TestRow } from './tests.ts';
import type { BankKey, Case, OperatingPoint, Reading, TestResult, VehicleSpec } from './types.ts';

/** Healthy spread of total trim, percentage points, and the share of its variance common to all points. [house] */
export const HEALTHY_SD = 2.3;
export const COMMON_SHARE = 2 / 3;
/** Added when a reading was taken by eye (n absent). [house] */
const BY_EYE_SD = 1.5;
/** Only one of short and long term known. [house] */
const HALF_TRIM_SD = 3;
/** Below this share of what physics expects the airflow signal is dead, not low. [house] */
const DEAD_AIRFLOW_SHARE = 0.15;
const TRIM_QUANTUM = 100 / 128;
/** Points at which closed-loop trims are evidence. */
const CLOSED_LOOP_POINTS: readonly OperatingPoint[] = [
  'idle',
  'idle-ac',
  'hold-2500',
  'road-load',
  'cold-idle',
  'boost',
];

export interface TrimEvidence {
  at: OperatingPoint;
  bank: 1 | 2;
  totalPct: number;
  /** Own noise, without the healthy spread. */
  sd: number;
  pegged: boolean;
}

export interface PointEvidence {
  at: OperatingPoint;
  rpm: number;
  /** What the ECU meters: measured, or estimated (then `estimated`). */
  airflowGps: number;
  estimated: boolean;
  mapKPa: number;
  iatC: number;
  /** ln(measured airflow / expected by speed-density), where both are there. */
  airflowLog: number | null;
  /** Standard deviation of airflowLog. */
  airflowSd: number;
  /** The signal was there but far below what any running engine draws; airflowGps is the estimate. */
  airflowDead: boolean;
  trims: TrimEvidence[];
}

export interface TestEvidence {
  row: TestRow;
  outcome: string;
  bank: 1 | 2 | null;
  detail: string;
}

export interface Evidence {
  vehicle: VehicleSpec;
  banks: 1 | 2;
  baroKPa: number;
  airC: number;
  ethanolCalibratedPct: number;
  railKPa: number;
  /** Closed-loop points ordered by airflow. */
  points: PointEvidence[];
  idleFlowGps: number;
  /** Airflow taken as road load: the flow at which fuel delivery severities are stated. */
  roadFlowGps: number;
  fullLoad: { ratio: number; lean: number | null } | null;
  koeoDifferenceKPa: number | null;
  tests: TestEvidence[];
  /** The airflow signal stands near nothing on a running engine: a dead signal, not airflow. */
  airflowDead: boolean;
  codes: readonly string[] | null;
  complaints: readonly string[];
  work: readonly string[];
  warnings: string[];
}

const bankNumber = (k: string): 1 | 2 => (k === 'bank2' ? 2 : 1);

/** Resolve the number of banks: given, else 2 if anything names bank 2. */
export function resolveBanks(c: Case): 1 | 2 {
  if (c.vehicle.banks) return c.vehicle.banks;
  const inReadings = (c.readings ?? []).some(
    (r) =>
      r.trims?.bank2 ?? r.lambda?.bank2 ?? r.o2V?.bank2 ?? Object.keys(r.o2 ?? {}).some((k) => k.startsWith('bank2')),
  );
  const inCodes = (c.codes ?? []).some((x) => /^P(0174|0175|015\d|016\d|0430|2179|2180|2189|2190)$/.test(x.code));
  const inTests = (c.tests ?? []).some((t) => t.bank === 2 || [t.outcome].flat().some((o) => o?.includes('bank2')));
  return inReadings || inCodes || inTests ? 2 : 1;
}

/** The newest of several readings with the same point, in order of first appearance. */
function newestReadings(readings: readonly Reading[]): Reading[] {
  const by = new Map<string, Reading>();
  for (const r of readings) by.set(r.at, r);
  return [...by.values()];
}

/** Turn a valid case into what the weighing needs, saying in `warnings` what is weak. */
export function gatherEvidence(c: Case): Evidence {
  const warnings: string[] = [];
  const banks = resolveBanks(c);
  const station = stationPressure(c.ambient);
  if (station.from === 'assumed')
    warnings.push('No barometer and no altitude: sea level assumed, airflow compared with wider noise.');
  const airC = c.ambient?.airC ?? 20;
  const facts = { displacementL: c.vehicle.displacementL, baroKPa: station.baroKPa, airC };
  const readings = newestReadings(c.readings ?? []);
  const diesel = c.vehicle.fuel === 'diesel';
  if (diesel && readings.some((r) => r.trims))
    warnings.push('Fuel trims on a diesel are ignored: there are none to read.');
  const points: PointEvidence[] = [];
  let fullLoad: Evidence['fullLoad'] = null;
  let koeo: number | null = null;
  for (const r of readings) {
    if (r.at === 'koeo' && r.mapKPa !== undefined) koeo = r.mapKPa - station.baroKPa;
    if (r.at === 'full-load') fullLoad = fullLoadEvidence(r, c.vehicle, facts);
    const p = pointEvidence(r, c.vehicle, facts, station.from === 'assumed', diesel, warnings);
    if (p) points.push(p);
  }
  points.sort((a, b) => a.airflowGps - b.airflowGps);
  const idle = points.find((p) => p.at === 'idle');
  const idleFlowGps = idle?.airflowGps ?? 1.5 * c.vehicle.displacementL;
  const road = points.find((p) => p.at === 'road-load');
  for (const b of [1, 2] as const) {
    if (b <= banks && !diesel && points.length > 0 && !points.some((p) => p.trims.some((t) => t.bank === b))) {
      warnings.push(`Bank ${b} has no trims: unknown, not zero.`);
    }
  }
  return {
    vehicle: c.vehicle,
    banks,
    baroKPa: station.baroKPa,
    airC,
    ethanolCalibratedPct: c.vehicle.ethanolPctCalibrated ?? 10,
    railKPa: c.vehicle.limits?.fuelPressureKPa ?? 380,
    points,
    idleFlowGps,
    roadFlowGps: road?.airflowGps ?? 8 * c.vehicle.displacementL,
    fullLoad,
    koeoDifferenceKPa: koeo,
    tests: testEvidence(c, facts, fullLoad !== null),
    airflowDead: points.some((p) => p.airflowDead),
    codes: c.codes ? c.codes.map((x) => x.code) : null,
    complaints: c.complaints ?? [],
    work: (c.recentWork ?? []).map((w) => w.part),
    warnings,
  };
}

function pointEvidence(
  r: Reading,
  vehicle: VehicleSpec,
  facts: { displacementL: number; baroKPa: number; airC: number },
  assumedBaro: boolean,
  diesel: boolean,
  warnings: string[],
): PointEvidence | null {
  if (!CLOSED_LOOP_POINTS.includes(r.at)) return null;
  const rpm = r.rpm ?? (r.at === 'hold-2500' ? 2500 : r.at === 'road-load' ? 2200 : 700);
  const iatC = r.iatC ?? facts.airC + 8;
  const band = airflowBand(r.at, facts, { rpm, mapKPa: r.mapKPa, iatC });
  const estimate =
    r.at === 'road-load' && !r.mapKPa ? 8 * vehicle.displacementL : band ? middle(band) : 1.5 * vehicle.displacementL;
  const shown = vehicle.metering === 'speed-density' ? undefined : r.mafGps;
  const airflowDead = shown !== undefined && shown < DEAD_AIRFLOW_SHARE * estimate;
  const measured = airflowDead ? undefined : shown;
  if (airflowDead) {
    warnings.push(
      `${pointLabel(r.at)}: ${shown} g/s cannot be the airflow of a running engine: the signal is dead; estimated at ${estimate.toFixed(1)} g/s.`,
    );
  } else if (measured === undefined && vehicle.metering !== 'speed-density') {
    warnings.push(
      `${pointLabel(r.at)}: no airflow reading on a metered engine; estimated at ${estimate.toFixed(1)} g/s.`,
    );
  }
  let airflowLog: number | null = null;
  let airflowSd = 0.12;
  if (measured !== undefined && measured > 0 && band) {
    const expected =
      r.mapKPa !== undefined
        ? speedDensityGps(partLoadVe(r.mapKPa, facts.baroKPa), r.mapKPa, iatC, facts.displacementL, rpm)
        : middle(band);
    airflowLog = Math.log(measured / expected);
    if (r.mapKPa === undefined) airflowSd = 0.3;
    if (assumedBaro) airflowSd *= 1.3;
  }
  const trims: TrimEvidence[] = [];
  const cold = r.ectC !== undefined && r.ectC < 70;
  const open = r.loop === 'open';
  if (open && r.trims) warnings.push(`${pointLabel(r.at)}: open loop, its trims are not evidence.`);
  if (cold && r.trims && !open) warnings.push(`${pointLabel(r.at)}: taken at ${r.ectC} °C coolant, weighted less.`);
  if (!diesel && !open) {
    for (const [key, t] of Object.entries(r.trims ?? {}) as [BankKey, NonNullable<Reading['trims']>[BankKey]][]) {
      const total = t ? displayedTotal(t) : undefined;
      if (!t || total === undefined) continue;
      const q = (r.quantum?.stft ?? TRIM_QUANTUM) / Math.sqrt(12);
      let variance = (t.sd ?? 1) ** 2 / Math.max(1, Math.min(t.n ?? 1, 25)) + q * q;
      if (t.n === undefined) variance += BY_EYE_SD ** 2;
      if (t.stft === undefined || t.ltft === undefined) {
        variance += HALF_TRIM_SD ** 2;
        warnings.push(
          `${pointLabel(r.at)}, bank ${bankNumber(key)}: only ${t.stft === undefined ? 'long' : 'short'}-term trim; taken as the total with more noise.`,
        );
      }
      if (cold || r.at === 'cold-idle') variance += 16;
      const pegged = isPegged(t);
      if (pegged)
        warnings.push(
          `${pointLabel(r.at)}, bank ${bankNumber(key)}: trim at the ECU's limit, the true error is at least ${Math.abs(total).toFixed(0)} %.`,
        );
      trims.push({ at: r.at, bank: bankNumber(key), totalPct: total, sd: Math.sqrt(variance), pegged });
    }
  }
  if (trims.length === 0 && airflowLog === null && r.mapKPa === undefined && !airflowDead) return null;
  const baro = facts.baroKPa;
  return {
    at: r.at,
    rpm,
    airflowGps: measured ?? estimate,
    estimated: measured === undefined,
    mapKPa: r.mapKPa ?? (r.at === 'road-load' ? 0.55 * baro : 0.33 * baro),
    iatC,
    airflowLog,
    airflowSd,
    airflowDead,
    trims,
  };
}

function fullLoadEvidence(
  r: Reading,
  vehicle: VehicleSpec,
  facts: { displacementL: number; baroKPa: number; airC: number },
): Evidence['fullLoad'] {
  const rpm = r.rpm ?? 4500;
  let ratio = Number.NaN;
  if (r.mafGps !== undefined && r.mafGps > 0 && vehicle.metering !== 'speed-density') {
    const pressure = vehicle.induction === 'turbo' && r.mapKPa ? r.mapKPa : facts.baroKPa;
    const charge = vehicle.induction === 'turbo' ? (r.iatC ?? facts.airC + 25) : facts.airC;
    ratio = r.mafGps / speedDensityGps(0.9, pressure, charge, facts.displacementL, rpm);
  }
  // λ above 1 or a sensor below 0.6 V at full load is lean; 1: certainly lean, 0: enriched as it should be.
  const lambdas = Object.values(r.lambda ?? {});
  const volts = Object.values(r.o2V ?? {});
  const lean =
    lambdas.length > 0
      ? Math.max(...lambdas.map((l) => (l - 0.88) / 0.88))
      : volts.length > 0
        ? Math.max(...volts.map((v) => (v < 0.6 ? 0.15 : 0)))
        : null;
  if (Number.isNaN(ratio) && lean === null) return null;
  return { ratio, lean };
}

function testEvidence(c: Case, facts: { baroKPa: number }, hasFullLoad: boolean): TestEvidence[] {
  const newest = new Map<string, TestResult>();
  for (const t of c.tests ?? []) newest.set(`${t.id}|${t.bank ?? ''}|${t.part ?? ''}`, t);
  const out: TestEvidence[] = [];
  for (const t of newest.values()) {
    const row = TEST_BY_ID.get(t.id);
    if (!row || row.reading) continue;
    if (t.id === 'full-load-airflow' && hasFullLoad) continue;
    const outcomes = [t.outcome].flat().filter((o): o is string => typeof o === 'string');
    if (outcomes.some((o) => (NO_EVIDENCE as readonly string[]).includes(o))) continue;
    if (outcomes.length > 0) {
      for (const o of outcomes) out.push({ row, outcome: o, bank: t.bank ?? bankOf(o), detail: '' });
    } else if (t.values && row.measure) {
      const m = measured(row, t.values as Record<string, number>, c, facts.baroKPa);
      if (m) out.push({ row, outcome: m.outcome, bank: t.bank ?? null, detail: m.detail });
    }
  }
  return out;
}

function bankOf(outcome: string): 1 | 2 | null {
  return outcome.endsWith('bank1') ? 1 : outcome.endsWith('bank2') ? 2 : null;
}

/** A measured value as the outcome it amounts to, with the figures; null when it cannot decide. */
function measured(
  row: TestRow,
  v: Record<string, number | undefined>,
  c: Case,
  _baroKPa: number,
): { outcome: string; detail: string } | null {
  const limits = c.vehicle.limits;
  switch (row.measure) {
    case 'fuel-pressure': {
      const spec = v.specKPa ?? limits?.fuelPressureKPa;
      const { idleKPa, loadKPa } = v;
      if (loadKPa === undefined && idleKPa === undefined) return null;
      // A manifold-referenced regulator reads 50–70 kPa lower at idle when healthy.
      const idleSpec = spec !== undefined && limits?.fuelPressureReference === 'manifold' ? spec - 60 : spec;
      const base = spec ?? idleKPa;
      if (base === undefined) return null;
      const sag = loadKPa !== undefined && loadKPa < 0.92 * base;
      const lowIdle = idleSpec !== undefined && idleKPa !== undefined && idleKPa < 0.92 * idleSpec;
      const high = idleSpec !== undefined && idleKPa !== undefined && idleKPa > 1.1 * idleSpec;
      const detail = `${idleKPa ?? '—'} kPa at idle, ${loadKPa ?? '—'} under load${spec === undefined ? '' : ` of ${spec}`}`;
      return { outcome: sag || lowIdle ? 'low' : high ? 'high' : 'ok', detail };
    }
    case 'boost': {
      if (v.measuredKPa === undefined || v.targetKPa === undefined) return null;
      return {
        outcome: v.measuredKPa < 0.92 * v.targetKPa ? 'low' : 'ok',
        detail: `${v.measuredKPa} of ${v.targetKPa} kPa`,
      };
    }
    case 'full-load':
      if (v.ratio === undefined) return null;
      return {
        outcome: v.ratio < 0.9 ? 'low' : v.ratio > 1.1 ? 'high' : 'normal',
        detail: `${v.ratio} of expected airflow`,
      };
    case 'koeo':
      if (v.differenceKPa === undefined) return null;
      return {
        outcome: Math.abs(v.differenceKPa) > 3 ? 'differs' : 'agrees',
        detail: `${v.differenceKPa} kPa from barometric`,
      };
    case 'throttle': {
      const value = v.value ?? v.deg;
      const unit = v.value === undefined ? 'deg' : (v.unit as unknown as string | undefined);
      const own =
        limits?.relativeThrottleUnit === undefined || limits.relativeThrottleUnit === unit
          ? limits?.relativeThrottleIdle
          : undefined;
      const limit = v.limit ?? v.limitDeg ?? own ?? (unit === 'deg' ? limits?.relativeThrottleIdleDeg : undefined);
      if (value === undefined || limit === undefined) return null;
      return { outcome: value > limit ? 'high' : 'ok', detail: `${value} against a limit of ${limit}` };
    }
    case 'ethanol': {
      if (v.pct === undefined) return null;
      const calibrated = c.vehicle.ethanolPctCalibrated ?? 10;
      return {
        outcome: v.pct > calibrated + 8 ? 'high' : 'as-calibrated',
        detail: `${v.pct} % ethanol, calibrated for ${calibrated}`,
      };
    }
    case 'backpressure': {
      // About 9 kPa at idle and 21 at 2,500 rpm are upper limits (from memory).
      if (v.idleKPa === undefined && v.at2500KPa === undefined) return null;
      const high = (v.idleKPa ?? 0) > 9 || (v.at2500KPa ?? 0) > 21;
      return {
        outcome: high ? 'high' : 'normal',
        detail: `${v.idleKPa ?? '—'} kPa at idle, ${v.at2500KPa ?? '—'} at 2,500 rpm`,
      };
    }
    default:
      return null;
  }
}

const POINT_LABELS: Record<OperatingPoint, string> = {
  koeo: 'Key on, engine off',
  'cold-idle': 'Cold idle',
  idle: 'Idle',
  'idle-ac': 'Idle with A/C',
  'hold-2500': 'Hold 2,500',
  'road-load': 'Road load',
  'full-load': 'Full load',
  snap: 'Snap throttle',
  boost: 'Boost',
  decel: 'Deceleration',
};

/** The short name of an operating point, everywhere the same. */
export function pointLabel(at: OperatingPoint): string {
  return POINT_LABELS[at];
}

/** The label of a fault id; the id itself when unknown. */
export function faultLabel(id: string): string {
  return FAULTS.find((f) => f.id === id)?.label ?? id;
}
