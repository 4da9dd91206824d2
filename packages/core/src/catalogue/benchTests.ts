/** The test catalogue: minutes, reliability class, access, dangers. All [house] unless noted. What it shows: results.ts. */

import { figure, idInWords, type Said, said } from '../units/index.ts';
import { FAULT_BY_ID } from './faults.ts';
import { type EngineKind, engineHas, type Need } from './needs.ts';
import { RESULTS } from './results.ts';

/**
 * How many times likelier one result of a class can make a fault against any other: a share of all results is a wrong
 * look, a wrong state of the engine or a slip of the finger. Two different tests outvote one. [house]
 */
export const MOST_ODDS = { instrument: 50, physical: 40, looked: 18, crude: 5 } as const;

/** A bench test: what it costs, needs and endangers, and how sure a hand is of it. */
export interface TestRow {
  id: string;
  label: string;
  minutes: number;
  reliability: keyof typeof MOST_ODDS;
  /** Numeric tests: how values become one of the outcomes above. */
  measure?: Measure;
  /** A part known to be good goes in: which, is named with the result. */
  swaps?: true;
  /** Its tool is no shop's as a matter of course: it is there where the shop says so. */
  owned?: true;
  /** A figure that may stand beside its outcome, and decide it where none is named. */
  beside?: 'coolant';
  /** The calculator that goes with it. */
  calculator?: 'altitude' | 'airflow' | 'injector' | 'ethanol' | 'lambda';
  tool?: string;
  needs?: readonly Exclude<Need, 'bank2'>[];
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
  how: Said;
  /** What a shop's own results say of it: factors on the chances of the table. Never in the catalogue itself. */
  learned?: { hits: number; alarms: number };
}

/** What several tests share. */
export type AccessId = 'airbox' | 'upstream-sensor' | 'fuel-gauge' | 'smoke-machine' | 'pressure-sensor' | 'road';

/** What has been opened or set up, in words. */
export const ACCESS: Readonly<Record<AccessId, string>> = {
  airbox: 'airbox open',
  'upstream-sensor': 'upstream sensor out',
  'fuel-gauge': 'fuel gauge connected',
  'smoke-machine': 'smoke machine set up',
  'pressure-sensor': 'pressure sensor out',
  road: 'out on the road or the rollers',
};

export type HazardId = 'flammable' | 'fuel-pressure' | 'road-test' | 'full-load' | 'hot-exhaust' | 'moving-car';

/** Dangers that a shop may rule out, in words. */
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

/** What those parts are called. */
export const SWAP_LABELS: Readonly<Record<string, string>> = {
  maf: 'Airflow sensor',
  map: 'Manifold pressure sensor',
  'o2-sensor': 'Oxygen sensor',
  'purge-valve': 'Purge valve',
  'pcv-valve': 'Crankcase valve',
};

/** How a test's figures become an outcome. */
export type Measure = 'fuel-pressure' | 'boost' | 'full-load' | 'koeo' | 'throttle' | 'ethanol' | 'backpressure';

