import { type CarSpec, type FaultEffects, HOLE_CD, holeFlowGps, type Surroundings } from '../engine/index.ts';

/** One fault in a car: id, size in the fault's own unit, and for per-bank faults the bank (1 unless said). */
export interface InjectedFault {
  id: string;
  severity: number;
  bank?: 1 | 2;
}

export interface SimFault {
  id: string;
  label: string;
  unit: string;
  low: number;
  high: number;
  /** A size worth finding; leaks per litre of displacement, turned into g/s by `typicalFor`. */
  typical: number;
  perLitre?: boolean;
  /** Typical size as a share of the rail's pressure; at most four fifths of it. */
  ofRail?: boolean;
  perBank?: boolean;
  needs?: readonly ('maf' | 'map' | 'turbo' | 'petrol' | 'bank2' | 'upstream')[];
  /** Where smoke comes out, where a look may find it: outcome words of the bench tests. */
  smoke?: string;
  look?: string;
  apply(e: FaultEffects, severity: number, bank: 0 | 1, at: Context): void;
}

interface Context {
  spec: CarSpec;
  surroundings: Surroundings;
}

/** Manifold pressure at which a leak's size is stated, kPa: warm idle. */
const IDLE_REFERENCE_KPA = 31;
/** Fuel flow of road load per litre, g/s: where a delivery shortfall is stated. */
const ROAD_FUEL_GPS_PER_L = 8 / 14.1;

const area = (gps: number, { surroundings }: Context) =>
  gps / holeFlowGps(1, surroundings.baroKPa, surroundings.airC + 273.15, IDLE_REFERENCE_KPA, HOLE_CD);
const leak = (typical: number) => ({ unit: 'g/s', low: 0.02, high: 3, typical, perLitre: true });
const pct = (low: number, high: number, typical: number) => ({ unit: '%', low, high, typical });

