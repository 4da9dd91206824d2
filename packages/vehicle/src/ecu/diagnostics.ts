import type { MonitorId, MonitorState, MonitorStatus } from '@just-balance/core/obd';
import type { CarSpec, EngineState, Surroundings } from '../engine/index.ts';
import type { Control } from './control.ts';
import { type Machine, Monitors } from './monitors.ts';
import { LIMITS, misfireResult, type OnBoardResult } from './onBoardTests.ts';

/** Total trim and how long, before the fuel monitor calls it a failure. Many ECUs: 20–25 % sustained; common practice. */
const FUEL_CODE_PCT = 20;
/** Passing trips until the lamp goes out, warm-ups until a code is forgotten. SAE J1979 practice, from memory. */
const LAMP_OUT_TRIPS = 3;
const FORGET_WARMUPS = 40;

export interface FreezeFrame {
  code: string;
  values: Record<string, number>;
}

const SPARK: readonly MonitorId[] = [
  'misfire',
  'fuelSystem',
  'comprehensive',
  'catalyst',
  'heatedCatalyst',
  'evap',
  'secondaryAir',
  'acOrGpf',
  'o2Sensor',
  'o2Heater',
  'egrVvt',
];
const COMPRESSION: readonly MonitorId[] = [
  'misfire',
  'fuelSystem',
  'comprehensive',
  'nmhc',
  'noxScr',
  'boost',
  'exhaustGasSensor',
  'dpf',
  'egrVvt',
];
const CONTINUOUS = new Set<MonitorId>(['misfire', 'fuelSystem', 'comprehensive']);

/** Codes with two-trip logic, lamp, freeze frame, counters, monitors that run only under their own conditions. */
export class Diagnostics {
  readonly pending = new Set<string>();
  readonly stored = new Set<string>();
  readonly permanent = new Set<string>();
  freeze: FreezeFrame | null = null;
  warmups: number;
  distanceClearKm: number;
  timeClearS: number;
  lampDistanceKm = 0;
  lampTimeS = 0;
  private readonly failedThisTrip = new Set<string>();
  private readonly overS = new Map<string, number>();
  private readonly passingTrips = new Map<string, number>();
  private readonly incomplete: Set<MonitorId>;
  private readonly monitors: Monitors;
  /** Codes of what is watched all the time. */
  private readonly watched = new Set<string>();
  private startEctC = 20;
  private warmed = false;
  private lastMisfires = 0;
  private misfiresThisTrip = 0;

  constructor(
    private readonly spec: CarSpec,
    private readonly surroundings: Surroundings,
  ) {
    this.monitors = new Monitors(spec, surroundings);
    this.incomplete = new Set(spec.incomplete as MonitorId[]);
    this.warmups = spec.warmupsSinceClear;
    this.distanceClearKm = spec.distanceSinceClearKm;
    this.timeClearS = spec.minutesSinceClear * 60;
  }

  get lampOn(): boolean {
    return [...this.stored].some((c) => (this.passingTrips.get(c) ?? 0) < LAMP_OUT_TRIPS);
  }

  private get list(): readonly MonitorId[] {
    return this.spec.fuel === 'diesel' ? COMPRESSION : SPARK;
  }

  /** Key cycle: pending from the trip before and not failed again is forgotten; passing trips count. */
  newTrip(s: EngineState): void {
    for (const code of [...this.pending]) if (!this.failedThisTrip.has(code)) this.pending.delete(code);
    for (const code of this.stored) {
      if (this.failedThisTrip.has(code)) this.passingTrips.set(code, 0);
      else this.passingTrips.set(code, (this.passingTrips.get(code) ?? 0) + 1);
    }
    this.failedThisTrip.clear();
    this.overS.clear();
    this.monitors.newTrip(s);
    this.misfiresThisTrip = 0;
    this.startEctC = s.ectC;
    this.warmed = false;
  }

  /** Service 04: everything but the permanent codes. */
  clear(): void {
    this.pending.clear();
    this.stored.clear();
    this.failedThisTrip.clear();
    this.overS.clear();
    this.passingTrips.clear();
    this.freeze = null;
    this.monitors.clear();
    for (const m of this.list) if (!CONTINUOUS.has(m) && !this.spec.unsupported.includes(m)) this.incomplete.add(m);
    this.warmups = 0;
    this.distanceClearKm = 0;
    this.timeClearS = 0;
    this.lampDistanceKm = 0;
    this.lampTimeS = 0;
  }

  step(
    dtS: number,
    s: EngineState,
    c: Control,
    machine: Machine,
    misfires: number,
    values: () => Record<string, number>,
  ): void {
    this.timeClearS += dtS;
    const km = (s.vssKmh / 3600) * dtS;
    this.distanceClearKm += km;
    if (this.lampOn) {
      this.lampDistanceKm += km;
      this.lampTimeS += dtS;
    }
    // A warm-up: +22 °C and at least 71 °C. SAE J1979 practice, from memory.
    if (!this.warmed && s.ectC >= 71 && s.ectC - this.startEctC >= 22) {
      this.warmed = true;
      this.warmups++;
      for (const code of [...this.stored]) {
        if ((this.passingTrips.get(code) ?? 0) >= LAMP_OUT_TRIPS && this.warmups > FORGET_WARMUPS)
          this.stored.delete(code);
      }
    }
    this.watchAll(dtS, s, c, misfires, values);
    for (const id of this.monitors.step(dtS, s, c, machine)) {
      this.incomplete.delete(id);
      this.judge(id, s);
    }
    // What is watched all the time has passed once the drive was a whole one without it.
    if (this.monitors.general)
      for (const code of [...this.permanent])
        if (this.watched.has(code) && !this.failedThisTrip.has(code) && !this.pending.has(code))
          this.permanent.delete(code);
  }