/** The bench tests, in their stable order. Minutes are hands on. Common practice, no source. */
export const TESTS: readonly TestRow[] = [
  {
    id: 'hold-2500',
    label: 'Hold 2,500 rpm',
    minutes: 4,
    reliability: 'instrument',
    reading: 'hold-2500',
    needs: ['petrol'],
    how: 'Steady no-load hold, both banks read: a leak fades, delivery grows, a sensor stays.',
  },
  {
    id: 'road-load',
    label: 'Read at road load',
    minutes: 12,
    reliability: 'instrument',
    reading: 'road-load',
    needs: ['petrol'],
    access: 'road',
    minutesOpen: 6,
    hazard: 'road-test',
    how: 'Two people, steady road load; the driver watches the road.',
  },
  {
    id: 'full-load-airflow',
    calculator: 'airflow',
    label: 'Pull once to full load',
    minutes: 8,
    reliability: 'instrument',
    measure: 'full-load',
    needs: ['maf'],
    access: 'road',
    minutesOpen: 4,
    hazard: 'full-load',
    how: 'A second person reads airflow and λ through one full-load pull; measured over expected.',
  },
  {
    id: 'snap-throttle',
    label: 'Snap the throttle',
    minutes: 3,
    reliability: 'instrument',
    needsHz: 10,
    how: 'In park, one quick full opening and release: the signal leaps and falls back at once.',
  },
  {
    id: 'koeo-baro',
    calculator: 'altitude',
    label: 'Manifold pressure against barometer, engine off',
    minutes: 1,
    reliability: 'instrument',
    measure: 'koeo',
    needs: ['map'],
    how: said`Key on, engine off: the sensor must read station pressure within ${figure(3, 'kPa', 0, { difference: true })}.`,
  },
  {
    id: 'vacuum-gauge',
    calculator: 'altitude',
    label: 'Vacuum gauge',
    minutes: 3,
    reliability: 'instrument',
    needs: ['petrol'],
    tool: 'vacuum-gauge',
    how: 'Gauge on a full-manifold port, idle, then held at 2,500 rpm.',
  },
  {
    id: 'visual-intake',
    label: 'Look over the intake',
    minutes: 5,
    reliability: 'looked',
    how: 'Light and mirror from airbox to head: ducts, hoses, filter, oil, altered parts.',
  },
  {
    id: 'rock-engine',
    label: 'Rock the engine in gear',
    minutes: 3,
    reliability: 'physical',
    needs: ['maf'],
    hazard: 'moving-car',
    how: 'Brake held, a second person loads the engine gently in gear while you watch the trim.',
  },
  {
    id: 'smoke-intake',
    label: 'Smoke the intake',
    minutes: 15,
    reliability: 'physical',
    tool: 'smoke-machine',
    access: 'smoke-machine',
    minutesOpen: 9,
    how: 'Engine off, low regulated pressure; blow the smoke aside to see the spot it comes from.',
  },
  {
    id: 'enrich-survey',
    label: 'Enrichment survey',
    minutes: 6,
    reliability: 'crude',
    needs: ['petrol'],
    tool: 'enrichment',
    hazard: 'flammable',
    how: 'Only where smoke is not to be had: trained people, extinguisher, no hot exhaust near.',
  },
  {
    id: 'pinch-pcv',
    label: 'Pinch the crankcase hose',
    minutes: 2,
    reliability: 'physical',
    how: 'Parked, idling: clamp the soft hose and watch the trim for 20 s. Hard hoses crack.',
  },
  {
    id: 'pinch-booster',
    label: 'Pinch the brake booster hose',
    minutes: 2,
    reliability: 'physical',
    needs: ['petrol'],
    how: 'Parked only, never driven pinched: clamp and watch the trim for 20 s.',
  },
  {
    id: 'pinch-purge',
    label: 'Pinch the purge hose',
    minutes: 2,
    reliability: 'physical',
    needs: ['petrol'],
    how: 'Parked, idling: clamp between purge valve and manifold and watch the trim.',
  },
  {
    id: 'egr-block',
    label: 'Block the EGR',
    minutes: 10,
    reliability: 'physical',
    how: 'A test plate at the joint, idle before and after; the plate comes out again.',
  },
  {
    id: 'crankcase-vacuum',
    label: 'Crankcase vacuum',
    minutes: 4,
    reliability: 'instrument',
    tool: 'low-pressure-gauge',
    how: 'Gauge at the dipstick tube, warm idle.',
  },
  {
    id: 'fuel-pressure',
    calculator: 'injector',
    label: 'Fuel pressure, idle and under load',
    minutes: 15,
    reliability: 'instrument',
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
    tool: 'fuel-pressure-gauge',
    needs: ['petrol'],
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
    how: 'Pull, look, replace like for like.',
  },
  {
    id: 'maf-inspect',
    label: 'Look at the airflow sensor',
    minutes: 10,
    reliability: 'looked',
    needs: ['maf'],
    access: 'airbox',
    minutesOpen: 2,
    how: 'Magnified look at both sides of the element; photograph before refitting.',
  },
  {
    id: 'maf-unplug',
    label: 'Unplug the airflow sensor',
    minutes: 2,
    reliability: 'crude',
    needs: ['maf'],
    how: 'Crude, sets a code: weighted low.',
  },
  {
    id: 'maf-electrical',
    label: 'Airflow sensor connector',
    minutes: 10,
    reliability: 'instrument',
    tool: 'multimeter',
    needs: ['maf'],
    how: 'Meter on 20 V DC; ignition off before unplugging or refitting.',
  },
  {
    id: 'wiggle-connector',
    label: 'Wiggle the connector',
    minutes: 3,
    reliability: 'physical',
    how: 'Idling, move connector and loom while watching the signal.',
  },
  {
    id: 'map-vacuum-pump',
    label: 'Hand pump on the pressure sensor',
    minutes: 8,
    reliability: 'instrument',
    tool: 'hand-pump',
    needs: ['map'],
    access: 'pressure-sensor',
    minutesOpen: 5,
    how: 'Known vacuum against the reading in three steps.',
  },
  {
    id: 'map-port-probe',
    label: 'Probe the pressure port',
    minutes: 10,
    reliability: 'looked',
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
    measure: 'boost',
    needs: ['turbo'],
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
    needs: ['petrol'],
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
    tool: 'multimeter',
    needs: ['petrol'],
    perBank: true,
    how: 'Connector apart, engine cool, ohms across the heater pins.',
  },
  {
    id: 'gas-analysis',
    calculator: 'lambda',
    label: 'Exhaust gas analysis',
    minutes: 10,
    reliability: 'instrument',
    tool: 'gas-analyser',
    needs: ['petrol'],
    how: 'λ by an independent analyser: a true lean engine is held at 1 by trim, a false one is driven off it.',
  },
  {
    id: 'exhaust-leak-check',
    label: 'Exhaust leak check',
    minutes: 8,
    reliability: 'physical',
    needs: ['petrol'],
    hazard: 'hot-exhaust',
    how: 'Cold start, listen and feel near, not on, each joint ahead of the sensor; smoke if at hand.',
  },
  {
    id: 'misfire-counts',
    label: 'Misfire counts',
    minutes: 2,
    reliability: 'instrument',
    needs: ['petrol'],
    how: 'Read the counters per cylinder at idle.',
  },
  {
    id: 'swap-coil-plug',
    label: 'Swap coil and plug',
    minutes: 15,
    reliability: 'physical',
    needs: ['petrol'],
    how: 'Move them to another cylinder and see whether the count follows.',
  },
  {
    id: 'compression',
    label: 'Compression',
    minutes: 30,
    reliability: 'instrument',
    tool: 'compression-gauge',
    how: 'All cylinders, warm, throttle open.',
  },
  {
    id: 'backpressure',
    label: 'Exhaust backpressure',
    minutes: 15,
    reliability: 'instrument',
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
    needs: ['petrol'],
    measure: 'throttle',
    how: "The vehicle's own channel against the vehicle's own limit.",
  },
  {
    id: 'downstream-compare',
    label: 'Downstream sensor',
    minutes: 4,
    reliability: 'instrument',
    needs: ['petrol'],
    perBank: true,
    how: 'Warm hold at 2,500 rpm: upstream beside downstream for a minute.',
  },
  {
    id: 'borescope-cat',
    label: 'Look into the catalyst',
    minutes: 25,
    reliability: 'looked',
    tool: 'borescope',
    access: 'upstream-sensor',
    minutesOpen: 14,
    hazard: 'hot-exhaust',
    perBank: true,
    how: 'Upstream sensor out, cold exhaust; compare with a good face.',
  },
  {
    id: 'fuel-ethanol',
    calculator: 'ethanol',
    label: 'Ethanol content',
    minutes: 8,
    reliability: 'instrument',
    measure: 'ethanol',
    needs: ['petrol'],
    how: 'Sample and water separation, good to 2–3 points.',
  },
  {
    id: 'oil-check',
    label: 'Smell and level of the oil',
    minutes: 3,
    reliability: 'looked',
    how: 'Dipstick: smell, level, thickness.',
  },
  {
    id: 'cold-soak-temps',
    beside: 'coolant',
    label: 'Temperatures after a cold soak',
    minutes: 2,
    reliability: 'instrument',
    how: 'After a night: coolant, intake and outside air within a few degrees.',
  },
  {
    id: 'cap-and-evap-smoke',
    label: 'Cap and EVAP smoke',
    minutes: 15,
    reliability: 'physical',
    tool: 'smoke-machine',
    needs: ['petrol'],
    access: 'smoke-machine',
    minutesOpen: 9,
    how: 'Cap test, then smoke at low pressure through the service port.',
  },
  {
    id: 'known-good-swap',
    swaps: true,
    label: 'Swap in a known-good part',
    minutes: 15,
    reliability: 'physical',
    tool: 'known-good-part',
    owned: true,
    how: 'Only with a proven part: copies mislead.',
  },
];

