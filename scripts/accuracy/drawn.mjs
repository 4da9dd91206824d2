/**
 * Cases drawn from a small statistical model of its own: arithmetic of air and fuel, imperfect tests, weak codes and
 * complaints. It imports nothing of the diagnosis and repeats none of its tables; what a fault does and what a test
 * shows is written down here a second time, from common practice.
 */
const CLASS = { instrument: [0.95, 0.03], physical: [0.9, 0.05], looked: [0.7, 0.1], crude: [0.6, 0.35] };

/** Trim in % that the fault asks for at a point. `x`: flow over idle flow; `s`: size in % at its worst usual point. */
const LEAK = (s, x) => s / x;
const FLAT = (s) => s;
const GROWS = (s, x) => s * Math.min(1, 0.1 + (0.9 * (x - 1)) / 2.2);

const petrol = () => true;
const metered = (v) => v.metering !== 'speed-density';
const pressure = (v) => v.metering !== 'maf';
const two = (v) => v.banks === 2;
const turbo = (v) => v.induction === 'turbo';

/**
 * One row a fault: weight, where it exists, size range, trim per point (`one`: on one bank), what speaks for it.
 * `sd`: trims on a pure speed-density engine, where they differ.
 */
const FAULTS = {
  balanced: { w: 4 },
  'vac-leak': { w: 8, size: [8, 28], trim: LEAK, sd: 0, says: { 'high-idle': 0.3, 'rough-idle': 0.5 } },
  'vac-leak-bank1': { w: 2, if: two, size: [10, 30], trim: LEAK, sd: 0, bank: 1, says: { 'rough-idle': 0.6 } },
  'vac-leak-bank2': { w: 2, if: two, size: [10, 30], trim: LEAK, sd: 0, bank: 2, says: { 'rough-idle': 0.6 } },
  'crankcase-leak': { w: 8, size: [8, 28], trim: LEAK, sd: 0, says: { 'rough-idle': 0.4 } },
  'pcv-stuck-open': { w: 2, says: { 'high-idle': 0.5 } },
  'egr-gasket-leak': { w: 2, size: [8, 25], trim: LEAK, sd: 0, says: { 'rough-idle': 0.5 } },
  'egr-stuck-open': { w: 2, says: { 'rough-idle': 0.7, stall: 0.3 }, code: ['P0402', 0.4] },
  'duct-leak': { w: 4, if: metered, size: [7, 25], trim: FLAT, air: -1, says: { hesitation: 0.4 } },
  'boost-leak': { w: 2, if: turbo, says: { 'low-power': 0.7 }, code: ['P0299', 0.5] },
  'turbo-underboost': { w: 0.5, if: turbo, says: { 'low-power': 0.7 }, code: ['P0299', 0.6] },
  'maf-dirty': {
    w: 8,
    if: metered,
    size: [8, 28],
    trim: (s, x) => s * (-0.35 + (1.2 * Math.log(x)) / Math.log(5)),
    skew: true,
    says: { hesitation: 0.4, 'stall-after-start': 0.2 },
  },
  'maf-under': {
    w: 4,
    if: metered,
    size: [8, 28],
    trim: FLAT,
    air: -1,
    code: ['P0101', 0.3],
    says: { hesitation: 0.4 },
  },
  'maf-over': {
    w: 2,
    if: metered,
    size: [-25, -8],
    trim: FLAT,
    air: -1,
    code: ['P0101', 0.3],
    says: { 'high-consumption': 0.4 },
  },
  'maf-damaged': { w: 2, if: metered, code: ['P0101', 0.3] },
  'maf-installation': { w: 0.5, if: metered, size: [-20, 20], trim: FLAT, air: -1 },
  'maf-circuit': { w: 2, if: metered, code: ['P0102', 0.8], says: { stall: 0.4, 'limp-mode': 0.2 } },
  'air-filter': { w: 2, says: { 'low-power': 0.6 } },
  'exhaust-restricted': { w: 2, says: { 'low-power': 0.7 } },
  'map-bias': { w: 2, if: pressure, size: [-25, 25], trim: (s, x) => s / x ** 0.2, bothTrim: 0, code: ['P0106', 0.3] },
  'map-circuit': { w: 0.5, if: pressure, code: ['P0107', 0.9] },
  'map-port-blocked': { w: 2, if: pressure, code: ['P0106', 0.4], says: { hesitation: 0.4 } },
  'map-hose-split': { w: 2, if: pressure, size: [-25, -8], trim: FLAT, bothTrim: 0, says: { 'high-consumption': 0.3 } },
  'fuel-low': { w: 8, size: [10, 30], trim: GROWS, says: { 'low-power': 0.5, hesitation: 0.4 }, code: ['P0087', 0.15] },
  'fuel-high': { w: 2, size: [-22, -8], trim: FLAT, says: { 'high-consumption': 0.4 } },
  'regulator-diaphragm': { w: 0.5, size: [-25, -8], trim: LEAK, says: { 'fuel-smell': 0.4 } },
  'injector-restricted': {
    w: 2,
    size: [8, 25],
    trim: FLAT,
    one: true,
    code: ['P0300', 0.2],
    says: { 'misfire-felt': 0.3 },
  },
  'injector-leaking': {
    w: 2,
    size: [-25, -8],
    trim: LEAK,
    one: true,
    says: { 'hard-start-hot': 0.6, 'fuel-smell': 0.3 },
  },
  'purge-open': {
    w: 4,
    size: [-22, 22],
    trim: LEAK,
    sd: 0.5,
    code: ['P0496', 0.3],
    says: { 'rough-idle': 0.3, 'fuel-smell': 0.2 },
  },
  'evap-leak': { w: 2, code: ['P0442', 0.8], says: { 'fuel-smell': 0.3 } },
  'fuel-in-oil': { w: 2, size: [-20, -7], trim: LEAK, says: { 'fuel-smell': 0.3 } },
  'ethanol-high': { w: 2, size: [7, 28], trim: FLAT },
  'o2-biased-lean': { w: 2, size: [7, 22], trim: FLAT, one: true, code: ['P2195', 0.3] },
  'o2-biased-rich': { w: 2, size: [-22, -7], trim: FLAT, one: true, code: ['P2196', 0.3] },
  'o2-slow': { w: 4, one: true, code: ['P0133', 0.6] },
  'o2-circuit': { w: 2, one: true, code: ['P0131', 0.9] },
  'o2-heater': { w: 2, one: true, code: ['P0135', 0.9] },
  'exhaust-leak': { w: 4, size: [7, 25], trim: (s, x) => s / x ** 0.7, one: true, says: { noise: 0.6 } },
  'misfire-ignition': {
    w: 4,
    size: [5, 18],
    trim: (s, x) => s / x ** 0.3,
    one: true,
    code: ['P0300', 0.7],
    says: { 'misfire-felt': 0.7 },
  },
  'compression-timing': { w: 0.5, says: { 'low-power': 0.5, 'misfire-felt': 0.3 } },
  'ect-bias': { w: 2, code: ['P0116', 0.5], says: { 'hard-start-cold': 0.5 } },
  'iat-bias': { w: 2, code: ['P0111', 0.5] },
  'thermostat-open': { w: 2, code: ['P0128', 0.8] },
  'throttle-fouled': { w: 4, says: { stall: 0.6 }, code: ['P0506', 0.3] },
  'low-voltage': { w: 0.5, says: { 'hard-start-cold': 0.4 } },
  'secondary-air': { w: 0.5, size: [8, 25], trim: (s, x) => s / x ** 0.8, code: ['P0411', 0.5] },
  'cat-degraded': { w: 4, one: true, code: ['P0420', 0.8] },
};

