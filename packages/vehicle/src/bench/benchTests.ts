import type { Car } from '../car.ts';
import { uniform, volumetricEfficiency, WIDE_OPEN_MM2_PER_L } from '../engine/index.ts';
import { simFault } from '../faults/catalogue.ts';

/** What a bench test shows, as a technician would write it down. */
export interface BenchResult {
  test: string;
  outcome?: string;
  values?: Record<string, number | string>;
  bank?: 1 | 2;
  /** Someone looked: the answer is wrong with this chance. */
  chanceOfWrong: number;
}

/** A look misses what is there, and sees what is not, with these chances. [house], stated with every result. */
const LOOK = { miss: 0.3, falseAlarm: 0.1 };
const PHYSICAL = { miss: 0.1, falseAlarm: 0.05 };
/** Trim movement that a person calls a change, percentage points. [house] */
const CHANGE_PCT = 3;
/** Share of the idle air whose coming or going is heard. [house] */
const IDLE_AIR_CHANGE = 0.12;
/** Idle air of a clean plate, mm² per litre, and what a plate may stand further open before it is called fouled. [house] */
const CLEAN_IDLE_MM2_PER_L = 6.2;
const FOULED_FACTOR = 1.3;
/** A downstream trace that swings by more is following. [house] */
const DOWNSTREAM_SWING_V = 0.15;

type Run = (
  car: Car,
  dice: (channel: number) => number,
  bank: 1 | 2,
) => Omit<BenchResult, 'test' | 'chanceOfWrong'> & { chanceOfWrong?: number };

const round = (v: number, digits = 1) => Math.round(v * 10 ** digits) / 10 ** digits;

function total(car: Car, b: 0 | 1 = 0): number {
  const t = car.control.trims[b];
  return t.short + t.long[car.control.cell]!;
}

/** Mean total of both banks over some seconds of what the car does now. */
function meanTotal(car: Car, seconds: number): number {
  let sum = 0;
  for (let i = 0; i < seconds * 4; i++) {
    car.run(0.25);
    sum += (total(car) + (car.spec.banks === 2 ? total(car, 1) : total(car))) / 2;
  }
  return sum / (seconds * 4);
}

/** Let it idle warm in closed loop with the memory as it is. */
function idle(car: Car) {
  car.start();
  car.do({ do: 'idle' }, 12);
}

/** Trim before and after something is shut for a while, the engine idling; a speed-density engine shows it in its
 * idle air instead, which a person hears as the idle speed moving. */
function shut(car: Car, change: (e: Car['engine']['effects']) => void) {
  idle(car);
  const before = meanTotal(car, 5);
  const airBefore = car.engine.state.throttleMm2;
  const kept = { ...car.engine.effects };
  change(car.engine.effects);
  car.run(10);
  const after = meanTotal(car, 5);
  const airAfter = car.engine.state.throttleMm2;
  car.engine.effects = kept;
  car.run(10);
  return {
    outcome:
      Math.abs(after - before) > CHANGE_PCT || Math.abs(airAfter / airBefore - 1) > IDLE_AIR_CHANGE
        ? 'changes'
        : 'no-change',
    values: { trimBefore: round(before), trimAfter: round(after) },
  };
}

/** A look or a physical sign: what is there may be missed, what is not may be seen. */
function seen(
  there: string | null,
  normal: string,
  others: readonly string[],
  dice: (c: number) => number,
  how = LOOK,
) {
  if (there !== null)
    return dice(1) < how.miss
      ? { outcome: normal, chanceOfWrong: how.miss }
      : { outcome: there, chanceOfWrong: how.miss };
  const falseAlarm = dice(2) < how.falseAlarm && others.length > 0;
  return { outcome: falseAlarm ? others[Math.floor(dice(3) * others.length)]! : normal, chanceOfWrong: how.falseAlarm };
}

const has = (car: Car, ...ids: string[]) => car.faults.find((f) => ids.includes(f.id));
const bankOf = (car: Car, id: string): string => `bank${car.faults.find((f) => f.id === id)?.bank ?? 1}`;
const SMOKE = ['duct', 'gasket-bank1', 'pcv', 'egr', 'brake-booster', 'throttle'];

