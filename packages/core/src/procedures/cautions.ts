import { CAPTURE_POINTS, type CapturePoint } from '../capture/index.ts';
import { TESTS } from '../catalogue/index.ts';

/** A caution, said once, plainly, where it applies. Source: common practice, no source, unless the row says otherwise. */
export interface CautionRow {
  id: string;
  text: string;
  steps: readonly string[];
  source: string;
}

/**
 * Every step of the work that a person carries out. Tests are steps of their own, `test:<id>`. Steps of a service
 * procedure name their caution themselves.
 */
export const WORK_STEPS: readonly string[] = [
  'record',
  ...CAPTURE_POINTS.map((p) => `read:${p.at}`),
  'repair',
  ...CAPTURE_POINTS.map((p) => `prove:${p.at}`),
  'readiness-drive',
  'hand-over',
  ...TESTS.map((t) => `test:${t.id}`),
];

const tests = (...ids: string[]) => ids.map((i) => `test:${i}`);
/** Guided readings of a kind, taken the first time and again for the proof. */
const readings = (which: (p: CapturePoint) => boolean) =>
  CAPTURE_POINTS.filter(which).flatMap((p) => [`read:${p.at}`, `prove:${p.at}`]);
const COMMON = 'common practice, no source';

/**
 * What may hurt a person or a car, with the steps it belongs to. Common practice, no source, where a row names none.
 */
export const CAUTIONS: readonly CautionRow[] = [
  {
    id: 'running-engine',
    source: COMMON,
    text: 'Running engine: carbon monoxide, belts and fans. Outdoors or with extraction; sleeves, hair and leads clear.',
    steps: [
      ...readings((p) => p.rpmHigh > 0 && !p.road),
      ...tests(
        'hold-2500',
        'snap-throttle',
        'vacuum-gauge',
        'rock-engine',
        'pinch-pcv',
        'pinch-booster',
        'pinch-purge',
        'egr-block',
        'crankcase-vacuum',
        'maf-unplug',
        'wiggle-connector',
        'o2-force',
        'gas-analysis',
        'misfire-counts',
        'relative-throttle',
        'downstream-compare',
        'swap-coil-plug',
        'injector-balance',
        'enrich-survey',
        'backpressure',
        'known-good-swap',
      ),
    ],
  },
  {
    id: 'keep-before-clear',
    source: COMMON,
    text: 'Nothing is cleared before it is kept: clearing wipes the freeze frame and the monitors.',
    steps: ['record', 'hand-over', ...tests('koeo-baro'), ...readings((p) => p.rpmHigh === 0)],
  },
  {
    id: 'hot-parts',
    source: COMMON,
    text: 'Exhaust, catalyst and coolant stay hot long after the engine stops.',
    steps: [
      'repair',
      ...tests(
        'visual-intake',
        'exhaust-leak-check',
        'backpressure',
        'borescope-cat',
        'compression',
        'egr-block',
        'o2-heater-ohms',
        'oil-check',
        'cold-soak-temps',
        'maf-inspect',
      ),
    ],
  },
  {
    id: 'solvents-fuel',
    source: COMMON,
    text: 'Solvents and fuel burn and harm eyes and skin: glasses, gloves, air, no ignition source.',
    steps: ['repair', ...tests('fuel-ethanol', 'smoke-intake', 'cap-and-evap-smoke')],
  },
  {
    id: 'fuel-pressure',
    source: COMMON,
    text: 'Relieve fuel pressure before opening anything; direct injection: never open the high side running.',
    steps: tests('fuel-pressure', 'residual-pressure', 'injector-balance'),
  },
  {
    id: 'enrichment',
    source: COMMON,
    text: 'Flammable gas at a running engine: trained people only, extinguisher at hand, no hot exhaust near. Smoke is safer.',
    steps: tests('enrich-survey', 'o2-force'),
  },
  {
    id: 'throttle-plate',
    source: COMMON,
    text: 'The throttle plate moves by itself: battery off before a finger goes near it.',
    steps: tests('map-port-probe', 'relative-throttle'),
  },
  {
    id: 'electrical',
    source: COMMON,
    text: 'Ignition off before unplugging or refitting. Leads in the volt sockets: the amps socket is a short circuit.',
    steps: tests(
      'fuse-check',
      'maf-electrical',
      'o2-heater-ohms',
      'maf-unplug',
      'map-vacuum-pump',
      'known-good-swap',
      'map-port-probe',
      'maf-inspect',
    ),
  },
  {
    id: 'road-test',
    source: COMMON,
    text: 'Two people; traffic law first; the driver watches the road and touches no screen. A dynamometer is best.',
    steps: ['readiness-drive', ...readings((p) => p.road), ...tests('road-load', 'full-load-airflow', 'boost-compare')],
  },
  {
    id: 'under-vehicle',
    source: COMMON,
    text: 'Under the vehicle: stands on firm ground, never a jack alone.',
    steps: tests('exhaust-leak-check', 'borescope-cat'),
  },
  {
    id: 'battery',
    source: COMMON,
    text: 'Battery: as service information says; a memory saver where it asks for one. The two leads are never joined, connected or not.',
    steps: [],
  },
  {
    id: 'coolant',
    source: COMMON,
    text: 'Coolant scalds under pressure: engine cold, pressure cap opened first.',
    steps: [],
  },
  {
    id: 'in-place-solvent',
    source: COMMON,
    text: 'Cleaner drawn into a running engine: short bursts only. Too much stalls it, locks a cylinder or overheats the catalyst. No misfire, no diesel.',
    steps: [],
  },
  {
    id: 'pinch',
    source: COMMON,
    text: 'Pinch only parked, never drive pinched; old hard hoses crack.',
    steps: tests('pinch-pcv', 'pinch-booster', 'pinch-purge'),
  },
  {
    id: 'emissions-law',
    source: COMMON,
    text: 'Emissions and safety systems: service information, local law and licensed practice decide.',
    steps: ['repair', 'readiness-drive', 'hand-over'],
  },
];

/** Stands on every Service, Readiness and printed page. */
export const PRECEDENCE = 'Service information, local law and licensed practice win over anything said here.';

/** The cautions of a step, as `test:ID`, `read:POINT`, `repair` and the like. */
export function cautionsFor(step: string): CautionRow[] {
  return CAUTIONS.filter((c) => c.steps.includes(step));
}
