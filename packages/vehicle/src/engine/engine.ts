import { orificeFlowGps } from '@just-balance/core/gas';
import { type FaultEffects, HEALTHY } from './faults.ts';
import { noise } from './noise.ts';
import type { CarSpec } from './spec.ts';

/** Simulated step: 200 steps a second. */
export const STEP_US = 5000;
const DT = STEP_US / 1e6;

/** Gas constant of air J/(kg·K) and heat of combustion of petrol J/g. Heywood appendix D (from memory). */
const R = 287;
const LHV_J_PER_G = 43_500;
/** Stoichiometric AFR of E10 petrol by mass (from memory). */
export const AFR = 14.1;
/** Throttle discharge coefficient. Heywood ch. 7 gives 0.6–0.9 (from memory). */
const THROTTLE_CD = 0.8;
/** Ragged hole. [house] */
const HOLE_CD = 0.7;
/** Wall film: share of fuel landing on the wall and its time constant when warm. Aquino's model, SAE 810494 (from memory). */
const FILM_SHARE = 0.25;
const FILM_TAU_S = 0.25;
/** Hot-wire time constant, s. Published figures run 10–50 ms (from memory). */
const MAF_TAU_S = 0.03;
const THERMOSTAT_C = 89;

/** Everything the engine is doing now; units in the names. */
export interface EngineState {
  step: number;
  running: boolean;
  keyOn: boolean;
  rpm: number;
  mapKPa: number;
  throttleMm2: number;
  throttleFlowGps: number;
  leakFlowGps: number;
  cylinderFlowGps: number;
  mafSignalGps: number;
  railKPa: number;
  fuelGps: [number, number];
  filmG: [number, number];
  /** λ in the cylinders now, and at the sensor after transport. */
  lambdaCyl: [number, number];
  lambdaAtSensor: [number, number];
  ectC: number;
  iatC: number;
  catalystC: number;
  storedOxygen: [number, number];
  lambdaDown: [number, number];
  runS: number;
  fuelUsedG: number;
}

export interface EngineInputs {
  /** Effective throttle and idle-air area, mm². */
  throttleMm2: number;
  /** Commanded fuel per bank, g/s, at nominal rail pressure. */
  fuelCommandGps: [number, number];
  /** Torque efficiency through spark, about 1; idle control uses it for damping. */
  sparkGain: number;
  accessoryNm: number;
}

export interface Surroundings {
  baroKPa: number;
  airC: number;
}

const DELAY_SLOTS = 400;

/** Mean-value engine: manifold filling, rotation, wall film, transport delay, heat. Pure: one call is one 5 ms step. */
export class Engine {
  readonly state: EngineState;
  effects: FaultEffects = { ...HEALTHY };
  private readonly delay: [Float64Array, Float64Array] = [
    new Float64Array(DELAY_SLOTS).fill(1),
    new Float64Array(DELAY_SLOTS).fill(1),
  ];

  constructor(
    readonly spec: CarSpec,
    readonly surroundings: Surroundings,
    readonly seed: number,
  ) {
    this.state = {
      step: 0,
      running: false,
      keyOn: false,
      rpm: 0,
      mapKPa: surroundings.baroKPa,
      throttleMm2: 20,
      throttleFlowGps: 0,
      leakFlowGps: 0,
      cylinderFlowGps: 0,
      mafSignalGps: 0,
      railKPa: spec.railKPa,
      fuelGps: [0, 0],
      filmG: [0, 0],
      lambdaCyl: [1, 1],
      lambdaAtSensor: [1, 1],
      ectC: surroundings.airC,
      iatC: surroundings.airC,
      catalystC: surroundings.airC,
      storedOxygen: [0.5, 0.5],
      lambdaDown: [1, 1],
      runS: 0,
      fuelUsedG: 0,
    };
  }

