/**
 * What each outcome is called, in the words of the bench: by test and outcome, so that no id stands in a sentence. Common
 * practice, no source.
 */
const LABELS: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  'full-load-airflow': { normal: 'airflow as expected', low: 'airflow low', high: 'airflow high' },
  'snap-throttle': {
    ok: 'leaps and falls back',
    'low-peak': 'peak too low',
    'slow-fall': 'falls back slowly',
    flat: 'hardly moves',
    dropouts: 'drops out',
  },
  'koeo-baro': { agrees: 'agrees with the barometer', differs: 'differs from the barometer' },
  'vacuum-gauge': {
    normal: 'steady and normal',
    'low-steady': 'steady but low',
    swinging: 'swings',
    'falls-when-held': 'falls while the speed is held',
  },
  'visual-intake': {
    ok: 'nothing found',
    'duct-loose': 'duct loose',
    'duct-split': 'duct split',
    'hose-split': 'hose split',
    'airbox-unsealed': 'airbox not sealed',
    'filter-loaded': 'filter loaded',
    'filter-oily': 'filter oily',
    'oil-at-throttle': 'oil at the throttle',
    'altered-intake': 'intake altered',
    'crankcase-valve-torn': 'crankcase valve torn or stuck',
    'egr-joint-blown': 'EGR joint blown or cracked',
  },
  'smoke-intake': {
    none: 'no smoke anywhere',
    duct: 'at the duct',
    airbox: 'at the airbox',
    'gasket-bank1': 'at the intake gasket, bank 1',
    'gasket-bank2': 'at the intake gasket, bank 2',
    pcv: 'at the crankcase system',
    egr: 'at the EGR joint',
    'brake-booster': 'at the brake booster or its hose',
    throttle: 'at the throttle body',
    'charge-pipe': 'at the charge pipe',
    purge: 'at the purge line',
    other: 'somewhere else after the throttle',
  },
  'enrich-survey': {
    none: 'no answer anywhere',
    duct: 'answers at the duct',
    bank1: 'answers at bank 1',
    bank2: 'answers at bank 2',
    pcv: 'answers at the crankcase system',
    egr: 'answers at the EGR joint',
    'brake-booster': 'answers at the brake booster',
    throttle: 'answers at the throttle body',
    other: 'answers somewhere else',
  },
  'crankcase-vacuum': {
    normal: 'slight vacuum, as it should be',
    high: 'vacuum too high',
    'none-or-pressure': 'no vacuum, or pressure',
  },
  'fuel-pressure': { ok: 'pressure right', low: 'pressure low', high: 'pressure high' },
  'residual-pressure': { holds: 'holds', falls: 'falls' },
  'injector-balance': { even: 'even', 'low-bank1': 'low on bank 1', 'low-bank2': 'low on bank 2' },
  'fuse-check': { ok: 'fuses good', blown: 'fuse blown' },
  'maf-inspect': {
    clean: 'clean',
    dirty: 'dirty',
    oily: 'oily',
    damaged: 'damaged',
    reversed: 'fitted the wrong way round',
    'seal-missing': 'seal missing',
  },
  'maf-unplug': { same: 'runs the same', better: 'runs better', worse: 'runs worse' },
  'maf-electrical': {
    ok: 'all pins right',
    supply: 'supply missing or low',
    ground: 'ground bad',
    reference: 'reference wrong',
    signal: 'signal wrong',
    'temperature-signal': 'temperature signal wrong',
  },
  'map-vacuum-pump': { tracks: 'follows the pump', offset: 'off by an offset', slow: 'follows slowly', dead: 'dead' },
  'map-port-probe': { clear: 'port clear', blocked: 'port blocked', 'hose-split': 'hose split' },
  'boost-compare': { ok: 'reaches its target', low: 'below its target' },
  'o2-force': {
    responds: 'answers both ways',
    'biased-lean': 'stays lean when forced rich',
    'biased-rich': 'stays rich when forced lean',
    slow: 'answers slowly',
    dead: 'does not answer',
  },
  'o2-heater-ohms': { ok: 'resistance right', open: 'open', short: 'shorted' },
  'gas-analysis': { balanced: 'balanced', lean: 'really lean', rich: 'really rich' },
  'exhaust-leak-check': { none: 'no leak', bank1: 'leaks at bank 1', bank2: 'leaks at bank 2' },
  'misfire-counts': {
    none: 'no misfires',
    bank1: 'misfires on bank 1',
    bank2: 'misfires on bank 2',
    random: 'misfires at random',
  },
  'swap-coil-plug': { stays: 'stays on its cylinder', follows: 'follows the part' },
  compression: { even: 'even', low: 'low' },
  backpressure: { normal: 'normal', high: 'high' },
  'relative-throttle': { ok: 'within its limit', high: 'past its limit' },
  'downstream-compare': { steady: 'steady', follows: 'follows the upstream sensor' },
  'borescope-cat': { clean: 'clean and flat', sooted: 'sooted', broken: 'broken', melted: 'melted' },
  'fuel-ethanol': { 'as-calibrated': 'as the engine is made for', high: 'more than the engine is made for' },
  'oil-check': { normal: 'normal', 'fuel-smell': 'smells of fuel', 'level-high': 'level too high' },
  'cold-soak-temps': {
    agree: 'agree with the air',
    'ect-differs': 'coolant sensor differs',
    'iat-differs': 'intake air sensor differs',
  },
  'cap-and-evap-smoke': { none: 'no leak', cap: 'at the cap', hose: 'at a hose', valve: 'at a valve' },
  'known-good-swap': { 'no-change': 'no change', fixed: 'cured' },
};

