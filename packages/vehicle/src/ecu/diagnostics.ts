import type { MonitorId, MonitorState, MonitorStatus } from '@just-balance/core/obd';
import type { CarSpec } from '../engine/index.ts';

/** Total trim and how long, before the fuel monitor calls it a failure. Many ECUs: 20–25 % sustained; common practice. */
const CODE_AT_PCT = 20;
const CODE_AFTER_S = 30;
const HEATER_MONITOR_S = 60;

export interface FreezeFrame {
  code: string;
  values: Record<string, number>;
}

const SPARK_MONITORS: readonly MonitorId[] = [
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

/** Codes with two-trip logic, lamp, freeze frame, monitors since clear and this cycle. */
export class Diagnostics {
  readonly pending = new Set<string>();
  readonly stored = new Set<string>();
  readonly permanent = new Set<string>();
  freeze: FreezeFrame | null = null;
  private readonly failedThisTrip = new Set<string>();
  private readonly overS = new Map<string, number>();
  private readonly incomplete: Set<string>;
  private closedS = 0;

  constructor(private readonly spec: CarSpec) {
    this.incomplete = new Set(spec.incomplete);
  }

  get lampOn(): boolean {
    return this.stored.size > 0;
  }

  /** Key cycle: a code pending from the trip before and failed again is stored on its second trip. */
  newTrip(): void {
    for (const code of [...this.pending]) if (!this.failedThisTrip.has(code)) this.pending.delete(code);
    this.failedThisTrip.clear();
    this.overS.clear();
    this.closedS = 0;
  }

  step(dtS: number, closed: boolean, totals: readonly number[], values: () => Record<string, number>): void {
    if (closed) this.closedS += dtS;
    if (this.closedS > HEATER_MONITOR_S) this.incomplete.delete('o2Heater');
    totals.forEach((t, b) => {
      this.watch(b === 0 ? 'P0171' : 'P0174', closed && t > CODE_AT_PCT, dtS, values);
      this.watch(b === 0 ? 'P0172' : 'P0175', closed && t < -CODE_AT_PCT, dtS, values);
    });
  }

  private watch(code: string, over: boolean, dtS: number, values: () => Record<string, number>) {
    const s = over ? (this.overS.get(code) ?? 0) + dtS : 0;
    this.overS.set(code, s);
    if (s < CODE_AFTER_S || this.failedThisTrip.has(code)) return;
    this.failedThisTrip.add(code);
    this.freeze ??= { code, values: values() };
    if (this.pending.has(code)) {
      this.stored.add(code);
      this.permanent.add(code);
    }
    this.pending.add(code);
  }

  /** PID 01, or PID 41 with `cycle` (what has run since key-on). */
  status(cycle = false): MonitorStatus {
    const monitors = SPARK_MONITORS.map((id): { id: MonitorId; state: MonitorState } => {
      if (this.spec.unsupported.includes(id)) return { id, state: 'unsupported' };
      const continuous = id === 'misfire' || id === 'fuelSystem' || id === 'comprehensive';
      const open = cycle
        ? !continuous && !(id === 'o2Heater' && this.closedS > HEATER_MONITOR_S)
        : this.incomplete.has(id);
      return { id, state: open ? 'incomplete' : 'complete' };
    });
    return { lampOn: this.lampOn, codeCount: this.stored.size, ignition: 'spark', monitors };
  }
}
