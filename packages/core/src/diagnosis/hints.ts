/**
 * Weak evidence: what a code, a complaint or recent work says about a fault. `factor` multiplies its weight.
 * All factors [house]; what goes with what is common practice, no source.
 */
export interface HintRow {
  /** Codes from…to, a dead airflow signal, a complaint id, or a part worked on. */
  code?: readonly [string, string];
  signal?: 'airflow-dead';
  complaint?: string;
  work?: string;
  faults: readonly string[];
  factor: number;
}

const LEAKS = ['vac-leak', 'vac-leak-bank1', 'vac-leak-bank2', 'crankcase-leak', 'egr-gasket-leak'];

export const HINTS: readonly HintRow[] = [
  { code: ['P0100', 'P0104'], faults: ['maf-circuit'], factor: 12 },
  { code: ['P0100', 'P0104'], faults: ['maf-damaged', 'maf-under', 'maf-over'], factor: 3 },
  { signal: 'airflow-dead', faults: ['maf-circuit'], factor: 60 },
  { signal: 'airflow-dead', faults: ['maf-damaged'], factor: 20 },
  { code: ['P0105', 'P0108'], faults: ['map-circuit'], factor: 12 },
  { code: ['P0105', 'P0108'], faults: ['map-bias', 'map-port-blocked', 'map-hose-split'], factor: 4 },
  { code: ['P0110', 'P0114'], faults: ['iat-bias'], factor: 12 },
  { code: ['P0115', 'P0118'], faults: ['ect-bias'], factor: 12 },
  { code: ['P0128', 'P0128'], faults: ['thermostat-open'], factor: 20 },
  { code: ['P0128', 'P0128'], faults: ['ect-bias'], factor: 3 },
  { code: ['P0130', 'P0132'], faults: ['o2-circuit'], factor: 12 },
  { code: ['P0134', 'P0134'], faults: ['o2-circuit'], factor: 12 },
  { code: ['P0150', 'P0152'], faults: ['o2-circuit'], factor: 12 },
  { code: ['P0154', 'P0154'], faults: ['o2-circuit'], factor: 12 },
  { code: ['P0133', 'P0133'], faults: ['o2-slow'], factor: 15 },
  { code: ['P0153', 'P0153'], faults: ['o2-slow'], factor: 15 },
  { code: ['P0135', 'P0135'], faults: ['o2-heater'], factor: 25 },
  { code: ['P0141', 'P0141'], faults: ['o2-heater'], factor: 25 },
  { code: ['P0155', 'P0155'], faults: ['o2-heater'], factor: 25 },
  { code: ['P0161', 'P0161'], faults: ['o2-heater'], factor: 25 },
  { code: ['P0299', 'P0299'], faults: ['turbo-underboost', 'boost-leak'], factor: 10 },
  { code: ['P0300', 'P0308'], faults: ['misfire-ignition'], factor: 5 },
  {
    code: ['P0300', 'P0308'],
    faults: ['compression-timing', 'injector-restricted', 'vac-leak-bank1', 'vac-leak-bank2', 'egr-stuck-open'],
    factor: 2,
  },
  { code: ['P0401', 'P0402'], faults: ['egr-stuck-open'], factor: 8 },
  { code: ['P0420', 'P0420'], faults: ['cat-degraded'], factor: 12 },
  { code: ['P0430', 'P0430'], faults: ['cat-degraded'], factor: 12 },
  { code: ['P0440', 'P0457'], faults: ['evap-leak'], factor: 15 },
  { code: ['P0496', 'P0496'], faults: ['purge-open'], factor: 10 },
  { code: ['P0505', 'P0507'], faults: ['throttle-fouled', 'pcv-stuck-open'], factor: 4 },
  { code: ['P0087', 'P0087'], faults: ['fuel-low'], factor: 8 },
  { code: ['P0088', 'P0088'], faults: ['fuel-high'], factor: 8 },
  { code: ['P2195', 'P2198'], faults: ['o2-biased-lean', 'o2-biased-rich'], factor: 3 },
  { complaint: 'rough-idle', faults: [...LEAKS, 'egr-stuck-open', 'misfire-ignition', 'pcv-stuck-open'], factor: 1.4 },
  { complaint: 'misfire-felt', faults: ['misfire-ignition', 'compression-timing'], factor: 2 },
  { complaint: 'stall', faults: ['throttle-fouled', 'maf-circuit', 'egr-stuck-open'], factor: 1.6 },
  { complaint: 'stall-after-start', faults: ['maf-dirty', 'maf-circuit', 'throttle-fouled'], factor: 1.5 },
  { complaint: 'hard-start-hot', faults: ['injector-leaking', 'regulator-diaphragm'], factor: 2 },
  { complaint: 'hard-start-cold', faults: ['ect-bias', 'fuel-low'], factor: 1.5 },
  { complaint: 'high-idle', faults: ['pcv-stuck-open', 'vac-leak', 'crankcase-leak'], factor: 1.6 },
  { complaint: 'hesitation', faults: ['maf-dirty', 'maf-under', 'fuel-low'], factor: 1.4 },
  {
    complaint: 'low-power',
    faults: ['fuel-low', 'maf-dirty', 'exhaust-restricted', 'air-filter', 'turbo-underboost', 'boost-leak'],
    factor: 1.6,
  },
  {
    complaint: 'limp-mode',
    faults: ['turbo-underboost', 'boost-leak', 'map-port-blocked', 'maf-circuit'],
    factor: 1.6,
  },
  { complaint: 'surge', faults: ['vac-leak', 'fuel-low'], factor: 1.2 },
  {
    complaint: 'high-consumption',
    faults: ['maf-over', 'fuel-high', 'injector-leaking', 'thermostat-open', 'o2-biased-lean'],
    factor: 1.5,
  },
  { complaint: 'smoke', faults: ['injector-leaking', 'fuel-high', 'crankcase-leak'], factor: 1.4 },
  {
    complaint: 'fuel-smell',
    faults: ['fuel-in-oil', 'evap-leak', 'injector-leaking', 'regulator-diaphragm', 'purge-open'],
    factor: 2,
  },
  { complaint: 'noise', faults: ['exhaust-leak', 'vac-leak', 'boost-leak'], factor: 1.5 },
  { work: 'egr', faults: ['egr-gasket-leak', 'egr-stuck-open'], factor: 3 },
  { work: 'intake', faults: ['vac-leak', 'vac-leak-bank1', 'vac-leak-bank2', 'duct-leak'], factor: 2.5 },
  { work: 'throttle', faults: ['vac-leak', 'duct-leak'], factor: 2.5 },
  { work: 'air-filter', faults: ['duct-leak', 'maf-installation', 'maf-dirty'], factor: 2.5 },
  { work: 'maf', faults: ['maf-installation', 'duct-leak'], factor: 3 },
  { work: 'hose', faults: ['vac-leak', 'crankcase-leak'], factor: 2 },
  { work: 'valve-cover', faults: ['crankcase-leak', 'vac-leak'], factor: 2 },
  { work: 'exhaust', faults: ['exhaust-leak'], factor: 3 },
  { work: 'o2-sensor', faults: ['exhaust-leak'], factor: 2 },
  { work: 'fuel', faults: ['fuel-low', 'fuel-high', 'ethanol-high'], factor: 2 },
  { work: 'refuel', faults: ['ethanol-high'], factor: 3 },
];
