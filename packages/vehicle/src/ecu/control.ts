import { type DriverAction, gearFor } from '../driver/driver.ts';
import {
  type CarSpec,
  calibratedAfr,
  DT,
  type EngineInputs,
  type EngineState,
  HOLE_CD,
  holeFlowGps,
  type PerBank,
  pumpedGps,
  type Surroundings,
  volumetricEfficiency,
  WIDE_OPEN_MM2_PER_L,
} from '../engine/index.ts';
import { BankTrim, cellOf, sensorsReady } from './trims.ts';

/** Closed loop from this coolant temperature, °C. */
const CLOSED_LOOP_FROM_C = 45;
/** λ commanded at full load, and the pedal from where it counts as such. */
const FULL_LOAD_LAMBDA = 0.87;
const FULL_LOAD_PEDAL = 0.8;
/** What a restless foot asks for beside the speed it means, km/h. [house] */
const ROUGH_KMH = 9;
/** Fuel is cut off the pedal above this speed, rpm. */
const CUT_ABOVE_RPM = 1500;
/** The leanest a diesel may burn without smoke, air over fuel. Common practice. */
const SMOKE_LIMIT_AFR = 18.5;

/** Fuel, idle and speed control of the invented ECU. */
export class Control {
  readonly trims: [BankTrim, BankTrim] = [new BankTrim(), new BankTrim()];
  closed = false;
  fuelCut = false;
  fullLoad = false;
  lambdaCmd = 1;
  cell = 0;
  pedal = 0;
  /** Air conditioning draws at idle. */
  loaded = false;
  /** Air the ECU believes, g/s. */
  airGps = 0;
  /** Faster learning while trims are let settle at once. */
  learn = 1;
  idleIntegral = 0;
  /** Idle stands this much too high while the throttle has not been taught its new stop. */
  untaughtRpm = 0;
  private pedalIntegral = 0;
  private brakeN = 0;
  private snapS = 0;

  constructor(
    private readonly spec: CarSpec,
    private readonly surroundings: Readonly<Surroundings>,
  ) {}

  start(): void {
    this.idleIntegral = 10 * this.spec.displacementL;
    this.pedalIntegral = 0;
  }

  /** Codes cleared: memory gone. */
  clear(): void {
    for (const t of this.trims) t.clear();
  }

  targetRpm(s: EngineState, action: DriverAction): number {
    if (action.do === 'hold') return action.rpm;
    const ac = action.do === 'idle' && action.ac ? 60 : 0;
    return this.spec.idleRpm + ac + this.untaughtRpm + Math.max(0, (60 - s.ectC) * 6);
  }

  step(s: EngineState, action: DriverAction): EngineInputs {
    this.loaded = action.do === 'idle' && action.ac === true;
    return this.spec.fuel === 'diesel' ? this.diesel(s, action) : this.petrol(s, action);
  }

  private petrol(s: EngineState, action: DriverAction): EngineInputs {
    const { spec } = this;
    const d = spec.displacementL;
    const wide = WIDE_OPEN_MM2_PER_L * d;
    const road = this.road(s, action);
    let throttleMm2: number;
    let sparkGain = 1;
    if (road) throttleMm2 = Math.max(2 * d, wide * road.pedal ** 1.6);
    else {
      this.pedal = action.do === 'hold' ? 0.12 : 0;
      const target = this.targetRpm(s, action);
      const error = (target - s.rpm) / target;
      this.idleIntegral = Math.min(Math.max(this.idleIntegral + error * 26 * d * DT, 0), 400);
      throttleMm2 = Math.max(1, 2 * d + this.idleIntegral + 14 * d * error);
      sparkGain = 1 + Math.min(Math.max(0.9 * error, -0.25), 0.25);
      if (action.do === 'snap') {
        this.snapS += DT;
        if (this.snapS < 0.6) throttleMm2 = wide;
      } else this.snapS = 0;
    }
    this.fullLoad = road !== null && road.pedal >= FULL_LOAD_PEDAL;
    this.fuelCut = (action.do === 'coast' || (action.do === 'snap' && this.snapS > 0.6)) && s.rpm > CUT_ABOVE_RPM;
    this.closed =
      s.ectC >= CLOSED_LOOP_FROM_C &&
      sensorsReady(spec, s) &&
      !this.fullLoad &&
      !this.fuelCut &&
      !(action.do === 'snap' && this.snapS < 1.5);
    this.lambdaCmd = this.fullLoad ? FULL_LOAD_LAMBDA : 1;
    this.airGps = this.believedAir(s, throttleMm2);
    this.cell = cellOf(!road && action.do !== 'hold', s.rpm, this.airGps / d);
    const cold = 1 + Math.max(0, (70 - s.ectC) / 260);
    const fuel: PerBank = [0, 0];
    for (let b = 0; b < spec.banks; b++) {
      const t = this.trims[b as 0 | 1];
      t.sense(s.lambdaSensed[b as 0 | 1], s.sensorHeatC[b as 0 | 1]);
      if (this.closed)
        t.close(spec.upstream === 'wide' ? 'wide' : 'narrow', s.lambdaSensed[b as 0 | 1], this.cell, this.learn);
      else t.open();
      const base = Math.max(this.airGps, 0.3) / spec.banks / calibratedAfr(spec) / this.lambdaCmd;
      fuel[b] = this.fuelCut ? 0 : base * t.factor(this.cell) * (this.closed ? 1 : cold);
    }
    return {
      throttleMm2,
      fuelCommandGps: fuel,
      sparkGain,
      accessoryNm: this.accessory(action),
      egrMm2: 0,
      gearKmh: road?.gearKmh ?? null,
      brakeN: this.brakeN,
    };
  }

