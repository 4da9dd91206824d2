import { type CanFrame, formatCandumpLine, segment } from '@just-balance/core/can';
import { PIDS } from '@just-balance/core/obd';
import { Car } from '../car.ts';
import { actionProblems, type DriverAction } from '../driver/driver.ts';
import type { RoadScript } from '../driver/scripts.ts';
import { supportedBy } from '../ecu/services.ts';
import { DT, STEP_US } from '../engine/index.ts';
import type { InjectedFault } from '../faults/catalogue.ts';
import { carById } from '../fleet/cars.ts';
import { EcuPort } from '../wire/ecuPort.ts';
import { PARTS, type Part, WORKS, type Work } from '../workshop/workshop.ts';

/** One stretch of a scenario: what the driver does and for how many seconds; `soak` stands for hours. */
export type ScenarioStep =
  | (DriverAction & { s: number })
  | { do: 'koeo' | 'off'; s: number }
  | { do: 'soak'; hours: number }
  /** Hands on the car; it takes no time of its own. */
  | { do: 'work'; work: Work; part: Part }
  /** Clear codes, as a generic tool does: only with the engine off. */
  | { do: 'clear' };

/** A scripted run of a simulated car, read from JSON. */
export interface Scenario {
  format: 'just-balance/scenario';
  version: 1;
  vehicle: string;
  seed?: number;
  ambient?: { baroKPa?: number; altitudeM?: number; airC?: number };
  fault?: InjectedFault;
  faults?: InjectedFault[];
  /** In the tank at the start, %; the car's own unless given. */
  fuelLevelPct?: number;
  /** Start states: coolant and catalyst hot; trims already adapted. */
  warm?: boolean;
  settled?: boolean;
  drive: ScenarioStep[];
}

/** Check parsed JSON; returns the scenario or the problems with their fields. */
export function readScenario(json: unknown): { scenario?: Scenario; problems: string[] } {
  const s = json as Scenario;
  const problems: string[] = [];
  if (s === null || typeof s !== 'object' || Array.isArray(s)) return { problems: ['a scenario is a JSON object'] };
  if (s.format !== 'just-balance/scenario') problems.push('format: must be "just-balance/scenario"');
  if (s.version !== 1)
    problems.push(
      typeof s.version === 'number' && s.version > 1
        ? `version: ${s.version} is newer than this program reads (1)`
        : 'version: must be 1',
    );
  try {
    const car = new Car(carById(s.vehicle));
    car.inject(...faultsOf(s));
  } catch (e) {
    const message = (e as Error).message;
    problems.push(`${message.startsWith('unknown vehicle') ? 'vehicle' : 'fault'}: ${message}`);
  }
  const within = (v: unknown, low: number, high: number, field: string) => {
    if (v !== undefined && !(typeof v === 'number' && v >= low && v <= high))
      problems.push(`${field}: ${low} to ${high}`);
  };
  within(s.ambient?.baroKPa, 50, 110, 'ambient.baroKPa');
  within(s.ambient?.altitudeM, -400, 4500, 'ambient.altitudeM');
  within(s.ambient?.airC, -40, 60, 'ambient.airC');
  within(s.fuelLevelPct, 0, 100, 'fuelLevelPct');
  if (!Array.isArray(s.drive) || s.drive.length === 0) problems.push('drive: at least one step');
  else for (const [i, d] of s.drive.entries()) problems.push(...stepProblems(d, `drive[${i}]`));
  return problems.length > 0 ? { problems } : { scenario: s, problems };
}

function stepProblems(d: ScenarioStep, field: string): string[] {
  if (d === null || typeof d !== 'object') return [`${field}: an object with "do"`];
  if (d.do === 'soak') return d.hours > 0 && d.hours <= 500 ? [] : [`${field}.hours: above 0, at most 500`];
  if (d.do === 'clear') return [];
  if (d.do === 'work')
    return [
      ...(WORKS.includes(d.work) ? [] : [`${field}.work: ${WORKS.join(', ')}`]),
      ...(Object.hasOwn(PARTS, String(d.part)) ? [] : [`${field}.part: ${Object.keys(PARTS).join(', ')}`]),
    ];
  const seconds = d.s > 0 && d.s <= 36_000 ? [] : [`${field}.s: seconds, above 0`];
  if (d.do === 'koeo' || d.do === 'off') return seconds;
  const own = actionProblems(d, field).map((p) =>
    p.replace(
      'idle, hold, speed, full-load, snap or coast',
      'idle, hold, speed, full-load, snap, coast, koeo, off, soak, work or clear',
    ),
  );
  return [...own, ...seconds];
}

function faultsOf(s: Scenario): InjectedFault[] {
  return s.faults ?? (s.fault ? [s.fault] : []);
}

/** Station pressure of an altitude, kPa. US Standard Atmosphere 1976. */
export function pressureAt(altitudeM: number): number {
  return 101.325 * (1 - 2.25577e-5 * altitudeM) ** 5.25588;
}

