import { type Figure, figure, type Role } from '../units/index.ts';
import type { Need } from './needs.ts';

/**
 * How a fault bends what is measured, as data; `forward.ts` turns a shape, a severity and an operating point into
 * figures. `banks`: which banks it reaches: all, the named one, or either (the likelier one is reported).
 */
export type Shape =
  | { kind: 'none' }
  /** It comes and goes: now, everything reads right. */
  | { kind: 'absent' }
  /** Air that enters after the metering point, s g/s at idle. `spill`: share of it that the other bank gets. */
  | { kind: 'leak'; bank?: 1 | 2; spill?: number }
  /** The airflow signal reads a share s % low (−1) or high (+1) at every flow; `duct`: air lost ahead of the sensor's count. */
  | { kind: 'meter'; sign: -1 | 1 }
  /**
   * Hot wire skewed: reads under by s % at road load, right at the crossing, over below it, linear in log flow.
   * `crossing`: where, from 0 (idle) to 1 (road load); below 0 it is under at idle too. `right`: below the crossing it reads
   * right: a coat of dirt costs the wire most where it has most heat to give off.
   */
  | { kind: 'skew'; crossing: number; right?: true }
  /**
   * Fuel pressure s kPa short at road load. `from`: the flow, as a share of road load, at which the pump no longer keeps
   * up; 'everywhere': short by as much at idle (regulator, spring). `share`: of it that is short at every flow, beside what
   * comes with load: a worn pump behind a tired regulator, a filter that is nearly shut.
   */
  | { kind: 'sag'; from: number | 'everywhere'; share?: number }
  /** Fuel pressure s kPa too high at every flow. */
  | { kind: 'overPressure' }
  /** Injectors of one bank deliver s % less. */
  | { kind: 'injectors' }
  /** Fuel (or vapour) enters at a constant s g/s beside the injectors. */
  | { kind: 'extraFuel'; oneBank?: boolean }
  /** Air with fuel vapour enters at s g/s; `richness`: trim per share of the flow, −1 takes away as much as a leak adds. */
  | { kind: 'vapour'; richness: number }
  /** Ethanol content s % by volume. */
  | { kind: 'ethanol' }
  /** The upstream sensor reads shifted: trims move by s %. */
  | { kind: 'sensorBias'; sign: -1 | 1 }
  /** Oxygen reaches the sensor from outside the cylinder: s % at idle, fading with flow to the power given. */
  | { kind: 'falseLean'; fade: number; bothBanks?: true }
  /** One exhaust restricted by s %: on a metered V engine the banks split; speed-density fuels air that is not there. */
  | { kind: 'split' }
  /** Pressure sensor reads s kPa high (+) or low (−). */
  | { kind: 'mapOffset' }
  /** Pressure signal reads a share s % of the way towards atmosphere. */
  | { kind: 'mapTowardsBaro' }
  /** Airflow signal flat or default: the ECU goes by a model of its own, which is off by s %. */
  | { kind: 'meterDead' }
  /** Air lost between compressor and throttle: metered but gone, so rich under boost by s % and right without. */
  | { kind: 'boostLoss' }
  /** Exhaust in the charge: s % of pressure without air at idle. Speed-density fuels too much; a meter reads below physics. */
  | { kind: 'recirculated' }
  /** Intake air shown s °C off: a speed-density engine takes its density from it. */
  | { kind: 'chargeTemperature' }
  /** The plugs of both banks' sensors crossed: each bank is driven by the other, one trim to its limit, the other to the opposite. */
  | { kind: 'crossed'; lean: 1 | 2 }
  /** Upstream sensor dead: the trim runs to the ECU's limit one way. */
  | { kind: 'sensorStuck'; sign: -1 | 1 };

export interface SeverityRange {
  unit: string;
  low: number;
  high: number;
  /** Sizes that bring a car to the shop: three times as likely as the rest of the range. [house] */
  usual?: readonly [number, number];
  /** The figures above are shares of the idle airflow, or of the rail pressure. */
  of?: 'idleFlow' | 'rail';
  /** What the size is of, where its unit alone does not say how it is read. */
  role?: Role;
}

