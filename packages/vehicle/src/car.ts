import { orificeFlowGps } from '@just-balance/core/gas';
import { Control } from './ecu/control.ts';
import { Diagnostics } from './ecu/diagnostics.ts';
import {
  AFR,
  type CarSpec,
  Engine,
  HEALTHY,
  type InjectedFault,
  noise,
  SIM_FAULTS,
  STEP_US,
  type Surroundings,
} from './engine/index.ts';

const DT = STEP_US / 1e6;
/** Manifold pressure at which a leak's size is stated, kPa: warm idle. */
const IDLE_REFERENCE_KPA = 33;
/** Fuel flow of road load per litre, g/s: where a delivery shortfall is stated. */
const ROAD_FUEL_GPS_PER_L = 8 / AFR;

/** A whole simulated car: engine, ECU, faults, key and driver. Advanced in 5 ms steps; nothing else moves it. */
export class Car {
  readonly engine: Engine;
  readonly control: Control;
  readonly diagnostics: Diagnostics;
  fault: InjectedFault | null = null;
  holdRpm: number | null = null;
  private fuelUsedAtStartG = 0;

  constructor(
    readonly spec: CarSpec,
    readonly surroundings: Surroundings = { baroKPa: 99.1, airC: 18 },
    readonly seed = 1,
  ) {
    this.engine = new Engine(spec, surroundings, seed);
    this.control = new Control(spec.upstream, spec.banks, spec.displacementL, spec.idleRpm);
    this.diagnostics = new Diagnostics(spec);
  }

  get timeUs(): number {
    return this.engine.state.step * STEP_US;
  }

  /** Key on and crank; the engine starts at once. */
  start(): void {
    const s = this.engine.state;
    s.keyOn = true;
    if (s.running) return;
    this.diagnostics.newTrip();
    s.running = true;
    s.rpm = 900;
    s.runS = 0;
    this.control.state.idleIntegral = 12 * this.spec.displacementL;
    this.fuelUsedAtStartG = s.fuelUsedG;
  }

  stop(keyOn = false): void {
    this.engine.state.running = false;
    this.engine.state.keyOn = keyOn;
    this.holdRpm = null;
  }

  /** Put one fault on the physics; null repairs. Throws on an unknown id or a severity outside its range. */
  inject(fault: InjectedFault | null): void {
    const effects = { ...HEALTHY };
    if (fault) {
      const row = SIM_FAULTS.find((f) => f.id === fault.id);
      if (!row) throw new RangeError(`unknown fault "${fault.id}": ${SIM_FAULTS.map((f) => f.id).join(', ')}`);
      if (row.twoBanksOnly && this.spec.banks === 1) throw new RangeError(`${fault.id} needs a two-bank engine`);
      if (!(fault.severity >= row.low && fault.severity <= row.high)) {
        throw new RangeError(`${fault.id}: severity ${fault.severity} is outside ${row.low}–${row.high} ${row.unit}`);
      }
      const perMm2 = orificeFlowGps(1, this.surroundings.baroKPa, this.surroundings.airC, IDLE_REFERENCE_KPA);
      if (fault.id === 'vac-leak') effects.plenumLeakMm2 = fault.severity / perMm2;
      if (fault.id === 'vac-leak-bank1') effects.runner1LeakMm2 = fault.severity / perMm2;
      if (fault.id === 'maf-under') effects.mafGain = 1 - fault.severity / 100;
      if (fault.id === 'fuel-low')
        effects.railDropKPaPerGps = fault.severity / (ROAD_FUEL_GPS_PER_L * this.spec.displacementL);
    }
    this.fault = fault;
    this.engine.effects = effects;
  }

  step(): void {
    const s = this.engine.state;
    const wanted = s.running
      ? this.control.step(s, this.holdRpm)
      : { throttleMm2: 20, fuelCommandGps: [0, 0] as [number, number], sparkGain: 1 };
    this.engine.step({ ...wanted, accessoryNm: 1.2 * this.spec.displacementL });
    if (s.running && s.step % 20 === 0) {
      const totals = Array.from({ length: this.spec.banks }, (_, b) => this.control.state.stft[b]! + this.longTerm(b));
      this.diagnostics.step(20 * DT, this.control.state.closed, totals, () => this.values() as Record<string, number>);
    }
  }