/** What can be wrong with a simulated car. Severity units are those of the trade; sizes [house]. */
export const SIM_FAULTS: readonly SimFault[] = [
  {
    id: 'vac-leak',
    label: 'Air leak after the throttle',
    ...leak(0.2),
    needs: ['petrol'],
    smoke: 'brake-booster',
    look: 'hose-split',
    apply: (e, s, _, at) => {
      e.plenumLeakMm2 += area(s, at);
    },
  },
  {
    id: 'vac-leak-bank1',
    label: 'Air leak at a bank 1 runner',
    ...leak(0.17),
    needs: ['petrol'],
    smoke: 'gasket-bank1',
    apply: (e, s, _, at) => {
      e.runnerLeakMm2[0] += area(s, at);
    },
  },
  {
    id: 'vac-leak-bank2',
    label: 'Air leak at a bank 2 runner',
    ...leak(0.17),
    needs: ['petrol', 'bank2'],
    smoke: 'gasket-bank2',
    apply: (e, s, _, at) => {
      e.runnerLeakMm2[1] += area(s, at);
    },
  },
  {
    id: 'crankcase-leak',
    label: 'Crankcase system leak',
    ...leak(0.2),
    needs: ['petrol'],
    smoke: 'pcv',
    apply: (e, s, _, at) => {
      e.crankcaseLeakMm2 += area(s, at);
    },
  },
  {
    id: 'egr-gasket-leak',
    label: 'Air leak at the EGR joint',
    ...leak(0.2),
    needs: ['petrol'],
    smoke: 'egr',
    apply: (e, s, _, at) => {
      e.egrJointLeakMm2 += area(s, at);
    },
  },
  {
    id: 'egr-stuck-open',
    label: 'EGR valve stuck open',
    ...pct(3, 25, 12),
    needs: ['petrol'],
    // Share of idle flow that is exhaust gas; the hole is sized for hot gas at idle.
    apply: (e, s, _, at) => {
      const gps = (s / 100) * 1.4 * at.spec.displacementL;
      e.egrValveMm2 += gps / holeFlowGps(1, at.surroundings.baroKPa + 2, 620, IDLE_REFERENCE_KPA, HOLE_CD);
    },
  },
  {
    id: 'duct-leak',
    label: 'Duct leak after the airflow sensor',
    ...pct(3, 40, 16),
    needs: ['maf', 'petrol'],
    smoke: 'duct',
    look: 'duct-split',
    apply: (e, s) => {
      e.ductShare += s / 100;
    },
  },
  {
    id: 'boost-leak',
    label: 'Boost leak',
    ...pct(4, 40, 10),
    needs: ['turbo'],
    smoke: 'charge-pipe',
    look: 'duct-loose',
    // Share of full-load flow lost at full boost.
    apply: (e, s, _, at) => {
      const { baroKPa, airC } = at.surroundings;
      const full = 45 * at.spec.displacementL * (1 + at.spec.boostKPa / baroKPa);
      e.chargeLeakMm2 +=
        ((s / 100) * full) / holeFlowGps(1, baroKPa + at.spec.boostKPa, airC + 273.15, baroKPa, HOLE_CD);
    },
  },
  {
    id: 'maf-dirty',
    label: 'Dirty airflow sensor',
    ...pct(4, 40, 18),
    needs: ['maf'],
    look: 'dirty',
    apply: (e, s) => {
      e.mafDirtShare = s / 100;
    },
  },
  {
    id: 'maf-under',
    label: 'Airflow sensor reads low',
    ...pct(2, 40, 15),
    needs: ['maf'],
    apply: (e, s) => {
      e.mafGain *= 1 - s / 100;
    },
  },
  {
    id: 'maf-over',
    label: 'Airflow sensor reads high',
    ...pct(2, 40, 15),
    needs: ['maf'],
    apply: (e, s) => {
      e.mafGain *= 1 + s / 100;
    },
  },
  {
    id: 'maf-circuit',
    label: 'Airflow sensor circuit open',
    unit: '',
    low: 1,
    high: 1,
    typical: 1,
    needs: ['maf'],
    apply: (e) => {
      e.mafDead = true;
    },
  },
  {
    id: 'air-filter',
    label: 'Air filter restricted',
    ...pct(5, 45, 22),
    look: 'filter-loaded',
    apply: (e, s) => {
      e.filterDrop += 1.5 * (s / 100);
    },
  },
  {
    id: 'exhaust-restricted',
    label: 'Exhaust restricted',
    ...pct(5, 50, 25),
    perBank: true,
    apply: (e, s, b, at) => {
      e.exhaustLoss[b] += s / 100;
      if (at.spec.banks === 1) e.exhaustLoss[1] = e.exhaustLoss[0];
    },
  },
  {
    id: 'map-bias',
    label: 'Manifold pressure sensor off',
    unit: 'kPa',
    low: -15,
    high: 15,
    typical: 7,
    needs: ['map'],
    apply: (e, s) => {
      e.mapOffsetKPa += s;
    },
  },
  {
    id: 'map-port-blocked',
    label: 'Manifold pressure port blocked',
    unit: 'ms',
    low: 300,
    high: 20_000,
    typical: 5000,
    needs: ['map'],
    apply: (e, s) => {
      e.mapLagS += s / 1000;
    },
  },
  {
    id: 'map-hose-split',
    label: 'Manifold pressure hose split',
    ...pct(3, 60, 15),
    needs: ['map'],
    look: 'hose-split',
    apply: (e, s) => {
      e.mapTowardsBaro = s / 100;
    },
  },
  {
    id: 'fuel-low',
    label: 'Weak fuel delivery',
    unit: 'kPa',
    low: 10,
    high: 9000,
    typical: 0.3,
    ofRail: true,
    needs: ['petrol'],
    apply: (e, s, _, at) => {
      e.railDropKPaPerGps += s / (ROAD_FUEL_GPS_PER_L * at.spec.displacementL);
    },
  },
  {
    id: 'fuel-high',
    label: 'Fuel pressure too high',
    unit: 'kPa',
    low: 10,
    high: 9000,
    typical: 0.33,
    ofRail: true,
    needs: ['petrol'],
    apply: (e, s) => {
      e.railOffsetKPa += s;
    },
  },
  {
    id: 'injector-restricted',
    label: 'Injectors restricted',
    ...pct(3, 40, 14),
    perBank: true,
    needs: ['petrol'],
    apply: (e, s, b) => {
      e.injectorLoss[b] += s / 100;
    },
  },
  {
    id: 'injector-leaking',
    label: 'Injector leaking',
    unit: 'g/s',
    low: 0.002,
    high: 0.2,
    typical: 0.008,
    perLitre: true,
    perBank: true,
    needs: ['petrol'],
    apply: (e, s, b) => {
      e.dripGps[b] += s;
    },
  },
  {
    id: 'purge-open',
    label: 'Purge valve stuck open',
    ...leak(0.22),
    needs: ['petrol'],
    smoke: 'purge',
    apply: (e, s, _, at) => {
      e.purgeMm2 += area(s, at);
    },
  },
  {
    id: 'fuel-in-oil',
    label: 'Fuel in the oil',
    unit: 'g/s',
    low: 0.002,
    high: 0.15,
    typical: 0.014,
    perLitre: true,
    needs: ['petrol'],
    apply: (e, s) => {
      e.oilFuelGps += s;
    },
  },
  {
    id: 'ethanol-high',
    label: 'More ethanol than calibrated',
    unit: '%',
    low: 15,
    high: 85,
    typical: 45,
    needs: ['petrol'],
    apply: (e, s) => {
      e.ethanolPct = s;
    },
  },
  {
    id: 'o2-biased-lean',
    label: 'Oxygen sensor biased lean',
    ...pct(2, 25, 12),
    perBank: true,
    needs: ['petrol', 'upstream'],
    apply: (e, s, b) => {
      e.o2Shift[b] += s / 100;
    },
  },
  {
    id: 'o2-biased-rich',
    label: 'Oxygen sensor biased rich',
    ...pct(2, 20, 12),
    perBank: true,
    needs: ['petrol', 'upstream'],
    apply: (e, s, b) => {
      e.o2Shift[b] -= s / 100;
    },
  },
  {
    id: 'o2-slow',
    label: 'Oxygen sensor slow',
    unit: 'ms',
    low: 150,
    high: 3000,
    typical: 900,
    perBank: true,
    needs: ['petrol', 'upstream'],
    apply: (e, s, b) => {
      e.o2TauS[b] = s / 1000;
    },
  },
  {
    id: 'o2-heater',
    label: 'Oxygen sensor heater dead',
    unit: '',
    low: 1,
    high: 1,
    typical: 1,
    perBank: true,
    needs: ['petrol', 'upstream'],
    apply: (e, _, b) => {
      e.o2HeaterDead[b] = 1;
    },
  },
  {
    id: 'exhaust-leak',
    label: 'Exhaust leak ahead of the sensor',
    ...pct(2, 30, 14),
    perBank: true,
    needs: ['petrol', 'upstream'],
    apply: (e, s, b) => {
      e.exhaustLeak[b] += s / 100;
    },
  },
  {
    id: 'misfire-ignition',
    label: 'Ignition misfire',
    ...pct(2, 30, 12),
    perBank: true,
    needs: ['petrol'],
    apply: (e, s, b) => {
      e.misfire[b] += s / 100;
    },
  },
  {
    id: 'throttle-fouled',
    label: 'Throttle fouled',
    ...pct(10, 70, 45),
    needs: ['petrol'],
    apply: (e, s) => {
      e.throttleFouled = s / 100;
    },
  },
  {
    id: 'cat-degraded',
    label: 'Catalyst spent',
    unit: 'ratio',
    low: 0,
    high: 0.5,
    typical: 0.01,
    perBank: true,
    needs: ['petrol'],
    apply: (e, s, b) => {
      e.storage[b] = s;
    },
  },
  {
    id: 'thermostat-open',
    label: 'Thermostat stuck open',
    unit: '',
    low: 1,
    high: 1,
    typical: 1,
    apply: (e) => {
      e.thermostatOpen = true;
    },
  },
  ...(
    [
      ['evap-cap', 'Filler cap does not seal', 6],
      ['evap-hose', 'Vapour hose split', 1.4],
      ['evap-vent', 'Vent valve does not shut tightly', 0.8],
    ] as const
  ).map(
    ([id, label, typical]): SimFault => ({
      id,
      label,
      unit: 'mm',
      low: 0.3,
      high: 12,
      typical,
      needs: ['petrol'],
      // A round hole of this diameter.
      apply: (e, s) => {
        e.evapLeakMm2 += (Math.PI / 4) * s * s;
      },
    }),
  ),
];