/** Test: class, where it exists, and per fault the outcome it ends with when it works, or `[outcome, chance]`. */
const bankOf = (d) => `bank${d.bank ?? 1}`;
/** A gasket is at a place of a bank: of the first, or of either by the coin. */
const gasketBank = (d) => (d.vehicle.banks === 2 && d.coin ? 2 : 1);
const LEAK_SPOT = (d) => (d.spot === 'gasket' ? `gasket-bank${gasketBank(d)}` : d.spot);
const LEAK_PLACE = (d) => (d.spot === 'gasket' ? `bank${gasketBank(d)}` : d.spot);
const TESTS = {
  'smoke-intake': [
    'physical',
    petrol,
    ['none', 'duct', 'gasket-bank1', 'pcv', 'egr', 'brake-booster', 'throttle', 'other'],
    {
      'vac-leak': LEAK_SPOT,
      'vac-leak-bank1': 'gasket-bank1',
      'vac-leak-bank2': 'gasket-bank2',
      'crankcase-leak': 'pcv',
      'egr-gasket-leak': 'egr',
      'duct-leak': 'duct',
      'boost-leak': 'charge-pipe',
      'purge-open': ['purge', 0.5],
      'map-hose-split': ['other', 0.7],
      'maf-installation': ['airbox', 0.5],
    },
  ],
  'enrich-survey': [
    'crude',
    petrol,
    ['none', 'duct', 'bank1', 'pcv', 'egr', 'brake-booster', 'throttle', 'other'],
    {
      'vac-leak': LEAK_PLACE,
      'vac-leak-bank1': 'bank1',
      'vac-leak-bank2': 'bank2',
      'crankcase-leak': 'pcv',
      'egr-gasket-leak': 'egr',
      'duct-leak': ['duct', 0.3],
    },
  ],
  'visual-intake': [
    'looked',
    petrol,
    ['ok', 'duct-loose', 'hose-split', 'filter-loaded', 'oil-at-throttle'],
    {
      'duct-leak': (d) => (d.coin ? 'duct-loose' : 'duct-split'),
      'vac-leak': ['hose-split', 0.5],
      'crankcase-leak': (d) => (d.coin ? 'hose-split' : 'oil-at-throttle'),
      'pcv-stuck-open': 'oil-at-throttle',
      'air-filter': 'filter-loaded',
      'maf-installation': (d) => (d.coin ? 'airbox-unsealed' : 'altered-intake'),
      'map-hose-split': ['hose-split', 0.6],
      'boost-leak': ['duct-loose', 0.5],
      'maf-dirty': ['filter-oily', 0.2],
    },
  ],
  'rock-engine': ['physical', metered, ['no-change', 'changes'], { 'duct-leak': 'changes' }],
  'egr-block': [
    'physical',
    petrol,
    ['no-change', 'changes'],
    { 'egr-gasket-leak': 'changes', 'egr-stuck-open': 'changes' },
  ],
  'pinch-pcv': [
    'physical',
    petrol,
    ['no-change', 'changes'],
    { 'crankcase-leak': 'changes', 'fuel-in-oil': 'changes', 'pcv-stuck-open': ['changes', 0.6] },
  ],
  'pinch-booster': [
    'physical',
    petrol,
    ['no-change', 'changes'],
    { 'vac-leak': (d) => (d.spot === 'brake-booster' ? 'changes' : 'no-change') },
  ],
  'pinch-purge': ['physical', petrol, ['no-change', 'changes'], { 'purge-open': 'changes' }],
  'crankcase-vacuum': [
    'instrument',
    petrol,
    ['normal', 'high', 'none-or-pressure'],
    { 'crankcase-leak': 'none-or-pressure', 'pcv-stuck-open': 'high' },
  ],
  'vacuum-gauge': [
    'instrument',
    petrol,
    ['normal', 'low-steady', 'swinging', 'falls-when-held'],
    {
      'vac-leak': ['low-steady', 0.5],
      'crankcase-leak': ['low-steady', 0.4],
      'vac-leak-bank1': ['low-steady', 0.4],
      'vac-leak-bank2': ['low-steady', 0.4],
      'egr-stuck-open': ['low-steady', 0.6],
      'compression-timing': (d) => (d.coin ? 'swinging' : 'low-steady'),
      'exhaust-restricted': 'falls-when-held',
      'misfire-ignition': ['swinging', 0.5],
    },
  ],
  'residual-pressure': [
    'instrument',
    petrol,
    ['holds', 'falls'],
    { 'injector-leaking': 'falls', 'regulator-diaphragm': 'falls', 'fuel-low': ['falls', 0.2] },
  ],
  'injector-balance': [
    'instrument',
    petrol,
    ['even', 'low-bank1'],
    { 'injector-restricted': (d) => `low-${bankOf(d)}` },
  ],
  'fuse-check': [
    'instrument',
    petrol,
    ['ok', 'blown'],
    { 'maf-circuit': ['blown', 0.3], 'o2-heater': ['blown', 0.3], 'map-circuit': ['blown', 0.2] },
  ],
  'maf-inspect': [
    'looked',
    metered,
    ['clean', 'dirty', 'oily', 'damaged', 'seal-missing'],
    {
      'maf-dirty': 'dirty',
      'maf-damaged': 'damaged',
      'maf-installation': (d) => (d.coin ? 'reversed' : 'seal-missing'),
      'maf-under': ['dirty', 0.4],
    },
  ],
  'maf-unplug': [
    'crude',
    metered,
    ['same', 'better', 'worse'],
    {
      'maf-dirty': 'better',
      'maf-under': 'better',
      'maf-over': 'better',
      'maf-damaged': 'better',
      'maf-installation': 'better',
      'maf-circuit': 'better',
    },
  ],
  'maf-electrical': [
    'instrument',
    metered,
    ['ok', 'supply', 'ground', 'signal'],
    {
      'maf-circuit': (d) => (d.coin ? 'supply' : 'signal'),
      'maf-damaged': ['signal', 0.4],
      'iat-bias': ['temperature-signal', 0.7],
    },
  ],
  'wiggle-connector': [
    'physical',
    petrol,
    ['no-change', 'changes'],
    { 'maf-circuit': ['changes', 0.6], 'map-circuit': ['changes', 0.6], 'o2-circuit': ['changes', 0.5] },
  ],
  'map-vacuum-pump': [
    'instrument',
    pressure,
    ['tracks', 'offset', 'slow', 'dead'],
    {
      'map-bias': 'offset',
      'map-port-blocked': ['slow', 0.8],
      'map-circuit': 'dead',
      'map-hose-split': ['offset', 0.3],
    },
  ],
  'map-port-probe': [
    'looked',
    pressure,
    ['clear', 'blocked', 'hose-split'],
    { 'map-port-blocked': 'blocked', 'map-hose-split': 'hose-split' },
  ],
  'o2-force': [
    'physical',
    petrol,
    ['responds', 'biased-lean', 'biased-rich', 'slow', 'dead'],
    {
      'o2-biased-lean': 'biased-lean',
      'o2-biased-rich': 'biased-rich',
      'o2-slow': 'slow',
      'o2-circuit': 'dead',
      'o2-heater': ['slow', 0.4],
    },
  ],
  'o2-heater-ohms': [
    'instrument',
    petrol,
    ['ok', 'open', 'short'],
    { 'o2-heater': (d) => (d.coin ? 'open' : 'short') },
  ],
  'gas-analysis': [
    'instrument',
    petrol,
    ['balanced', 'lean', 'rich'],
    {
      'o2-biased-lean': 'rich',
      'o2-biased-rich': 'lean',
      'exhaust-leak': 'rich',
      'misfire-ignition': ['lean', 0.5],
    },
  ],
  'exhaust-leak-check': ['physical', petrol, ['none', 'bank1'], { 'exhaust-leak': bankOf }],
  'misfire-counts': [
    'instrument',
    petrol,
    ['none', 'bank1', 'random'],
    {
      'misfire-ignition': bankOf,
      'injector-restricted': (d) => (d.coin ? bankOf(d) : 'none'),
      'compression-timing': ['random', 0.7],
      'vac-leak-bank1': ['bank1', 0.4],
      'vac-leak-bank2': ['bank2', 0.4],
      'egr-stuck-open': ['random', 0.6],
    },
  ],
  'swap-coil-plug': ['physical', petrol, ['stays', 'follows'], { 'misfire-ignition': 'follows' }],
  compression: ['instrument', petrol, ['even', 'low'], { 'compression-timing': 'low' }],
  'snap-throttle': [
    'instrument',
    petrol,
    ['ok', 'low-peak', 'slow-fall', 'flat', 'dropouts'],
    {
      'maf-dirty': 'low-peak',
      'maf-under': 'low-peak',
      'maf-circuit': 'flat',
      'map-circuit': 'flat',
      'map-port-blocked': 'slow-fall',
      'maf-damaged': ['dropouts', 0.5],
      'air-filter': ['low-peak', 0.4],
    },
  ],
  'downstream-compare': ['instrument', petrol, ['steady', 'follows'], { 'cat-degraded': 'follows' }],
  'borescope-cat': [
    'looked',
    petrol,
    ['clean', 'sooted', 'broken', 'melted'],
    {
      'cat-degraded': ['broken', 0.6],
      'exhaust-restricted': (d) => (d.coin ? 'broken' : 'melted'),
      'injector-leaking': ['sooted', 0.4],
      'fuel-high': ['sooted', 0.4],
    },
  ],
  'oil-check': [
    'looked',
    petrol,
    ['normal', 'fuel-smell', 'level-high'],
    { 'fuel-in-oil': (d) => (d.coin ? 'fuel-smell' : 'level-high'), 'injector-leaking': ['fuel-smell', 0.4] },
  ],
  'cold-soak-temps': [
    'instrument',
    petrol,
    ['agree', 'ect-differs', 'iat-differs'],
    { 'ect-bias': 'ect-differs', 'iat-bias': 'iat-differs' },
  ],
  'cap-and-evap-smoke': [
    'physical',
    petrol,
    ['none', 'cap', 'hose', 'valve'],
    { 'evap-leak': (d) => (d.coin ? 'cap' : 'hose'), 'purge-open': ['valve', 0.5] },
  ],
  // Measured values follow below; here only where they exist.
  'fuel-pressure': ['instrument', petrol],
  'full-load-airflow': ['instrument', metered],
  'koeo-baro': ['instrument', pressure],
  'boost-compare': ['instrument', turbo],
  backpressure: ['instrument', petrol],
  'relative-throttle': ['instrument', petrol],
  'fuel-ethanol': ['instrument', petrol],
};