/** A cause: how often it is met, what it does to air and fuel, the sizes it comes in. */
export interface FaultRow {
  id: string;
  label: string;
  weight: number;
  /** null: a size has no meaning. */
  severity: SeverityRange | null;
  /** The sizes only spread what a variant may do; none is reported. */
  sizeless?: boolean;
  variants: readonly { weight: number; shape: Shape }[];
  perBank?: boolean;
  needs?: readonly Need[];
  /**
   * Full-load airflow, ratio to expected: a value with its spread (of the logarithm), or the severity share taken off (−1)
   * or added (+1).
   */
  fullLoad?: { ratio: number; spread: number } | { shareSign: -1 | 1 };
  /** An engine that does not take it back idles faster and at more pressure, by these shares. Common practice, no source; [house]. */
  idle?: { rpmLog: number; pressureLog: number };
  /** Its size is what the pressure sensor is off by with the key on. */
  koeo?: true;
  /** Faults of one group are one on an engine with one bank, and half right on two. */
  group?: 'plenum-leak';
  /** Whose part is bought new when it is named: naming one that is sound condemns it. Common practice, no source. */
  bought?: true;
  /** The part to which clean or replace applies. */
  cleans?: 'airflow-sensor' | 'pressure-sensor' | 'oxygen-sensor' | 'throttle-body';
  /** What a person is told who chooses this cause: how it shows, and what it is not. */
  help?: string;
  source: string;
}

const TRADE = 'common practice, no source; weight [house]';
const only = (shape: Shape) => [{ weight: 1, shape }];
const NONE = only({ kind: 'none' });
const pct = (low: number, high: number, usual?: readonly [number, number]): SeverityRange => ({
  unit: '%',
  low,
  high,
  ...(usual ? { usual } : {}),
});
/** A leak is worth naming from 3 % of idle airflow to three quarters of it. [house] */
const LEAK: SeverityRange = { unit: 'g/s', low: 0.03, high: 0.75, usual: [0.07, 0.32], of: 'idleFlow' };
/** The same where it feeds one bank of two. */
const RUNNER_LEAK: SeverityRange = { ...LEAK, low: 0.02, usual: [0.05, 0.2] };
/**
 * A leak into the plenum: near one runner it feeds the banks unevenly, wherever it comes in (a gasket, the EGR joint, the
 * crankcase hose, the booster); with one bank all three are the same.
 */
const plenum = (weight: number): FaultRow['variants'] => [
  { weight: 0.8 * weight, shape: { kind: 'leak' } },
  { weight: 0.1 * weight, shape: { kind: 'leak', bank: 1, spill: 0.36 } },
  { weight: 0.1 * weight, shape: { kind: 'leak', bank: 2, spill: 0.36 } },
];
/** Fuel beside the injectors, as a share of the idle airflow: 1 % of it is 14 % of trim. [house] */
const EXTRA_FUEL: SeverityRange = { unit: 'g/s', low: 0.003, high: 0.04, usual: [0.005, 0.02], of: 'idleFlow' };

