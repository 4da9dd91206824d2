/**
 * What each test shows, as chances: `shows[outcome][fault]` = P(outcome | that fault, at the sizes that bring a car to the
 * shop), `anyway[outcome]` = P(outcome | none of the faults named for it). What is left is the normal outcome. Chances
 * start from the classes of reliability and follow what a test can physically see. Common practice, no source; [house].
 *
 * Outcomes that name a bank are written for two banks; on a one-bank engine the other bank's share falls to the first.
 */
export interface ResultRow {
  /** The outcome of an engine in which the test finds nothing. */
  normal: string;
  shows: Readonly<Record<string, Readonly<Record<string, number>>>>;
  anyway: Readonly<Record<string, number>>;
}

/** The same chance for several faults. */
const each = (faults: readonly string[], p: number) => Object.fromEntries(faults.map((f) => [f, p]));

/** Air that enters without being metered, wherever. */
const LEAKS = ['vac-leak', 'vac-leak-bank1', 'vac-leak-bank2', 'crankcase-leak', 'egr-gasket-leak', 'purge-open'];
const MAF_BAD = ['maf-under', 'maf-over', 'maf-dirty', 'maf-damaged', 'maf-installation', 'maf-circuit'];

const yesNo = (shows: Readonly<Record<string, number>>, anyway: number): ResultRow => ({
  normal: 'no-change',
  shows: { changes: shows },
  anyway: { changes: anyway },
});

