import { type DriverAction, IDLE } from './driver/driver.ts';
import { Control } from './ecu/control.ts';
import { Diagnostics } from './ecu/diagnostics.ts';
import {
  type CarSpec,
  DT,
  Engine,
  healthy,
  noise,
  STEP_US,
  type Surroundings,
  WIDE_OPEN_MM2_PER_L,
} from './engine/index.ts';
import { checkFault, type InjectedFault } from './faults/catalogue.ts';
import { type Part, UNTAUGHT_RPM, type Work, Workshop } from './workshop/workshop.ts';

/** The ECU looks after codes and monitors ten times a second. */
const DIAGNOSE_EVERY = 10;
/** Memory learns this much faster while trims are let settle at once. */
const SETTLE_LEARN = 8;

/** Drying and teaching are looked at once a second. */
const WORKSHOP_EVERY = Math.round(1 / DT);
const TAUGHT_FROM_C = 85;
const TAUGHT_S = 300;

/** A whole simulated car: engine, ECU, faults, key and driver. Advanced in fixed steps; nothing else moves it. */
export class Car {
  readonly engine: Engine;
  readonly control: Control;
  /** One object for everything in the car: see `moveTo`. */
  readonly surroundings: Surroundings;
  readonly diagnostics: Diagnostics;
  action: DriverAction = IDLE;
  /** Misfires counted by the crank sensor, per bank. */
  readonly misfires: [number, number] = [0, 0];
  private injected: readonly InjectedFault[] = [];
  private readonly workshop: Workshop;
  private taughtS = 0;
  private fuelLevelG: number;

  constructor(
    readonly spec: CarSpec,
    surroundings: Readonly<Surroundings> = { baroKPa: 99.1, airC: 18 },
    readonly seed = 1,
  ) {
    this.surroundings = { ...surroundings };
    this.engine = new Engine(spec, this.surroundings, seed);
    this.control = new Control(spec, this.surroundings);
    this.diagnostics = new Diagnostics(spec, this.surroundings);
    this.workshop = new Workshop(seed);
    this.fuelLevelG = (spec.fuelLevelPct / 100) * TANK_G;
  }

  get timeUs(): number {
    return this.engine.state.step * STEP_US;
  }

  get faults(): readonly InjectedFault[] {
    return this.injected;
  }

  /** Key on and crank; the engine starts. */
  start(): void {
    const s = this.engine.state;
    s.keyOn = true;
    if (s.running) return;
    this.diagnostics.newTrip(s);
    s.running = true;
    s.rpm = 900;
    s.runS = 0;
    this.control.start();
  }

  stop(keyOn = false): void {
    const s = this.engine.state;
    if (keyOn && !s.keyOn) this.diagnostics.newTrip(s);
    s.running = false;
    s.keyOn = keyOn;
    this.action = IDLE;
  }

  /** Put faults on the physics, none to repair all. Throws RangeError saying which cannot be and why. */
  inject(...faults: InjectedFault[]): void {
    if (faults.length > 2) throw new RangeError('at most two faults at once');
    const effects = healthy();
    for (const f of faults) {
      const row = checkFault(f, this.spec);
      row.apply(effects, f.severity, ((f.bank ?? 1) - 1) as 0 | 1, {
        spec: this.spec,
        surroundings: this.surroundings,
      });
    }
    this.workshop.apply(effects);
    this.injected = faults;
    this.engine.effects = effects;
  }

  /** Work done on a part: it changes what is wrong with it, how it sits, and what the memory is worth. */
  work(work: Work, part: Part): void {
    this.inject(...this.workshop.perform(work, part, this.injected));
    this.control.untaughtRpm = this.workshop.throttleUntaught ? UNTAUGHT_RPM : 0;
    this.taughtS = 0;
  }

  /** Codes and what goes with them, as service 04 clears it. False where the ECU refuses: the engine runs. */
  clearCodes(): boolean {
    if (this.engine.state.running) return false;
    this.diagnostics.clear();
    // Some keep what they have learnt: that is reset by another service, which a generic tool has not.
    if (!this.spec.keepsAdaptation) this.control.clear();
    return true;
  }

  /** Wet elements dry; a throttle is taught by five minutes of warm idle, pedal untouched. Common practice, no source. */
  private passTime(seconds: number): void {
    if (this.workshop.pass(seconds)) this.inject(...this.injected);
    if (!this.workshop.throttleUntaught) return;
    const { ectC, running } = this.engine.state;
    const idles = running && ectC >= TAUGHT_FROM_C && this.action.do === 'idle' && !this.action.ac;
    this.taughtS = idles ? this.taughtS + seconds : 0;
    if (this.taughtS >= TAUGHT_S) this.work('throttle-relearn', 'throttle-body');
  }

