import type { MonitorId } from '@just-balance/core/obd';
import type { CarSpec, EngineState, Surroundings } from '../engine/index.ts';
import type { Control } from './control.ts';
import { type Enabling, GENERAL, MONITOR_RULES } from './monitorRules.ts';
import { type OnBoardResult, resultsOf, tankTest } from './onBoardTests.ts';

/** Cruise is steady below this change, km/h a second. [house] */
const STEADY_KMH_PER_S = 0.8;
/** Cruise counts as steady after this, s: what went before has passed the sensors. [house] */
const SETTLED_S = 8;
/** Below this speed the swings of λ are too slow to compare, km/h. [house] */
const SWINGS_FROM_KMH = 55;
/** Fuel lies still below this much of it moving (m/s, what the last accelerations left), and calms in about this, s. [house] */
const STILL_MPS = 0.35;
const CALMS_S = 9;
/** Heater resistance cold, its rise a °C, at 13.8 V. [house] */
const HEATER_OHM = 6;
const HEATER_PER_C = 0.0014;

/** A running average and the size of the swings about it. */
class Swing {
  mean = Number.NaN;
  size = 0;
  take(v: number, share: number) {
    if (Number.isNaN(this.mean)) this.mean = v;
    this.mean += (v - this.mean) * share;
    this.size += (Math.abs(v - this.mean) - this.size) * share;
  }
}

/** What the monitors look at besides the engine's state. */
export interface Machine {
  fuelLevelPct: number;
  tankLeakMm2: number;
  heaterDead: readonly [number, number];
  /** Recirculation valve held open, mm². */
  egrValveMm2: number;
}

/** The recirculation valve's own opening, mm², and the pressure it adds for each kPa across it. [house] */
const EGR_MM2 = 40;
const EGR_KPA_PER_KPA = 0.06;

const within = (v: number, w: readonly [number | null, number | null] | undefined) =>
  w === undefined || ((w[0] === null || v >= w[0]) && (w[1] === null || v <= w[1]));

/** Monitors that run only under their own conditions; what they found stays until the next time. */
export class Monitors {
  /** Run in this drive. */
  readonly cycle = new Set<MonitorId>();
  private readonly rules: readonly Enabling[];
  private readonly ranS = new Map<MonitorId, number>();
  /** Drives on which one that needs several has seen its conditions. */
  private readonly drives = new Map<MonitorId, number>();
  private readonly results = new Map<MonitorId, OnBoardResult[]>();
  private readonly up: [Swing, Swing] = [new Swing(), new Swing()];
  private readonly down: [Swing, Swing] = [new Swing(), new Swing()];
  private start = { ectC: 20, toAirC: 0 };
  private runsS = 0;
  private fastS = 0;
  private idleS = 0;
  private idled = false;
  private lastKmh = 0;
  private steadyS = 0;
  private sloshMps = 0;
  private boostShortKPa = 0;
  /** The most pressure across the recirculation valve while its monitor ran. */
  private acrossKPa = 0;

  constructor(
    private readonly spec: CarSpec,
    private readonly surroundings: Surroundings,
  ) {
    this.rules = MONITOR_RULES[spec.fuel === 'diesel' ? 'diesel' : (spec.monitorStyle ?? 'cruise')];
  }

  newTrip(s: EngineState): void {
    this.ranS.clear();
    this.cycle.clear();
    this.start = { ectC: s.ectC, toAirC: Math.abs(s.ectC - s.iatC) };
    this.runsS = 0;
    this.fastS = 0;
    this.idleS = 0;
    this.idled = false;
    this.steadyS = 0;
    this.boostShortKPa = 0;
    this.acrossKPa = 0;
  }

  clear(): void {
    this.ranS.clear();
    this.cycle.clear();
    this.drives.clear();
    this.results.clear();
  }

  /** The general denominator of this drive. */
  get general(): boolean {
    const { airC, baroKPa } = this.surroundings;
    return (
      this.runsS >= GENERAL.runS &&
      this.fastS >= GENERAL.fastS &&
      this.idled &&
      airC >= GENERAL.airFromC &&
      baroKPa >= GENERAL.baroFromKPa
    );
  }

  /** How much of the fuel is moving, m/s: what the level signal shakes by. */
  get slosh(): number {
    return this.sloshMps;
  }

  /** Rows of service 06 for a monitor identifier, empty where it has none; all of them without one. */
  tests(monitor?: number): OnBoardResult[] {
    return [...this.results.values()].flat().filter((r) => monitor === undefined || r.monitor === monitor);
  }

