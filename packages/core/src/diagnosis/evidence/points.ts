import { type BankKey, type OperatingPoint, pointLabel, type Reading, type VehicleSpec } from '../../case/index.ts';
import { SCATTER } from '../../catalogue/index.ts';
import { partLoadVe, speedDensityGps } from '../../engine/index.ts';
import { airflowBand, type EngineFacts, type KnownFigure, layersOf, middle } from '../../expected/index.ts';
import { BY_EYE_SD, displayedTotal, isPegged } from '../../trims/index.ts';
import { figure, type Said, said } from '../../units/index.ts';
import { bankNumber } from './banks.ts';
import { type Evidence, type PointEvidence, type TrimEvidence } from './types.ts';

/** Healthy spread of total trim, percentage points, and the share of its variance common to all points. [house] */
export const HEALTHY_SD = 2.3;
export const COMMON_SHARE = 2 / 3;
/** Only one of short and long term known. [house] */
const HALF_TRIM_SD = 3;
/** Below this share of what physics expects the airflow signal is dead, not low. [house] */
const DEAD_AIRFLOW_SHARE = 0.15;
const TRIM_QUANTUM = 100 / 128;
/** Less air than any engine idles on, and less pressure than any manifold holds: lower bounds of the arithmetic. */
export const LEAST_FLOW_GPS = 0.1;
const LEAST_MANIFOLD_KPA = 5;
/** Rail over manifold where nothing was entered, kPa. Common practice, no source: port, and direct at idle. */
export const PORT_RAIL_KPA = 380;
export const DIRECT_RAIL_KPA = 5000;
/** Points at which closed-loop trims are evidence. */
const CLOSED_LOOP_POINTS: readonly OperatingPoint[] = [
  'idle',
  'idle-ac',
  'hold-2500',
  'road-load',
  'cold-idle',
  'boost',
];

export function pointEvidence(
  r: Reading,
  vehicle: VehicleSpec,
  facts: EngineFacts,
  { assumedBaro, diesel, known }: { assumedBaro: boolean; diesel: boolean; known: readonly KnownFigure[] },
  warnings: Said[],
): PointEvidence | null {
  if (!CLOSED_LOOP_POINTS.includes(r.at)) return null;
  const rpm = r.rpm ?? (r.at === 'hold-2500' ? 2500 : r.at === 'road-load' ? 2200 : 700);
  const iatC = r.iatC ?? facts.airC + 8;
  // On the road the load is unknown without a pressure: nothing to compare with.
  const band = r.at === 'road-load' && r.mapKPa === undefined ? null : airflowBand(r.at, facts, { ...r, rpm, iatC });
  const estimate =
    r.at === 'road-load' && !r.mapKPa ? 8 * vehicle.displacementL : band ? middle(band) : 1.5 * vehicle.displacementL;
  const shown = vehicle.metering === 'speed-density' ? undefined : r.mafGps;
  const airflowDead = shown !== undefined && shown < DEAD_AIRFLOW_SHARE * estimate;
  const measured = airflowDead ? undefined : shown;
  if (airflowDead && shown !== undefined) {
    warnings.push(
      said`${pointLabel(r.at)}: ${figure(shown, 'g/s')} cannot be the airflow of a running engine: the signal is dead; estimated at ${figure(estimate, 'g/s', 1)}.${r.trims && !diesel ? ' Its trims say how good the ECU’s own figure is, and nothing of a leak.' : ''}`,
    );
  } else if (measured === undefined && vehicle.metering !== 'speed-density') {
    warnings.push(
      said`${pointLabel(r.at)}: no airflow reading on a metered engine; estimated at ${figure(estimate, 'g/s', 1)}.`,
    );
  }
  if (diesel && measured !== undefined && r.recirculation === undefined)
    warnings.push(
      `${pointLabel(r.at)}: whether recirculation was open or shut was not noted, so its airflow says little. Read it with recirculation shut.`,
    );
  let airflowLog: number | null = null;
  let airflowSd = 0;
  // The better layer wins, as on the screen: a figure known for this engine is not called off by physics.
  const [better] = known.length > 0 ? layersOf('airflow', r.at, facts, r, known) : [];
  const airflowFrom = better && better.from !== 'trade' ? better.from : 'physics';
  // While a diesel recirculates, or nobody knows, its airflow below full load says little.
  if (measured !== undefined && measured > 0 && band && (!diesel || r.recirculation === 'shut')) {
    const expected =
      r.mapKPa !== undefined && !diesel
        ? speedDensityGps(partLoadVe(r.mapKPa, facts.baroKPa), r.mapKPa, iatC, facts.displacementL, rpm)
        : middle(band);
    // An engine that stands, or a manifold without pressure, has no airflow to compare with.
    if (expected > LEAST_FLOW_GPS) airflowLog = Math.log(measured / expected);
    if (better && airflowFrom !== 'physics') airflowLog = Math.log(measured / middle(better));
    // What had to be assumed scatters too.
    airflowSd = Math.hypot(
      r.mapKPa === undefined ? SCATTER.airflow.withoutPressure : SCATTER.airflow.withPressure,
      r.mapKPa === undefined && assumedBaro ? SCATTER.airflow.baro : 0,
      r.rpm === undefined && r.at === 'idle' ? SCATTER.airflow.rpm : 0,
      r.iatC === undefined ? SCATTER.airflow.charge : 0,
    );
    // A band that is known takes in nineteen of twenty such engines.
    if (better && airflowFrom !== 'physics') airflowSd = Math.max(Math.log(better.high / better.low) / 4, 0.02);
  }
  const trims: TrimEvidence[] = [];
  const cold = r.ectC !== undefined && r.ectC < 70;
  const open = r.loop === 'open';
  if (open && r.trims) warnings.push(`${pointLabel(r.at)}: open loop, its trims are not evidence.`);
  if (cold && r.trims && !open)
    warnings.push(said`${pointLabel(r.at)}: taken at ${figure(r.ectC!, '°C')} coolant, weighted less.`);
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
      trims.push({
        at: r.at,
        point: -1,
        bank: bankNumber(key),
        totalPct: total,
        wanderedPct: t.sd ?? BY_EYE_SD,
        sd: Math.sqrt(variance),
        pegged,
      });
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
    airflowFrom,
    pressureRead: r.mapKPa !== undefined,
    rpmRead: r.rpm !== undefined,
    airflowDead,
    trims,
  };
}

/** `tested`: the ratio that the full-load test gave, where the reading cannot say. */
export function fullLoadEvidence(
  r: Reading,
  vehicle: VehicleSpec,
  facts: EngineFacts,
  tested: number | undefined,
): Evidence['fullLoad'] {
  const rpm = r.rpm ?? 4500;
  const turbo = vehicle.induction === 'turbo';
  let ratio = tested ?? Number.NaN;
  // What a turbocharged engine should take is known by its own manifold pressure only.
  if (r.mafGps !== undefined && r.mafGps > 0 && vehicle.metering !== 'speed-density' && (!turbo || r.mapKPa)) {
    const pressure = turbo && r.mapKPa ? r.mapKPa : facts.baroKPa;
    const charge = turbo ? (r.iatC ?? facts.airC + 25) : facts.airC;
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
