import type { MonitorId, MonitorState, MonitorStatus } from '@just-balance/core/obd';
import type { CarSpec, EngineState, Surroundings } from '../engine/index.ts';
import type { Control } from './control.ts';

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

/** How long each monitor must see its own conditions, s. [house], of the order practitioners meet. */
const NEEDS_S: Partial<Record<MonitorId, number>> = {
  o2Heater: 40,
  o2Sensor: 90,
  catalyst: 150,
  evap: 420,
  egrVvt: 12,
  secondaryAir: 30,
  nmhc: 240,
  noxScr: 300,
  boost: 20,
  exhaustGasSensor: 90,
  dpf: 300,
};

/** Cruise counts as steady after this, s: what went before has passed the sensors. [house] */
const SETTLED_S = 8;

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
  private readonly ranS = new Map<MonitorId, number>();
  private readonly cycle = new Set<MonitorId>();
  private readonly up: [Swing, Swing] = [new Swing(), new Swing()];
  private readonly down: [Swing, Swing] = [new Swing(), new Swing()];
  private startEctC = 20;
  private soaked = false;
  private warmed = false;
  private lastMisfires = 0;
  private lastKmh = 0;
  private steadyS = 0;

  constructor(
    private readonly spec: CarSpec,
    private readonly surroundings: Surroundings,
  ) {
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
    this.ranS.clear();
    this.cycle.clear();
    this.startEctC = s.ectC;
    this.soaked = s.ectC < 40 && Math.abs(s.ectC - s.iatC) < 7;
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
    this.ranS.clear();
    this.cycle.clear();
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
    fuelLevelPct: number,
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
    this.runMonitors(dtS, s, c, fuelLevelPct);
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
    const share = (misfires - this.lastMisfires) / Math.max((s.rpm / 120) * spec.cylinders * dtS, 0.1);
    this.lastMisfires = misfires;
    watch('P0300', share > 0.02, 20);
  }

  private watch(code: string, over: boolean, dtS: number, afterS: number, values: () => Record<string, number>) {
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

  private runMonitors(dtS: number, s: EngineState, c: Control, fuelLevelPct: number) {
    const cruising = c.closed && s.vssKmh > 55 && s.vssKmh < 115 && Math.abs(s.vssKmh - this.lastKmh) < 0.25;
    this.lastKmh = s.vssKmh;
    this.steadyS = cruising ? this.steadyS + dtS : 0;
    const steady = this.steadyS > SETTLED_S;
    for (let b = 0; b < this.spec.banks; b++) {
      if (!steady) continue;
      this.up[b as 0 | 1].take(s.lambdaSensed[b as 0 | 1], dtS / 12);
      this.down[b as 0 | 1].take(s.lambdaDown[b as 0 | 1], dtS / 12);
    }
    const air = this.surroundings.airC;
    const run: Partial<Record<MonitorId, boolean>> = {
      o2Heater: s.runS > 60 && this.spec.upstream !== 'none',
      o2Sensor: steady && s.ectC > 70,
      catalyst: steady && s.ectC > 75 && s.catalystC > 400,
      evap: this.soaked && fuelLevelPct > 15 && fuelLevelPct < 85 && air > 4 && air < 38 && s.vssKmh > 50,
      egrVvt: s.vssKmh > 20 && c.fuelCut && s.ectC > 70,
      secondaryAir: this.startEctC < 40 && s.runS > 5 && s.runS < 120,
      nmhc: s.vssKmh > 55 && s.ectC > 70,
      noxScr: s.vssKmh > 55 && s.ectC > 70,
      boost: c.fullLoad || (s.chargeKPa > this.surroundings.baroKPa + 25 && s.vssKmh > 30),
      exhaustGasSensor: s.vssKmh > 40 && s.ectC > 60,
      dpf: s.vssKmh > 70 && s.ectC > 75,
    };
    for (const id of this.list) {
      const need = NEEDS_S[id];
      if (need === undefined || this.cycle.has(id) || !run[id]) continue;
      const ran = (this.ranS.get(id) ?? 0) + dtS;
      this.ranS.set(id, ran);
      if (ran < need) continue;
      this.cycle.add(id);
      this.incomplete.delete(id);
      this.judge(id, s);
    }
  }

  /** What a finished monitor found; a pass takes its permanent codes away. */
  private judge(id: MonitorId, s: EngineState) {
    const verdict = (code: string, bad: boolean) => {
      if (bad) this.fail(code, () => ({ rpm: s.rpm, vss: s.vssKmh, ect: s.ectC, load: 40 }));
      else if (!this.pending.has(code)) this.permanent.delete(code);
    };
    for (let b = 0; b < this.spec.banks; b++) {
      const up = this.up[b as 0 | 1].size;
      const down = this.down[b as 0 | 1].size;
      if (id === 'o2Sensor') verdict(b === 0 ? 'P0133' : 'P0153', this.slow(up));
      // A catalyst is not judged through a sensor that is under suspicion itself.
      if (id === 'catalyst' && !this.pending.has(b === 0 ? 'P0133' : 'P0153'))
        verdict(b === 0 ? 'P0420' : 'P0430', down > 0.25 * up && up > 0.002);
    }
  }

  /** A slow element flattens the swings that the control makes on purpose. */
  private slow(size: number): boolean {
    return size < (this.spec.upstream === 'wide' ? 0.0045 : 0.0108);
  }

  /** PID 01, or PID 41 with `cycle` (what has run since key-on). */
  status(cycle = false): MonitorStatus {
    const monitors = this.list.map((id): { id: MonitorId; state: MonitorState } => {
      if (this.spec.unsupported.includes(id)) return { id, state: 'unsupported' };
      const open = cycle ? !CONTINUOUS.has(id) && !this.cycle.has(id) : this.incomplete.has(id);
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
