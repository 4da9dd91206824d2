import type { CanFrame } from '@just-balance/core/can';
import { BENCH_TESTS, benchTest, pinVoltages } from '../bench/benchTests.ts';
import { Car } from '../car.ts';
import { actionProblems, type DriverAction } from '../driver/driver.ts';
import { type Before, ROAD_SCRIPTS, type RoadScript } from '../driver/scripts.ts';
import { type CarSpec, STEP_US, type Surroundings } from '../engine/index.ts';
import { canHave, type InjectedFault, SIM_FAULTS, typicalFor } from '../faults/catalogue.ts';
import { cardOf } from '../fleet/card.ts';
import { carById, FLEET } from '../fleet/cars.ts';
import { pressureAt } from '../scenario/scenario.ts';
import { type Degradation, degrade, SOUND } from '../wire/degraded.ts';
import { EcuPort } from '../wire/ecuPort.ts';
import type { SlcanPort } from '../wire/slcanServer.ts';
import { PARTS, type Part, WORKS } from '../workshop/workshop.ts';
import type { ControlCommand } from './control.ts';

/** The most simulated time one tick may catch up: a machine that slept does not replay the night. */
const MAX_CATCH_UP_US = 500_000;
const MAX_RATE = 50;
/** The adapter of a brown-out is gone while cranking and this long after. [house] */
const BROWN_OUT_MS = 2500;

/** What a person does with the car by hand ends a road script. */
const BY_HAND = new Set([
  'key',
  'koeo',
  'idle',
  'hold',
  'speed',
  'full-load',
  'snap',
  'coast',
  'soak',
  'vehicle',
  'ambient',
]);

/** One bay: a car, its bus and the clients plugged into it. */
export class Bay {
  readonly listeners = new Set<SlcanPort>();
  car: Car;
  private ecu: EcuPort;
  private lastUs: number | null = null;
  private owedUs = 0;
  private rate = 1;
  private degradation: Degradation = { ...SOUND };
  private frames = 0;
  private looks = 0;
  private darkUntilMs = 0;
  private script: { road: RoadScript; next: number; untilUs: number } | null = null;

  constructor(
    readonly number: number,
    spec: CarSpec,
    private surroundings: Surroundings,
    private readonly seed: number,
  ) {
    this.car = new Car(spec, surroundings, seed);
    this.ecu = new EcuPort(this.car);
  }

  /** Another car, or the same one under another sky: it comes in cold and healthy. */
  private bringIn(spec: CarSpec, surroundings: Surroundings) {
    this.surroundings = surroundings;
    this.car = new Car(spec, surroundings, this.seed);
    this.ecu = new EcuPort(this.car);
  }

  /** A client's frame goes to the units and to the other clients; answers go to all. */
  transmit(frame: CanFrame, from: SlcanPort): void {
    if (Date.now() < this.darkUntilMs) return;
    for (const l of this.listeners) if (l !== from) l.deliver(frame);
    const asked = degrade(frame, this.degradation, this.seed, this.frames++);
    if (!asked) return;
    for (const { frame: answer, afterUs } of this.ecu.receive(asked.frame, this.car.timeUs)) {
      const sent = degrade(answer, this.degradation, this.seed, this.frames++);
      if (!sent) continue;
      setTimeout(
        () => {
          if (Date.now() < this.darkUntilMs) return;
          for (const l of this.listeners) l.deliver(sent.frame);
        },
        afterUs / 1000 + sent.delayMs,
      );
    }
  }

  /** Follow the wall clock at the bay's rate. */
  advance(nowUs: number): void {
    if (this.lastUs !== null)
      this.owedUs = Math.min(this.owedUs + (nowUs - this.lastUs) * this.rate, MAX_CATCH_UP_US * Math.max(1, this.rate));
    this.lastUs = nowUs;
    while (this.owedUs >= STEP_US) {
      this.followScript();
      this.car.step();
      this.owedUs -= STEP_US;
    }
  }

  /** The next stretch of a road script once the present one is over. */
  private followScript() {
    if (!this.script || this.car.timeUs < this.script.untilUs) return;
    const step = this.script.road.steps[this.script.next];
    if (!step) {
      this.script = null;
      return;
    }
    this.script.next++;
    this.script.untilUs = this.car.timeUs + step.s * 1e6;
    if (step.action.do === 'off') this.car.stop(false);
    else this.drive(step.action);
  }

  /** The car as a script wants it before the key is turned. */
  private prepare(b: Before) {
    if (b.airC !== undefined || b.altitudeM !== undefined) {
      const { airC, baroKPa } = this.surroundings;
      this.surroundings = {
        airC: b.airC ?? airC,
        baroKPa: b.altitudeM === undefined ? baroKPa : pressureAt(b.altitudeM),
      };
      this.car.moveTo(this.surroundings);
    }
    if (b.soakHours !== undefined) this.car.soak(b.soakHours);
    if (b.fuelLevelPct !== undefined) this.car.fillTo(b.fuelLevelPct);
  }

  private start() {
    if (this.degradation.brownOut && !this.car.engine.state.running) this.darkUntilMs = Date.now() + BROWN_OUT_MS;
    this.car.start();
  }

  private drive(action: DriverAction) {
    const problems = actionProblems(action, action.do);
    if (problems[0]) throw new RangeError(problems[0]);
    this.start();
    this.car.action = action;
  }