/** A test by its id. */
export const TEST_BY_ID: ReadonlyMap<string, TestRow> = new Map(TESTS.map((t) => [t.id, t]));

/** Outcomes that carry no evidence; legal for every test. */
export const NO_EVIDENCE = ['inconclusive', 'not-accessible'] as const;

const OUTCOMES: ReadonlyMap<string, readonly string[]> = new Map(
  TESTS.map((t) => {
    const row = RESULTS[t.id];
    return [t.id, row ? [row.normal, ...Object.keys(row.shows)] : []];
  }),
);

/** All outcomes of a test in table order, the normal one first. */
export function outcomesOf(test: TestRow): readonly string[] {
  return OUTCOMES.get(test.id)!;
}

/** Faults that an outcome speaks for: shown by it more often than without them. */
export function speaksFor(test: TestRow, outcome: string): readonly string[] {
  const row = RESULTS[test.id];
  const shows = Object.entries(row?.shows[outcome] ?? {});
  return shows.filter(([, p]) => p > (row!.anyway[outcome] ?? 0)).map(([fault]) => fault);
}

/** The bank an outcome names, null for none. */
export function bankNamed(outcome: string): 1 | 2 | null {
  return outcome.endsWith('bank1') ? 1 : outcome.endsWith('bank2') ? 2 : null;
}