function drawVehicle(r) {
  const banks = r.chance(0.4) ? 2 : 1;
  const displacementL = Math.round(10 * (banks === 2 ? r.between(2.4, 4.6) : r.between(1, 2.5))) / 10;
  return {
    fuel: 'petrol',
    metering: r.weighted([
      [6, 'maf'],
      [2.5, 'speed-density'],
      [1.5, 'both'],
    ]),
    induction: r.chance(0.15) ? 'turbo' : 'na',
    injection: 'port',
    displacementL,
    cylinders: banks === 2 ? r.pick([6, 8]) : r.pick([3, 4, 4, 4]),
    banks,
  };
}

/** What the customer says of a fault, or nothing that helps. */
export function complaintsOf(r, fault) {
  const said = Object.entries(FAULTS[fault].says ?? {}).flatMap(([id, p]) => (r.chance(p) ? [id] : []));
  return said.length > 0 ? said : [r.pick(['lamp-only', 'none', 'failed-inspection'])];
}

/** A vehicle, a fault with its size, the bank it sits on, and everything that does not depend on who asks. */
export function drawCase(r, { faults } = {}) {
  const vehicle = drawVehicle(r);
  const possible = Object.entries(FAULTS).filter(
    ([id, f]) => (f.if ?? petrol)(vehicle) && (!faults || faults.includes(id)),
  );
  const fault = r.weighted(possible.map(([id, f]) => [f.w, id]));
  const row = FAULTS[fault];
  const bank = row.bank ?? (row.one ? (vehicle.banks === 2 && r.chance(0.5) ? 2 : 1) : null);
  let size = row.size ? r.between(...row.size) : 0;
  if (row.size && row.size[0] < 0 && row.size[1] > 0) size = (r.chance(0.5) ? 1 : -1) * r.between(8, row.size[1]);
  const truth = {
    vehicle,
    fault,
    bank,
    size,
    coin: r.chance(0.5),
    // The intake gasket leaks at a place of either bank; it is the common leak's all the same.
    spot: r.pick(['brake-booster', 'throttle', 'other', 'other', 'gasket']),
  };
  const baroKPa = Math.round(10 * r.between(82, 102)) / 10;
  const truthful = {
    ...truth,
    baroKPa,
    idleGps: r.between(1.2, 2) * vehicle.displacementL * (baroKPa / 101),
    holdTimes: r.between(2.6, 3.8),
    ve: Math.exp(r.gauss(0.07)),
    offset: r.gauss(2.3 * Math.sqrt(2 / 3)),
  };
  const c = {
    format: 'just-balance/case',
    version: 1,
    id: 'drawn',
    vehicle: {
      ...vehicle,
      limits: { fuelPressureKPa: 380, fuelPressureReference: 'fixed', relativeThrottleIdleDeg: 3 },
    },
    ambient: { baroKPa, airC: Math.round(r.between(0, 32)) },
    readings: [readingAt(r, truthful, 'idle'), readingAt(r, truthful, 'hold-2500')],
    codes: [],
    complaints: [],
    tests: [],
  };
  if (row.code && r.chance(row.code[1])) {
    const second =
      bank === 2
        ? { P0133: 'P0153', P0131: 'P0151', P0135: 'P0155', P0420: 'P0430', P2195: 'P2197', P2196: 'P2198' }[
            row.code[0]
          ]
        : undefined;
    c.codes.push({ code: second ?? row.code[0], state: 'stored' });
  }
  for (const b of [1, 2]) {
    const worst = c.readings
      .map((x) => total(x.trims[`bank${b}`]))
      .reduce((a, v) => (Math.abs(v) > Math.abs(a) ? v : a), 0);
    if (Math.abs(worst) > 19 && r.chance(0.8))
      c.codes.push({ code: worst > 0 ? ['P0171', 'P0174'][b - 1] : ['P0172', 'P0175'][b - 1], state: 'stored' });
  }
  c.complaints = complaintsOf(r, fault);
  return { truth: truthful, c };
}