  /** Returns what the command shows, if it shows something. Throws RangeError with the reason when it cannot be done. */
  perform(c: ControlCommand): unknown {
    if (BY_HAND.has(c.do)) this.script = null;
    const number = (v: unknown, low: number, high: number, what: string): number => {
      if (!(typeof v === 'number' && v >= low && v <= high)) throw new RangeError(`${what}: ${low} to ${high}`);
      return v;
    };
    switch (c.do) {
      case 'key':
        if (c.on === false) this.car.stop(false);
        else this.start();
        return undefined;
      case 'koeo':
        this.car.stop(true);
        return undefined;
      case 'idle':
        this.drive({ do: 'idle', ...(c.ac ? { ac: true } : {}) });
        return undefined;
      case 'hold':
        this.drive({ do: 'hold', rpm: number(c.rpm, 1000, 4500, 'hold an engine speed of 1,000 to 4,500 rpm; rpm') });
        return undefined;
      case 'speed':
        this.drive({ do: 'speed', kmh: number(c.kmh, 10, 160, 'kmh') });
        return undefined;
      case 'full-load':
        this.drive({ do: 'full-load', rpm: number(c.rpm ?? 4000, 2000, 6000, 'rpm') });
        return undefined;
      case 'snap':
      case 'coast':
        this.drive({ do: c.do });
        return undefined;
      case 'script': {
        const road = ROAD_SCRIPTS.find((r) => r.id === c.script);
        if (!road) throw new RangeError(`script: ${ROAD_SCRIPTS.map((r) => r.id).join(', ')}`);
        if (road.before) this.prepare(road.before);
        this.script = { road, next: 0, untilUs: 0 };
        return undefined;
      }
      case 'fault': {
        const added: InjectedFault = {
          id: c.fault ?? '',
          severity: c.severity ?? Number.NaN,
          ...(c.faultBank ? { bank: c.faultBank } : {}),
        };
        this.car.inject(...(c.also ? this.car.faults.filter((f) => f.id !== added.id) : []), added);
        return undefined;
      }
      case 'repair':
        this.car.inject(...(c.fault ? this.car.faults.filter((f) => f.id !== c.fault) : []));
        return undefined;
      case 'work': {
        const work = WORKS.find((w) => w === c.work);
        if (!work) throw new RangeError(`work: ${WORKS.join(', ')}`);
        const part = Object.keys(PARTS).find((p) => p === c.part) as Part | undefined;
        if (!part) throw new RangeError(`part: ${Object.keys(PARTS).join(', ')}`);
        this.car.work(work, part);
        return undefined;
      }
      case 'warm':
        this.car.warmUp();
        return undefined;
      case 'cold':
        this.car.soak(48);
        this.start();
        return undefined;
      case 'soak':
        this.car.soak(number(c.hours, 0, 500, 'hours'));
        return undefined;
      case 'settle':
        this.car.settle();
        return undefined;
      case 'vehicle':
        this.bringIn(carById(c.vehicle ?? ''), this.surroundings);
        return undefined;
      case 'ambient': {
        const baroKPa =
          c.altitudeM === undefined
            ? (c.baroKPa ?? this.surroundings.baroKPa)
            : pressureAt(number(c.altitudeM, -400, 4500, 'altitudeM'));
        const airC = c.airC ?? this.surroundings.airC;
        const faults = this.car.faults;
        this.bringIn(this.car.spec, {
          baroKPa: number(baroKPa, 50, 110, 'baroKPa'),
          airC: number(airC, -40, 60, 'airC'),
        });
        this.car.inject(...faults);
        return undefined;
      }
      case 'rate':
        this.rate = number(c.rate, 0, MAX_RATE, 'rate');
        return undefined;
      case 'step':
        this.car.run(number(c.seconds, 0.01, 3600, 'seconds'));
        return undefined;
      case 'degrade':
        this.degradation = { ...SOUND, ...c.degradation };
        return undefined;
      case 'test':
        return benchTest(this.car, c.test ?? '', this.looks++, c.faultBank ?? 1);
      case 'pins':
        return pinVoltages(this.car);
      default:
        throw new RangeError(`the bay does not know "${c.do}"`);
    }
  }

  view(): unknown {
    const { spec, surroundings, faults, action, engine, control } = this.car;
    const s = engine.state;
    return {
      bay: this.number,
      vehicleId: spec.id,
      fleet: FLEET.map((f) => ({ id: f.id, label: f.label })),
      vehicle: cardOf(spec),
      key: s.keyOn,
      rpm: Math.round(s.rpm),
      kmh: Math.round(s.vssKmh),
      scripts: ROAD_SCRIPTS.map((r) => ({ id: r.id, label: r.label })),
      script: this.script?.road.label ?? null,
      target: !s.running ? (s.keyOn ? 'key on, engine off' : 'off') : wordsOf(action),
      closedLoop: control.closed,
      ectC: Math.round(s.ectC * 10) / 10,
      rate: this.rate,
      degradation: this.degradation,
      fault: faults[0] ?? null,
      faultsIn: faults,
      faults: SIM_FAULTS.filter((f) => canHave(f, spec)).map((f) => ({
        id: f.id,
        label: f.label,
        unit: f.unit,
        low: f.low,
        high: f.high,
        typical: typicalFor(f, spec),
        perBank: f.perBank === true && spec.banks === 2,
      })),
      tests: BENCH_TESTS,
      baroKPa: Math.round(surroundings.baroKPa * 10) / 10,
      airC: surroundings.airC,
    };
  }
}

function wordsOf(a: DriverAction): string {
  switch (a.do) {
    case 'hold':
      return `holding ${a.rpm} rpm`;
    case 'speed':
      return `driving ${a.kmh} km/h`;
    case 'full-load':
      return `full load at ${a.rpm} rpm`;
    case 'idle':
      return a.ac ? 'idle, A/C on' : 'idle';
    case 'snap':
      return 'snap throttle';
    case 'coast':
      return 'coasting';
  }
}
