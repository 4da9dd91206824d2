import { partLoadVe, speedDensityGps } from '../engine/index.ts';
import { airflowBand, type EngineFacts, middle, stationPressure } from '../expected/index.ts';
import { displayedTotal, isPegged } from '../trims/index.ts';
import { FAULTS } from './faults.ts';
import { detailOf, impliedOutcome, measuredOutcome } from './measure.ts';
import { plausible } from './plausible.ts';
import { type Sign, signsOf } from './signs.ts';
import { type MeasuredSize, measuredSizes } from './sizes.ts';
import { bankNamed, NO_EVIDENCE, TEST_BY_ID, type TestRow } from './tests.ts';
import type {
  BankKey,
  Case,
  CodeReading,
  OperatingPoint,
  Reading,
  RecentWork,
  TestResult,
  VehicleSpec,
} from './types.ts';

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
/** Less air than any engine idles on, and less pressure than any manifold holds: lower bounds of the arithmetic. */
const LEAST_FLOW_GPS = 0.1;
const LEAST_MANIFOLD_KPA = 5;
/** Rail over manifold where nothing was entered, kPa. Common practice, no source: port, and direct at idle. */
const PORT_RAIL_KPA = 380;
const DIRECT_RAIL_KPA = 5000;
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
  /** Index of the point among the evidence's points. */
  point: number;
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
  /** The part swapped, where that is the test. */
  part: string | null;
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
  /** All their trims, in the same order. */
  trims: TrimEvidence[];
  idleFlowGps: number;
  idleMapKPa: number;
  /** Airflow taken as road load: the flow at which fuel delivery severities are stated. */
  roadFlowGps: number;
  fullLoad: { ratio: number; lean: number | null } | null;
  koeoDifferenceKPa: number | null;
  tests: TestEvidence[];
  /** The airflow signal stands near nothing on a running engine: a dead signal, not airflow. */
  airflowDead: boolean;
  codes: readonly CodeReading[] | null;
  complaints: readonly string[];
  work: readonly RecentWork[];
  /** What readings show beside trims. */
  signs: readonly Sign[];
  /** Sizes read off directly. */
  sizes: readonly MeasuredSize[];
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
  const facts: EngineFacts = {
    displacementL: c.vehicle.displacementL,
    baroKPa: station.baroKPa,
    airC,
    induction: c.vehicle.induction ?? 'na',
    fuel: c.vehicle.fuel,
  };
  const readings = newestReadings(c.readings ?? []).map((r) => {
    const { reading, left } = plausible(r, c, station.baroKPa, pointLabel(r.at));
    warnings.push(...left);
    return reading;
  });
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
  points.forEach((p, i) => {
    for (const t of p.trims) t.point = i;
  });
  const idle = points.find((p) => p.at === 'idle');
  const signs = signsOf(c, readings, station.baroKPa, (r) => pointLabel(r.at));
  if (points.some((p) => p.airflowDead))
    signs.push({ id: 'airflow-dead', bank: null, text: 'Airflow signal near nothing on a running engine.' });
  const idleFlowGps = Math.max(idle?.airflowGps ?? 1.5 * c.vehicle.displacementL, LEAST_FLOW_GPS);
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
    railKPa: c.vehicle.limits?.fuelPressureKPa ?? (c.vehicle.injection === 'direct' ? DIRECT_RAIL_KPA : PORT_RAIL_KPA),
    points,
    trims: points.flatMap((p) => p.trims),
    idleFlowGps,
    idleMapKPa: idle?.mapKPa ?? 0.33 * station.baroKPa,
    // A road reading below idle is no road reading.
    roadFlowGps: road && road.airflowGps > idleFlowGps ? road.airflowGps : 8 * c.vehicle.displacementL,
    fullLoad,
    koeoDifferenceKPa: koeo,
    tests: testEvidence(c, fullLoad !== null),
    airflowDead: points.some((p) => p.airflowDead),
    codes: c.codes ?? null,
    complaints: c.complaints ?? [],
    work: c.recentWork ?? [],
    signs,
    sizes: measuredSizes(c, readings),
    warnings,
  };
}