/** Whether a shop has what a test needs. `tools`: what it says it has; where it says nothing, what every shop has. */
export const hasTool = (row: Pick<TestRow, 'tool' | 'owned'>, tools: readonly string[] | undefined): boolean =>
  row.tool === undefined || (tools ? tools.includes(row.tool) : row.owned !== true);

/** Whether an engine is of the kind a test is for. */
export function fitsEngine(row: TestRow, v: EngineKind): boolean {
  return engineHas(row.needs, v, 1);
}

/** What is there to be looked at, or is not; how an engine meters its air takes no part away. */
const PLACES: readonly Need[] = ['turbo', 'bank2'];

/** Whether an engine can show an outcome: at a second bank or a charge pipe only where there is one. */
export function outcomeFits(test: TestRow, outcome: string, v: EngineKind, banks: 1 | 2): boolean {
  if (bankNamed(outcome) === 2 && banks === 1) return false;
  const faults = Object.keys(RESULTS[test.id]?.shows[outcome] ?? {});
  const places = (fault: string) => FAULT_BY_ID.get(fault)?.needs?.filter((n) => PLACES.includes(n));
  return faults.length === 0 || faults.some((f) => engineHas(places(f), v, banks));
}

/** What a test is called; its id when the catalogue does not know it. */
export function testLabel(id: string): string {
  return TEST_BY_ID.get(id)?.label ?? idInWords(id);
}