const total = (t) => (t ? t.stft + t.ltft : 0);

/** True trims per bank at flow `x` times idle. */
export function trueTrims(truth, x) {
  const row = FAULTS[truth.fault];
  if (!row.trim) return [0, 0];
  const sd = truth.vehicle.metering === 'speed-density';
  let s = truth.size;
  if (sd && row.sd !== undefined) s *= row.sd;
  if (truth.vehicle.metering === 'both' && row.bothTrim !== undefined) s *= row.bothTrim;
  const t = row.trim(s, x);
  if (truth.vehicle.banks === 1 || truth.bank === null) return [t, t];
  const other = row.bank ? 0.15 * t : 0;
  return truth.bank === 1 ? [t, other] : [other, t];
}

function readingAt(r, truth, at) {
  const { vehicle } = truth;
  const x = at === 'idle' ? 1 : at === 'hold-2500' ? truth.holdTimes : 5.5;
  const row = FAULTS[truth.fault];
  const trims = trueTrims(truth, x);
  const flow = truth.idleGps * x;
  const worst = Math.abs(trims[0]) > Math.abs(trims[1]) ? trims[0] : trims[1];
  // What the sensor says: low by as much as the trim adds for a sensor or duct, less the unmetered air for a leak.
  const read =
    row.air || row.skew || row.trim === LEAK ? 1 / (1 + (row.trim === LEAK && worst < 0 ? 0 : worst) / 100) : 1;
  const trim = (t) => {
    const value = t + truth.offset + r.gauss(2.3 * Math.sqrt(1 / 3));
    const clip = Math.max(-50, Math.min(50, value));
    const long = Math.max(-25, Math.min(25, Math.round(0.8 * clip * 1.28) / 1.28));
    return {
      stft: Math.round((clip - long) * 100) / 100,
      ltft: long,
      sd: Math.round(r.between(50, 130)) / 100,
      n: Math.round(r.between(60, 150)),
    };
  };
  const rpm = Math.round(
    at === 'idle' ? r.between(640, 760) : at === 'hold-2500' ? r.between(2400, 2600) : r.between(1900, 2500),
  );
  // Manifold pressure from the flow by the ideal gas law.
  const map = (flow * 120 * 287.05 * 305) / (0.75 * truth.ve * vehicle.displacementL * rpm) / 1000;
  return {
    at,
    rpm,
    ...(metered(vehicle)
      ? { mafGps: Math.round(100 * flow * (truth.fault === 'maf-circuit' && truth.coin ? 0.05 : read)) / 100 }
      : {}),
    mapKPa: Math.round(Math.min(map, truth.baroKPa - 8)),
    ectC: truth.fault === 'thermostat-open' ? Math.round(r.between(62, 76)) : Math.round(r.between(86, 97)),
    iatC: Math.round(r.between(24, 42)),
    loop: 'closed',
    trims: { bank1: trim(trims[0]), ...(vehicle.banks === 2 ? { bank2: trim(trims[1]) } : {}) },
  };
}