  /** Advance; returns the monitors that finished in this step. */
  step(dtS: number, s: EngineState, c: Control, machine: Machine): MonitorId[] {
    this.watchDrive(dtS, s, c);
    const done: MonitorId[] = [];
    for (const m of this.rules) {
      if (this.cycle.has(m.id) || this.spec.unsupported.includes(m.id)) continue;
      if ((this.ranS.get(m.id) ?? 0) < m.needS) {
        if (!this.holds(m, s, c, machine.fuelLevelPct)) continue;
        this.ranS.set(m.id, (this.ranS.get(m.id) ?? 0) + dtS);
        if (m.id === 'egrVvt') this.acrossKPa = Math.max(this.acrossKPa, this.surroundings.baroKPa - s.mapKPa);
      }
      if ((this.ranS.get(m.id) ?? 0) < m.needS || (m.general && !this.general)) continue;
      this.cycle.add(m.id);
      this.results.set(m.id, this.found(m.id, s, machine));
      const drives = (this.drives.get(m.id) ?? 0) + 1;
      this.drives.set(m.id, drives);
      if (drives >= (m.drives ?? 1)) done.push(m.id);
    }
    return done;
  }

  private watchDrive(dtS: number, s: EngineState, c: Control) {
    this.runsS += dtS;
    if (s.vssKmh >= GENERAL.fastKmh) this.fastS += dtS;
    this.idleS = s.vssKmh < 1 && c.pedal === 0 ? this.idleS + dtS : 0;
    if (this.idleS >= GENERAL.idleS) this.idled = true;
    const change = s.vssKmh - this.lastKmh;
    this.lastKmh = s.vssKmh;
    this.sloshMps += Math.abs(change) / 3.6 - (this.sloshMps * dtS) / CALMS_S;
    this.steadyS = s.vssKmh > 35 && Math.abs(change) < STEADY_KMH_PER_S * dtS ? this.steadyS + dtS : 0;
    if (c.fullLoad && s.rpm > 2600)
      this.boostShortKPa = Math.max(0, this.spec.boostKPa - (s.chargeKPa - this.surroundings.baroKPa));
    if (this.steadyS <= SETTLED_S || !c.closed || s.vssKmh < SWINGS_FROM_KMH) return;
    for (let b = 0; b < this.spec.banks; b++) {
      this.up[b as 0 | 1].take(s.lambdaSensed[b as 0 | 1], dtS / 12);
      this.down[b as 0 | 1].take(s.lambdaDown[b as 0 | 1], dtS / 12);
    }
  }

  private holds(m: Enabling, s: EngineState, c: Control, fuelPct: number): boolean {
    const { airC, baroKPa } = this.surroundings;
    const standing = s.vssKmh < 1;
    return (
      (m.startBelowC === undefined || this.start.ectC <= m.startBelowC) &&
      (m.startToAirC === undefined || this.start.toAirC <= m.startToAirC) &&
      (m.baroFromKPa === undefined || baroKPa >= m.baroFromKPa) &&
      within(airC, m.airC) &&
      within(fuelPct, m.fuelPct) &&
      within(s.ectC, m.coolantC) &&
      within(s.iatC, m.intakeC) &&
      within(s.vssKmh, m.kmh) &&
      within(s.rpm, m.rpm) &&
      within(s.runS, m.runS) &&
      (!m.standing || standing) &&
      (!m.steady || this.steadyS > SETTLED_S) &&
      (!m.closed || c.closed) &&
      (!m.lifted || (c.pedal === 0 && !standing)) &&
      (!m.cut || c.fuelCut) &&
      (!m.boosted || c.fullLoad || s.chargeKPa > baroKPa + 25) &&
      (!m.stillFuel || this.sloshMps < STILL_MPS) &&
      (!m.unloaded || !c.loaded)
    );
  }

  private found(id: MonitorId, s: EngineState, machine: Machine): OnBoardResult[] {
    const swing = (of: readonly [Swing, Swing]) => [of[0].size, of[1].size] as const;
    const heater = (b: 0 | 1) => 13.8 / (HEATER_OHM * (1 + HEATER_PER_C * s.sensorHeatC[b]));
    const opened = Math.max(0, 1 - machine.egrValveMm2 / EGR_MM2) * EGR_KPA_PER_KPA * this.acrossKPa;
    return resultsOf(id, {
      banks: this.spec.banks,
      up: swing(this.up),
      down: swing(this.down),
      leastSwing: this.leastSwing,
      heaterA: [0, 1].map((b) => (machine.heaterDead[b as 0 | 1] ? 0 : heater(b as 0 | 1))) as [number, number],
      tank: id === 'evap' ? tankTest(machine.tankLeakMm2, machine.fuelLevelPct, this.surroundings.baroKPa) : NO_TANK,
      egrKPa: this.spec.induction === 'turbo' ? null : opened,
      boostShortKPa: this.boostShortKPa,
    });
  }

  /** A slow element flattens the swings that the control makes on purpose. */
  get leastSwing(): number {
    return this.spec.upstream === 'wide' ? 0.0045 : 0.0108;
  }

  swings(bank: 0 | 1): { up: number; down: number } {
    return { up: this.up[bank].size, down: this.down[bank].size };
  }
}

const NO_TANK = { reachedPa: 0, lost5Pa: 0, lost20Pa: 0 };