/** The fault catalogue, in its stable order. */
export const FAULTS: readonly FaultRow[] = [
  { id: 'balanced', label: 'All in order', weight: 4, severity: null, variants: NONE, source: TRADE },
  {
    id: 'vac-leak',
    group: 'plenum-leak',
    label: 'Air leak after the throttle',
    weight: 8,
    severity: LEAK,
    variants: plenum(1),
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'vac-leak-bank1',
    group: 'plenum-leak',
    label: 'Air leak at a bank 1 runner',
    weight: 2,
    severity: RUNNER_LEAK,
    variants: only({ kind: 'leak', bank: 1, spill: 0.15 }),
    // With one bank every runner is the common leak's to have.
    needs: ['petrol', 'bank2'],
    source: TRADE,
  },
  {
    id: 'vac-leak-bank2',
    group: 'plenum-leak',
    label: 'Air leak at a bank 2 runner',
    weight: 2,
    severity: RUNNER_LEAK,
    variants: only({ kind: 'leak', bank: 2, spill: 0.15 }),
    needs: ['petrol', 'bank2'],
    source: TRADE,
  },
  {
    id: 'crankcase-leak',
    label: 'Crankcase system leak',
    weight: 8,
    severity: LEAK,
    variants: plenum(1),
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'pcv-stuck-open',
    idle: { rpmLog: 0.12, pressureLog: 0.06 },
    label: 'Crankcase valve stuck open',
    weight: 2,
    severity: null,
    variants: NONE,
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'egr-gasket-leak',
    label: 'Air leak at the EGR joint',
    weight: 2,
    severity: LEAK,
    variants: plenum(1),
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'egr-stuck-open',
    label: 'EGR valve stuck open',
    weight: 2,
    severity: pct(4, 30, [7, 22]),
    variants: only({ kind: 'recirculated' }),
    source: TRADE,
  },
  {
    id: 'duct-leak',
    label: 'Duct leak after the airflow sensor',
    weight: 4,
    severity: pct(4, 35, [7, 22]),
    variants: only({ kind: 'meter', sign: -1 }),
    needs: ['maf'],
    fullLoad: { shareSign: -1 },
    help: 'Air lost between sensor and throttle looks like a sensor that reads low: look, rock, smoke tell them apart.',
    source: TRADE,
  },
  {
    id: 'boost-leak',
    label: 'Boost leak',
    weight: 2,
    severity: pct(5, 30),
    variants: only({ kind: 'boostLoss' }),
    needs: ['turbo'],
    fullLoad: { ratio: 1.05, spread: 0.1 },
    source: TRADE,
  },
  {
    id: 'turbo-underboost',
    bought: true,
    label: 'Turbocharger short of boost',
    weight: 0.5,
    severity: null,
    variants: NONE,
    needs: ['turbo'],
    fullLoad: { ratio: 0.8, spread: 0.12 },
    source: TRADE,
  },
  {
    id: 'maf-dirty',
    cleans: 'airflow-sensor',
    label: 'Dirty airflow sensor',
    weight: 8,
    severity: pct(4, 40, [7, 28]),
    variants: [
      // Where it happens to read right is not known: low everywhere, right at idle, or as late as the 2,500 rpm hold.
      { weight: 0.1, shape: { kind: 'skew', crossing: -1 } },
      { weight: 0.15, shape: { kind: 'skew', crossing: -0.45 } },
      { weight: 0.2, shape: { kind: 'skew', crossing: -0.15 } },
      { weight: 0.2, shape: { kind: 'skew', crossing: 0.1 } },
      { weight: 0.18, shape: { kind: 'skew', crossing: 0.35 } },
      { weight: 0.12, shape: { kind: 'skew', crossing: 0.6 } },
      { weight: 0.05, shape: { kind: 'skew', crossing: 0.7, right: true } },
    ],
    needs: ['maf'],
    fullLoad: { shareSign: -1 },
    help: 'Two schools: a dirty wire that is skewed, over at idle and under at load, is this cause; one that reads low everywhere is “reads low”. “It under-reads, hence rich” contradicts closed loop: the ECU adds what the sensor misses, so the trim goes lean.',
    source: TRADE,
  },
  {
    id: 'maf-under',
    bought: true,
    cleans: 'airflow-sensor',
    label: 'Airflow sensor reads low',
    weight: 4,
    severity: pct(4, 40, [7, 22]),
    variants: only({ kind: 'meter', sign: -1 }),
    needs: ['maf'],
    fullLoad: { shareSign: -1 },
    help: 'Low by the same share at every flow. A leak in the duct behind it looks the same: look, rock, smoke. A skewed wire is “dirty”.',
    source: TRADE,
  },
  {
    id: 'maf-over',
    bought: true,
    label: 'Airflow sensor reads high',
    weight: 2,
    severity: pct(4, 40, [7, 22]),
    variants: only({ kind: 'meter', sign: 1 }),
    needs: ['maf'],
    fullLoad: { shareSign: 1 },
    source: TRADE,
  },
  {
    id: 'maf-damaged',
    bought: true,
    cleans: 'airflow-sensor',
    label: 'Airflow sensor damaged',
    weight: 2,
    severity: pct(5, 35, [7, 22]),
    sizeless: true,
    // It may read right today, or anything.
    variants: [
      { weight: 0.6, shape: { kind: 'none' } },
      { weight: 0.25, shape: { kind: 'meter', sign: -1 } },
      { weight: 0.15, shape: { kind: 'meter', sign: 1 } },
    ],
    needs: ['maf'],
    source: TRADE,
  },
  {
    id: 'maf-installation',
    label: 'Airflow sensor fitted wrong',
    weight: 0.5,
    severity: pct(4, 40, [7, 22]),
    needs: ['maf'],
    variants: [
      { weight: 0.5, shape: { kind: 'meter', sign: -1 } },
      { weight: 0.5, shape: { kind: 'meter', sign: 1 } },
    ],
    source: TRADE,
  },
  {
    id: 'maf-circuit',
    bought: true,
    label: 'Airflow sensor circuit',
    weight: 2,
    severity: pct(-20, 20),
    sizeless: true,
    // A plug or a wire that comes and goes reads right while it is there.
    variants: [
      { weight: 0.65, shape: { kind: 'meterDead' } },
      { weight: 0.35, shape: { kind: 'absent' } },
    ],
    needs: ['maf'],
    fullLoad: { ratio: 0.4, spread: 0.6 },
    source: TRADE,
  },
  {
    id: 'air-filter',
    label: 'Air filter restricted',
    weight: 2,
    severity: pct(10, 40),
    variants: NONE,
    fullLoad: { shareSign: -1 },
    source: TRADE,
  },
  {
    id: 'exhaust-restricted',
    label: 'Exhaust restricted',
    weight: 2,
    severity: pct(5, 30),
    variants: [
      { weight: 0.5, shape: { kind: 'split' } },
      { weight: 0.5, shape: { kind: 'none' } },
    ],
    perBank: true,
    fullLoad: { shareSign: -1 },
    source: TRADE,
  },
  {
    id: 'map-bias',
    bought: true,
    cleans: 'pressure-sensor',
    koeo: true,
    label: 'Manifold pressure sensor off',
    weight: 2,
    severity: { unit: 'kPa', low: -14, high: 14 },
    variants: only({ kind: 'mapOffset' }),
    needs: ['map'],
    source: TRADE,
  },
  {
    id: 'map-circuit',
    bought: true,
    label: 'Manifold pressure sensor circuit',
    weight: 0.5,
    severity: null,
    variants: NONE,
    needs: ['map'],
    source: TRADE,
  },
  {
    id: 'map-port-blocked',
    cleans: 'pressure-sensor',
    label: 'Manifold pressure port blocked',
    weight: 2,
    severity: null,
    variants: NONE,
    needs: ['map'],
    source: TRADE,
  },
  {
    id: 'map-hose-split',
    label: 'Manifold pressure hose split',
    weight: 2,
    severity: pct(3, 40),
    variants: only({ kind: 'mapTowardsBaro' }),
    needs: ['map'],
    source: TRADE,
  },
  {
    id: 'fuel-low',
    bought: true,
    label: 'Weak fuel delivery',
    weight: 8,
    severity: { unit: 'kPa', low: 0.05, high: 0.8, usual: [0.12, 0.65], of: 'rail', role: 'fuel' },
    needs: ['petrol'],
    source: TRADE,
    variants: [
      { weight: 0.36, shape: { kind: 'sag', from: 0 } },
      { weight: 0.26, shape: { kind: 'sag', from: 0.25 } },
      { weight: 0.06, shape: { kind: 'sag', from: 0.6 } },
      { weight: 0.16, shape: { kind: 'sag', from: 'everywhere' } },
      { weight: 0.16, shape: { kind: 'sag', from: 0, share: 0.4 } },
    ],
  },
  {
    id: 'fuel-high',
    bought: true,
    label: 'Fuel pressure too high',
    weight: 2,
    severity: { unit: 'kPa', low: 0.07, high: 0.7, usual: [0.15, 0.6], of: 'rail', role: 'fuel' },
    variants: only({ kind: 'overPressure' }),
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'regulator-diaphragm',
    bought: true,
    label: 'Regulator diaphragm leaks fuel',
    weight: 0.5,
    severity: EXTRA_FUEL,
    variants: only({ kind: 'extraFuel' }),
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'injector-restricted',
    bought: true,
    label: 'Injectors restricted',
    weight: 2,
    severity: pct(4, 35, [7, 22]),
    variants: only({ kind: 'injectors' }),
    perBank: true,
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'injector-leaking',
    bought: true,
    label: 'Injector leaking',
    weight: 2,
    severity: EXTRA_FUEL,
    variants: only({ kind: 'extraFuel', oneBank: true }),
    perBank: true,
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'purge-open',
    bought: true,
    label: 'Purge valve stuck open',
    weight: 4,
    severity: { ...LEAK, low: 0.05, high: 0.5, usual: [0.09, 0.32] },
    needs: ['petrol'],
    source: TRADE,
    // By what the canister holds: empty it is a leak, full it is fuel.
    variants: [
      ...plenum(0.5),
      { weight: 0.35, shape: { kind: 'vapour', richness: -0.7 } },
      { weight: 0.15, shape: { kind: 'vapour', richness: -0.3 } },
    ],
  },
  {
    id: 'evap-leak',
    label: 'EVAP system leak',
    weight: 2,
    severity: null,
    variants: NONE,
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'fuel-in-oil',
    label: 'Fuel in the oil',
    weight: 2,
    severity: EXTRA_FUEL,
    variants: only({ kind: 'extraFuel' }),
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'ethanol-high',
    label: 'More ethanol than calibrated',
    weight: 2,
    severity: { unit: '%', low: 15, high: 85, usual: [20, 85] },
    variants: only({ kind: 'ethanol' }),
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'o2-biased-lean',
    bought: true,
    cleans: 'oxygen-sensor',
    label: 'Oxygen sensor biased lean',
    weight: 2,
    severity: pct(4, 30, [6, 20]),
    variants: only({ kind: 'sensorBias', sign: 1 }),
    perBank: true,
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'o2-biased-rich',
    bought: true,
    cleans: 'oxygen-sensor',
    label: 'Oxygen sensor biased rich',
    weight: 2,
    severity: pct(4, 30, [6, 20]),
    variants: only({ kind: 'sensorBias', sign: -1 }),
    perBank: true,
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'o2-slow',
    bought: true,
    cleans: 'oxygen-sensor',
    label: 'Oxygen sensor slow',
    weight: 4,
    severity: null,
    variants: NONE,
    perBank: true,
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'o2-circuit',
    bought: true,
    label: 'Oxygen sensor circuit',
    weight: 2,
    severity: null,
    // Mostly found dead and open loop; stuck at one end it drives the trim to its limit.
    variants: [
      { weight: 0.7, shape: { kind: 'none' } },
      { weight: 0.15, shape: { kind: 'sensorStuck', sign: 1 } },
      { weight: 0.15, shape: { kind: 'sensorStuck', sign: -1 } },
    ],
    perBank: true,
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'o2-heater',
    bought: true,
    label: 'Oxygen sensor heater',
    weight: 2,
    severity: null,
    variants: NONE,
    perBank: true,
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'o2-crossed',
    label: 'Plugs of the upstream sensors crossed',
    weight: 0.2,
    severity: null,
    variants: [
      { weight: 0.5, shape: { kind: 'crossed', lean: 1 } },
      { weight: 0.5, shape: { kind: 'crossed', lean: 2 } },
    ],
    needs: ['petrol', 'bank2'],
    help: 'Each bank is corrected by what the other one burns: one trim runs to one limit, the other to the other. Met after both sensors, or the exhaust, were off.',
    source: TRADE,
  },
  {
    id: 'exhaust-leak',
    label: 'Exhaust leak ahead of the sensor',
    weight: 4,
    severity: pct(4, 30, [6, 20]),
    variants: only({ kind: 'falseLean', fade: 0.7 }),
    perBank: true,
    needs: ['petrol'],
    help: 'Outside air at the sensor is false lean: the engine then runs rich, and the trim fades with flow.',
    source: TRADE,
  },
  {
    id: 'misfire-ignition',
    label: 'Ignition misfire',
    weight: 4,
    severity: pct(4, 30, [6, 20]),
    variants: [
      { weight: 0.35, shape: { kind: 'falseLean', fade: 0 } },
      { weight: 0.3, shape: { kind: 'falseLean', fade: 0.4 } },
      { weight: 0.35, shape: { kind: 'none' } },
    ],
    perBank: true,
    needs: ['petrol'],
    help: 'Unburnt oxygen is false lean on that bank; lean itself can misfire. A sensor code beside a random misfire is judged first.',
    source: TRADE,
  },
  {
    id: 'compression-timing',
    label: 'Compression or valve timing',
    weight: 0.5,
    severity: null,
    variants: NONE,
    fullLoad: { ratio: 0.84, spread: 0.1 },
    source: TRADE,
  },
  {
    id: 'ect-bias',
    bought: true,
    label: 'Coolant temperature sensor off',
    weight: 2,
    severity: null,
    variants: NONE,
    source: TRADE,
  },
  {
    id: 'iat-bias',
    bought: true,
    label: 'Intake air temperature sensor off',
    weight: 2,
    severity: { unit: '°C', low: -40, high: 40 },
    variants: only({ kind: 'chargeTemperature' }),
    source: TRADE,
  },
  {
    id: 'thermostat-open',
    bought: true,
    label: 'Thermostat stuck open',
    weight: 2,
    severity: null,
    variants: NONE,
    source: TRADE,
  },
  {
    id: 'throttle-fouled',
    cleans: 'throttle-body',
    label: 'Throttle fouled',
    weight: 4,
    severity: null,
    variants: NONE,
    source: TRADE,
  },
  { id: 'low-voltage', label: 'Low supply voltage', weight: 0.5, severity: null, variants: NONE, source: TRADE },
  {
    id: 'secondary-air',
    label: 'Secondary air stuck on',
    weight: 0.5,
    severity: pct(4, 30, [6, 20]),
    variants: only({ kind: 'falseLean', fade: 0.8, bothBanks: true }),
    needs: ['petrol'],
    source: TRADE,
  },
  {
    id: 'cat-degraded',
    bought: true,
    label: 'Catalyst spent',
    weight: 4,
    severity: null,
    variants: NONE,
    perBank: true,
    source: TRADE,
  },
];

