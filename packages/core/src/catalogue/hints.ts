import type { SignId } from './signs.ts';

/**
 * Weak evidence: what a code, a sign in a reading or recent work says about a fault. `factor` multiplies
 * its weight; below 1 it speaks against. All factors [house]; what goes with what is common practice, no source.
 */
export interface HintRow {
  /** Codes from…to, a sign, or parts worked on (ids of PARTS). */
  code?: readonly [string, string];
  sign?: SignId;
  work?: readonly string[];
  faults: readonly string[];
  factor: number;
  /** A code that names its bank speaks of that bank only. */
  bank?: 1 | 2;
  /** Says nothing that closed-loop trims do not say better: counts only where there are none. */
  withoutTrims?: true;
}

const LEAKS = ['vac-leak', 'vac-leak-bank1', 'vac-leak-bank2', 'crankcase-leak', 'egr-gasket-leak'];
const LEAN = [...LEAKS, 'duct-leak', 'maf-under', 'maf-dirty', 'fuel-low', 'injector-restricted'];
const RICH = ['maf-over', 'fuel-high', 'injector-leaking', 'fuel-in-oil', 'purge-open', 'regulator-diaphragm'];

/** The same hint for the code of each bank. */
function perBank(first: string, second: string, faults: readonly string[], factor: number): HintRow[] {
  return [
    { code: [first, first], faults, factor, bank: 1 },
    { code: [second, second], faults, factor, bank: 2 },
  ];
}

