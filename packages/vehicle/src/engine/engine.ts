import { HOLE_CD, holeFlowGps, pumpedGps, R_AIR, THROTTLE_CD, volumetricEfficiency } from './air.ts';
import { type FaultEffects, healthy, type PerBank } from './effects.ts';
import { noise } from './noise.ts';
import type { CarSpec } from './spec.ts';

/** Simulated step: 100 steps a second. */
export const STEP_US = 10_000;
export const DT = STEP_US / 1e6;

/** Heat of combustion J/g: petrol 43,500, diesel 42,800. Heywood app. D (from memory). */
const LHV_J_PER_G = { petrol: 43_500, diesel: 42_800 } as const;
/** Stoichiometric air by mass: petrol 14.7, ethanol 9.0, diesel 14.5; densities kg/L 0.745, 0.789 (from memory). */
const PETROL = { afr: 14.7, density: 0.745 };
const ETHANOL = { afr: 9.0, density: 0.789 };
const DIESEL_AFR = 14.5;
/** Wall film: share of fuel landing on the wall, time constant warm. Aquino's model, SAE 810494 (from memory). */
const FILM_SHARE = 0.25;
const FILM_TAU_S = 0.25;
/** Hot-wire time constant, s. Published figures run 10–50 ms (from memory). */
const MAF_TAU_S = 0.03;
/** Exponent of King's law for a hot wire (from memory): E² = A + B·ṁ^n. */
const KING_EXPONENT = 0.45;
/** Fuel burnt at which an engine is neither idling nor pulling, g/s a litre. [house] */
const BUSY_GPS_PER_L = 0.35;
const THERMOSTAT_C = 89;
/** Manifold and runners, litre per litre of displacement. [house] */
const MANIFOLD_L_PER_L = 1.6;
/** Share of purged canister gas that is fuel when the canister is full, by mass. [house] */
const VAPOUR_SHARE = 0.16;
/** Compressor and shaft follow with this time constant, s. [house] */
const TURBO_TAU_S = 0.45;
/** What the clutch or converter passes, N·m per litre. [house] */
const CLUTCH_NM_PER_L = 420;
/** Pressure left behind an open throttle, and the share of the way there that one step may go. */
const WIDE_OPEN_RATIO = 0.985;
const FILL = 0.4;
/** Time constant of the recirculation pipe, s. [house] */
const EGR_TAU_S = 0.12;
const DELAY_SLOTS = 256;

/** Stoichiometric mass ratio and density of petrol with ethanol, by volume. */
export function blend(ethanolPct: number): { afr: number; density: number } {
  const e = (ethanolPct / 100) * ETHANOL.density;
  const p = (1 - ethanolPct / 100) * PETROL.density;
  return { afr: (e * ETHANOL.afr + p * PETROL.afr) / (e + p), density: e + p };
}

/** The ratio the ECU is calibrated for. */
export function calibratedAfr(spec: CarSpec): number {
  return spec.fuel === 'diesel' ? DIESEL_AFR : blend(spec.ethanolCalibratedPct).afr;
}

/** Everything the machine is doing now; units in the names. */
export interface EngineState {
  step: number;
  running: boolean;
  keyOn: boolean;
  cranking: boolean;
  rpm: number;
  vssKmh: number;
  /** Pressures: manifold, ahead of the throttle, in the exhaust ahead of the catalyst. */
  mapKPa: number;
  chargeKPa: number;
  exhaustKPa: PerBank;
  throttleMm2: number;
  /** Flows, g/s: counted by the sensor's place, past it, recirculated, purged, into the cylinders. */
  meteredGps: number;
  /** Metered flow without the pulses of filling: what filter and turbine feel. */
  steadyGps: number;
  unmeteredGps: number;
  egrGps: number;
  purgeGps: number;
  cylinderGps: number;
  chargeLossGps: number;
  airGps: PerBank;
  /** Sensor signals before the ECU's converter. */
  mafSignalGps: number;
  mapSignalKPa: number;
  railKPa: number;
  fuelGps: PerBank;
  filmG: PerBank;
  lambdaCyl: PerBank;
  /** λ where the upstream sensor sits, and what its element shows (lag, shift). */
  lambdaAtSensor: PerBank;
  lambdaSensed: PerBank;
  ectC: number;
  iatC: number;
  chargeC: number;
  catalystC: number;
  sensorHeatC: PerBank;
  storedOxygen: PerBank;
  lambdaDown: PerBank;
  runS: number;
  fuelUsedG: number;
  distanceM: number;
  /** Totals for the mass balance: air in, gas out of the manifold, g. */
  massInG: number;
  massOutG: number;
}