/** Of tests that ask one question: does it change anything. */
const CHANGES: Readonly<Record<string, string>> = { 'no-change': 'no change', changes: 'something changes' };
const NOTHING: Readonly<Record<string, string>> = { inconclusive: 'could not tell', 'not-accessible': 'no access' };

/** What an outcome of a test is called; the id itself only for one that no catalogue knows. */
export function outcomeLabel(test: string, outcome: string): string {
  return LABELS[test]?.[outcome] ?? NOTHING[outcome] ?? CHANGES[outcome] ?? outcome;
}

/** Outcomes of a test that can stand together; of the others only one can be. By test, the sets. */
const TOGETHER: Readonly<Record<string, readonly (readonly string[])[]>> = {
  'snap-throttle': [['low-peak', 'slow-fall', 'dropouts']],
  'visual-intake': [
    [
      'duct-loose',
      'duct-split',
      'hose-split',
      'airbox-unsealed',
      'filter-loaded',
      'filter-oily',
      'oil-at-throttle',
      'altered-intake',
      'crankcase-valve-torn',
      'egr-joint-blown',
    ],
  ],
  'smoke-intake': [
    [
      'duct',
      'airbox',
      'gasket-bank1',
      'gasket-bank2',
      'pcv',
      'egr',
      'brake-booster',
      'throttle',
      'charge-pipe',
      'purge',
      'other',
    ],
  ],
  'enrich-survey': [['duct', 'bank1', 'bank2', 'pcv', 'egr', 'brake-booster', 'throttle', 'other']],
  'injector-balance': [['low-bank1', 'low-bank2']],
  'maf-inspect': [['dirty', 'oily', 'damaged', 'reversed', 'seal-missing']],
  'maf-electrical': [['supply', 'ground', 'reference', 'signal', 'temperature-signal']],
  'map-vacuum-pump': [['offset', 'slow']],
  'map-port-probe': [
    ['clear', 'hose-split'],
    ['blocked', 'hose-split'],
  ],
  'o2-force': [
    ['biased-lean', 'slow'],
    ['biased-rich', 'slow'],
  ],
  'exhaust-leak-check': [['bank1', 'bank2']],
  'misfire-counts': [['bank1', 'bank2']],
  'borescope-cat': [['sooted', 'broken', 'melted']],
  'oil-check': [['fuel-smell', 'level-high']],
  'cold-soak-temps': [['ect-differs', 'iat-differs']],
  'cap-and-evap-smoke': [['cap', 'hose', 'valve']],
};

/** Whether more than one outcome of a test can be seen at once. */
export const severalCanBe = (test: string): boolean => TOGETHER[test] !== undefined;

/** Whether these outcomes of a test can stand together; one alone always can. */
export function standTogether(test: string, outcomes: readonly string[]): boolean {
  if (new Set(outcomes).size < 2) return true;
  return (TOGETHER[test] ?? []).some((set) => outcomes.every((o) => set.includes(o)));
}

/** The catalogue as it is looked through: by what is in hand. */
export const TEST_GROUPS: readonly { label: string; tests: readonly string[] }[] = [
  { label: 'Readings', tests: ['hold-2500', 'road-load'] },
  {
    label: 'Air that comes in beside the sensor',
    tests: [
      'visual-intake',
      'rock-engine',
      'smoke-intake',
      'enrich-survey',
      'pinch-pcv',
      'pinch-booster',
      'pinch-purge',
      'egr-block',
      'crankcase-vacuum',
      'oil-check',
      'vacuum-gauge',
    ],
  },
  {
    label: 'Airflow sensor',
    tests: ['maf-inspect', 'maf-unplug', 'maf-electrical', 'fuse-check', 'wiggle-connector', 'full-load-airflow'],
  },
  {
    label: 'Pressure sensor, throttle, boost',
    tests: ['koeo-baro', 'map-vacuum-pump', 'map-port-probe', 'snap-throttle', 'relative-throttle', 'boost-compare'],
  },
  { label: 'Fuel', tests: ['fuel-pressure', 'residual-pressure', 'injector-balance', 'fuel-ethanol'] },
  {
    label: 'Oxygen sensors and exhaust',
    tests: [
      'o2-force',
      'o2-heater-ohms',
      'gas-analysis',
      'exhaust-leak-check',
      'downstream-compare',
      'borescope-cat',
      'backpressure',
    ],
  },
  { label: 'Cylinders', tests: ['misfire-counts', 'swap-coil-plug', 'compression'] },
  { label: 'The rest', tests: ['cold-soak-temps', 'cap-and-evap-smoke', 'known-good-swap'] },
];