  /** Advance by simulated seconds. */
  run(seconds: number): void {
    const steps = Math.round(seconds / DT);
    for (let i = 0; i < steps; i++) this.step();
  }

  warmUp(): void {
    this.engine.warmUp();
  }

  cool(): void {
    const s = this.engine.state;
    s.ectC = this.surroundings.airC;
    s.iatC = this.surroundings.airC;
    s.catalystC = this.surroundings.airC;
  }

  /** Let the memory settle at once: minutes of idle and raised speed, then back to what the driver was doing. */
  settle(): void {
    if (!this.engine.state.running) return;
    const wanted = this.holdRpm;
    for (const rpm of [null, 2500, null, 2500]) {
      this.holdRpm = rpm;
      this.run(90);
    }
    this.holdRpm = wanted;
    this.run(20);
  }

  private longTerm(b: number): number {
    return this.control.state.ltft[b]![this.control.state.cell]!;
  }

  /** What the ECU would report now, by capture id, before quantisation. Undefined: no such signal. */
  values(): Record<string, number | undefined> {
    const s = this.engine.state;
    const c = this.control.state;
    const { spec, surroundings } = this;
    const n = (ch: number) => noise(this.seed, 100 + ch, s.step);
    const two = spec.banks === 2;
    const wide = spec.upstream === 'wide';
    const fuelSys = !s.running ? 0 : c.closed ? 2 : 1;
    const down = (b: 0 | 1) => (s.catalystC < 200 ? 0.45 : 0.5 - 0.41 * Math.tanh((s.lambdaDown[b] - 1.0005) * 55));
    const perStrokeLoad = s.rpm > 100 ? (s.mafSignalGps * 120) / s.rpm / (1.184 * spec.displacementL) : 0;
    return {
      fuelSys1: fuelSys,
      fuelSys2: two ? fuelSys : 0,
      load: Math.min(100, perStrokeLoad * 112 * (101.325 / surroundings.baroKPa)),
      ect: s.ectC,
      stft1: c.stft[0],
      ltft1: this.longTerm(0),
      stft2: two ? c.stft[1] : undefined,
      ltft2: two ? this.longTerm(1) : undefined,
      fuelPressure: s.keyOn ? s.railKPa : 0,
      map: s.mapKPa + 0.25 * n(0),
      rpm: s.rpm > 0 ? Math.max(0, s.rpm + 4 * n(1)) : 0,
      vss: 0,
      sparkAdv: s.running ? 12 + (s.rpm > 1500 ? 16 : 0) : 0,
      iat: s.iatC,
      maf: Math.max(0, s.mafSignalGps),
      tp: 12 + (s.throttleMm2 / (260 * spec.displacementL)) * 60,
      tpRel: (s.throttleMm2 / (260 * spec.displacementL)) * 60,
      tpB: 12.4,
      app: this.holdRpm ? 18 : 0,
      o2sLocation: two ? 0x33 : 0x03,
      o2s11: wide ? undefined : c.sensorV[0] + 0.004 * n(2),
      o2s21: two ? c.sensorV[1] + 0.004 * n(3) : undefined,
      o2s12: down(0) + 0.004 * n(4),
      o2s22: two ? down(1) + 0.004 * n(5) : undefined,
      lambda11: wide ? s.lambdaAtSensor[0] : undefined,
      o2sWide11: wide ? 2.2 + (s.lambdaAtSensor[0] - 1) * 4 : undefined,
      pumpCurrent11: wide ? (s.lambdaAtSensor[0] - 1) * 6 : undefined,
      obdStandard: 6,
      runTime: s.runS,
      distanceMil: 0,
      fuelLevel: spec.fuelLevelPct - (s.fuelUsedG - this.fuelUsedAtStartG) / 400,
      warmups: spec.warmupsSinceClear,
      distanceClear: spec.distanceSinceClearKm,
      baro: surroundings.baroKPa,
      vbat: s.running ? 14.1 + 0.02 * n(6) : 12.4,
      loadAbs: perStrokeLoad * 100,
      lambdaCmd: 1,
      ambient: surroundings.airC,
      timeMil: 0,
      timeClear: spec.minutesSinceClear,
      fuelType: 1,
    };
  }
}