export interface EngineInputs {
  /** Effective throttle and idle-air area, mm². */
  throttleMm2: number;
  /** Commanded fuel per bank, g/s, at nominal rail pressure. */
  fuelCommandGps: PerBank;
  /** Torque efficiency through spark, about 1; idle control damps with it. */
  sparkGain: number;
  accessoryNm: number;
  /** Exhaust gas valve as the ECU commands it, mm². */
  egrMm2: number;
  /** Gear engaged, km/h per 1,000 rpm; null: neutral. `brakeN` at the wheels. */
  gearKmh: number | null;
  brakeN: number;
}

export interface Surroundings {
  baroKPa: number;
  airC: number;
}

/** Mean-value engine: manifold filling, charging, rotation, road, wall film, transport delay, heat. One call, one step. */
export class Engine {
  readonly state: EngineState;
  effects: FaultEffects = healthy();
  private readonly delay: [Float64Array, Float64Array] = [
    new Float64Array(DELAY_SLOTS).fill(1),
    new Float64Array(DELAY_SLOTS).fill(1),
  ];

  constructor(
    readonly spec: CarSpec,
    readonly surroundings: Surroundings,
    readonly seed: number,
  ) {
    const { baroKPa, airC } = surroundings;
    this.state = {
      step: 0,
      running: false,
      keyOn: false,
      cranking: false,
      rpm: 0,
      vssKmh: 0,
      mapKPa: baroKPa,
      chargeKPa: baroKPa,
      exhaustKPa: [baroKPa, baroKPa],
      throttleMm2: 20,
      meteredGps: 0,
      steadyGps: 0,
      unmeteredGps: 0,
      egrGps: 0,
      purgeGps: 0,
      cylinderGps: 0,
      chargeLossGps: 0,
      airGps: [0, 0],
      mafSignalGps: 0,
      mapSignalKPa: baroKPa,
      railKPa: spec.railKPa,
      fuelGps: [0, 0],
      filmG: [0, 0],
      lambdaCyl: [1, 1],
      lambdaAtSensor: [1, 1],
      lambdaSensed: [1, 1],
      ectC: airC,
      iatC: airC,
      chargeC: airC,
      catalystC: airC,
      sensorHeatC: [airC, airC],
      storedOxygen: [0.5, 0.5],
      lambdaDown: [1, 1],
      runS: 0,
      fuelUsedG: 0,
      distanceM: 0,
      massInG: 0,
      massOutG: 0,
    };
  }

  step(input: EngineInputs): void {
    const s = this.state;
    s.step++;
    if (!s.running) {
      this.stand();
      return;
    }
    s.runS += DT;
    s.throttleMm2 = input.throttleMm2;
    this.air(input);
    this.sense();
    const burnt = this.fuel(input);
    this.exhaust();
    this.rotate(burnt, input);
    this.heat(burnt);
  }

  /** Engine off: pressures equalise, things cool; a standing car. */
  private stand() {
    const s = this.state;
    const { baroKPa, airC } = this.surroundings;
    s.mapKPa += (baroKPa - s.mapKPa) * Math.min(1, DT / 0.2);
    s.chargeKPa = baroKPa;
    s.rpm = Math.max(0, s.rpm - 1200 * DT);
    s.vssKmh = Math.max(0, s.vssKmh - 12 * DT);
    s.meteredGps = 0;
    s.unmeteredGps = 0;
    s.cylinderGps = 0;
    s.egrGps = 0;
    s.purgeGps = 0;
    s.fuelGps = [0, 0];
    s.ectC += ((airC - s.ectC) * DT) / 3600;
    s.catalystC += ((airC - s.catalystC) * DT) / 900;
    s.iatC += ((airC - s.iatC) * DT) / 1200;
    for (const b of [0, 1] as const) s.sensorHeatC[b] += ((airC - s.sensorHeatC[b]) * DT) / 60;
    this.sense();
  }

