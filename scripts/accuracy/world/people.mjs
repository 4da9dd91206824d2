/**
 * What owners say and which codes are left, by arguments that know no table of faults and complaints: a fault is felt in
 * one or more ways, and what is felt is put in the words that people have for it, the same words whatever the fault is. A
 * code comes by the kind of monitor that would see it: how often that runs and how far off it must be.
 */

/**
 * Words for what is felt, in parts. People call an engine that shakes at the lights rough, or say that it misses, or that
 * something rattles; who feels no pull says so, or presses further and speaks of the fuel bill.
 */
const WORDS = {
  shake: { 'rough-idle': 12, 'misfire-felt': 4, noise: 2, stall: 1 },
  flat: { 'low-power': 10, hesitation: 5, 'high-consumption': 2, 'limp-mode': 1 },
  gap: { hesitation: 11, 'misfire-felt': 3, surge: 2, 'low-power': 2 },
  fast: { 'high-idle': 10, noise: 1, surge: 1 },
  dies: { stall: 10, 'stall-after-start': 4, hesitation: 1 },
  cold: { 'hard-start-cold': 10, 'stall-after-start': 3, 'rough-idle': 2 },
  hot: { 'hard-start-hot': 9, 'hard-start-cold': 2, 'fuel-smell': 1 },
  thirst: { 'high-consumption': 11, smoke: 1 },
  smell: { 'fuel-smell': 11, smoke: 1 },
  sound: { noise: 1 },
  soot: { smoke: 10, 'fuel-smell': 1 },
  held: { 'limp-mode': 7, 'low-power': 5 },
};

/** How each fault is felt, at its usual size: the share of owners who feel it at all. The reason stands beside it. */
const FELT = {
  // Air beside the throttle: unsteady where there is least air; the idle control cannot close further; a hiss.
  'vac-leak': { shake: 0.48, fast: 0.22, dies: 0.1, sound: 0.12 },
  // At one runner: its cylinder or two are lean, it shakes more than it hurries.
  'vac-leak-bank1': { shake: 0.62, fast: 0.06, sound: 0.1 },
  'vac-leak-bank2': { shake: 0.62, fast: 0.06, sound: 0.1 },
  // As any leak, and a torn membrane whistles or breathes oil.
  'crankcase-leak': { shake: 0.36, fast: 0.12, sound: 0.26, soot: 0.12 },
  // Metered into the sum by a valve: the idle is up, steady enough.
  'pcv-stuck-open': { fast: 0.3, shake: 0.14, soot: 0.06 },
  'egr-gasket-leak': { shake: 0.42, fast: 0.12, sound: 0.16 },
  // Exhaust in the idle charge burns badly or not; off idle there is air enough.
  'egr-stuck-open': { shake: 0.5, dies: 0.4, gap: 0.2, flat: 0.14, soot: 0.08 },
  // Lean until the loop answers: felt when the throttle opens quickly; idle seldom.
  'duct-leak': { gap: 0.4, flat: 0.12, shake: 0.12, sound: 0.08 },
  'boost-leak': { flat: 0.66, sound: 0.36, soot: 0.2, held: 0.12 },
  'turbo-underboost': { flat: 0.74, held: 0.26, sound: 0.14, soot: 0.08 },
  // A signal that falls short with the flow: the gap and the pull; the start is rich enough.
  'maf-dirty': { gap: 0.36, flat: 0.22, dies: 0.08, thirst: 0.05 },
  'maf-under': { gap: 0.3, flat: 0.22, shake: 0.06 },
  'maf-over': { thirst: 0.34, soot: 0.1, shake: 0.12, smell: 0.06 },
  // It jumps about: sometimes a gap, sometimes it dies.
  'maf-damaged': { gap: 0.34, dies: 0.22, flat: 0.08, shake: 0.08 },
  'maf-installation': { gap: 0.28, shake: 0.16, flat: 0.1 },
  // The computer falls back on a table: it runs, held back, and dies when the throttle closes.
  'maf-circuit': { dies: 0.45, held: 0.36, flat: 0.22, gap: 0.14 },
  // Little is felt below full load; who notices speaks of the bill as often.
  'air-filter': { flat: 0.26, thirst: 0.14, soot: 0.04 },
  'exhaust-restricted': { flat: 0.72, sound: 0.1, thirst: 0.1 },
  'map-bias': { thirst: 0.18, gap: 0.16, shake: 0.12, smell: 0.05 },
  'map-circuit': { held: 0.36, gap: 0.22, dies: 0.14, thirst: 0.12 },
  // It lags: what opens quickly gets no fuel, what closes dies.
  'map-port-blocked': { gap: 0.42, dies: 0.14, flat: 0.14 },
  'map-hose-split': { thirst: 0.2, shake: 0.24, soot: 0.08 },
  // Enough at idle, short where it is wanted; a pump that bleeds down starts late.
  'fuel-low': { flat: 0.46, gap: 0.28, cold: 0.14, dies: 0.1 },
  'fuel-high': { thirst: 0.28, smell: 0.16, soot: 0.14, shake: 0.08 },
  'regulator-diaphragm': { hot: 0.28, smell: 0.24, thirst: 0.12, soot: 0.08 },
  'injector-restricted': { shake: 0.34, gap: 0.22, flat: 0.08 },
  'injector-leaking': { hot: 0.36, shake: 0.16, smell: 0.14, thirst: 0.08 },
  // Worst just after filling up, and at the lights.
  'purge-open': { shake: 0.24, smell: 0.16, hot: 0.1, dies: 0.08 },
  'evap-leak': { smell: 0.14 },
  'fuel-in-oil': { smell: 0.2, thirst: 0.08, soot: 0.06, cold: 0.08 },
  'ethanol-high': { cold: 0.2, thirst: 0.22 },
  // Slow in coming: hardly felt, seen at the pump.
  'o2-biased-lean': { thirst: 0.28, smell: 0.1, shake: 0.06 },
  'o2-biased-rich': { gap: 0.24, shake: 0.16, flat: 0.06 },
  'o2-slow': { thirst: 0.18, gap: 0.12, shake: 0.06 },
  'o2-circuit': { thirst: 0.28, shake: 0.1, smell: 0.06 },
  'o2-heater': { thirst: 0.08, cold: 0.03 },
  // Heard before anything else.
  'exhaust-leak': { sound: 0.62, smell: 0.12 },
  'misfire-ignition': { shake: 0.6, gap: 0.4, flat: 0.2, smell: 0.06 },
  'compression-timing': { flat: 0.4, shake: 0.36, cold: 0.16, sound: 0.14 },
  // Too rich cold, or too lean cold.
  'ect-bias': { cold: 0.3, thirst: 0.2, hot: 0.08 },
  'iat-bias': { gap: 0.08, thirst: 0.05 },
  // The heater stays lukewarm: of the engine only the bill is felt.
  'thermostat-open': { thirst: 0.26 },
  'throttle-fouled': { dies: 0.44, shake: 0.36, gap: 0.12 },
  'low-voltage': { cold: 0.6, dies: 0.1 },
  'secondary-air': { sound: 0.18, cold: 0.06 },
  'cat-degraded': { smell: 0.1, flat: 0.08, sound: 0.07 },
};