/** Pull to full load on the rollers; airflow signal over what a healthy engine would take there. */
function pull(car: Car): { ratio: number; boostKPa: number } {
  car.start();
  car.do({ do: 'full-load', rpm: 4000 }, 10);
  const s = car.engine.state;
  const { spec, surroundings } = car;
  // A healthy engine at the same speed: open throttle, usual filter loss.
  const map = spec.induction === 'turbo' ? surroundings.baroKPa + spec.boostKPa : surroundings.baroKPa * 0.96;
  const ve = volumetricEfficiency(map, surroundings.baroKPa, s.rpm, spec);
  const chargeK = surroundings.airC + 290 + Math.max(0, map - surroundings.baroKPa) * 0.28;
  const expected = (ve * map * 1000 * spec.displacementL * s.rpm) / (287 * chargeK * 120);
  const out = { ratio: s.mafSignalGps / expected, boostKPa: s.chargeKPa - surroundings.baroKPa };
  car.do({ do: 'idle' }, 25);
  return out;
}

/** Tests that answer from the car's physics; where a person looks, with the stated chance of a wrong look. */
const RUNS: Record<string, Run> = {
  'smoke-intake': (car, dice) => {
    const place = car.faults.map((f) => simFault(f.id)?.smoke).find((p) => p !== undefined) ?? null;
    return seen(place, 'none', SMOKE, dice, PHYSICAL);
  },
  'enrich-survey': (car, dice) => {
    const place = car.faults.map((f) => simFault(f.id)?.smoke).find((p) => p !== undefined) ?? null;
    const word = place?.replace('gasket-', '') ?? null;
    return seen(
      word === 'charge-pipe' || word === 'purge' ? 'other' : word,
      'none',
      ['duct', 'bank1', 'throttle'],
      dice,
      { miss: 0.4, falseAlarm: 0.35 },
    );
  },
  'visual-intake': (car, dice) => {
    const look = car.faults.map((f) => simFault(f.id)?.look).find((l) => l !== undefined && l !== 'dirty') ?? null;
    return seen(look, 'ok', ['duct-loose', 'oil-at-throttle', 'filter-loaded'], dice);
  },
  'rock-engine': (car, dice) =>
    seen(has(car, 'duct-leak') ? 'changes' : null, 'no-change', ['changes'], dice, PHYSICAL),
  'pinch-pcv': (car) =>
    shut(car, (e) => {
      e.crankcaseLeakMm2 = 0;
      e.oilFuelGps = 0;
    }),
  'pinch-booster': (car) =>
    shut(car, (e) => {
      e.plenumLeakMm2 = 0;
    }),
  'pinch-purge': (car) =>
    shut(car, (e) => {
      e.purgeMm2 = 0;
    }),
  'egr-block': (car) =>
    shut(car, (e) => {
      e.egrJointLeakMm2 = 0;
      e.egrValveMm2 = 0;
    }),
  'crankcase-vacuum': (car, dice) =>
    seen(has(car, 'crankcase-leak') ? 'none-or-pressure' : null, 'normal', ['high'], dice, PHYSICAL),
  'vacuum-gauge': (car) => {
    idle(car);
    car.run(5);
    const vacuum = car.surroundings.baroKPa - car.engine.state.mapKPa;
    const rough = car.engine.effects.misfire[0] + car.engine.effects.misfire[1] > 0.04;
    const restricted = car.engine.effects.exhaustLoss[0] > 0.3;
    return {
      outcome: rough
        ? 'swinging'
        : restricted
          ? 'falls-when-held'
          : vacuum < 52 * (car.surroundings.baroKPa / 101.3)
            ? 'low-steady'
            : 'normal',
    };
  },
  'fuel-pressure': (car) => {
    const { spec } = car;
    idle(car);
    const gauge = () => {
      const s = car.engine.state;
      const manifold = spec.railReference === 'manifold' ? car.surroundings.baroKPa - s.mapKPa : 0;
      return s.railKPa - manifold;
    };
    const idleKPa = gauge();
    car.do({ do: 'full-load', rpm: 3500 }, 6);
    const loadKPa = gauge();
    car.do({ do: 'idle' }, 20);
    return { values: { idleKPa: round(idleKPa, 0), loadKPa: round(loadKPa, 0), specKPa: spec.railKPa } };
  },
  'residual-pressure': (car) => ({
    outcome: car.engine.effects.dripGps[0] + car.engine.effects.dripGps[1] > 0 ? 'falls' : 'holds',
  }),
  'injector-balance': (car) => {
    const [a, b] = car.engine.effects.injectorLoss;
    return { outcome: a > 0.05 ? 'low-bank1' : b > 0.05 ? 'low-bank2' : 'even' };
  },
  'fuse-check': () => ({ outcome: 'ok' }),
  'maf-inspect': (car, dice) => seen(has(car, 'maf-dirty') ? 'dirty' : null, 'clean', ['dirty', 'oily'], dice),
  'maf-unplug': (car, dice) =>
    seen(
      has(car, 'maf-dirty', 'maf-under', 'maf-over', 'maf-circuit') ? 'better' : null,
      'same',
      ['better', 'worse'],
      dice,
      { miss: 0.4, falseAlarm: 0.35 },
    ),
  'maf-electrical': (car) => ({ outcome: car.engine.effects.mafDead ? 'supply' : 'ok' }),
  'wiggle-connector': () => ({ outcome: 'no-change' }),
  'map-vacuum-pump': (car) => {
    const e = car.engine.effects;
    return e.mapLagS > 0.2
      ? { outcome: 'tracks' }
      : Math.abs(e.mapOffsetKPa) > 2
        ? { outcome: 'offset', values: { offsetKPa: round(e.mapOffsetKPa) } }
        : { outcome: 'tracks' };
  },
  'map-port-probe': (car) => ({
    outcome:
      car.engine.effects.mapLagS > 0.2 ? 'blocked' : car.engine.effects.mapTowardsBaro > 0.02 ? 'hose-split' : 'clear',
  }),
  'boost-compare': (car) => ({ values: { measuredKPa: round(pull(car).boostKPa, 0), targetKPa: car.spec.boostKPa } }),
  'o2-force': (car, _, bank) => {
    const e = car.engine.effects;
    const b = (bank - 1) as 0 | 1;
    if (e.o2TauS[b] > 0.12) return { outcome: 'slow', bank };
    return { outcome: e.o2Shift[b] > 0.015 ? 'biased-lean' : e.o2Shift[b] < -0.015 ? 'biased-rich' : 'responds', bank };
  },
  'o2-heater-ohms': (car, _, bank) => ({
    outcome: car.engine.effects.o2HeaterDead[(bank - 1) as 0 | 1] ? 'open' : 'ok',
    bank,
  }),
  'gas-analysis': (car) => {
    idle(car);
    // What leaves the cylinders, whatever the sensor made of it.
    let lambda = 0;
    for (let i = 0; i < 20; i++) {
      car.run(0.2);
      lambda += car.engine.state.lambdaCyl[0] / 20;
    }
    return { outcome: lambda > 1.03 ? 'lean' : lambda < 0.97 ? 'rich' : 'balanced' };
  },
  'exhaust-leak-check': (car, dice) =>
    seen(has(car, 'exhaust-leak') ? bankOf(car, 'exhaust-leak') : null, 'none', ['bank1'], dice, PHYSICAL),
  'misfire-counts': (car) => {
    idle(car);
    const before = [...car.misfires];
    car.run(30);
    const [a, b] = car.misfires.map((m, i) => m - before[i]!) as [number, number];
    return { outcome: a > 5 ? 'bank1' : b > 5 ? 'bank2' : 'none' };
  },
  'swap-coil-plug': (car) => ({ outcome: has(car, 'misfire-ignition') ? 'follows' : 'stays' }),
  compression: () => ({ outcome: 'even' }),
  backpressure: (car) => {
    idle(car);
    const above = () => Math.max(...car.engine.state.exhaustKPa) - car.surroundings.baroKPa;
    const idleKPa = above();
    car.do({ do: 'hold', rpm: 2500 }, 10);
    const at2500KPa = above();
    car.do({ do: 'idle' }, 5);
    return { values: { idleKPa: round(idleKPa), at2500KPa: round(at2500KPa) } };
  },
  'snap-throttle': (car) => {
    idle(car);
    const rest = car.engine.state.mafSignalGps;
    car.action = { do: 'snap' };
    let peak = 0;
    for (let i = 0; i < 15; i++) {
      car.run(0.1);
      peak = Math.max(peak, car.engine.state.mafSignalGps);
    }
    car.do({ do: 'idle' }, 6);
    if (car.engine.effects.mafDead) return { outcome: 'flat' };
    if (car.engine.effects.mapLagS > 0.3 && car.spec.metering === 'speed-density') return { outcome: 'slow-fall' };
    return {
      outcome: peak < 11 * car.spec.displacementL || peak < 3 * rest ? 'low-peak' : 'ok',
      values: { peakGps: round(peak) },
    };
  },
  'full-load-airflow': (car) => ({ values: { ratio: round(pull(car).ratio, 3) } }),
  'koeo-baro': (car) => {
    car.stop(true);
    car.run(8);
    const differenceKPa = round(car.engine.state.mapSignalKPa - car.surroundings.baroKPa);
    return { values: { differenceKPa } };
  },
  'relative-throttle': (car) => {
    idle(car);
    const clean = 100 * (CLEAN_IDLE_MM2_PER_L / WIDE_OPEN_MM2_PER_L) ** 0.75;
    return { values: { value: round(car.values().tpRel ?? 0), limit: round(clean * FOULED_FACTOR), unit: '%' } };
  },
  'downstream-compare': (car, _, bank) => {
    car.start();
    car.do({ do: 'speed', kmh: 75 }, 60);
    const volts: number[] = [];
    for (let i = 0; i < 300; i++) {
      car.run(0.1);
      volts.push(car.values()[bank === 1 ? 'o2s12' : 'o2s22'] ?? 0);
    }
    car.do({ do: 'idle' }, 30);
    // What a person sees on the screen: the trace swings, or it does not. The ends are left out as flukes.
    volts.sort((a, b) => a - b);
    return { outcome: volts[280]! - volts[20]! > DOWNSTREAM_SWING_V ? 'follows' : 'steady', bank };
  },
  'borescope-cat': (car, dice, bank) => ({
    ...seen(car.engine.effects.storage[(bank - 1) as 0 | 1] < 0.5 ? 'broken' : null, 'clean', ['sooted'], dice),
    bank,
  }),
  'fuel-ethanol': (car, dice) => {
    const pct = car.engine.effects.ethanolPct ?? car.spec.ethanolCalibratedPct;
    // Water separation is good to 2–3 points. Common practice.
    return { values: { pct: Math.max(0, round(pct + (dice(4) - 0.5) * 5, 0)) } };
  },
  'oil-check': (car, dice) => seen(has(car, 'fuel-in-oil') ? 'fuel-smell' : null, 'normal', ['fuel-smell'], dice),
  'cold-soak-temps': () => ({ outcome: 'agree' }),
  'cap-and-evap-smoke': (car, dice) => seen(has(car, 'purge-open') ? 'valve' : null, 'none', ['cap'], dice, PHYSICAL),
  'known-good-swap': (car) => ({
    outcome: has(car, 'maf-dirty', 'maf-under', 'maf-over', 'maf-circuit') ? 'fixed' : 'no-change',
  }),
};