  /** Air in: every way in is a compressible orifice; the cylinders pump by volumetric efficiency. */
  private air(input: EngineInputs) {
    const s = this.state;
    const e = this.effects;
    const { baroKPa, airC } = this.surroundings;
    const { spec } = this;
    const airK = airC + 273.15;
    const fullFlow = 45 * spec.displacementL;
    s.steadyGps += ((s.meteredGps - s.steadyGps) * DT) / 0.08;
    const load = Math.min(s.steadyGps / fullFlow, 2.5);
    // Ahead of the throttle: filter, then the compressor.
    // The filter feels the flow against what the engine can take with its boost.
    const drawn = load / (1 + spec.boostKPa / baroKPa);
    const inlet = baroKPa * (1 - Math.min(0.6, (0.012 + e.filterDrop) * drawn * drawn));
    let charge = inlet;
    s.chargeLossGps = 0;
    if (spec.induction === 'turbo') {
      // What drives the turbine: gas flow of a throttled engine, heat of a diesel.
      const drive =
        spec.fuel === 'diesel' ? s.fuelGps[0] / (2.2 * spec.displacementL) : Math.max(0, load - 0.25) * 1.25;
      const wanted = baroKPa + Math.min(spec.boostKPa, 3.4 * spec.boostKPa * drive ** 1.6);
      // A hole past the compressor lets out what the pressure drives; it cannot be replaced at the same pressure.
      s.chargeLossGps = holeFlowGps(e.chargeLeakMm2, s.chargeKPa, airK, baroKPa, HOLE_CD);
      const kept = s.meteredGps > 1 ? 1 - Math.min(0.6, s.chargeLossGps / s.meteredGps) : 1;
      // A compressor multiplies what stands before it.
      const target = inlet * (1 + (Math.max(0, wanted - baroKPa) / baroKPa) * kept);
      s.chargeKPa += ((target - s.chargeKPa) * DT) / TURBO_TAU_S;
      charge = s.chargeKPa;
    } else s.chargeKPa = inlet;
    const heated = airC + Math.max(0, charge - baroKPa) * 0.28;
    s.chargeC = heated;
    const intakeK = s.iatC + 281.15 + Math.max(0, heated - airC);
    // Wide open the manifold fills faster than a step: no more goes in than brings it up to what stands before it.
    const holdsGPerKPa = (MANIFOLD_L_PER_L * spec.displacementL * 1000) / (R_AIR * intakeK);
    const room =
      Math.max(0, s.cylinderGps - s.egrGps) +
      (FILL * Math.max(0, charge * WIDE_OPEN_RATIO - s.mapKPa) * holdsGPerKPa) / DT;
    const throttle = Math.min(holeFlowGps(input.throttleMm2, charge, heated + 273.15, s.mapKPa, THROTTLE_CD), room);
    // Leaks: lean under vacuum; under boost the metered charge is lost through the same hole.
    const hole = (mm2: number) =>
      s.mapKPa < baroKPa
        ? holeFlowGps(mm2, baroKPa, airK, s.mapKPa, HOLE_CD)
        : -holeFlowGps(mm2, s.mapKPa, heated + 273.15, baroKPa, HOLE_CD);
    const plenum = hole(e.plenumLeakMm2) + hole(e.crankcaseLeakMm2) + hole(e.egrJointLeakMm2);
    const runner: PerBank = [hole(e.runnerLeakMm2[0]), hole(e.runnerLeakMm2[1])];
    // The pipe's inertia: recirculated gas follows the pressures with a lag.
    const egr = holeFlowGps(input.egrMm2 + e.egrValveMm2, baroKPa + 2, 620, s.mapKPa, HOLE_CD);
    s.egrGps += ((Math.min(egr, 0.5 * s.cylinderGps) - s.egrGps) * DT) / EGR_TAU_S;
    s.purgeGps = hole(e.purgeMm2) > 0 ? hole(e.purgeMm2) : 0;
    // A runner leak feeds its own bank mostly; the rest spills back into the plenum.
    const own: PerBank = spec.banks === 2 ? [0.7 * runner[0], 0.7 * runner[1]] : [0, 0];
    const intoPlenum = throttle + plenum + runner[0] + runner[1] - own[0] - own[1] + s.egrGps + s.purgeGps;
    const ve = volumetricEfficiency(s.mapKPa, baroKPa, s.rpm, spec);
    const loss: PerBank = [1 - e.exhaustLoss[0] * load * 1.6, 1 - e.exhaustLoss[1] * load * 1.6];
    const all = pumpedGps(ve, s.mapKPa, intakeK, spec.displacementL, s.rpm);
    const part = 1 / spec.banks;
    const pumped: PerBank = [
      all * part * Math.max(loss[0], 0.3),
      spec.banks === 2 ? all * part * Math.max(loss[1], 0.3) : 0,
    ];
    const out = pumped[0] + pumped[1];
    s.mapKPa += ((intoPlenum - out) / holdsGPerKPa) * DT;
    s.massInG += intoPlenum * DT;
    s.massOutG += out * DT;
    s.mapKPa = Math.min(Math.max(s.mapKPa, 8), charge + 1);
    // What of it is air: exhaust gas is inert, purged gas partly fuel.
    const vapour = VAPOUR_SHARE * spec.canisterLoad;
    const airShare = intoPlenum > 0.01 ? Math.max(0, (intoPlenum - s.egrGps - vapour * s.purgeGps) / intoPlenum) : 1;
    s.airGps = [pumped[0] * airShare + own[0], pumped[1] * airShare + own[1]];
    s.cylinderGps = out + own[0] + own[1];
    s.meteredGps = throttle * (1 - e.ductShare) + s.chargeLossGps;
    s.unmeteredGps = throttle * e.ductShare + plenum + runner[0] + runner[1];
    for (const b of [0, 1] as const) {
      const k = 0.0016 / spec.displacementL ** 2;
      const flow = pumped[b] * spec.banks;
      const blocked = 1 + 9 * e.exhaustLoss[b];
      s.exhaustKPa[b] =
        baroKPa + k * blocked * flow * flow + 1.2 * blocked * (s.rpm / 2500) * Math.min(1, e.exhaustLoss[b] * 8) + 0.8;
    }
  }