/** Share of owners who notice, and the words they then have, in parts. Of independent feelings. */
export function ownersOf(fault) {
  const felt = Object.entries(FELT[fault] ?? {});
  const says = {};
  for (const [how, share] of felt) {
    const all = Object.values(WORDS[how]).reduce((a, b) => a + b, 0);
    for (const [word, part] of Object.entries(WORDS[how])) says[word] = (says[word] ?? 0) + (share * part) / all;
  }
  return [1 - felt.reduce((p, [, share]) => p * (1 - share), 1), says];
}

/**
 * By how a monitor works, in cars that come in, at a usual size. Wires are looked at all the time. What is compared with a
 * model needs two drives and is set wide, so that no good car lights its lamp. Some run once a drive where a steady stretch
 * comes; some wait for a cold start and a tank that is neither full nor empty. Misfire and the catalyst are bounded by emissions: 1.5 times
 * and 1.75 times what is allowed, and most that bring a car in are far over it. 40 CFR 86.1806, 13 CCR 1968.2
 * (from memory) for what is looked at; the shares are arguments.
 */
const MONITOR = { wires: 0.9, bounded: 0.8, once: 0.58, cold: 0.5, model: 0.34, aside: 0.18 };

/** The codes of each, by bank, and which kind of monitor sets them. */
const CODES = {
  'egr-stuck-open': ['P0402', 'P0402', 'model'],
  'boost-leak': ['P0299', 'P0299', 'model'],
  'turbo-underboost': ['P0299', 'P0299', 'once'],
  'maf-under': ['P0101', 'P0101', 'model'],
  'maf-over': ['P0101', 'P0101', 'aside'],
  'maf-damaged': ['P0101', 'P0101', 'once'],
  'maf-circuit': ['P0102', 'P0102', 'wires'],
  'map-bias': ['P0106', 'P0106', 'once'],
  'map-circuit': ['P0107', 'P0107', 'wires'],
  'map-port-blocked': ['P0106', 'P0106', 'model'],
  'fuel-low': ['P0087', 'P0087', 'aside'],
  'injector-restricted': ['P0300', 'P0300', 'aside'],
  'purge-open': ['P0496', 'P0496', 'cold'],
  'evap-leak': ['P0442', 'P0455', 'cold'],
  'o2-biased-lean': ['P2195', 'P2197', 'model'],
  'o2-biased-rich': ['P2196', 'P2198', 'aside'],
  'o2-slow': ['P0133', 'P0153', 'once'],
  'o2-circuit': ['P0131', 'P0151', 'wires'],
  'o2-heater': ['P0135', 'P0155', 'wires'],
  'misfire-ignition': ['P0300', 'P0300', 'bounded'],
  'compression-timing': ['P0300', 'P0300', 'model'],
  'ect-bias': ['P0116', 'P0116', 'cold'],
  'iat-bias': ['P0111', 'P0111', 'model'],
  'thermostat-open': ['P0128', 'P0128', 'once'],
  'throttle-fouled': ['P0506', 'P0506', 'model'],
  'secondary-air': ['P0411', 'P0411', 'cold'],
  'cat-degraded': ['P0420', 'P0430', 'bounded'],
};

/** Codes of a fault by bank and how likely they are at a usual size; undefined where none is its own. */
export function codeOf(fault) {
  const row = CODES[fault];
  return row && [row[0], row[1], MONITOR[row[2]]];
}