/** What a test ends with on this case. The reading tests add a reading. Null: cannot be done here. */
export function runTest(r, truth, id) {
  if (id === 'road-load' || id === 'hold-2500') return { reading: readingAt(r, truth, id) };
  const row = TESTS[id];
  if (!row?.[1](truth.vehicle)) return null;
  const [cls, , outcomes, map] = row;
  const [hit, falseAlarm] = CLASS[cls];
  if (!outcomes) return { tests: [{ id, values: measured(r, truth, id, hit, falseAlarm) }] };
  let m = map[truth.fault];
  if (typeof m === 'function') m = m(truth);
  let chance = hit;
  if (Array.isArray(m)) [m, chance] = m;
  const outcome =
    m && m !== outcomes[0]
      ? r.chance(chance)
        ? m
        : outcomes[0]
      : r.chance(falseAlarm)
        ? r.pick(outcomes.slice(1))
        : outcomes[0];
  return { tests: [{ id, outcome }] };
}

function measured(r, truth, id, hit, falseAlarm) {
  const is = (...ids) => ids.includes(truth.fault);
  const seen = r.chance(hit);
  const false_ = r.chance(falseAlarm);
  switch (id) {
    case 'fuel-pressure': {
      const share = is('fuel-low') && seen ? 1 - 1 / (1 + truth.size / 100) ** 2 : false_ ? 0.12 : 0;
      const high = is('fuel-high') && seen ? (1 / (1 + truth.size / 100)) ** 2 : 1;
      const k = () => 380 * high * (1 + r.gauss(0.015));
      return { idleKPa: Math.round(k() * (1 - share * 0.15)), loadKPa: Math.round(k() * (1 - share)), specKPa: 380 };
    }
    case 'full-load-airflow': {
      let ratio = 1 + r.gauss(0.05);
      if (seen && is('maf-under', 'duct-leak', 'maf-over', 'maf-installation')) ratio /= 1 + truth.size / 100;
      if (seen && is('maf-dirty')) ratio *= 0.8;
      if (seen && is('air-filter', 'exhaust-restricted', 'compression-timing')) ratio *= r.between(0.7, 0.85);
      if (seen && is('turbo-underboost')) ratio *= 0.75;
      if (seen && is('maf-circuit')) ratio *= 0.5;
      return { ratio: Math.round(ratio * 100) / 100 };
    }
    case 'koeo-baro':
      return { differenceKPa: Math.round(is('map-bias') && seen ? -truth.size / 2.5 : false_ ? 4 : r.gauss(1)) };
    case 'boost-compare':
      return {
        targetKPa: 200,
        measuredKPa: Math.round(
          200 *
            (is('boost-leak', 'turbo-underboost') && seen ? r.between(0.65, 0.85) : false_ ? 0.88 : 1 + r.gauss(0.02)),
        ),
      };
    case 'backpressure': {
      const k = is('exhaust-restricted') && seen ? r.between(1.5, 3) : false_ ? 1.2 : r.between(0.2, 0.6);
      return { idleKPa: Math.round(9 * k), at2500KPa: Math.round(21 * k) };
    }
    case 'relative-throttle':
      return {
        deg:
          Math.round(10 * (is('throttle-fouled') && seen ? r.between(3.5, 6) : false_ ? 3.4 : r.between(1.5, 2.7))) /
          10,
        limitDeg: 3,
      };
    default:
      return {
        pct: Math.round((is('ethanol-high') && seen ? 10 + truth.size * 2.2 : false_ ? 20 : 10) + r.gauss(1.5)),
      };
  }
}

