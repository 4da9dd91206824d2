import { type Case, partOf, pointLabel, type Reading } from '../../case/index.ts';
import { SIGN_TEST } from '../../catalogue/index.ts';
import { type EngineFacts, type KnownFigure, stationPressure } from '../../expected/index.ts';
import { figure, type Said, said } from '../../units/index.ts';
import { feelsThinAir, STANDARD_KPA } from './altitude.ts';
import { resolveBanks } from './banks.ts';
import { engineOf } from './engine.ts';
import { plausible } from './plausible.ts';
import { DIRECT_RAIL_KPA, fullLoadEvidence, LEAST_FLOW_GPS, PORT_RAIL_KPA, pointEvidence } from './points.ts';
import { testEvidence, testedFigures } from './results.ts';
import { signsOf } from './signs.ts';
import { measuredSizes } from './sizes.ts';
import { type Evidence, type PointEvidence } from './types.ts';

/** The newest of several readings with the same point, in order of first appearance. */
function newestReadings(readings: readonly Reading[]): Reading[] {
  const by = new Map<string, Reading>();
  for (const r of readings) by.set(r.at, r);
  return [...by.values()];
}

/** Turn a valid case into what the weighing needs, saying in `warnings` what is weak. */
export function gatherEvidence(c: Case, known: readonly KnownFigure[] = []): Evidence {
  const warnings: Said[] = [];
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
  const thin = feelsThinAir(c.vehicle, station.baroKPa);
  if (thin > 0 && c.complaints?.includes('low-power'))
    warnings.push(
      said`${figure(station.baroKPa, 'kPa', 0)} of air: without a charger about ${figure(100 * (1 - station.baroKPa / STANDARD_KPA), '%', 0)} of the power is missing by the altitude alone. With every figure right nothing is to be replaced.`,
    );
  const diesel = c.vehicle.fuel === 'diesel';
  if (diesel && readings.some((r) => r.trims))
    warnings.push('Fuel trims on a diesel are ignored: there are none to read.');
  const points: PointEvidence[] = [];
  const tested = testedFigures(c);
  let fullLoad: Evidence['fullLoad'] = tested.ratio === undefined ? null : { ratio: tested.ratio, lean: null };
  let koeo: number | null = tested.koeoKPa ?? null;
  for (const r of readings) {
    if (r.at === 'koeo' && r.mapKPa !== undefined) koeo = r.mapKPa - station.baroKPa;
    if (r.at === 'full-load') fullLoad = fullLoadEvidence(r, c.vehicle, facts, tested.ratio);
    const p = pointEvidence(r, c.vehicle, facts, { assumedBaro: station.from === 'assumed', diesel, known }, warnings);
    if (p) points.push(p);
  }
  points.sort((a, b) => a.airflowGps - b.airflowGps);
  points.forEach((p, i) => {
    for (const t of p.trims) t.point = i;
  });
  const idle = points.find((p) => p.at === 'idle');
  const tests = testEvidence(c, banks, warnings);
  const done = new Set(tests.map((t) => t.row.id));
  // The same figure counts once: as the test's, where it was tested.
  const signs = signsOf(c, readings, station.baroKPa, (r) => pointLabel(r.at)).filter(
    (s) => !done.has(SIGN_TEST[s.id] ?? ''),
  );
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
    engine: engineOf(c.vehicle, readings, c.tests),
    banks,
    baroKPa: station.baroKPa,
    airC,
    ethanolCalibratedPct: c.vehicle.ethanolPctCalibrated ?? 10,
    railKPa: c.vehicle.limits?.fuelPressureKPa ?? (c.vehicle.injection === 'direct' ? DIRECT_RAIL_KPA : PORT_RAIL_KPA),
    points,
    // Where the airflow signal is dead the ECU goes by a figure of its own, and its trims say how good that is.
    trims: points.flatMap((p) => (p.airflowDead ? [] : p.trims)),
    idleFlowGps,
    idleMapKPa: idle?.mapKPa ?? 0.33 * station.baroKPa,
    // A road reading below idle is no road reading.
    roadFlowGps: road && road.airflowGps > idleFlowGps ? road.airflowGps : 8 * c.vehicle.displacementL,
    fullLoad,
    koeoDifferenceKPa: koeo,
    tests,
    airflowDead: points.some((p) => p.airflowDead),
    codes: c.codes ?? null,
    complaints: c.complaints ?? [],
    work: (c.recentWork ?? []).map((w) => ({ ...w, id: partOf(w.part)?.id ?? null })),
    signs,
    sizes: measuredSizes(c, readings),
    warnings,
  };
}
