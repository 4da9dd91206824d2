import { absoluteLoad, blendAfr, engineAirflowGps, ethanolTrimPct, pressureTrimPct } from '../engine/index.ts';
import {
  airDensity,
  altitudeAtPressureM,
  holeForFlow,
  LEAK_CD_INTERVAL,
  pressureAtAltitudeKPa,
  relativeFlow,
  SEA_LEVEL_KPA,
} from '../gas/index.ts';
import { figure, type Said, said } from '../units/index.ts';

/** A figure that is typed in: its name, unit, and the range in which it makes sense. */
export interface CalculatorField {
  key: string;
  label: string;
  /** Metric unit; empty for a plain number. */
  unit: string;
  digits: number;
  low: number;
  high: number;
  /** Fuel pressure has its own US unit. */
  role?: 'fuel';
}

/** A figure worked out, with its unit, and what it rests on. */
export interface CalculatorResult {
  label: string;
  value: number;
  unit: string;
  digits: number;
  role?: 'fuel';
}

/** One small sum of the trade: what goes in, what comes out, and where the formula is from. */
export interface Calculator {
  id: string;
  title: string;
  /** The formula in one line. */
  how: Said;
  fields: readonly CalculatorField[];
  /** Given every field in its metric unit. Results in metric units; NaN where the figures allow none. */
  compute: (v: Readonly<Record<string, number>>) => CalculatorResult[];
  source: string;
}

/** Standard temperature of calculated load, SAE J1979: 298 K; its 29.92 inHg are sea level's. */
const LOAD_K = 298;
const STANDARD = { p: SEA_LEVEL_KPA, c: 25 };

const field = (
  key: string,
  label: string,
  unit: string,
  digits: number,
  low: number,
  high: number,
  role?: 'fuel',
): CalculatorField => ({ key, label, unit, digits, low, high, ...(role ? { role } : {}) });

const displacement = field('displacementL', 'Displacement', 'L', 1, 0.3, 15);
/** To above the highest ever measured at sea level, 108.5 kPa. WMO, archive of extremes (from memory). */
const baro = field('baroKPa', 'Station pressure', 'kPa', 1, 50, 110);
const rpm = field('rpm', 'Engine speed', 'rpm', 0, 200, 12_000);
const map = field('mapKPa', 'Manifold pressure, absolute', 'kPa', 0, 10, 400);
const charge = field('chargeC', 'Charge temperature', '°C', 0, -40, 120);
const airflow = field('airflowGps', 'Airflow', 'g/s', 1, 0.2, 600);