  private watchAll(dtS: number, s: EngineState, c: Control, misfires: number, values: () => Record<string, number>) {
    const { spec } = this;
    const watch = (code: string, over: boolean, afterS: number) => this.watch(code, over, dtS, afterS, values);
    for (let b = 0; b < spec.banks; b++) {
      const t = c.trims[b as 0 | 1];
      const total = t.short + t.long[c.cell]!;
      watch(b === 0 ? 'P0171' : 'P0174', c.closed && total > FUEL_CODE_PCT, 30);
      watch(b === 0 ? 'P0172' : 'P0175', c.closed && total < -FUEL_CODE_PCT, 30);
      if (spec.upstream !== 'none')
        watch(b === 0 ? 'P0135' : 'P0155', s.sensorHeatC[b as 0 | 1] < 450 && s.runS > 60 && s.vssKmh < 30, 20);
    }
    if (spec.metering !== 'speed-density') watch('P0102', s.mafSignalGps < 0.25 && s.rpm > 500, 2);
    watch('P0128', s.ectC < 70 && s.runS > 600, 60);
    watch('P0507', s.rpm > c.targetRpm(s, { do: 'idle' }) + 200 && c.pedal === 0 && s.vssKmh < 1 && s.ectC > 70, 15);
    if (spec.metering !== 'maf' || spec.fuel === 'diesel')
      watch(
        'P0106',
        s.vssKmh < 1 && c.pedal === 0 && spec.fuel === 'petrol' && (s.mapSignalKPa > 62 || s.mapSignalKPa < 12),
        15,
      );
    if (spec.induction === 'turbo')
      watch('P0299', c.fullLoad && s.rpm > 2600 && s.chargeKPa - this.surroundings.baroKPa < spec.boostKPa - 22, 3);
    this.misfiresThisTrip += misfires - this.lastMisfires;
    const share = (misfires - this.lastMisfires) / Math.max((s.rpm / 120) * spec.cylinders * dtS, 0.1);
    this.lastMisfires = misfires;
    watch('P0300', share > 0.02, 20);
  }

  private watch(code: string, over: boolean, dtS: number, afterS: number, values: () => Record<string, number>) {
    this.watched.add(code);
    const seconds = over ? (this.overS.get(code) ?? 0) + dtS : 0;
    this.overS.set(code, seconds);
    if (seconds >= afterS) this.fail(code, values);
  }

  private fail(code: string, values: () => Record<string, number>) {
    if (this.failedThisTrip.has(code)) return;
    this.failedThisTrip.add(code);
    this.freeze ??= { code, values: values() };
    if (this.pending.has(code)) {
      this.stored.add(code);
      this.permanent.add(code);
      this.passingTrips.set(code, 0);
    }
    this.pending.add(code);
  }

  /** What a finished monitor found; a pass takes its permanent codes away. */
  private judge(id: MonitorId, s: EngineState) {
    const verdict = (code: string, bad: boolean) => {
      if (bad) this.fail(code, () => ({ rpm: s.rpm, vss: s.vssKmh, ect: s.ectC, load: 40 }));
      else if (!this.pending.has(code)) this.permanent.delete(code);
    };
    for (let b = 0; b < this.spec.banks; b++) {
      const { up, down } = this.monitors.swings(b as 0 | 1);
      const slow = b === 0 ? 'P0133' : 'P0153';
      if (id === 'o2Sensor') verdict(slow, up < this.monitors.leastSwing);
      // A catalyst is not judged through a sensor that is under suspicion itself.
      if (id === 'catalyst' && !this.pending.has(slow))
        verdict(b === 0 ? 'P0420' : 'P0430', down > LIMITS.downOverUp * up && up > 0.002);
    }
    const failed = (monitor: number) => this.monitors.tests(monitor).some((r) => r.value < r.low || r.value > r.high);
    if (id === 'evap') {
      const open = failed(0x39);
      verdict('P0455', open);
      verdict('P0442', !open && failed(0x3b));
      verdict('P0456', !open && !failed(0x3b) && failed(0x3c));
    }
    if (id === 'egrVvt' && this.spec.fuel === 'petrol') verdict('P0401', failed(0x31));
  }

  /** Rows of service 06, of one monitor identifier or all. */
  tests(monitor?: number): OnBoardResult[] {
    const misfire = this.spec.fuel === 'petrol' ? [misfireResult(this.misfiresThisTrip)] : [];
    return [...this.monitors.tests(monitor), ...misfire.filter((r) => monitor === undefined || r.monitor === monitor)];
  }

  /** How much the fuel in the tank moves, m/s. */
  get slosh(): number {
    return this.monitors.slosh;
  }

  /** PID 01, or PID 41 with `cycle` (what has run since key-on). */
  status(cycle = false): MonitorStatus {
    const monitors = this.list.map((id): { id: MonitorId; state: MonitorState } => {
      if (this.spec.unsupported.includes(id)) return { id, state: 'unsupported' };
      const open = cycle ? !CONTINUOUS.has(id) && !this.monitors.cycle.has(id) : this.incomplete.has(id);
      return { id, state: open ? 'incomplete' : 'complete' };
    });
    return {
      lampOn: this.lampOn,
      codeCount: this.stored.size,
      ignition: this.spec.fuel === 'diesel' ? 'compression' : 'spark',
      monitors,
    };
  }
}