export const BENCH_TESTS: readonly string[] = Object.keys(RUNS);

/** Perform a test on the car as it stands; `turn` makes a repeated look a new look. Throws on an unknown test. */
export function benchTest(car: Car, test: string, turn = 0, bank: 1 | 2 = 1): BenchResult {
  const run = RUNS[test];
  if (!run) throw new RangeError(`unknown bench test "${test}"`);
  if (bank > car.spec.banks) throw new RangeError(`${test}: this car has one bank`);
  const hash = [...test].reduce((h, c) => (h * 31 + c.charCodeAt(0)) | 0, 7);
  const dice = (channel: number) => uniform(car.seed ^ hash, 300 + channel, turn);
  const r = run(car, dice, bank);
  return { test, ...r, chanceOfWrong: r.chanceOfWrong ?? 0.02 };
}

/** Voltages at the airflow sensor's pins against battery negative, key on: supply, two grounds, reference, signal. */
export function pinVoltages(car: Car): { pin: number; volts: number }[] {
  const s = car.engine.state;
  const supply = s.running ? 14.0 : 12.3;
  const dead = car.engine.effects.mafDead;
  const signal = dead ? 0.02 : 0.9 + 0.55 * Math.log1p(Math.max(0, s.mafSignalGps));
  return [dead ? 0.04 : supply, 0.03, 0.01, 5.0, signal].map((volts, i) => ({ pin: i + 1, volts: round(volts, 2) }));
}