  step(): void {
    const s = this.engine.state;
    if (s.step % WORKSHOP_EVERY === 0) this.passTime(WORKSHOP_EVERY * DT);
    if (s.running) {
      const inputs = this.control.step(s, this.action);
      this.engine.step(inputs);
      const firings = (s.rpm / 120) * (this.spec.cylinders / this.spec.banks) * DT;
      for (let b = 0; b < this.spec.banks; b++)
        this.misfires[b as 0 | 1] += firings * this.engine.effects.misfire[b as 0 | 1];
      if (s.step % DIAGNOSE_EVERY === 0)
        this.diagnostics.step(
          DIAGNOSE_EVERY * DT,
          s,
          this.control,
          this.machine(),
          this.misfires[0] + this.misfires[1],
          () => this.values() as Record<string, number>,
        );
    } else this.engine.step(OFF);
  }

  /** Advance by simulated seconds. */
  run(seconds: number): void {
    const steps = Math.round(seconds / DT);
    for (let i = 0; i < steps; i++) this.step();
  }

  do(action: DriverAction, seconds: number): void {
    this.action = action;
    this.run(seconds);
  }

  warmUp(): void {
    this.engine.warmUp();
  }

  /** Stood for hours: coolant and intake towards the outside air. About two hours to half. Common practice, no source. */
  soak(hours: number): void {
    const s = this.engine.state;
    this.stop(false);
    this.passTime(hours * 3600);
    const left = 0.5 ** (hours / 1.6);
    const { airC } = this.surroundings;
    s.ectC = airC + (s.ectC - airC) * left;
    s.iatC = airC + (s.iatC - airC) * left ** 2;
    s.catalystC = airC + (s.catalystC - airC) * left ** 3;
    s.sensorHeatC = [s.catalystC, s.catalystC];
    s.vssKmh = 0;
  }

  /** The same car in another place. */
  moveTo(surroundings: Readonly<Surroundings>): void {
    Object.assign(this.surroundings, surroundings);
    this.inject(...this.injected);
  }

  /** Fill or drain the tank, %. */
  fillTo(pct: number): void {
    this.fuelLevelG = (pct / 100) * TANK_G + this.engine.state.fuelUsedG;
  }

  /** Let the memory settle at once: idle, raised speed and road load, then back to what the driver was doing. */
  settle(): void {
    if (!this.engine.state.running || this.spec.fuel === 'diesel') return;
    const wanted = this.action;
    const standing = wanted.do !== 'speed';
    this.control.learn = SETTLE_LEARN;
    this.do(IDLE, 14);
    this.do({ do: 'hold', rpm: 2500 }, 14);
    this.do(IDLE, 10);
    this.do({ do: 'hold', rpm: 2500 }, 10);
    this.control.learn = 1;
    this.do(wanted, standing ? 15 : 0);
  }

  get fuelLevelPct(): number {
    return Math.max(0, ((this.fuelLevelG - this.engine.state.fuelUsedG) / TANK_G) * 100);
  }

  private machine() {
    const { evapLeakMm2, o2HeaterDead, egrValveMm2 } = this.engine.effects;
    return { fuelLevelPct: this.fuelLevelPct, tankLeakMm2: evapLeakMm2, heaterDead: o2HeaterDead, egrValveMm2 };
  }