  /** Sensor signals: hot wire and pressure sensor, each with its own faults and lag. */
  private sense() {
    const s = this.state;
    const e = this.effects;
    const n = (channel: number) => noise(this.seed, channel, s.step);
    const shown = e.mafDead ? 0 : dirtyWire(s.meteredGps, e.mafDirtShare, this.spec.displacementL) * e.mafGain;
    const noisy = shown * (1 + 0.008 * n(1));
    s.mafSignalGps += (noisy - s.mafSignalGps) * Math.min(1, DT / MAF_TAU_S);
    const { baroKPa } = this.surroundings;
    const true_ = s.mapKPa + e.mapTowardsBaro * (baroKPa - s.mapKPa) + e.mapOffsetKPa;
    s.mapSignalKPa += (true_ - s.mapSignalKPa) * Math.min(1, DT / (0.015 + e.mapLagS));
  }

  /** Fuel in: delivered falls with the root of the pressure across the injector; film; what burns. Returns g/s burnt. */
  private fuel(input: EngineInputs): number {
    const s = this.state;
    const e = this.effects;
    const { spec } = this;
    const { baroKPa } = this.surroundings;
    const drawn = s.fuelGps[0] + s.fuelGps[1];
    const n = noise(this.seed, 2, s.step);
    const rail = spec.railKPa + e.railOffsetKPa - e.railDropKPaPerGps * drawn;
    s.railKPa = Math.max(rail + 0.003 * spec.railKPa * n, 0.02 * spec.railKPa);
    const against = spec.railReference === 'fixed' && spec.injection === 'port' ? baroKPa - s.mapKPa : 0;
    const pct = e.ethanolPct ?? spec.ethanolCalibratedPct;
    const real = spec.fuel === 'diesel' ? { afr: DIESEL_AFR, density: 1 } : blend(pct);
    const cal = spec.fuel === 'diesel' ? real : blend(spec.ethanolCalibratedPct);
    const share = Math.sqrt(
      Math.max(0.02, (s.railKPa + against) / (spec.railKPa + against)) * (real.density / cal.density),
    );
    const vapour = (VAPOUR_SHARE * spec.canisterLoad * s.purgeGps + e.oilFuelGps) / spec.banks;
    const lambdaNoise = 0.004;
    let burnt = 0;
    for (let b = 0; b < spec.banks; b++) {
      const delivered = input.fuelCommandGps[b]! * share * (1 - e.injectorLoss[b]!);
      const film = spec.injection === 'port' ? FILM_SHARE : 0.04;
      const fromFilm = s.filmG[b]! / FILM_TAU_S;
      s.filmG[b]! += (film * delivered - fromFilm) * DT;
      const into = (1 - film) * delivered + fromFilm + e.dripGps[b]! + vapour;
      s.fuelGps[b] = into;
      s.fuelUsedG += into * DT;
      const air = s.airGps[b]!;
      // Heat goes with the air that burns: fuels need less air the less heat they hold (Heywood app. D, from memory).
      burnt += Math.min(into, air / real.afr) * (real.afr / cal.afr) * (1 - e.misfire[b]!);
      s.lambdaCyl[b] =
        into > 1e-5 ? Math.min(air / into / real.afr, 8) * (1 + lambdaNoise * noise(this.seed, 3 + b, s.step)) : 8;
    }
    return burnt;
  }