/** A fault by its id. */
export const FAULT_BY_ID: ReadonlyMap<string, FaultRow> = new Map(FAULTS.map((f) => [f.id, f]));

/** Whether a shape moves anything that is read. */
export const moves = (shape: Shape): boolean => shape.kind !== 'none' && shape.kind !== 'absent';

/** Faults that move no trim: they compete as main cause only when no bank is off or something speaks for them. */
export function movesNoTrim(row: FaultRow): boolean {
  return row.id !== 'balanced' && row.variants.every((v) => !moves(v.shape));
}

/** Sizes without a range of their own that are pressures: a charger that gives too little. */
const READ_OFF_ROLE: Role = 'boost';

/** The size of a fault, or its interval, as it is written: two significant digits; a share has no unit. */
export function sizeFigure(fault: string, unit: string, values: number | readonly number[]): Figure {
  const range = FAULT_BY_ID.get(fault)?.severity;
  const role = unit !== 'kPa' ? undefined : range ? range.role : READ_OFF_ROLE;
  return figure(values, unit === 'ratio' ? '' : unit, undefined, {
    difference: true,
    significant: 2,
    ...(role ? { role } : {}),
  });
}

/** The label of a fault id; the id itself when unknown. */
export function faultLabel(id: string): string {
  return FAULT_BY_ID.get(id)?.label ?? id;
}