/** What speaks for or against a fault beside figures: codes, signs, work done; each a factor on its odds. */
export const HINTS: readonly HintRow[] = [
  { code: ['P0100', 'P0104'], faults: ['maf-circuit'], factor: 14 },
  { code: ['P0100', 'P0104'], faults: ['maf-damaged', 'maf-under', 'maf-over', 'maf-installation'], factor: 5 },
  { code: ['P0100', 'P0104'], faults: ['maf-dirty', 'duct-leak'], factor: 2 },
  { code: ['P0105', 'P0109'], faults: ['map-circuit'], factor: 14 },
  { code: ['P0105', 'P0109'], faults: ['map-bias', 'map-port-blocked', 'map-hose-split'], factor: 6 },
  { code: ['P0110', 'P0114'], faults: ['iat-bias'], factor: 20 },
  { code: ['P0115', 'P0119'], faults: ['ect-bias'], factor: 20 },
  { code: ['P0125', 'P0125'], faults: ['thermostat-open', 'ect-bias'], factor: 6 },
  { code: ['P0128', 'P0128'], faults: ['thermostat-open'], factor: 25 },
  { code: ['P0128', 'P0128'], faults: ['ect-bias'], factor: 4 },
  ...perBank('P0130', 'P0150', ['o2-circuit'], 20),
  ...perBank('P0131', 'P0151', ['o2-circuit'], 20),
  ...perBank('P0132', 'P0152', ['o2-circuit'], 20),
  ...perBank('P0134', 'P0154', ['o2-circuit'], 20),
  ...perBank('P0134', 'P0154', ['o2-heater'], 3),
  ...perBank('P0131', 'P0151', ['o2-biased-lean', 'exhaust-leak'], 3),
  ...perBank('P0132', 'P0152', ['o2-biased-rich'], 3),
  ...perBank('P0133', 'P0153', ['o2-slow'], 25),
  ...perBank('P0133', 'P0153', ['exhaust-leak', 'o2-heater'], 2),
  ...perBank('P0135', 'P0155', ['o2-heater'], 30),
  ...perBank('P0141', 'P0161', ['o2-heater'], 30),
  ...perBank('P0420', 'P0430', ['cat-degraded'], 25),
  ...perBank('P0420', 'P0430', ['exhaust-leak'], 2),
  ...perBank('P2195', 'P2197', ['o2-biased-lean'], 6),
  ...perBank('P2195', 'P2197', ['exhaust-leak'], 2),
  ...perBank('P2196', 'P2198', ['o2-biased-rich'], 6),
  { code: ['P0299', 'P0299'], faults: ['turbo-underboost', 'boost-leak'], factor: 14 },
  { code: ['P0300', 'P0308'], faults: ['misfire-ignition'], factor: 10 },
  { code: ['P0300', 'P0308'], faults: ['compression-timing', 'injector-restricted', 'egr-stuck-open'], factor: 3 },
  { code: ['P0300', 'P0308'], faults: ['vac-leak-bank1', 'vac-leak-bank2'], factor: 1.5 },
  { code: ['P0401', 'P0402'], faults: ['egr-stuck-open'], factor: 14 },
  { code: ['P0401', 'P0402'], faults: ['egr-gasket-leak'], factor: 2 },
  { code: ['P0410', 'P0418'], faults: ['secondary-air'], factor: 25 },
  { code: ['P0440', 'P0457'], faults: ['evap-leak'], factor: 25 },
  { code: ['P0440', 'P0457'], faults: ['purge-open'], factor: 2 },
  { code: ['P0496', 'P0496'], faults: ['purge-open'], factor: 13 },
  { code: ['P0505', 'P0507'], faults: ['throttle-fouled', 'pcv-stuck-open'], factor: 7 },
  { code: ['P0507', 'P0507'], faults: LEAKS, factor: 2 },
  { code: ['P0560', 'P0563'], faults: ['low-voltage'], factor: 25 },
  { code: ['P0087', 'P0087'], faults: ['fuel-low'], factor: 10 },
  { code: ['P0088', 'P0088'], faults: ['fuel-high'], factor: 12 },
  { code: ['P0171', 'P0171'], faults: LEAN, factor: 2.5, withoutTrims: true },
  { code: ['P0174', 'P0174'], faults: LEAN, factor: 2.5, withoutTrims: true },
  { code: ['P0172', 'P0172'], faults: RICH, factor: 2.5, withoutTrims: true },
  { code: ['P0175', 'P0175'], faults: RICH, factor: 2.5, withoutTrims: true },
  { code: ['P2177', 'P2177'], faults: ['fuel-low', 'maf-dirty', 'maf-under'], factor: 2, withoutTrims: true },
  { code: ['P2179', 'P2179'], faults: ['fuel-low', 'maf-dirty', 'maf-under'], factor: 2, withoutTrims: true },
  { code: ['P2187', 'P2187'], faults: LEAKS, factor: 2, withoutTrims: true },
  { code: ['P2189', 'P2189'], faults: LEAKS, factor: 2, withoutTrims: true },
  { code: ['P2188', 'P2188'], faults: RICH, factor: 2, withoutTrims: true },
  { code: ['P2190', 'P2190'], faults: RICH, factor: 2, withoutTrims: true },

  { sign: 'airflow-dead', faults: ['maf-circuit'], factor: 60 },
  { sign: 'airflow-dead', faults: ['maf-damaged'], factor: 20 },
  { sign: 'never-hot', faults: ['thermostat-open'], factor: 30 },
  { sign: 'never-hot', faults: ['ect-bias'], factor: 4 },
  { sign: 'hot', faults: ['thermostat-open'], factor: 0.3 },
  { sign: 'upstream-lazy', faults: ['o2-slow'], factor: 10 },
  { sign: 'upstream-lazy', faults: ['o2-heater', 'o2-circuit', 'exhaust-leak'], factor: 2 },
  { sign: 'upstream-lively', faults: ['o2-slow'], factor: 0.2 },
  { sign: 'upstream-lively', faults: ['o2-circuit', 'o2-heater'], factor: 0.25 },
  { sign: 'upstream-dead', faults: ['o2-circuit'], factor: 20 },
  { sign: 'upstream-dead', faults: ['o2-slow', 'o2-biased-lean', 'o2-biased-rich'], factor: 2 },
  { sign: 'downstream-follows', faults: ['cat-degraded'], factor: 10 },
  { sign: 'downstream-steady', faults: ['cat-degraded'], factor: 0.12 },
  { sign: 'throttle-wide', faults: ['throttle-fouled'], factor: 15 },
  { sign: 'throttle-right', faults: ['throttle-fouled'], factor: 0.08 },
  { sign: 'battery-low', faults: ['low-voltage'], factor: 20 },
  { sign: 'battery-right', faults: ['low-voltage'], factor: 0.2 },
  { sign: 'intake-air-off', faults: ['iat-bias'], factor: 15 },
  { sign: 'intake-air-right', faults: ['iat-bias'], factor: 0.5 },
  { sign: 'snap-low', faults: ['maf-dirty', 'maf-under', 'air-filter'], factor: 3 },
  { sign: 'pressure-flat', faults: ['map-port-blocked'], factor: 12 },
  { sign: 'pressure-flat', faults: ['map-circuit', 'map-hose-split'], factor: 3 },
  // What follows the engine from one point to the next is neither shut off nor dead.
  { sign: 'pressure-moves', faults: ['map-port-blocked'], factor: 0.15 },
  { sign: 'pressure-moves', faults: ['map-circuit'], factor: 0.3 },
  { sign: 'boost-low', faults: ['turbo-underboost', 'boost-leak'], factor: 8 },
  { sign: 'boost-low', faults: ['map-port-blocked', 'map-hose-split'], factor: 4 },
  { sign: 'boost-low', faults: ['air-filter', 'exhaust-restricted'], factor: 1.5 },
  { sign: 'boost-right', faults: ['turbo-underboost', 'boost-leak'], factor: 0.25 },
  { sign: 'boost-right', faults: ['map-port-blocked'], factor: 0.3 },
  { sign: 'lambda-not-held', faults: ['o2-circuit', 'o2-biased-lean', 'o2-biased-rich'], factor: 2 },

  // Work done last lifts the joints, parts and copies disturbed.
  { work: ['egr-valve'], faults: ['egr-gasket-leak', 'egr-stuck-open'], factor: 3 },
  {
    work: ['intake-duct', 'intake-gasket'],
    faults: ['vac-leak', 'vac-leak-bank1', 'vac-leak-bank2', 'duct-leak'],
    factor: 2.5,
  },
  { work: ['throttle-body'], faults: ['vac-leak', 'duct-leak'], factor: 2.5 },
  { work: ['air-filter'], faults: ['duct-leak', 'maf-installation', 'maf-dirty'], factor: 2.5 },
  { work: ['maf-sensor'], faults: ['maf-installation', 'duct-leak'], factor: 3 },
  { work: ['map-sensor'], faults: ['map-hose-split', 'map-circuit', 'vac-leak'], factor: 2 },
  { work: ['vacuum-hose'], faults: ['vac-leak', 'crankcase-leak', 'map-hose-split'], factor: 2 },
  { work: ['valve-cover'], faults: ['crankcase-leak', 'vac-leak'], factor: 2 },
  { work: ['pcv-valve'], faults: ['crankcase-leak', 'pcv-stuck-open'], factor: 2 },
  { work: ['exhaust'], faults: ['exhaust-leak'], factor: 3 },
  { work: ['catalyst'], faults: ['exhaust-leak'], factor: 3 },
  { work: ['o2-sensor'], faults: ['exhaust-leak'], factor: 2 },
  // Both were out, and their plugs are the same.
  { work: ['o2-sensor'], faults: ['o2-crossed'], factor: 15 },
  { work: ['exhaust', 'catalyst'], faults: ['o2-crossed'], factor: 6 },
  { work: ['injector'], faults: ['vac-leak-bank1', 'vac-leak-bank2', 'injector-leaking'], factor: 2 },
  { work: ['fuel-pump', 'fuel-filter', 'fuel-regulator', 'fuel-rail'], faults: ['fuel-low', 'fuel-high'], factor: 2 },
  { work: ['refuelled'], faults: ['ethanol-high'], factor: 4 },
  { work: ['timing-belt', 'timing-chain', 'cylinder-head'], faults: ['compression-timing'], factor: 4 },
  { work: ['turbo', 'turbo-pipe'], faults: ['boost-leak', 'turbo-underboost'], factor: 3 },
  { work: ['battery', 'alternator'], faults: ['low-voltage'], factor: 2 },
  // A part already replaced is weak evidence against it: copies and wrong parts are common.
  { work: ['maf-sensor'], faults: ['maf-dirty', 'maf-damaged'], factor: 0.6 },
  { work: ['map-sensor'], faults: ['map-bias'], factor: 0.6 },
  {
    work: ['o2-sensor'],
    faults: ['o2-slow', 'o2-circuit', 'o2-heater', 'o2-biased-lean', 'o2-biased-rich'],
    factor: 0.6,
  },
  { work: ['fuel-pump'], faults: ['fuel-low'], factor: 0.5 },
  { work: ['thermostat'], faults: ['thermostat-open'], factor: 0.5 },
  { work: ['catalyst'], faults: ['cat-degraded'], factor: 0.5 },
  { work: ['ignition-plugs', 'ignition-coil'], faults: ['misfire-ignition'], factor: 0.6 },
  { work: ['pcv-valve'], faults: ['pcv-stuck-open'], factor: 0.6 },
  { work: ['purge-valve'], faults: ['purge-open'], factor: 0.6 },
  { work: ['fuel-cap'], faults: ['evap-leak'], factor: 0.6 },
  { work: ['coolant-sensor'], faults: ['ect-bias'], factor: 0.6 },
  { work: ['air-temp-sensor'], faults: ['iat-bias'], factor: 0.6 },
  { work: ['injector'], faults: ['injector-restricted'], factor: 0.6 },
];

/** Work this many days old still lifts what it disturbed by half of its power (the logarithm of the factor). [house] */
export const WORK_HALF_DAYS = 120;
/** A copy or a used part clears what it replaced by this share of what an original would, as a power. [house] */
export const COPY_POWER = 0.3;
/** A code not yet confirmed counts this share of a stored one, as a power. [house] */
export const PENDING_POWER = 0.7;
