import { type CanFrame, formatCandumpLine, segment } from '@just-balance/core/can';
import { Car } from '../car.ts';
import { supportedBy } from '../ecu/services.ts';
import { type InjectedFault, STEP_US } from '../engine/index.ts';
import { carById } from '../fleet/cars.ts';
import { EcuPort } from '../wire/ecuPort.ts';

/** A scripted run of a simulated car, read from JSON. */
export interface Scenario {
  format: 'just-balance/scenario';
  version: 1;
  vehicle: string;
  seed?: number;
  ambient?: { baroKPa?: number; airC?: number };
  fault?: InjectedFault;
  warm?: boolean;
  settled?: boolean;
  /** What the driver does: idle, or hold an engine speed, for seconds. */
  drive: { do: 'idle' | 'hold' | 'koeo'; rpm?: number; s: number }[];
}

const STEPS = ['idle', 'hold', 'koeo'];

/** Check parsed JSON; returns the scenario or the problems with their fields. */
export function readScenario(json: unknown): { scenario?: Scenario; problems: string[] } {
  const s = json as Scenario;
  const problems: string[] = [];
  if (s === null || typeof s !== 'object') return { problems: ['a scenario is a JSON object'] };
  if (s.format !== 'just-balance/scenario') problems.push('format: must be "just-balance/scenario"');
  if (s.version !== 1) problems.push('version: must be 1');
  try {
    const car = new Car(carById(s.vehicle));
    if (s.fault) car.inject(s.fault);
  } catch (e) {
    problems.push(
      `${(e as Error).message.startsWith('unknown vehicle') ? 'vehicle' : 'fault'}: ${(e as Error).message}`,
    );
  }
  if (!Array.isArray(s.drive) || s.drive.length === 0) problems.push('drive: at least one step');
  else {
    s.drive.forEach((d, i) => {
      if (!STEPS.includes(d?.do)) problems.push(`drive[${i}].do: idle, hold or koeo`);
      if (!(d?.s > 0 && d.s <= 36_000)) problems.push(`drive[${i}].s: seconds, above 0`);
      if (d?.do === 'hold' && !(d.rpm !== undefined && d.rpm >= 600 && d.rpm <= 5000))
        problems.push(`drive[${i}].rpm: 600 to 5000`);
    });
  }
  const b = s.ambient?.baroKPa;
  if (b !== undefined && !(b >= 50 && b <= 110)) problems.push('ambient.baroKPa: 50 to 110');
  return problems.length > 0 ? { problems } : { scenario: s, problems };
}

/** Pause between questions, µs: about what a good adapter manages. */
const ASK_EVERY_US = 40_000;
const START_US = 1_700_000_000_000_000;

/** Run a scenario; yields candump lines of a tester that reads identity and codes, then polls every parameter in turn. */
export function* candumpOf(s: Scenario): Generator<string> {
  const car = new Car(
    carById(s.vehicle),
    { baroKPa: s.ambient?.baroKPa ?? 99.1, airC: s.ambient?.airC ?? 18 },
    s.seed ?? 1,
  );
  if (s.fault) car.inject(s.fault);
  car.start();
  if (s.warm) car.warmUp();
  car.run(20);
  if (s.settled) car.settle();
  const port = new EcuPort(car);
  const questions = [[0x09, 0x02], [0x03], [0x07], [0x0a], [0x01, 0x00], [0x01, 0x20], [0x01, 0x40]];
  const polled = supportedBy(car).filter((p) => p !== 0x02);
  const fast = [0x0c, 0x10, 0x0b, 0x06, 0x07, ...(car.spec.banks === 2 ? [0x08, 0x09] : [])];
  let asked = 0;
  const epoch = car.timeUs;
  const at = () => START_US + car.timeUs - epoch;
  for (const step of s.drive) {
    if (step.do === 'koeo') car.stop(true);
    else if (!car.engine.state.running) car.start();
    car.holdRpm = step.do === 'hold' ? (step.rpm ?? null) : null;
    const until = car.timeUs + step.s * 1e6;
    while (car.timeUs < until) {
      const turn = asked++;
      const question =
        questions[turn] ??
        (turn % 2 === 0 ? [0x01, polled[(turn / 2) % polled.length]!] : [0x01, fast[((turn - 1) / 2) % fast.length]!]);
      const request: CanFrame = { id: 0x7e0, extended: false, data: segment(Uint8Array.from(question))[0]! };
      yield formatCandumpLine(request, at());
      let micros = at();
      const frames = port.receive(request, car.timeUs);
      for (const f of frames) {
        micros += 300;
        yield formatCandumpLine(f, micros);
        if (f.data[0]! >> 4 !== 1) continue;
        const fc: CanFrame = {
          id: 0x7e0,
          extended: false,
          data: Uint8Array.of(0x30, 0, 0, 0x55, 0x55, 0x55, 0x55, 0x55),
        };
        micros += 200;
        yield formatCandumpLine(fc, micros);
        for (const more of port.receive(fc, car.timeUs)) {
          micros += 300;
          yield formatCandumpLine(more, micros);
        }
      }
      for (let i = 0; i < ASK_EVERY_US / STEP_US; i++) car.step();
    }
  }
}
