/** The test catalogue: minutes, reliability class, what each outcome speaks for. All [house] unless noted. */

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
  /** Faults that this test shows only now and then, and how often. [house] */
  seldom?: { faults: readonly string[]; hit: number };
  /** The outcome that speaks for no fault of this test's kind. */
  normal: string;
  /** Every other outcome and the faults it speaks for. */
  speaks: Readonly<Record<string, readonly string[]>>;
  /** Numeric tests: how values become one of the outcomes above. */
  measure?: Measure;
  tool?: string;
  needs?: readonly ('maf' | 'map' | 'turbo' | 'petrol')[];
  /** Adds a reading instead of an outcome. */
  reading?: 'hold-2500' | 'road-load';
  how: string;
}

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
    seldom: { faults: ['vac-leak', 'crankcase-leak', 'pcv-stuck-open'], hit: 0.4 },
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
      'hose-split': ['vac-leak', 'crankcase-leak', 'map-hose-split', 'purge-open'],
      'airbox-unsealed': ['maf-installation', 'maf-dirty'],
      'filter-loaded': ['air-filter'],
      'filter-oily': ['maf-dirty', 'maf-installation'],
      'oil-at-throttle': ['crankcase-leak', 'pcv-stuck-open'],
      'altered-intake': ['maf-installation', 'maf-over'],
    },
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
      'gasket-bank1': ['vac-leak-bank1'],
      'gasket-bank2': ['vac-leak-bank2'],
      pcv: ['crankcase-leak'],
      egr: ['egr-gasket-leak'],
      'brake-booster': ['vac-leak'],
      throttle: ['vac-leak'],
      'charge-pipe': ['boost-leak'],
      purge: ['purge-open'],
      other: ['vac-leak'],
    },
    tool: 'smoke-machine',
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
      bank1: ['vac-leak-bank1'],
      bank2: ['vac-leak-bank2'],
      pcv: ['crankcase-leak'],
      egr: ['egr-gasket-leak'],
      'brake-booster': ['vac-leak'],
      throttle: ['vac-leak'],
      other: ['vac-leak'],
    },
    tool: 'enrichment',
    how: 'Only where smoke is not to be had: trained people, extinguisher, no hot exhaust near.',
  },
  {
    id: 'pinch-pcv',
    label: 'Pinch the crankcase hose',
    minutes: 2,
    reliability: 'physical',
    normal: 'no-change',
    speaks: { changes: ['crankcase-leak', 'fuel-in-oil', 'pcv-stuck-open'] },
    how: 'Parked, idling: clamp the soft hose and watch the trim for 20 s. Hard hoses crack.',
  },
  {
    id: 'pinch-booster',
    label: 'Pinch the brake booster hose',
    minutes: 2,
    reliability: 'physical',
    normal: 'no-change',
    speaks: { changes: ['vac-leak'] },
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
    speaks: { high: ['pcv-stuck-open', 'crankcase-leak'], 'none-or-pressure': ['crankcase-leak'] },
    tool: 'low-pressure-gauge',
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
    how: 'Relieve, connect, idle, then load: sag is the finding.',
  },
  {
    id: 'residual-pressure',
    label: 'Residual fuel pressure',
    minutes: 10,
    reliability: 'instrument',
    normal: 'holds',
    speaks: { falls: ['injector-leaking', 'regulator-diaphragm'] },
    tool: 'fuel-pressure-gauge',
    needs: ['petrol'],
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
    how: 'Pulse each injector alike and compare the pressure drops.',
  },
  {
    id: 'fuse-check',
    label: 'Check the fuses',
    minutes: 1,
    reliability: 'instrument',
    // Most of these circuits fail with the fuse whole.
    seldom: { faults: ['maf-circuit', 'o2-heater', 'map-circuit'], hit: 0.3 },
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
      dirty: ['maf-dirty'],
      oily: ['maf-dirty', 'maf-installation'],
      damaged: ['maf-damaged'],
      reversed: ['maf-installation'],
      'seal-missing': ['maf-installation', 'duct-leak'],
    },
    needs: ['maf'],
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
      worse: ['vac-leak', 'fuel-low'],
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
    how: 'Meter on 20 V DC; ignition off before unplugging or refitting.',
  },
  {
    id: 'wiggle-connector',
    label: 'Wiggle the connector',
    minutes: 3,
    reliability: 'physical',
    normal: 'no-change',
    speaks: { changes: ['maf-circuit', 'map-circuit', 'o2-circuit'] },
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
    how: 'Connector apart, engine cool, ohms across the heater pins.',
  },
  {
    id: 'gas-analysis',
    label: 'Exhaust gas analysis',
    minutes: 10,
    reliability: 'instrument',
    normal: 'balanced',
    speaks: {
      lean: [...LEAKS, 'fuel-low', 'injector-restricted', 'o2-biased-rich'],
      rich: ['o2-biased-lean', 'exhaust-leak', 'misfire-ignition', 'injector-leaking', 'fuel-in-oil'],
    },
    // Closed loop holds a true fault at λ 1 until the trim is at its limit: balanced does not clear it.
    seldom: { faults: [...LEAKS, 'fuel-low', 'injector-restricted', 'injector-leaking', 'fuel-in-oil'], hit: 0.15 },
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
    how: 'Only with a proven part: copies mislead.',
  },
];

export const TEST_BY_ID: ReadonlyMap<string, TestRow> = new Map(TESTS.map((t) => [t.id, t]));

/** Outcomes that carry no evidence; legal for every test. */
export const NO_EVIDENCE = ['inconclusive', 'not-accessible'] as const;

/** All outcomes of a test in table order, the normal one first. */
export function outcomesOf(test: TestRow): string[] {
  return test.reading ? [] : [test.normal, ...Object.keys(test.speaks)];
}

/** P(outcome | fault): faults the outcome speaks for get the hit rate, all others the false-alarm rate. */
export function outcomeProbability(test: TestRow, outcome: string, faultId: string): number {
  const { falseAlarm, hit: usual } = RELIABILITY[test.reliability];
  const hit = test.seldom?.faults.includes(faultId) ? test.seldom.hit : usual;
  const abnormal = Object.keys(test.speaks);
  const mine = abnormal.filter((o) => test.speaks[o]!.includes(faultId));
  const others = abnormal.length - mine.length;
  if (mine.length === 0) return outcome === test.normal ? 1 - falseAlarm : falseAlarm / Math.max(others, 1);
  if (mine.includes(outcome)) return hit / mine.length;
  const rest = 1 - hit;
  // A miss mostly looks normal; a little goes to the wrong abnormal outcome.
  const wrong = others > 0 ? Math.min(rest * 0.2, falseAlarm) : 0;
  return outcome === test.normal ? rest - wrong : wrong / others;
}