/** The calculators, in the order they are shown. */
export const CALCULATORS: readonly Calculator[] = [
  {
    id: 'leak',
    title: 'Leak size from trim and airflow',
    how: 'leak = trim · metered airflow; the hole by compressible flow, a ragged edge letting 0.6–0.8 of it through',
    fields: [
      field('trimPct', 'Total trim at idle', '%', 1, 0.5, 60),
      airflow,
      map,
      baro,
      field('raisedGps', 'Airflow at the raised speed', 'g/s', 1, 0.5, 600),
      field('raisedKPa', 'Manifold pressure there', 'kPa', 0, 10, 110),
    ],
    compute: (v) => {
      const leak = (v.trimPct! / 100) * v.airflowGps!;
      const hole = (cd?: number) => holeForFlow(leak, v.baroKPa!, STANDARD.c, v.mapKPa!, cd)?.diameterMm ?? Number.NaN;
      const raised = leak * (relativeFlow(v.raisedKPa! / v.baroKPa!) / relativeFlow(v.mapKPa! / v.baroKPa!));
      return [
        { label: 'Air past the meter', value: leak, unit: 'g/s', digits: 2 },
        { label: 'As a round hole', value: hole(), unit: 'mm', digits: 1 },
        { label: 'At least', value: hole(LEAK_CD_INTERVAL[1]), unit: 'mm', digits: 1 },
        { label: 'At most', value: hole(LEAK_CD_INTERVAL[0]), unit: 'mm', digits: 1 },
        { label: 'Trim it must make at the raised speed', value: (100 * raised) / v.raisedGps!, unit: '%', digits: 1 },
      ];
    },
    source: 'conservation of mass; Heywood app. C (from memory)',
  },
  {
    id: 'airflow',
    title: 'Airflow and volumetric efficiency',
    how: 'airflow = VE · density · displacement · speed / 120, four-stroke',
    fields: [displacement, rpm, map, charge, field('airflowGps', 'Measured airflow', 'g/s', 1, 0.2, 600)],
    compute: (v) => {
      const full = engineAirflowGps(1, airDensity(v.mapKPa!, v.chargeC!), v.displacementL!, v.rpm!);
      return [
        { label: 'Volumetric efficiency', value: (100 * v.airflowGps!) / full, unit: '%', digits: 0 },
        { label: 'Airflow at 75 %', value: 0.75 * full, unit: 'g/s', digits: 1 },
        { label: 'Airflow at 105 %', value: 1.05 * full, unit: 'g/s', digits: 1 },
      ];
    },
    source: 'Heywood ch. 2 (from memory)',
  },
  {
    id: 'altitude',
    title: 'Altitude, station pressure and vacuum',
    how: 'standard atmosphere; absolute = station pressure − vacuum. A weather report is reduced to sea level: use the elevation',
    fields: [
      field('altitudeM', 'Elevation', 'm', 0, -400, 5000),
      field('vacuumKPa', 'Vacuum on the gauge', 'kPa', 1, 0, 100),
    ],
    compute: (v) => {
      const station = pressureAtAltitudeKPa(v.altitudeM!);
      return [
        { label: 'Station pressure', value: station, unit: 'kPa', digits: 1 },
        { label: 'Manifold, absolute', value: station - v.vacuumKPa!, unit: 'kPa', digits: 1 },
        { label: 'Air density against sea level', value: (100 * station) / STANDARD.p, unit: '%', digits: 0 },
      ];
    },
    source: 'US Standard Atmosphere 1976',
  },
  {
    id: 'station',
    title: 'Elevation from station pressure',
    how: said`the same, turned round; key on, engine off, a sound manifold sensor reads this pressure within ${figure(3, 'kPa', 0, { difference: true })}`,
    fields: [baro],
    compute: (v) => [{ label: 'Elevation', value: altitudeAtPressureM(v.baroKPa!), unit: 'm', digits: 0 }],
    source: 'US Standard Atmosphere 1976',
  },
  {
    id: 'injector',
    title: 'Injector and pressure',
    how: 'fuel goes with the root of the pressure across the injector: rail less manifold where the regulator is fixed',
    fields: [
      field('shouldKPa', 'Pressure across it, as it should be', 'kPa', 0, 50, 40_000, 'fuel'),
      field('isKPa', 'Pressure across it, as it is', 'kPa', 0, 10, 40_000, 'fuel'),
    ],
    compute: (v) => {
      const share = v.isKPa! / v.shouldKPa!;
      return [
        { label: 'Fuel delivered', value: 100 * Math.sqrt(share), unit: '%', digits: 1 },
        { label: 'Trim that asks for', value: pressureTrimPct(share), unit: '%', digits: 1 },
      ];
    },
    source: 'Bernoulli',
  },
  {
    id: 'ethanol',
    title: 'Ethanol shift',
    how: 'trim = air/fuel ratio calibrated for, over the ratio of the fuel in the tank, times the root of the densities',
    fields: [
      field('pct', 'Ethanol in the tank, by volume', '%', 0, 0, 100),
      field('calibratedPct', 'Calibrated for', '%', 0, 0, 100),
    ],
    compute: (v) => [{ label: 'Total trim', value: ethanolTrimPct(v.pct!, v.calibratedPct!), unit: '%', digits: 1 }],
    source: 'Heywood, table D.4, air/fuel ratio and density (from memory), derived',
  },
  {
    id: 'load',
    title: 'Load',
    how: 'absolute: air per stroke over 1.184 g/L of cylinder; calculated: airflow over the most at that speed, corrected',
    fields: [
      airflow,
      rpm,
      displacement,
      field('peakGps', 'Most airflow at that speed, sea level', 'g/s', 0, 1, 900),
      baro,
      field('airC', 'Outside air', '°C', 0, -40, 60),
    ],
    compute: (v) => [
      {
        label: 'Absolute load',
        value: 100 * absoluteLoad(v.airflowGps!, v.rpm!, v.displacementL!),
        unit: '%',
        digits: 1,
      },
      {
        label: 'Calculated load',
        value:
          (100 * v.airflowGps!) / (v.peakGps! * (v.baroKPa! / SEA_LEVEL_KPA) * Math.sqrt(LOAD_K / (v.airC! + 273.15))),
        unit: '%',
        digits: 1,
      },
    ],
    source: 'SAE J1979 (from memory)',
  },
  {
    id: 'lambda',
    title: 'λ and air/fuel ratio',
    how: 'air/fuel ratio over the stoichiometric one of the fuel; λ below 1 is rich',
    fields: [field('lambda', 'λ', '', 3, 0.5, 2), field('pct', 'Ethanol, by volume', '%', 0, 0, 100)],
    compute: (v) => {
      const stoichiometric = blendAfr(v.pct!);
      return [
        { label: 'Air/fuel ratio by mass', value: v.lambda! * stoichiometric, unit: '', digits: 2 },
        { label: 'Stoichiometric', value: stoichiometric, unit: '', digits: 2 },
        { label: 'Equivalence ratio', value: 1 / v.lambda!, unit: '', digits: 3 },
        { label: 'Fuel missing', value: 100 * (v.lambda! - 1), unit: '%', digits: 1 },
      ];
    },
    source: 'definition; Heywood, table D.4 (from memory)',
  },
];