  /** Air unthrottled, fuel by the pedal; exhaust gas recirculated at light load; fuel held back when air is not seen. */
  private diesel(s: EngineState, action: DriverAction): EngineInputs {
    const { spec } = this;
    const d = spec.displacementL;
    const road = this.road(s, action);
    let wanted: number;
    if (road) wanted = 2.6 * d * road.pedal * (s.rpm / 2500);
    else {
      this.pedal = action.do === 'hold' ? 0.12 : 0;
      const error = (this.targetRpm(s, action) - s.rpm) / 1000;
      this.idleIntegral = Math.min(Math.max(this.idleIntegral + error * 0.4 * d * DT, 0), 2 * d);
      wanted = Math.max(0.01, this.idleIntegral + 0.15 * d * error);
      if (action.do === 'snap') {
        this.snapS += DT;
        if (this.snapS < 0.6) wanted = 1.5 * d;
      } else this.snapS = 0;
    }
    this.fullLoad = road !== null && road.pedal >= FULL_LOAD_PEDAL;
    this.fuelCut = action.do === 'coast' && s.rpm > CUT_ABOVE_RPM;
    // Without its airflow sensor it falls back on pressure and speed.
    const byPressure = pumpedGps(0.8, Math.max(s.mapSignalKPa, 60), 320, d, s.rpm);
    this.airGps = spec.metering !== 'speed-density' && s.mafSignalGps > 0.25 ? s.mafSignalGps : byPressure;
    const bySignal = Math.max(this.airGps, 0.5) / SMOKE_LIMIT_AFR;
    // Boost that is not seen holds fuel back as well.
    const byBoost = (pumpedGps(0.85, Math.max(s.mapSignalKPa, 60), 320, d, s.rpm) * 1.1) / SMOKE_LIMIT_AFR;
    const fuel = this.fuelCut ? 0 : Math.min(wanted, bySignal, byBoost);
    const light = this.pedal < 0.25 && s.ectC > 40;
    return {
      throttleMm2: WIDE_OPEN_MM2_PER_L * d,
      fuelCommandGps: [fuel, 0],
      sparkGain: 1,
      accessoryNm: this.accessory(action),
      egrMm2: light ? 95 * d : 0,
      gearKmh: road?.gearKmh ?? null,
      brakeN: this.brakeN,
    };
  }

  private accessory(action: DriverAction): number {
    return (1.2 + (action.do === 'idle' && action.ac ? 2.6 : 0)) * this.spec.displacementL;
  }

  /** Pedal, gear and brake on the road or the rollers; null: standing in neutral. */
  private road(s: EngineState, action: DriverAction): { pedal: number; gearKmh: number } | null {
    this.brakeN = 0;
    const gears = this.spec.gearKmh;
    if (action.do === 'speed') {
      // A foot that will not be still: two seconds too much, two too little.
      const foot = action.rough ? (Math.floor(s.runS / 2) % 2 === 0 ? 1 : -1) * ROUGH_KMH : 0;
      const error = action.kmh + foot - s.vssKmh;
      this.pedalIntegral = Math.min(Math.max(this.pedalIntegral + error * 0.006 * DT, 0), 0.75);
      this.pedal = Math.min(Math.max(this.pedalIntegral + 0.02 * error, 0), 0.78);
      if (error < -4) this.brakeN = 1800;
      return { pedal: this.pedal, gearKmh: gearFor(gears, Math.max(s.vssKmh, 5)) };
    }
    if (action.do === 'full-load') {
      const pulling = gears[Math.min(2, gears.length - 1)]!;
      const gearKmh = s.vssKmh < 1.7 * pulling ? Math.min(pulling, gearFor(gears, Math.max(s.vssKmh, 5))) : pulling;
      this.pedal = 1;
      // The rollers hold the engine at the speed asked for.
      this.brakeN = Math.max(0, ((s.vssKmh / gearKmh) * 1000 - action.rpm) * 40);
      return { pedal: 1, gearKmh };
    }
    if (s.vssKmh > 3) {
      this.pedal = 0;
      this.pedalIntegral = 0;
      this.brakeN = action.do === 'coast' ? 0 : 3500;
      return action.do === 'coast' && s.vssKmh > 15 ? { pedal: 0, gearKmh: gearFor(gears, s.vssKmh) } : null;
    }
    return null;
  }

  /** What the ECU takes the air to be: its sensor, its pressure table, or a substitute when the sensor is dead. */
  private believedAir(s: EngineState, throttleMm2: number): number {
    const { spec } = this;
    if (spec.metering !== 'speed-density') {
      if (s.mafSignalGps > 0.25) return s.mafSignalGps;
      // By throttle and speed: the hole at idle pressure, but never more than the cylinders can take.
      const byThrottle = 0.93 * holeFlowGps(throttleMm2, this.surroundings.baroKPa, 293, 35, HOLE_CD + 0.1);
      return Math.min(byThrottle, pumpedGps(0.82, 0.9 * this.surroundings.baroKPa, 305, spec.displacementL, s.rpm));
    }
    const map = Math.max(s.mapSignalKPa, 5);
    const ve = volumetricEfficiency(map, this.surroundings.baroKPa, s.rpm, spec);
    return pumpedGps(ve, map, s.iatC + 281.15 + Math.max(0, s.chargeC - s.iatC) * 0.5, spec.displacementL, s.rpm);
  }
}