const BY_ID = new Map(SIM_FAULTS.map((f) => [f.id, f]));

export function simFault(id: string): SimFault | undefined {
  return BY_ID.get(id);
}

/** Whether the car has what the fault needs. */
export function canHave(f: SimFault, spec: CarSpec): boolean {
  return (f.needs ?? []).every((n) => {
    if (n === 'maf') return spec.metering !== 'speed-density';
    if (n === 'map') return spec.metering !== 'maf' || spec.fuel === 'diesel';
    if (n === 'turbo') return spec.induction === 'turbo';
    if (n === 'bank2') return spec.banks === 2;
    if (n === 'upstream') return spec.upstream !== 'none';
    return spec.fuel === 'petrol';
  });
}

/** A size worth finding on this car, in the fault's unit. */
export function typicalFor(f: SimFault, spec: CarSpec): number {
  const digits = f.unit === 'g/s' ? 1000 : 10;
  if (f.ofRail) return Math.round(f.typical * spec.railKPa);
  return f.perLitre ? Math.round(f.typical * spec.displacementL * digits) / digits : f.typical;
}

/** Throws RangeError with the reason when the fault cannot be put into this car. */
export function checkFault(fault: InjectedFault, spec: CarSpec): SimFault {
  const row = BY_ID.get(fault.id);
  if (!row) throw new RangeError(`unknown fault "${fault.id}": ${SIM_FAULTS.map((f) => f.id).join(', ')}`);
  if (!canHave(row, spec))
    throw new RangeError(`${fault.id}: this car cannot have it (needs ${row.needs!.join(', ')})`);
  if (!(fault.severity >= row.low && fault.severity <= row.high))
    throw new RangeError(`${fault.id}: severity ${fault.severity} is outside ${row.low}–${row.high} ${row.unit}`);
  if (row.ofRail && fault.severity > 0.8 * spec.railKPa)
    throw new RangeError(
      `${fault.id}: severity ${fault.severity} kPa is past four fifths of this rail's ${spec.railKPa} kPa`,
    );
  if (fault.bank !== undefined && (fault.bank > spec.banks || !row.perBank))
    throw new RangeError(
      `${fault.id}: bank ${fault.bank} ${row.perBank ? 'does not exist on this car' : 'is not its to have'}`,
    );
  return row;
}