/** Trims only: the faults that move a trim, a smaller world in which the two readings say most. */
export const TRIM_MOVERS = ['balanced', ...Object.keys(FAULTS).filter((f) => FAULTS[f].trim)];

/** Rank of the true fault from what is on the case, for an observer who knows this generator (and the true flow ratio). */
export function idealRank(truth, c, faults) {
  const { vehicle } = truth;
  const possible = Object.entries(FAULTS).filter(
    ([id, f]) => (f.if ?? petrol)(vehicle) && (!faults || faults.includes(id)),
  );
  const scores = possible.map(([id, row]) => {
    const sizes = row.size
      ? Array.from({ length: 24 }, (_, i) => row.size[0] + ((row.size[1] - row.size[0]) * (i + 0.5)) / 24).filter(
          (s) => !(row.size[0] < 0 && row.size[1] > 0 && Math.abs(s) < 8),
        )
      : [0];
    const banks = row.bank ? [row.bank] : row.one ? (vehicle.banks === 2 ? [1, 2] : [1]) : [null];
    let p = 0;
    for (const size of sizes)
      for (const bank of banks)
        p += Math.exp(logOfReadings({ ...truth, fault: id, size, bank }, row, c)) / (sizes.length * banks.length);
    const said = Object.entries(row.says ?? {}).reduce((k, [x, q]) => k * (c.complaints.includes(x) ? q : 1 - q), 1);
    const other = c.complaints.some((x) => !['lamp-only', 'none', 'failed-inspection'].includes(x) && !row.says?.[x])
      ? 0
      : 1;
    const family = row.code
      ? c.codes.some((k) => k.code.slice(0, 4) === row.code[0].slice(0, 4) || (row.one && /^P0[14][35]/.test(k.code)))
      : false;
    const coded = c.codes.some((k) => !/^P017[1245]$/.test(k.code));
    const code = row.code ? (family ? row.code[1] : coded ? 0 : 1 - row.code[1]) : coded ? 0 : 1;
    return { id, score: row.w * p * said * other * code };
  });
  scores.sort((a, b) => b.score - a.score);
  return scores.findIndex((s) => s.id === truth.fault) + 1;
}