  /** What the ECU would report now, by capture id, before quantisation. Undefined: no such signal. */
  values(): Record<string, number | undefined> {
    const s = this.engine.state;
    const c = this.control;
    const { spec, surroundings, diagnostics } = this;
    const n = (ch: number) => noise(this.seed, 100 + ch, s.step);
    const two = spec.banks === 2;
    const wide = spec.upstream === 'wide';
    const petrol = spec.fuel === 'petrol';
    const fuelSys = !s.running || !petrol ? 0 : c.closed ? 2 : c.fullLoad || c.fuelCut ? 4 : 1;
    const down = (b: 0 | 1) => (s.catalystC < 200 ? 0.45 : 0.5 - 0.41 * Math.tanh((s.lambdaDown[b] - 1.0005) * 55));
    const maf = spec.metering !== 'speed-density';
    const air = maf && s.mafSignalGps > 0.25 ? s.mafSignalGps : c.airGps;
    const perStroke = s.rpm > 100 ? (air * 120) / s.rpm / (1.184 * spec.displacementL) : 0;
    const wideOpen = WIDE_OPEN_MM2_PER_L * spec.displacementL;
    // Carbon fills the gap at idle: the plate stands further open for the same flow.
    const plate = s.throttleMm2 / (1 - this.engine.effects.throttleFouled);
    const open = petrol ? Math.min(84, 100 * (plate / wideOpen) ** 0.75) : 80;
    const trim = (b: 0 | 1) => ({ short: c.trims[b].shown, long: c.trims[b].long[c.cell]! });
    const one = trim(0);
    const second = trim(1);
    const sensor = (b: 0 | 1) => (wide ? s.lambdaSensed[b] : undefined);
    const gaugeRail =
      spec.railKPa < 1000 || !petrol
        ? s.railKPa - (spec.railReference === 'manifold' ? surroundings.baroKPa - s.mapKPa : 0)
        : undefined;
    return {
      fuelSys1: fuelSys,
      fuelSys2: two ? fuelSys : 0,
      load: Math.min(100, perStroke * 108 * (101.325 / surroundings.baroKPa)),
      ect: s.ectC,
      stft1: petrol ? one.short : undefined,
      ltft1: petrol ? one.long : undefined,
      stft2: two && petrol ? second.short : undefined,
      ltft2: two && petrol ? second.long : undefined,
      fuelPressure: s.keyOn && spec.railKPa <= 765 ? gaugeRail : undefined,
      railGauge: spec.railKPa > 765 ? (s.running ? s.railKPa : 0) : undefined,
      map: s.mapSignalKPa + 0.25 * n(0),
      rpm: s.rpm > 0 ? Math.max(0, s.rpm + 4 * n(1)) : 0,
      vss: s.vssKmh,
      sparkAdv: s.running ? 12 + (s.rpm > 1500 ? 16 : 0) : 0,
      iat: s.iatC,
      maf: maf ? Math.max(0, s.mafSignalGps) : undefined,
      tp: 12 + open * 0.86,
      tpRel: open,
      tpB: 12.4 + open * 0.86,
      app: 14.5 + c.pedal * 70,
      o2sLocation: two ? 0x33 : 0x03,
      o2s11: wide ? undefined : c.trims[0].sensorV + 0.004 * n(2),
      o2s21: two && !wide ? c.trims[1].sensorV + 0.004 * n(3) : undefined,
      o2s12: down(0) + 0.004 * n(4),
      o2s22: two ? down(1) + 0.004 * n(5) : undefined,
      lambda11: sensor(0),
      lambda21: two ? sensor(1) : undefined,
      o2sWide11: wide ? 2.2 + (s.lambdaSensed[0] - 1) * 4 : undefined,
      o2sWide21: two && wide ? 2.2 + (s.lambdaSensed[1] - 1) * 4 : undefined,
      pumpCurrent11: wide ? (s.lambdaSensed[0] - 1) * 6 : undefined,
      pumpCurrent21: two && wide ? (s.lambdaSensed[1] - 1) * 6 : undefined,
      obdStandard: 6,
      runTime: s.running ? s.runS : 0,
      distanceMil: diagnostics.lampDistanceKm,
      // What moves in the tank shakes the float.
      fuelLevel: Math.min(100, Math.max(0, this.fuelLevelPct + 2 * Math.min(1.5, diagnostics.slosh) * n(7))),
      warmups: diagnostics.warmups,
      distanceClear: diagnostics.distanceClearKm,
      baro: surroundings.baroKPa,
      catTemp11: s.catalystC,
      vbat: s.running ? 14.1 + 0.02 * n(6) : 12.4,
      loadAbs: perStroke * 100,
      lambdaCmd: c.lambdaCmd,
      ambient: surroundings.airC,
      timeMil: diagnostics.lampTimeS / 60,
      timeClear: diagnostics.timeClearS / 60,
      fuelType: petrol ? 1 : 4,
      ethanol: spec.ethanolCalibratedPct,
    };
  }
}

/** A tank of about 45 kg. */
const TANK_G = 45_000;
const OFF = {
  throttleMm2: 20,
  fuelCommandGps: [0, 0] as [number, number],
  sparkGain: 1,
  accessoryNm: 0,
  egrMm2: 0,
  gearKmh: null,
  brakeN: 0,
};