  /** Two revolutions and the pipe until the sensor sees it; then the brick and what passes it. */
  private exhaust() {
    const s = this.state;
    const e = this.effects;
    const { spec } = this;
    const perL = Math.max(s.cylinderGps / spec.displacementL, 0.5);
    const delayS = 120 / Math.max(s.rpm, 300) + 0.9 / perL;
    const slots = Math.min(Math.round(delayS / DT), DELAY_SLOTS - 1);
    const idlePerL = 1.3;
    for (let b = 0; b < spec.banks; b++) {
      const i = b as 0 | 1;
      const line = this.delay[i];
      // Unburnt oxygen of a misfire, and outside air drawn in between the pulses: both read lean.
      const falseAir = e.exhaustLeak[i] * Math.min(1.2, (idlePerL / perL) ** 0.7);
      line[s.step % DELAY_SLOTS] = s.lambdaCyl[i] * (1 + e.misfire[i] + falseAir);
      s.lambdaAtSensor[i] = line[(s.step - slots + DELAY_SLOTS) % DELAY_SLOTS]!;
      const shown = s.lambdaAtSensor[i] * (1 + e.o2Shift[i]);
      s.lambdaSensed[i] += (shown - s.lambdaSensed[i]) * Math.min(1, DT / e.o2TauS[i]);
      this.catalyst(i);
      const heater = e.o2HeaterDead[i] ? 0 : 620;
      const gas = 180 + 16 * Math.min(perL, 22);
      s.sensorHeatC[i] += ((Math.max(heater, gas) - s.sensorHeatC[i]) * DT) / 14;
    }
  }

  /** Oxygen storage: the downstream sensor sees what the brick lets through. */
  private catalyst(b: 0 | 1) {
    const s = this.state;
    const hot = Math.min(1, Math.max(0, (s.catalystC - 250) / 150));
    const capacityG = ((0.22 * this.spec.displacementL) / this.spec.banks) * hot * this.effects.storage[b] + 0.0005;
    const seen = Math.min(s.lambdaAtSensor[b], 2);
    const surplus = 0.23 * s.airGps[b] * (1 - 1 / seen);
    s.storedOxygen[b] = Math.min(1, Math.max(0, s.storedOxygen[b] + (surplus * DT) / capacityG));
    const through = (s.storedOxygen[b] >= 1 && surplus > 0) || (s.storedOxygen[b] <= 0 && surplus < 0);
    s.lambdaDown[b] += (((through ? seen : 0.997) - s.lambdaDown[b]) * DT) / 0.25;
  }

  /** Torque balance; in gear a fluid coupling ties engine and road. */
  private rotate(burntGps: number, input: EngineInputs) {
    const s = this.state;
    const { spec, surroundings } = this;
    const omega = Math.max((s.rpm * Math.PI) / 30, 20);
    // Indicated efficiency rises with load; Heywood fig. 5-9 order of magnitude (from memory).
    const base = spec.fuel === 'diesel' ? 0.38 : 0.29 + 0.06 * Math.min(1, s.mapKPa / surroundings.baroKPa);
    // Exhaust gas slows the burning at idle: rough.
    const dilution = 1 - 0.5 * (s.egrGps / Math.max(s.cylinderGps, 0.1)) * (spec.fuel === 'diesel' ? 0.1 : 1);
    const rough =
      this.effects.misfire[0] + this.effects.misfire[1] + (spec.fuel === 'diesel' ? 0 : 0.3 * (1 - dilution));
    const uneven = 1 + rough * 1.5 * noise(this.seed, 9, s.step >> 3);
    const indicated = (base * dilution * input.sparkGain * burntGps * LHV_J_PER_G[spec.fuel] * uneven) / omega;
    const cold = 1 + 0.8 * Math.max(0, (80 - s.ectC) / 100);
    const fmepKPa = (92 + 0.012 * s.rpm + (spec.fuel === 'diesel' ? 40 : 0)) * cold;
    const back = s.exhaustKPa[0] - surroundings.baroKPa;
    const pumping = 0.9 * (surroundings.baroKPa + back - s.mapKPa);
    const friction = ((fmepKPa + pumping) * spec.displacementL) / (4 * Math.PI);
    const inertia = 0.09 * spec.displacementL;
    let clutch = 0;
    if (input.gearKmh !== null) {
      const roadRpm = (s.vssKmh / input.gearKmh) * 1000;
      // It takes hold as the engine comes off idle, and lets go before it would stall it.
      const hold = Math.min(1, Math.max(0, (s.rpm - 1.03 * spec.idleRpm) / 500));
      clutch = Math.min(
        Math.max(0.5 * hold * spec.displacementL * (s.rpm - roadRpm), -CLUTCH_NM_PER_L * spec.displacementL),
        CLUTCH_NM_PER_L * spec.displacementL,
      );
      const ratio = ((s.rpm > 1 ? 1 : 0) * ((Math.PI / 30) * 1000 * 3.6)) / input.gearKmh;
      this.road(0.92 * clutch * ratio, input.brakeN);
    } else this.road(0, input.brakeN);
    s.rpm += (((indicated - friction - input.accessoryNm - clutch) / inertia) * DT * 30) / Math.PI;
    s.rpm = Math.min(Math.max(s.rpm, 0), 7000);
    if (s.rpm < 250) s.running = false;
  }

