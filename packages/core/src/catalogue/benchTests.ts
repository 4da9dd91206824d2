/** The test catalogue: minutes, reliability class, what each outcome speaks for. All [house] unless noted. */

import { idInWords } from '../units/index.ts';

/** Hit and false alarm by class. [house], coarse. */
export const RELIABILITY = {
  instrument: { hit: 0.95, falseAlarm: 0.03 },
  physical: { hit: 0.9, falseAlarm: 0.05 },
  looked: { hit: 0.7, falseAlarm: 0.1 },
  crude: { hit: 0.6, falseAlarm: 0.35 },
} as const;

export interface TestRow {
  id: string;
  label: string;
  minutes: number;
  reliability: keyof typeof RELIABILITY;
  /** Faults that this test shows more or less often than its class, and how often. [house] */
  hits?: readonly { faults: readonly string[]; hit: number }[];
  /** The outcome that speaks for no fault of this test's kind. */
  normal: string;
  /** Every other outcome and the faults it speaks for. */
  speaks: Readonly<Record<string, readonly string[]>>;
  /** Numeric tests: how values become one of the outcomes above. */
  measure?: Measure;
  tool?: string;
  needs?: readonly ('maf' | 'map' | 'turbo' | 'petrol')[];
  /** Done on one bank at a time: the result names it. */
  perBank?: true;
  /** Adds a reading instead of an outcome. */
  reading?: 'hold-2500' | 'road-load';
  /** What must be opened or set up first, and what the test costs when it already is. */
  access?: AccessId;
  minutesOpen?: number;
  /** A danger that a shop may rule out. */
  hazard?: HazardId;
  /** Samples a second of one channel alone below which the tool in hand cannot decide it. */
  needsHz?: number;
  how: string;
}

/** What several tests share. */
export type AccessId = 'airbox' | 'upstream-sensor' | 'fuel-gauge' | 'smoke-machine' | 'pressure-sensor' | 'road';

export const ACCESS: Readonly<Record<AccessId, string>> = {
  airbox: 'airbox open',
  'upstream-sensor': 'upstream sensor out',
  'fuel-gauge': 'fuel gauge connected',
  'smoke-machine': 'smoke machine set up',
  'pressure-sensor': 'pressure sensor out',
  road: 'out on the road or the rollers',
};

export type HazardId = 'flammable' | 'fuel-pressure' | 'road-test' | 'full-load' | 'hot-exhaust' | 'moving-car';

export const HAZARDS: Readonly<Record<HazardId, string>> = {
  flammable: 'Flammable gas or spray at a running engine',
  'fuel-pressure': 'Opening a fuel line under pressure',
  'road-test': 'Road test',
  'full-load': 'Full-load pull',
  'hot-exhaust': 'Work at a hot exhaust',
  'moving-car': 'Engine loaded in gear, brake held',
};

/** Parts that can be swapped for a proven one, and the faults that go with them. */
export const SWAP_PARTS: Readonly<Record<string, readonly string[]>> = {
  maf: ['maf-under', 'maf-over', 'maf-dirty', 'maf-damaged'],
  map: ['map-bias', 'map-circuit'],
  'o2-sensor': ['o2-slow', 'o2-circuit', 'o2-heater', 'o2-biased-lean', 'o2-biased-rich'],
  'purge-valve': ['purge-open'],
  'pcv-valve': ['pcv-stuck-open'],
};

export type Measure = 'fuel-pressure' | 'boost' | 'full-load' | 'koeo' | 'throttle' | 'ethanol' | 'backpressure';

const LEAKS = ['vac-leak', 'vac-leak-bank1', 'vac-leak-bank2', 'crankcase-leak', 'egr-gasket-leak', 'purge-open'];