/** How often each test shows each outcome with each fault, and without any; shares of 1, by test, outcome and fault. */
export const RESULTS: Readonly<Record<string, ResultRow>> = {
  'full-load-airflow': {
    normal: 'normal',
    shows: {
      low: {
        ...each(['maf-under', 'duct-leak', 'maf-circuit'], 0.95),
        ...each(['maf-dirty', 'air-filter', 'exhaust-restricted', 'turbo-underboost', 'compression-timing'], 0.85),
        'maf-installation': 0.48,
        'maf-damaged': 0.2,
      },
      high: { 'maf-over': 0.95, 'maf-installation': 0.45, 'maf-damaged': 0.1 },
    },
    anyway: { low: 0.03, high: 0.02 },
  },
  'snap-throttle': {
    normal: 'ok',
    shows: {
      // Whatever keeps the cylinders from filling, or the sensor from counting it.
      'low-peak': {
        'maf-dirty': 0.7,
        'maf-under': 0.6,
        ...each(['duct-leak', 'air-filter', 'exhaust-restricted'], 0.4),
        ...each(['maf-installation', 'compression-timing'], 0.3),
      },
      'slow-fall': { 'map-port-blocked': 0.75 },
      flat: { 'maf-circuit': 0.85, 'map-circuit': 0.8 },
      dropouts: { 'maf-damaged': 0.4, 'maf-circuit': 0.1, 'maf-installation': 0.25 },
    },
    anyway: { 'low-peak': 0.06, 'slow-fall': 0.02, flat: 0.005, dropouts: 0.015 },
  },
  'koeo-baro': {
    normal: 'agrees',
    shows: { differs: { 'map-bias': 0.92, 'map-circuit': 0.7 } },
    anyway: { differs: 0.03 },
  },
  'vacuum-gauge': {
    normal: 'normal',
    shows: {
      // An ECU that holds idle speed shuts the throttle by as much as a leak lets in: most leaks leave the gauge as it was.
      'low-steady': {
        ...each(LEAKS, 0.28),
        'pcv-stuck-open': 0.3,
        'egr-stuck-open': 0.42,
        'compression-timing': 0.45,
      },
      swinging: {
        'compression-timing': 0.4,
        'misfire-ignition': 0.45,
        'egr-stuck-open': 0.13,
        'injector-restricted': 0.13,
      },
      'falls-when-held': { 'exhaust-restricted': 0.75 },
    },
    anyway: { 'low-steady': 0.05, swinging: 0.03, 'falls-when-held': 0.01 },
  },
  'visual-intake': {
    normal: 'ok',
    shows: {
      'duct-loose': { 'duct-leak': 0.35, 'boost-leak': 0.2 },
      'duct-split': { 'duct-leak': 0.3, 'boost-leak': 0.15 },
      'hose-split': { 'vac-leak': 0.35, 'crankcase-leak': 0.3, 'map-hose-split': 0.55 },
      'airbox-unsealed': { 'maf-installation': 0.3, 'maf-dirty': 0.07, 'duct-leak': 0.05 },
      // Dirt has come through something.
      'filter-loaded': { 'air-filter': 0.85, 'maf-dirty': 0.15 },
      'filter-oily': { 'maf-dirty': 0.13, 'maf-installation': 0.12 },
      'oil-at-throttle': { 'crankcase-leak': 0.28, 'pcv-stuck-open': 0.55, 'throttle-fouled': 0.2 },
      'altered-intake': { 'maf-installation': 0.3, 'maf-over': 0.2 },
      // Seen once it is off, rarely from outside.
      'crankcase-valve-torn': { 'pcv-stuck-open': 0.04 },
      'egr-joint-blown': { 'egr-gasket-leak': 0.05 },
    },
    anyway: {
      'duct-loose': 0.015,
      'duct-split': 0.008,
      'hose-split': 0.015,
      'airbox-unsealed': 0.02,
      'filter-loaded': 0.06,
      'filter-oily': 0.015,
      'oil-at-throttle': 0.06,
      'altered-intake': 0.015,
      'crankcase-valve-torn': 0.003,
      'egr-joint-blown': 0.003,
    },
  },
  'rock-engine': yesNo({ 'duct-leak': 0.8 }, 0.05),
  'smoke-intake': {
    normal: 'none',
    shows: {
      duct: { 'duct-leak': 0.72 },
      airbox: { 'maf-installation': 0.38, 'duct-leak': 0.14 },
      // The intake gasket is one of the places of the common leak.
      'gasket-bank1': { 'vac-leak-bank1': 0.88, 'vac-leak': 0.12 },
      'gasket-bank2': { 'vac-leak-bank2': 0.88, 'vac-leak': 0.12 },
      pcv: { 'crankcase-leak': 0.72 },
      egr: { 'egr-gasket-leak': 0.87 },
      'brake-booster': { 'vac-leak': 0.2 },
      throttle: { 'vac-leak': 0.19 },
      'charge-pipe': { 'boost-leak': 0.86 },
      purge: { 'purge-open': 0.45 },
      other: { 'vac-leak': 0.25, 'crankcase-leak': 0.14, 'map-hose-split': 0.5 },
    },
    // A weep at the throttle shaft is the commonest find that means nothing.
    anyway: {
      throttle: 0.03,
      airbox: 0.014,
      other: 0.014,
      pcv: 0.01,
      'gasket-bank1': 0.005,
      'gasket-bank2': 0.005,
      duct: 0.005,
      egr: 0.004,
      'brake-booster': 0.004,
      'charge-pipe': 0.004,
      purge: 0.003,
    },
  },
  'enrich-survey': {
    normal: 'none',
    shows: {
      duct: { 'duct-leak': 0.28 },
      bank1: { 'vac-leak-bank1': 0.58, 'vac-leak': 0.09 },
      bank2: { 'vac-leak-bank2': 0.58, 'vac-leak': 0.09 },
      pcv: { 'crankcase-leak': 0.56 },
      egr: { 'egr-gasket-leak': 0.57 },
      'brake-booster': { 'vac-leak': 0.14 },
      throttle: { 'vac-leak': 0.13 },
      other: { 'vac-leak': 0.17, 'crankcase-leak': 0.05 },
    },
    anyway: {
      throttle: 0.1,
      other: 0.08,
      bank1: 0.04,
      bank2: 0.03,
      duct: 0.03,
      pcv: 0.03,
      egr: 0.01,
      'brake-booster': 0.01,
    },
  },
  'pinch-pcv': yesNo({ 'crankcase-leak': 0.86, 'fuel-in-oil': 0.8, 'pcv-stuck-open': 0.58 }, 0.05),
  // One hose of the many places where such a leak sits.
  'pinch-booster': yesNo({ 'vac-leak': 0.26 }, 0.05),
  'pinch-purge': yesNo({ 'purge-open': 0.88 }, 0.05),
  'egr-block': yesNo({ 'egr-stuck-open': 0.87, 'egr-gasket-leak': 0.86 }, 0.05),
  'crankcase-vacuum': {
    normal: 'normal',
    shows: { high: { 'pcv-stuck-open': 0.87 }, 'none-or-pressure': { 'crankcase-leak': 0.8 } },
    anyway: { high: 0.015, 'none-or-pressure': 0.05 },
  },
  'fuel-pressure': {
    normal: 'ok',
    shows: { low: { 'fuel-low': 0.94 }, high: { 'fuel-high': 0.95 } },
    anyway: { low: 0.02, high: 0.01 },
  },
  'residual-pressure': {
    normal: 'holds',
    shows: { falls: { 'injector-leaking': 0.9, 'regulator-diaphragm': 0.87, 'fuel-low': 0.2 } },
    anyway: { falls: 0.04 },
  },
  'injector-balance': {
    normal: 'even',
    shows: { 'low-bank1': { 'injector-restricted': 0.88 }, 'low-bank2': { 'injector-restricted': 0.88 } },
    anyway: { 'low-bank1': 0.02, 'low-bank2': 0.02 },
  },
  // Most of these circuits fail with the fuse whole.
  'fuse-check': {
    normal: 'ok',
    shows: { blown: { 'maf-circuit': 0.26, 'o2-heater': 0.25, 'map-circuit': 0.2 } },
    anyway: { blown: 0.01 },
  },
  'maf-inspect': {
    normal: 'clean',
    shows: {
      dirty: { 'maf-dirty': 0.7, 'maf-under': 0.42, ...each(['maf-installation', 'maf-circuit'], 0.14) },
      oily: { 'maf-dirty': 0.1, 'maf-installation': 0.2 },
      damaged: { 'maf-damaged': 0.76, 'maf-circuit': 0.05, 'maf-under': 0.04 },
      reversed: { 'maf-installation': 0.3 },
      'seal-missing': { 'maf-installation': 0.24 },
    },
    // A dirty-looking element is the commonest false look, and a sick one that looks clean is common too.
    anyway: { dirty: 0.13, oily: 0.02, damaged: 0.01, reversed: 0.002, 'seal-missing': 0.01 },
  },
  'maf-unplug': {
    normal: 'same',
    shows: { better: each(MAF_BAD, 0.57), worse: {} },
    anyway: { better: 0.17, worse: 0.17 },
  },
  'maf-electrical': {
    normal: 'ok',
    shows: {
      supply: { 'maf-circuit': 0.3, 'low-voltage': 0.16 },
      ground: { 'maf-circuit': 0.22, 'maf-under': 0.08 },
      reference: { 'maf-circuit': 0.08 },
      signal: { 'maf-circuit': 0.34, 'maf-damaged': 0.36 },
      'temperature-signal': { 'iat-bias': 0.57 },
    },
    anyway: { supply: 0.007, ground: 0.012, reference: 0.003, signal: 0.013, 'temperature-signal': 0.005 },
  },
  'wiggle-connector': yesNo(each(['maf-circuit', 'map-circuit', 'o2-circuit'], 0.48), 0.03),
  'map-vacuum-pump': {
    normal: 'tracks',
    shows: {
      offset: { 'map-bias': 0.9, 'map-hose-split': 0.28 },
      slow: { 'map-port-blocked': 0.66 },
      dead: { 'map-circuit': 0.94 },
    },
    anyway: { offset: 0.025, slow: 0.012, dead: 0.003 },
  },
  'map-port-probe': {
    normal: 'clear',
    shows: { blocked: { 'map-port-blocked': 0.78 }, 'hose-split': { 'map-hose-split': 0.7 } },
    anyway: { blocked: 0.05, 'hose-split': 0.03 },
  },
  'boost-compare': {
    normal: 'ok',
    shows: {
      low: {
        'turbo-underboost': 0.93,
        'boost-leak': 0.9,
        'map-port-blocked': 0.6,
        'exhaust-restricted': 0.5,
        'air-filter': 0.2,
        // A split hose shows the sensor less pressure than there is; so does one that reads low.
        'map-hose-split': 0.4,
        'map-bias': 0.25,
      },
    },
    anyway: { low: 0.04 },
  },
  'o2-force': {
    normal: 'responds',
    shows: {
      'biased-lean': { 'o2-biased-lean': 0.82, 'exhaust-leak': 0.33, 'secondary-air': 0.3 },
      'biased-rich': { 'o2-biased-rich': 0.82 },
      slow: { 'o2-slow': 0.86, 'o2-heater': 0.32 },
      // Forced at one bank, the other one answers.
      dead: { 'o2-circuit': 0.93, 'o2-crossed': 0.4, 'o2-heater': 0.05 },
    },
    anyway: { 'biased-lean': 0.012, 'biased-rich': 0.012, slow: 0.035, dead: 0.004 },
  },
  'o2-heater-ohms': {
    normal: 'ok',
    shows: { open: { 'o2-heater': 0.74 }, short: { 'o2-heater': 0.18 } },
    anyway: { open: 0.015, short: 0.005 },
  },
  'gas-analysis': {
    normal: 'balanced',
    // Closed loop holds a true fault at λ 1 until the trim is at its limit: balanced does not clear it.
    shows: {
      lean: {
        'o2-biased-rich': 0.87,
        'misfire-ignition': 0.27,
        'fuel-low': 0.15,
        'injector-restricted': 0.15,
        ...each(LEAKS, 0.12),
      },
      rich: {
        ...each(['o2-biased-lean', 'exhaust-leak'], 0.84),
        'secondary-air': 0.75,
        'misfire-ignition': 0.3,
        ...each(['injector-leaking', 'fuel-in-oil', 'fuel-high'], 0.15),
      },
    },
    anyway: { lean: 0.025, rich: 0.025 },
  },
  'exhaust-leak-check': {
    normal: 'none',
    shows: { bank1: { 'exhaust-leak': 0.83 }, bank2: { 'exhaust-leak': 0.83 } },
    anyway: { bank1: 0.03, bank2: 0.03 },
  },
  'misfire-counts': {
    normal: 'none',
    // Lean cylinders misfire at random; one bank's leak on that bank.
    shows: {
      bank1: {
        'misfire-ignition': 0.68,
        'injector-restricted': 0.42,
        'vac-leak-bank1': 0.33,
        'compression-timing': 0.25,
        'egr-stuck-open': 0.12,
      },
      bank2: { 'misfire-ignition': 0.68, 'injector-restricted': 0.42, 'vac-leak-bank2': 0.33 },
      random: {
        'misfire-ignition': 0.24,
        'compression-timing': 0.3,
        'egr-stuck-open': 0.35,
        ...each(LEAKS, 0.2),
        'fuel-low': 0.18,
        'injector-restricted': 0.08,
        'maf-dirty': 0.12,
      },
    },
    anyway: { bank1: 0.015, bank2: 0.015, random: 0.05 },
  },
  'swap-coil-plug': {
    normal: 'stays',
    shows: { follows: { 'misfire-ignition': 0.86 } },
    anyway: { follows: 0.04 },
  },
  compression: { normal: 'even', shows: { low: { 'compression-timing': 0.85 } }, anyway: { low: 0.03 } },
  backpressure: {
    normal: 'normal',
    shows: { high: { 'exhaust-restricted': 0.93, 'cat-degraded': 0.08 } },
    anyway: { high: 0.03 },
  },
  'relative-throttle': {
    normal: 'ok',
    shows: { high: { 'throttle-fouled': 0.92 } },
    anyway: { high: 0.04 },
  },
  'downstream-compare': {
    normal: 'steady',
    shows: { follows: { 'cat-degraded': 0.92 } },
    anyway: { follows: 0.04 },
  },
  'borescope-cat': {
    normal: 'clean',
    shows: {
      sooted: { 'injector-leaking': 0.36, 'fuel-high': 0.34, 'maf-over': 0.2 },
      broken: { 'cat-degraded': 0.3, 'exhaust-restricted': 0.36 },
      melted: { 'cat-degraded': 0.25, 'exhaust-restricted': 0.32 },
    },
    anyway: { sooted: 0.06, broken: 0.015, melted: 0.01 },
  },
  'fuel-ethanol': {
    normal: 'as-calibrated',
    shows: { high: { 'ethanol-high': 0.95 } },
    anyway: { high: 0.03 },
  },
  'oil-check': {
    normal: 'normal',
    shows: {
      'fuel-smell': { 'fuel-in-oil': 0.58, 'injector-leaking': 0.3 },
      'level-high': { 'fuel-in-oil': 0.25, 'injector-leaking': 0.03 },
    },
    anyway: { 'fuel-smell': 0.05, 'level-high': 0.02 },
  },
  'cold-soak-temps': {
    normal: 'agree',
    shows: { 'ect-differs': { 'ect-bias': 0.92 }, 'iat-differs': { 'iat-bias': 0.92 } },
    anyway: { 'ect-differs': 0.02, 'iat-differs': 0.02 },
  },
  'cap-and-evap-smoke': {
    normal: 'none',
    shows: {
      cap: { 'evap-leak': 0.44 },
      hose: { 'evap-leak': 0.34 },
      valve: { 'evap-leak': 0.1, 'purge-open': 0.44 },
    },
    anyway: { cap: 0.02, hose: 0.015, valve: 0.01 },
  },
  // By the part that was swapped; the table stands for a part that was not named.
  'known-good-swap': {
    normal: 'no-change',
    shows: {
      fixed: {
        ...each(['maf-under', 'maf-over', 'maf-dirty', 'maf-damaged', 'map-bias', 'o2-slow'], 0.9),
        'maf-circuit': 0.2,
      },
    },
    anyway: { fixed: 0.05 },
  },
};