  private road(driveN: number, brakeN: number) {
    const s = this.state;
    const v = s.vssKmh / 3.6;
    // Rolling 1.2 %, drag area 0.68 m² (c_w·A) of an ordinary car. Common practice, no source.
    const resist = v > 0.05 ? 0.012 * this.spec.massKg * 9.81 + 0.5 * 1.2 * 0.68 * v * v + brakeN : 0;
    s.vssKmh = Math.max(0, s.vssKmh + ((driveN - resist) / (this.spec.massKg * 1.06)) * DT * 3.6);
    s.distanceM += v * DT;
  }

  private heat(burntGps: number) {
    const s = this.state;
    const { airC } = this.surroundings;
    // Of the fuel's heat some 40 % warm the engine where it does little, 20 % in a pull. Heywood, ch. 12 (from memory).
    const busy = burntGps / (BUSY_GPS_PER_L * this.spec.displacementL);
    const share = 0.2 + 0.2 / (1 + busy ** 2);
    const intoCoolantW = share * burntGps * LHV_J_PER_G[this.spec.fuel] + 200;
    // Radiator W/K by air speed, a fan from 98 °C; stuck open it takes what it can at any temperature. [house]
    const opens = Math.min(1, Math.max(0, (s.ectC - (THERMOSTAT_C - 3)) / 6));
    const fan = s.ectC > 98 ? 250 * this.spec.displacementL : 0;
    const radiator = this.effects.thermostatOpen ? 40 + 3 * s.vssKmh : (140 + 24 * s.vssKmh + fan) * opens;
    const lossW = (6 + radiator) * (s.ectC - airC);
    const capacity = 30_000 * this.spec.displacementL ** 0.7;
    s.ectC += ((intoCoolantW - lossW) / capacity) * DT;
    const misfire = this.effects.misfire[0] + this.effects.misfire[1];
    const catTarget = Math.min(900, 420 + 40 * burntGps + 500 * misfire);
    s.catalystC += ((catTarget - s.catalystC) * DT) / 60;
    const iatTarget = airC + 6 + 0.08 * (s.ectC - airC) - Math.min(5, 0.3 * s.meteredGps);
    s.iatC += ((iatTarget - s.iatC) * DT) / 90;
  }

  /** Fully warm at once: as after a long drive and a minute's idle. */
  warmUp(): void {
    const s = this.state;
    s.ectC = this.effects.thermostatOpen ? Math.max(this.surroundings.airC, 62) : THERMOSTAT_C + 1;
    s.catalystC = 440;
    s.iatC = this.surroundings.airC + 9;
    for (const b of [0, 1] as const) s.sensorHeatC[b] = this.effects.o2HeaterDead[b] ? 260 : 600;
    s.runS = Math.max(s.runS, 300);
  }
}

/**
 * A dirty hot wire. King's law E² = A + B·ṁ^n: dirt insulates (B falls) and conducts to the mounts (A rises), so the
 * wire reads over at idle by a third of `share` and under by `share` at road load.
 */
function dirtyWire(gps: number, share: number, displacementL: number): number {
  if (share === 0 || gps <= 0.05) return gps;
  const idle = 1.3 * displacementL;
  const road = 8 * displacementL;
  const n = KING_EXPONENT;
  // Two conditions fix the lost slope and the added offset.
  const over = (idle * (1 + share / 3)) ** n;
  const under = (road * (1 - share)) ** n;
  const slope = (under - over) / (road ** n - idle ** n);
  const offset = over - slope * idle ** n;
  return Math.max(0, offset + slope * gps ** n) ** (1 / n);
}