export const TESTS: readonly TestRow[] = [
  {
    id: 'hold-2500',
    label: 'Hold 2,500 rpm',
    minutes: 4,
    reliability: 'instrument',
    normal: '',
    speaks: {},
    reading: 'hold-2500',
    needs: ['petrol'],
    how: 'Steady no-load hold, both banks read: a leak fades, delivery grows, a sensor stays.',
  },
  {
    id: 'road-load',
    label: 'Read at road load',
    minutes: 12,
    reliability: 'instrument',
    normal: '',
    speaks: {},
    reading: 'road-load',
    needs: ['petrol'],
    access: 'road',
    minutesOpen: 6,
    hazard: 'road-test',
    how: 'Two people, steady road load; the driver watches the road.',
  },
  {
    id: 'full-load-airflow',
    label: 'Pull once to full load',
    minutes: 8,
    reliability: 'instrument',
    normal: 'normal',
    speaks: {
      low: [
        'maf-under',
        'maf-dirty',
        'duct-leak',
        'maf-circuit',
        'maf-installation',
        'air-filter',
        'exhaust-restricted',
        'compression-timing',
        'turbo-underboost',
      ],
      high: ['maf-over'],
    },
    measure: 'full-load',
    needs: ['maf'],
    access: 'road',
    minutesOpen: 4,
    hazard: 'full-load',
    hits: [{ faults: ['exhaust-restricted', 'air-filter', 'compression-timing', 'maf-dirty'], hit: 0.85 }],
    how: 'A second person reads airflow and λ through one full-load pull; measured over expected.',
  },
  {
    id: 'snap-throttle',
    label: 'Snap the throttle',
    minutes: 3,
    reliability: 'instrument',
    normal: 'ok',
    speaks: {
      'low-peak': ['maf-dirty', 'maf-under', 'air-filter'],
      'slow-fall': ['map-port-blocked'],
      flat: ['maf-circuit', 'map-circuit'],
      dropouts: ['maf-damaged', 'maf-circuit', 'maf-installation'],
    },
    hits: [
      { faults: ['air-filter', 'maf-damaged', 'maf-installation'], hit: 0.45 },
      { faults: ['maf-dirty', 'maf-under', 'map-port-blocked', 'map-circuit'], hit: 0.8 },
    ],
    needsHz: 10,
    how: 'In park, one quick full opening and release: the signal leaps and falls back at once.',
  },
  {
    id: 'koeo-baro',
    label: 'Manifold pressure against barometer, engine off',
    minutes: 1,
    reliability: 'instrument',
    normal: 'agrees',
    speaks: { differs: ['map-bias', 'map-circuit'] },
    measure: 'koeo',
    needs: ['map'],
    hits: [{ faults: ['map-circuit'], hit: 0.7 }],
    how: 'Key on, engine off: the sensor must read station pressure within 3 kPa.',
  },
  {
    id: 'vacuum-gauge',
    label: 'Vacuum gauge',
    minutes: 3,
    reliability: 'instrument',
    normal: 'normal',
    speaks: {
      'low-steady': ['vac-leak', 'crankcase-leak', 'compression-timing', 'egr-stuck-open', 'pcv-stuck-open'],
      swinging: ['compression-timing', 'misfire-ignition'],
      'falls-when-held': ['exhaust-restricted'],
    },
    // An ECU that holds idle speed shuts the throttle by as much as a leak lets in: most leaks leave the gauge as it was.
    hits: [
      { faults: ['vac-leak', 'vac-leak-bank1', 'vac-leak-bank2', 'crankcase-leak', 'pcv-stuck-open'], hit: 0.4 },
      { faults: ['egr-stuck-open', 'misfire-ignition'], hit: 0.5 },
      { faults: ['exhaust-restricted'], hit: 0.8 },
    ],
    tool: 'vacuum-gauge',
    how: 'Gauge on a full-manifold port, idle, then held at 2,500 rpm.',
  },
  {
    id: 'visual-intake',
    label: 'Look over the intake',
    minutes: 5,
    reliability: 'looked',
    normal: 'ok',
    speaks: {
      'duct-loose': ['duct-leak', 'boost-leak'],
      'duct-split': ['duct-leak', 'boost-leak'],
      'hose-split': ['vac-leak', 'crankcase-leak', 'map-hose-split'],
      'airbox-unsealed': ['maf-installation', 'maf-dirty'],
      'filter-loaded': ['air-filter'],
      'filter-oily': ['maf-dirty', 'maf-installation'],
      'oil-at-throttle': ['crankcase-leak', 'pcv-stuck-open'],
      'altered-intake': ['maf-installation', 'maf-over'],
    },
    hits: [
      { faults: ['vac-leak', 'boost-leak'], hit: 0.4 },
      { faults: ['crankcase-leak', 'map-hose-split'], hit: 0.6 },
      { faults: ['maf-dirty', 'maf-over'], hit: 0.2 },
    ],
    how: 'Light and mirror from airbox to head: ducts, hoses, filter, oil, altered parts.',
  },
  {
    id: 'rock-engine',
    label: 'Rock the engine in gear',
    minutes: 3,
    reliability: 'physical',
    normal: 'no-change',
    speaks: { changes: ['duct-leak'] },
    needs: ['maf'],
    hazard: 'moving-car',
    how: 'Brake held, a second person loads the engine gently in gear while you watch the trim.',
  },
  {
    id: 'smoke-intake',
    label: 'Smoke the intake',
    minutes: 15,
    reliability: 'physical',
    normal: 'none',
    speaks: {
      duct: ['duct-leak'],
      airbox: ['maf-installation', 'duct-leak'],
      // The intake gasket is one of the places of the common leak.
      'gasket-bank1': ['vac-leak-bank1', 'vac-leak'],
      'gasket-bank2': ['vac-leak-bank2', 'vac-leak'],
      pcv: ['crankcase-leak'],
      egr: ['egr-gasket-leak'],
      'brake-booster': ['vac-leak'],
      throttle: ['vac-leak'],
      'charge-pipe': ['boost-leak'],
      purge: ['purge-open'],
      other: ['vac-leak', 'map-hose-split'],
    },
    tool: 'smoke-machine',
    access: 'smoke-machine',
    minutesOpen: 9,
    hits: [{ faults: ['purge-open', 'maf-installation', 'map-hose-split'], hit: 0.45 }],
    how: 'Engine off, low regulated pressure; blow the smoke aside to see the spot it comes from.',
  },
  {
    id: 'enrich-survey',
    label: 'Enrichment survey',
    minutes: 6,
    reliability: 'crude',
    normal: 'none',
    speaks: {
      duct: ['duct-leak'],
      bank1: ['vac-leak-bank1', 'vac-leak'],
      bank2: ['vac-leak-bank2', 'vac-leak'],
      pcv: ['crankcase-leak'],
      egr: ['egr-gasket-leak'],
      'brake-booster': ['vac-leak'],
      throttle: ['vac-leak'],
      other: ['vac-leak'],
    },
    tool: 'enrichment',
    hazard: 'flammable',
    hits: [{ faults: ['duct-leak'], hit: 0.3 }],
    how: 'Only where smoke is not to be had: trained people, extinguisher, no hot exhaust near.',
  },
  {
    id: 'pinch-pcv',
    label: 'Pinch the crankcase hose',
    minutes: 2,
    reliability: 'physical',
    normal: 'no-change',
    speaks: { changes: ['crankcase-leak', 'fuel-in-oil', 'pcv-stuck-open'] },
    hits: [{ faults: ['pcv-stuck-open'], hit: 0.6 }],
    how: 'Parked, idling: clamp the soft hose and watch the trim for 20 s. Hard hoses crack.',
  },
  {
    id: 'pinch-booster',
    label: 'Pinch the brake booster hose',
    minutes: 2,
    reliability: 'physical',
    normal: 'no-change',
    speaks: { changes: ['vac-leak'] },
    // One hose of the many places where such a leak sits.
    hits: [{ faults: ['vac-leak'], hit: 0.3 }],
    how: 'Parked only, never driven pinched: clamp and watch the trim for 20 s.',
  },
  {
    id: 'pinch-purge',
    label: 'Pinch the purge hose',
    minutes: 2,
    reliability: 'physical',
    normal: 'no-change',
    speaks: { changes: ['purge-open'] },
    needs: ['petrol'],
    how: 'Parked, idling: clamp between purge valve and manifold and watch the trim.',
  },
  {
    id: 'egr-block',
    label: 'Block the EGR',
    minutes: 10,
    reliability: 'physical',
    normal: 'no-change',
    speaks: { changes: ['egr-stuck-open', 'egr-gasket-leak'] },
    how: 'A test plate at the joint, idle before and after; the plate comes out again.',
  },
  {
    id: 'crankcase-vacuum',
    label: 'Crankcase vacuum',
    minutes: 4,
    reliability: 'instrument',
    normal: 'normal',
    speaks: { high: ['pcv-stuck-open'], 'none-or-pressure': ['crankcase-leak'] },
    tool: 'low-pressure-gauge',
    hits: [{ faults: ['crankcase-leak'], hit: 0.85 }],
    how: 'Gauge at the dipstick tube, warm idle.',
  },
  {
    id: 'fuel-pressure',
    label: 'Fuel pressure, idle and under load',
    minutes: 15,
    reliability: 'instrument',
    normal: 'ok',
    speaks: { low: ['fuel-low'], high: ['fuel-high'] },
    measure: 'fuel-pressure',
    tool: 'fuel-pressure-gauge',
    needs: ['petrol'],
    access: 'fuel-gauge',
    minutesOpen: 8,
    hazard: 'fuel-pressure',
    how: 'Relieve, connect, idle, then load: sag is the finding.',
  },
  {
    id: 'residual-pressure',
    label: 'Residual fuel pressure',
    minutes: 10,
    reliability: 'instrument',
    normal: 'holds',
    speaks: { falls: ['injector-leaking', 'regulator-diaphragm', 'fuel-low'] },
    tool: 'fuel-pressure-gauge',
    needs: ['petrol'],
    hits: [{ faults: ['fuel-low'], hit: 0.2 }],
    access: 'fuel-gauge',
    minutesOpen: 6,
    hazard: 'fuel-pressure',
    how: 'Engine off, watch for ten minutes.',
  },
  {
    id: 'injector-balance',
    label: 'Injector balance',
    minutes: 25,
    reliability: 'instrument',
    normal: 'even',
    speaks: { 'low-bank1': ['injector-restricted'], 'low-bank2': ['injector-restricted'] },
    tool: 'injector-tester',
    needs: ['petrol'],
    access: 'fuel-gauge',
    minutesOpen: 18,
    hazard: 'fuel-pressure',
    how: 'Pulse each injector alike and compare the pressure drops.',
  },
  {
    id: 'fuse-check',
    label: 'Check the fuses',
    minutes: 1,
    reliability: 'instrument',
    // Most of these circuits fail with the fuse whole.
    hits: [{ faults: ['maf-circuit', 'o2-heater', 'map-circuit'], hit: 0.3 }],
    normal: 'ok',
    speaks: { blown: ['maf-circuit', 'o2-heater', 'map-circuit'] },
    how: 'Pull, look, replace like for like.',
  },
  {
    id: 'maf-inspect',
    label: 'Look at the airflow sensor',
    minutes: 10,
    reliability: 'looked',
    normal: 'clean',
    speaks: {
      dirty: ['maf-dirty', 'maf-under'],
      oily: ['maf-installation'],
      damaged: ['maf-damaged'],
      reversed: ['maf-installation'],
      'seal-missing': ['maf-installation'],
    },
    needs: ['maf'],
    hits: [{ faults: ['maf-under'], hit: 0.35 }],
    access: 'airbox',
    minutesOpen: 2,
    how: 'Magnified look at both sides of the element; photograph before refitting.',
  },
  {
    id: 'maf-unplug',
    label: 'Unplug the airflow sensor',
    minutes: 2,
    reliability: 'crude',
    normal: 'same',
    speaks: {
      better: ['maf-under', 'maf-over', 'maf-dirty', 'maf-damaged', 'maf-installation', 'maf-circuit'],
      worse: [],
    },
    needs: ['maf'],
    how: 'Crude, sets a code: weighted low.',
  },
  {
    id: 'maf-electrical',
    label: 'Airflow sensor connector',
    minutes: 10,
    reliability: 'instrument',
    normal: 'ok',
    speaks: {
      supply: ['maf-circuit', 'low-voltage'],
      ground: ['maf-circuit', 'maf-under'],
      reference: ['maf-circuit'],
      signal: ['maf-circuit', 'maf-damaged'],
      'temperature-signal': ['iat-bias'],
    },
    tool: 'multimeter',
    needs: ['maf'],
    hits: [
      { faults: ['low-voltage', 'maf-under'], hit: 0.15 },
      { faults: ['maf-damaged'], hit: 0.35 },
      { faults: ['iat-bias'], hit: 0.6 },
    ],
    how: 'Meter on 20 V DC; ignition off before unplugging or refitting.',
  },
  {
    id: 'wiggle-connector',
    label: 'Wiggle the connector',
    minutes: 3,
    reliability: 'physical',
    normal: 'no-change',
    speaks: { changes: ['maf-circuit', 'map-circuit', 'o2-circuit'] },
    hits: [{ faults: ['maf-circuit', 'map-circuit', 'o2-circuit'], hit: 0.5 }],
    how: 'Idling, move connector and loom while watching the signal.',
  },
  {
    id: 'map-vacuum-pump',
    label: 'Hand pump on the pressure sensor',
    minutes: 8,
    reliability: 'instrument',
    normal: 'tracks',
    speaks: { offset: ['map-bias'], slow: ['map-port-blocked'], dead: ['map-circuit'] },
    tool: 'hand-pump',
    needs: ['map'],
    hits: [{ faults: ['map-port-blocked'], hit: 0.7 }],
    access: 'pressure-sensor',
    minutesOpen: 5,
    how: 'Known vacuum against the reading in three steps.',
  },
  {
    id: 'map-port-probe',
    label: 'Probe the pressure port',
    minutes: 10,
    reliability: 'looked',
    normal: 'clear',
    speaks: { blocked: ['map-port-blocked'], 'hose-split': ['map-hose-split'] },
    needs: ['map'],
    access: 'pressure-sensor',
    minutesOpen: 4,
    how: 'Sensor out; probe pipe and port by hand.',
  },
  {
    id: 'boost-compare',
    label: 'Boost against target',
    minutes: 6,
    reliability: 'instrument',
    normal: 'ok',
    speaks: { low: ['turbo-underboost', 'boost-leak', 'map-port-blocked'] },
    measure: 'boost',
    needs: ['turbo'],
    hits: [{ faults: ['map-port-blocked'], hit: 0.6 }],
    access: 'road',
    minutesOpen: 3,
    hazard: 'full-load',
    how: 'A second person reads boost and target through one pull.',
  },
  {
    id: 'o2-force',
    label: 'Force rich, then lean',
    minutes: 5,
    reliability: 'physical',
    normal: 'responds',
    speaks: {
      'biased-lean': ['o2-biased-lean', 'exhaust-leak'],
      'biased-rich': ['o2-biased-rich'],
      slow: ['o2-slow', 'o2-heater'],
      dead: ['o2-circuit'],
    },
    needs: ['petrol'],
    hits: [
      { faults: ['exhaust-leak'], hit: 0.3 },
      { faults: ['o2-heater'], hit: 0.35 },
    ],
    hazard: 'flammable',
    needsHz: 5,
    perBank: true,
    how: 'Propane in, then a hose off: the sensor must reach both ends promptly.',
  },
  {
    id: 'o2-heater-ohms',
    label: 'Heater resistance',
    minutes: 8,
    reliability: 'instrument',
    normal: 'ok',
    speaks: { open: ['o2-heater'], short: ['o2-heater'] },
    tool: 'multimeter',
    needs: ['petrol'],
    perBank: true,
    how: 'Connector apart, engine cool, ohms across the heater pins.',
  },
  {
    id: 'gas-analysis',
    label: 'Exhaust gas analysis',
    minutes: 10,
    reliability: 'instrument',
    normal: 'balanced',
    speaks: {
      lean: [...LEAKS, 'fuel-low', 'injector-restricted', 'o2-biased-rich', 'misfire-ignition'],
      rich: ['o2-biased-lean', 'exhaust-leak', 'misfire-ignition', 'injector-leaking', 'fuel-in-oil'],
    },
    // Closed loop holds a true fault at λ 1 until the trim is at its limit: balanced does not clear it.
    hits: [
      { faults: [...LEAKS, 'fuel-low', 'injector-restricted', 'injector-leaking', 'fuel-in-oil'], hit: 0.2 },
      { faults: ['misfire-ignition'], hit: 0.5 },
      { faults: ['o2-biased-lean', 'o2-biased-rich', 'exhaust-leak'], hit: 0.9 },
    ],
    tool: 'gas-analyser',
    needs: ['petrol'],
    how: 'λ by an independent analyser: a true lean engine is held at 1 by trim, a false one is driven off it.',
  },
  {
    id: 'exhaust-leak-check',
    label: 'Exhaust leak check',
    minutes: 8,
    reliability: 'physical',
    normal: 'none',
    speaks: { bank1: ['exhaust-leak'], bank2: ['exhaust-leak'] },
    hazard: 'hot-exhaust',
    how: 'Cold start, listen and feel near, not on, each joint ahead of the sensor; smoke if at hand.',
  },
  {
    id: 'misfire-counts',
    label: 'Misfire counts',
    minutes: 2,
    reliability: 'instrument',
    normal: 'none',
    speaks: {
      bank1: ['misfire-ignition', 'vac-leak-bank1', 'injector-restricted'],
      bank2: ['misfire-ignition', 'vac-leak-bank2', 'injector-restricted'],
      random: ['misfire-ignition', 'egr-stuck-open', 'compression-timing'],
    },
    hits: [
      { faults: ['vac-leak-bank1', 'vac-leak-bank2'], hit: 0.35 },
      { faults: ['injector-restricted', 'egr-stuck-open', 'compression-timing'], hit: 0.6 },
    ],
    how: 'Read the counters per cylinder at idle.',
  },
  {
    id: 'swap-coil-plug',
    label: 'Swap coil and plug',
    minutes: 15,
    reliability: 'physical',
    normal: 'stays',
    speaks: { follows: ['misfire-ignition'] },
    needs: ['petrol'],
    how: 'Move them to another cylinder and see whether the count follows.',
  },
  {
    id: 'compression',
    label: 'Compression',
    minutes: 30,
    reliability: 'instrument',
    normal: 'even',
    speaks: { low: ['compression-timing'] },
    tool: 'compression-gauge',
    how: 'All cylinders, warm, throttle open.',
  },
  {
    id: 'backpressure',
    label: 'Exhaust backpressure',
    minutes: 15,
    reliability: 'instrument',
    normal: 'normal',
    speaks: { high: ['exhaust-restricted'] },
    measure: 'backpressure',
    tool: 'low-pressure-gauge',
    access: 'upstream-sensor',
    minutesOpen: 6,
    hazard: 'hot-exhaust',
    how: 'Gauge in an upstream sensor bung; idle and 2,500 rpm.',
  },
  {
    id: 'relative-throttle',
    label: 'Throttle at hot idle',
    minutes: 2,
    reliability: 'instrument',
    normal: 'ok',
    speaks: { high: ['throttle-fouled'] },
    measure: 'throttle',
    how: "The vehicle's own channel against the vehicle's own limit.",
  },
  {
    id: 'downstream-compare',
    label: 'Downstream sensor',
    minutes: 4,
    reliability: 'instrument',
    normal: 'steady',
    speaks: { follows: ['cat-degraded'] },
    needs: ['petrol'],
    perBank: true,
    how: 'Warm hold at 2,500 rpm: upstream beside downstream for a minute.',
  },
  {
    id: 'borescope-cat',
    label: 'Look into the catalyst',
    minutes: 25,
    reliability: 'looked',
    normal: 'clean',
    speaks: {
      sooted: ['injector-leaking', 'fuel-high'],
      broken: ['cat-degraded', 'exhaust-restricted'],
      melted: ['cat-degraded', 'exhaust-restricted'],
    },
    tool: 'borescope',
    hits: [
      { faults: ['injector-leaking', 'fuel-high'], hit: 0.35 },
      { faults: ['cat-degraded'], hit: 0.6 },
    ],
    access: 'upstream-sensor',
    minutesOpen: 14,
    hazard: 'hot-exhaust',
    perBank: true,
    how: 'Upstream sensor out, cold exhaust; compare with a good face.',
  },
  {
    id: 'fuel-ethanol',
    label: 'Ethanol content',
    minutes: 8,
    reliability: 'instrument',
    normal: 'as-calibrated',
    speaks: { high: ['ethanol-high'] },
    measure: 'ethanol',
    needs: ['petrol'],
    how: 'Sample and water separation, good to 2–3 points.',
  },
  {
    id: 'oil-check',
    label: 'Smell and level of the oil',
    minutes: 3,
    reliability: 'looked',
    normal: 'normal',
    speaks: { 'fuel-smell': ['fuel-in-oil', 'injector-leaking'], 'level-high': ['fuel-in-oil'] },
    hits: [{ faults: ['injector-leaking'], hit: 0.35 }],
    how: 'Dipstick: smell, level, thickness.',
  },
  {
    id: 'cold-soak-temps',
    label: 'Temperatures after a cold soak',
    minutes: 2,
    reliability: 'instrument',
    normal: 'agree',
    speaks: { 'ect-differs': ['ect-bias'], 'iat-differs': ['iat-bias'] },
    how: 'After a night: coolant, intake and outside air within a few degrees.',
  },
  {
    id: 'cap-and-evap-smoke',
    label: 'Cap and EVAP smoke',
    minutes: 15,
    reliability: 'physical',
    normal: 'none',
    speaks: { cap: ['evap-leak'], hose: ['evap-leak'], valve: ['evap-leak', 'purge-open'] },
    tool: 'smoke-machine',
    needs: ['petrol'],
    hits: [{ faults: ['purge-open'], hit: 0.45 }],
    access: 'smoke-machine',
    minutesOpen: 9,
    how: 'Cap test, then smoke at low pressure through the service port.',
  },
  {
    id: 'known-good-swap',
    label: 'Swap in a known-good part',
    minutes: 15,
    reliability: 'physical',
    normal: 'no-change',
    speaks: { fixed: ['maf-under', 'maf-over', 'maf-dirty', 'maf-damaged', 'maf-circuit', 'map-bias', 'o2-slow'] },
    tool: 'known-good-part',
    hits: [{ faults: ['maf-circuit'], hit: 0.2 }],
    how: 'Only with a proven part: copies mislead.',
  },
];

export const TEST_BY_ID: ReadonlyMap<string, TestRow> = new Map(TESTS.map((t) => [t.id, t]));

/** Outcomes that carry no evidence; legal for every test. */
export const NO_EVIDENCE = ['inconclusive', 'not-accessible'] as const;

const OUTCOMES: ReadonlyMap<string, readonly string[]> = new Map(
  TESTS.map((t) => [t.id, t.reading ? [] : [t.normal, ...Object.keys(t.speaks)]]),
);

/** All outcomes of a test in table order, the normal one first. */
export function outcomesOf(test: TestRow): readonly string[] {
  return OUTCOMES.get(test.id)!;
}

/** The bank an outcome names, null for none. */
export function bankNamed(outcome: string): 1 | 2 | null {
  return outcome.endsWith('bank1') ? 1 : outcome.endsWith('bank2') ? 2 : null;
}

/** What a test is called; its id when the catalogue does not know it. */
export function testLabel(id: string): string {
  return TEST_BY_ID.get(id)?.label ?? idInWords(id);
}

/** What an outcome is called. */
export function outcomeLabel(outcome: string): string {
  return idInWords(outcome);
}