  step(input: EngineInputs): void {
    const s = this.state;
    s.step++;
    const { baroKPa, airC } = this.surroundings;
    const { displacementL, banks } = this.spec;
    const chargeK = s.iatC + 273.15 + 8;
    const n = (channel: number) => noise(this.seed, channel, s.step);
    if (!s.running) {
      s.mapKPa += (baroKPa - s.mapKPa) * Math.min(1, DT / 0.2);
      s.rpm = Math.max(0, s.rpm - 1200 * DT);
      s.throttleFlowGps = 0;
      s.leakFlowGps = 0;
      s.cylinderFlowGps = 0;
      s.mafSignalGps *= 1 - DT / MAF_TAU_S;
      s.fuelGps = [0, 0];
      s.ectC += ((airC - s.ectC) * DT) / 3600;
      s.catalystC += ((airC - s.catalystC) * DT) / 900;
      s.iatC += ((airC - s.iatC) * DT) / 1200;
      return;
    }
    s.runS += DT;
    s.throttleMm2 = input.throttleMm2;

    // Air in: throttle and holes are compressible orifices; the cylinders pump by volumetric efficiency.
    s.throttleFlowGps = orificeFlowGps(input.throttleMm2, baroKPa, airC, s.mapKPa, THROTTLE_CD);
    const plenumLeak = orificeFlowGps(this.effects.plenumLeakMm2, baroKPa, airC, s.mapKPa, HOLE_CD);
    const runnerLeak = orificeFlowGps(this.effects.runner1LeakMm2, baroKPa, airC, s.mapKPa, HOLE_CD);
    s.leakFlowGps = plenumLeak + runnerLeak;
    // A runner leak feeds its own bank mostly; the rest spills back into the plenum.
    const runnerOwn = banks === 2 ? 0.7 * runnerLeak : 0;
    const intoPlenum = s.throttleFlowGps + plenumLeak + runnerLeak - runnerOwn;
    const pumped = cylinderFlow(s.mapKPa, baroKPa, chargeK, displacementL, s.rpm);
    const manifoldVolumeL = 1.6 * displacementL;
    s.mapKPa += ((R * chargeK * (intoPlenum - pumped)) / (manifoldVolumeL * 1000)) * DT;
    s.mapKPa = Math.min(Math.max(s.mapKPa, 10), baroKPa);
    s.cylinderFlowGps = pumped + runnerOwn;
    const air: [number, number] = banks === 2 ? [pumped / 2 + runnerOwn, pumped / 2] : [pumped, 0];

    // Airflow signal: the throttle's flow, lagged, with the sensor's own gain and noise.
    const sensed = s.throttleFlowGps * this.effects.mafGain * (1 + 0.008 * n(1));
    s.mafSignalGps += ((sensed - s.mafSignalGps) * DT) / MAF_TAU_S;

    // Fuel in: delivered falls with the square root of the pressure across the injector.
    const demand = input.fuelCommandGps[0] + input.fuelCommandGps[1];
    s.railKPa = Math.max(this.spec.railKPa - this.effects.railDropKPaPerGps * demand, 20) + 1.2 * n(2);
    const share = Math.sqrt((s.railKPa + baroKPa - s.mapKPa) / (this.spec.railKPa + baroKPa - s.mapKPa));
    let burnt = 0;
    for (let b = 0; b < banks; b++) {
      const delivered = input.fuelCommandGps[b]! * share;
      const fromFilm = s.filmG[b]! / FILM_TAU_S;
      s.filmG[b]! += (FILM_SHARE * delivered - fromFilm) * DT;
      const intoCylinder = (1 - FILM_SHARE) * delivered + fromFilm;
      s.fuelGps[b] = intoCylinder;
      burnt += Math.min(intoCylinder, air[b]! / AFR);
      s.lambdaCyl[b] = intoCylinder > 1e-6 ? Math.min(air[b]! / intoCylinder / AFR, 3) : 3;
      s.fuelUsedG += intoCylinder * DT;
    }

    // Exhaust: about two revolutions and the pipe until the sensor sees it.
    const delayS = 120 / Math.max(s.rpm, 300) + 0.25 / Math.max(s.cylinderFlowGps / displacementL, 0.5);
    const slots = Math.min(Math.round(delayS / DT), DELAY_SLOTS - 1);
    for (let b = 0; b < banks; b++) {
      const line = this.delay[b as 0 | 1];
      line[s.step % DELAY_SLOTS] = s.lambdaCyl[b]! * (1 + 0.004 * n(3 + b));
      s.lambdaAtSensor[b] = line[(s.step - slots + DELAY_SLOTS) % DELAY_SLOTS]!;
      this.catalyst(b as 0 | 1, air[b]!);
    }

    this.rotate(burnt, baroKPa, input);
    this.heat(burnt, airC);
  }