function pointEvidence(
  r: Reading,
  vehicle: VehicleSpec,
  facts: EngineFacts,
  assumedBaro: boolean,
  diesel: boolean,
  warnings: string[],
): PointEvidence | null {
  if (!CLOSED_LOOP_POINTS.includes(r.at)) return null;
  const rpm = r.rpm ?? (r.at === 'hold-2500' ? 2500 : r.at === 'road-load' ? 2200 : 700);
  const iatC = r.iatC ?? facts.airC + 8;
  // On the road the load is unknown without a pressure: nothing to compare with.
  const band =
    r.at === 'road-load' && r.mapKPa === undefined ? null : airflowBand(r.at, facts, { rpm, mapKPa: r.mapKPa, iatC });
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
  // Whether a diesel recirculates at this moment is not known: part-load airflow says little, full load says more.
  if (measured !== undefined && measured > 0 && band && !diesel) {
    const expected =
      r.mapKPa !== undefined
        ? speedDensityGps(partLoadVe(r.mapKPa, facts.baroKPa), r.mapKPa, iatC, facts.displacementL, rpm)
        : middle(band);
    // An engine that stands, or a manifold without pressure, has no airflow to compare with.
    if (expected > LEAST_FLOW_GPS) airflowLog = Math.log(measured / expected);
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
      // A rate without a count: a window of ten seconds was sampled, not looked at.
      const n = t.n ?? (r.sampleHz === undefined ? undefined : Math.max(1, Math.round(10 * r.sampleHz)));
      let variance = (t.sd ?? 1) ** 2 / Math.max(1, Math.min(n ?? 1, 25)) + q * q;
      if (n === undefined) variance += BY_EYE_SD ** 2;
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
      trims.push({ at: r.at, point: -1, bank: bankNumber(key), totalPct: total, sd: Math.sqrt(variance), pegged });
    }
  }
  if (trims.length === 0 && airflowLog === null && r.mapKPa === undefined && !airflowDead) return null;
  const baro = facts.baroKPa;
  return {
    at: r.at,
    rpm,
    airflowGps: measured ?? estimate,
    estimated: measured === undefined,
    mapKPa: Math.max(r.mapKPa ?? (r.at === 'road-load' ? 0.55 * baro : 0.33 * baro), LEAST_MANIFOLD_KPA),
    iatC,
    airflowLog,
    airflowSd,
    airflowDead,
    trims,
  };
}

function fullLoadEvidence(r: Reading, vehicle: VehicleSpec, facts: EngineFacts): Evidence['fullLoad'] {
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
    vehicle.fuel === 'diesel'
      ? null
      : lambdas.length > 0
        ? Math.max(...lambdas.map((l) => (l - 0.88) / 0.88))
        : volts.length > 0
          ? Math.max(...volts.map((v) => (v < 0.6 ? 0.15 : 0)))
          : null;
  if (Number.isNaN(ratio) && lean === null) return null;
  return { ratio, lean };
}

function testEvidence(c: Case, hasFullLoad: boolean): TestEvidence[] {
  const newest = new Map<string, TestResult>();
  for (const t of c.tests ?? []) newest.set(`${t.id}|${t.bank ?? ''}|${t.part ?? ''}`, t);
  const out: TestEvidence[] = [];
  for (const t of newest.values()) {
    const row = TEST_BY_ID.get(t.id);
    if (!row || row.reading) continue;
    if (t.id === 'full-load-airflow' && hasFullLoad) continue;
    const part = t.part ?? null;
    const values = (t.values ?? {}) as Record<string, number | undefined>;
    const outcomes = [t.outcome ?? impliedOutcome(row, values)].flat().filter((o) => typeof o === 'string');
    if (outcomes.some((o) => (NO_EVIDENCE as readonly string[]).includes(o))) continue;
    if (outcomes.length > 0) {
      for (const o of outcomes)
        out.push({
          row,
          outcome: o,
          bank: t.bank ?? bankNamed(o),
          part,
          detail: detailOf(o, values, t.cylinders),
        });
    } else if (t.values && row.measure) {
      const m = measuredOutcome(row, values, c);
      if (m) out.push({ row, outcome: m.outcome, bank: t.bank ?? null, part, detail: m.detail });
    }
  }
  return out;
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