function logOfReadings(truth, row, c) {
  // Covariance common·11ᵀ + own·I, by Sherman and Morrison (1950).
  const common = (2.3 ** 2 * 2) / 3;
  const own = 2.3 ** 2 / 3;
  let q = 0;
  let sum = 0;
  let n = 0;
  let log = 0;
  for (const reading of c.readings) {
    const x = reading.at === 'idle' ? 1 : reading.at === 'hold-2500' ? truth.holdTimes : 5.5;
    const trims = trueTrims(truth, x);
    for (const [i, key] of ['bank1', 'bank2'].entries()) {
      if (!reading.trims[key]) continue;
      const d = total(reading.trims[key]) - trims[i];
      q += d * d;
      sum += d;
      n++;
    }
    if (reading.mafGps !== undefined && reading.at === 'idle') {
      const worst = Math.abs(trims[0]) > Math.abs(trims[1]) ? trims[0] : trims[1];
      const read =
        row.air || row.skew || row.trim === LEAK ? 1 / (1 + (row.trim === LEAK && worst < 0 ? 0 : worst) / 100) : 1;
      const physics = (0.75 * reading.mapKPa * 1000 * truth.vehicle.displacementL * reading.rpm) / (120 * 287.05 * 305);
      const dead = Math.log(reading.mafGps / physics) < -1.5;
      if (dead !== (truth.fault === 'maf-circuit')) log -= dead ? 50 : truth.fault === 'maf-circuit' ? 0.7 : 0;
      else if (!dead) log -= 0.5 * (Math.log(reading.mafGps / physics / read) / 0.075) ** 2;
    }
    if (reading.ectC < 80 !== (truth.fault === 'thermostat-open')) log -= 50;
  }
  return log - 0.5 * ((q - (common * sum * sum) / (own + n * common)) / own);
}