/** The car of a scenario, started as it says. */
export function carOf(s: Scenario): Car {
  const baroKPa = s.ambient?.baroKPa ?? (s.ambient?.altitudeM === undefined ? 99.1 : pressureAt(s.ambient.altitudeM));
  const car = new Car(carById(s.vehicle), { baroKPa, airC: s.ambient?.airC ?? 18 }, s.seed ?? 1);
  car.inject(...faultsOf(s));
  if (s.fuelLevelPct !== undefined) car.fillTo(s.fuelLevelPct);
  if (!s.warm && !s.settled) return car;
  car.start();
  if (s.warm) car.warmUp();
  car.run(20);
  if (s.settled) car.settle();
  return car;
}

/** A road script as a scenario: the same drive, as fast as it goes. */
export function scenarioOf(road: RoadScript, vehicle: string, seed = 1): Scenario {
  const { soakHours, fuelLevelPct, ...ambient } = road.before ?? {};
  return {
    format: 'just-balance/scenario',
    version: 1,
    vehicle,
    seed,
    ambient,
    warm: true,
    ...(fuelLevelPct === undefined ? {} : { fuelLevelPct }),
    drive: [
      ...(soakHours === undefined ? [] : [{ do: 'soak' as const, hours: soakHours }]),
      ...road.steps.map(({ action, s }) => ({ ...action, s })),
    ],
  };
}

/** Step through the script; calls back at every simulated step. */
export function* play(s: Scenario, car: Car): Generator<void> {
  for (const step of s.drive) {
    if (step.do === 'soak') {
      car.soak(step.hours);
      continue;
    }
    if (step.do === 'work') {
      car.work(step.work, step.part);
      continue;
    }
    if (step.do === 'clear') {
      car.clearCodes();
      continue;
    }
    if (step.do === 'koeo') car.stop(true);
    else if (step.do === 'off') car.stop(false);
    else {
      car.start();
      car.action = step as DriverAction;
    }
    const steps = Math.round(step.s / DT);
    for (let i = 0; i < steps; i++) {
      car.step();
      yield;
    }
  }
}

/** Pause between questions in steps: about what a good adapter manages. */
const ASK_EVERY = 4;
const START_US = 1_700_000_000_000_000;

/** Run a scenario; yields candump lines of a tester that reads identity and codes, then polls every parameter in turn. */
export function* candumpOf(s: Scenario): Generator<string> {
  const car = carOf(s);
  const port = new EcuPort(car);
  const questions = [[0x09, 0x02], [0x03], [0x07], [0x0a], [0x01, 0x00], [0x01, 0x20], [0x01, 0x40]];
  const polled = supportedBy(car);
  const fast = [0x0c, 0x10, 0x0b, 0x06, 0x07, 0x08, 0x09, 0x0d].filter((p) => polled.includes(p));
  let asked = 0;
  let k = 0;
  const epoch = car.timeUs;
  const at = () => START_US + car.timeUs - epoch;
  for (const _ of play(s, car)) {
    if (k++ % ASK_EVERY !== 0 || !car.engine.state.keyOn) continue;
    const turn = asked++;
    const question =
      questions[turn] ??
      (turn % 2 === 0 ? [0x01, polled[(turn / 2) % polled.length]!] : [0x01, fast[((turn - 1) / 2) % fast.length]!]);
    const request: CanFrame = { id: 0x7e0, extended: false, data: segment(Uint8Array.from(question))[0]! };
    yield formatCandumpLine(request, at());
    let micros = at();
    for (const { frame: f, afterUs } of port.receive(request, car.timeUs)) {
      micros += afterUs;
      yield formatCandumpLine(f, micros);
      if (f.data[0]! >> 4 !== 1) continue;
      micros += 200;
      yield formatCandumpLine(FLOW_CONTROL, micros);
      const from = micros;
      for (const more of port.receive(FLOW_CONTROL, car.timeUs)) {
        micros = from + more.afterUs;
        yield formatCandumpLine(more.frame, micros);
      }
    }
  }
}

const FLOW_CONTROL: CanFrame = {
  id: 0x7e0,
  extended: false,
  data: Uint8Array.of(0x30, 0, 0, 0x55, 0x55, 0x55, 0x55, 0x55),
};

/** Run a scenario; yields CSV lines, a header first: time in s, then every numeric channel the car has, 10 Hz. */
export function* csvOf(s: Scenario): Generator<string> {
  const car = carOf(s);
  const supported = new Set(supportedBy(car));
  const elements = PIDS.filter((p) => supported.has(p.pid)).flatMap((p) => p.elements.filter((e) => !e.kind));
  const has = car.values();
  const ids = [...new Set(elements.map((e) => e.id))].filter((id) => has[id] !== undefined);
  const quantum = new Map(elements.map((e) => [e.id, e] as const));
  yield ['time', ...ids].join(',');
  const epoch = car.timeUs;
  let k = 0;
  for (const _ of play(s, car)) {
    if (k++ % 10 !== 0) continue;
    const values = car.values();
    const cells = ids.map((id) => {
      const v = values[id];
      const e = quantum.get(id)!;
      // As an ECU would send it: in its own steps.
      return v === undefined
        ? ''
        : String(Number((Math.round((v - e.offset) / e.scale) * e.scale + e.offset).toFixed(5)));
    });
    yield [((car.timeUs - epoch) / 1e6 - STEP_US / 1e6).toFixed(2), ...cells].join(',');
  }
}