  /** Oxygen storage behind each upstream sensor: the downstream sensor sees what the brick lets through. */
  private catalyst(b: 0 | 1, airGps: number) {
    const s = this.state;
    const hot = Math.min(1, Math.max(0, (s.catalystC - 250) / 150));
    const capacityG = 0.9 * hot + 0.02;
    const surplus = 0.23 * airGps * (1 - 1 / s.lambdaAtSensor[b]);
    const before = s.storedOxygen[b];
    s.storedOxygen[b] = Math.min(1, Math.max(0, before + (surplus * DT) / capacityG));
    const through = (s.storedOxygen[b] >= 1 && surplus > 0) || (s.storedOxygen[b] <= 0 && surplus < 0);
    const target = through ? s.lambdaAtSensor[b] : 0.998;
    s.lambdaDown[b] += ((target - s.lambdaDown[b]) * DT) / 0.4;
  }

  private rotate(burntGps: number, baroKPa: number, input: EngineInputs) {
    const s = this.state;
    const omega = Math.max((s.rpm * Math.PI) / 30, 20);
    // Indicated efficiency part load, with idle spark; Heywood fig. 5-9 order of magnitude (from memory).
    const efficiency = 0.29 * input.sparkGain;
    const indicated = (efficiency * burntGps * LHV_J_PER_G) / omega;
    const cold = 1 + 0.8 * Math.max(0, (80 - s.ectC) / 100);
    const fmepKPa = (92 + 0.012 * s.rpm) * cold;
    const friction = ((fmepKPa + 0.9 * (baroKPa - s.mapKPa)) * this.spec.displacementL) / (4 * Math.PI);
    const inertia = 0.09 * this.spec.displacementL;
    s.rpm += (((indicated - friction - input.accessoryNm) / inertia) * DT * 30) / Math.PI;
    s.rpm = Math.min(Math.max(s.rpm, 0), 7000);
    if (s.rpm < 250) s.running = false;
  }

  private heat(burntGps: number, airC: number) {
    const s = this.state;
    const intoCoolantW = 0.3 * burntGps * LHV_J_PER_G + 200;
    const open = Math.min(1, Math.max(0, (s.ectC - (THERMOSTAT_C - 3)) / 6));
    const lossW = (6 + 260 * open) * (s.ectC - airC);
    const capacity = 16_000 * this.spec.displacementL ** 0.7;
    s.ectC += ((intoCoolantW - lossW) / capacity) * DT;
    const catTarget = 420 + 40 * burntGps;
    s.catalystC += ((catTarget - s.catalystC) * DT) / 60;
    const iatTarget = airC + 6 + 0.08 * (s.ectC - airC) - Math.min(5, 0.3 * s.throttleFlowGps);
    s.iatC += ((iatTarget - s.iatC) * DT) / 90;
  }

  /** Fully warm at once: as after a long drive and a minute's idle. */
  warmUp(): void {
    const s = this.state;
    s.ectC = THERMOSTAT_C + 1;
    s.catalystC = 440;
    s.iatC = this.surroundings.airC + 9;
    s.runS = Math.max(s.runS, 300);
  }
}

/** Cylinder pumping, g/s, from the fleet's own volumetric-efficiency curve (residual gas at low pressure). */
export function cylinderFlow(
  mapKPa: number,
  baroKPa: number,
  chargeK: number,
  displacementL: number,
  rpm: number,
): number {
  const ve = (0.58 + 0.36 * (mapKPa / baroKPa) ** 0.85) * (1 - ((rpm - 3600) / 11_000) ** 2);
  const densityGPerL = (mapKPa * 1000) / (R * chargeK);
  return (ve * densityGPerL * displacementL * rpm) / 120;
}
