import { type FaultEffects, uniform } from '../engine/index.ts';
import { type InjectedFault, SIM_FAULTS } from '../faults/catalogue.ts';

/** Parts that may be worked on, and the faults that sit in each. */
export const PARTS = {
  'airflow-sensor': ['maf-dirty', 'maf-under', 'maf-over', 'maf-circuit'],
  'pressure-sensor': ['map-bias', 'map-port-blocked', 'map-hose-split'],
  'oxygen-sensor': ['o2-slow', 'o2-biased-lean', 'o2-biased-rich', 'o2-heater'],
  'throttle-body': ['throttle-fouled'],
} as const satisfies Record<string, readonly string[]>;
export type Part = keyof typeof PARTS;

export const WORKS = [
  'clean',
  'replace',
  'refit',
  'refit-backwards',
  'refit-without-ring',
  'throttle-relearn',
] as const;
export type Work = (typeof WORKS)[number];

/**
 * Share of a fault that a cleaning takes away, least and most; how often it takes nothing. What is burnt or electrical
 * stays as it is. [house], of the order practitioners tell.
 */
const CLEANS: Readonly<Record<string, { least: number; most: number; nothing: number }>> = {
  'maf-dirty': { least: 0.6, most: 1, nothing: 0.15 },
  'map-port-blocked': { least: 0.8, most: 1, nothing: 0.1 },
  'map-bias': { least: 0, most: 0.4, nothing: 0.5 },
  'o2-slow': { least: 0.1, most: 0.6, nothing: 0.5 },
  'throttle-fouled': { least: 0.85, most: 1, nothing: 0 },
};

/** A wet element loses more heat: it reads high at first, and dries within minutes. [house] */
const WET_SHARE = 0.35;
const DRY_TAU_S = 150;
/** What is wrongly refitted does: turned round the wire sees the eddies behind it; without its ring air passes it. [house] */
const BACKWARDS_GAIN = 0.74;
const NO_RING_SHARE = 0.06;
/** A cleaned plate closes further than the memory says: idle stands this much too high until it is taught. [house] */
export const UNTAUGHT_RPM = 220;

/** What people have done to the parts, beside the faults in them. */
export class Workshop {
  mounting: 'right' | 'backwards' | 'no-ring' = 'right';
  /** Seconds since the element was cleaned; null once it is dry. */
  private wetS: number | null = null;
  throttleUntaught = false;
  private cleanings = 0;

  constructor(private readonly seed: number) {}

  /** What is left of the faults after some work. Throws RangeError where it cannot be done. */
  perform(work: Work, part: Part, faults: readonly InjectedFault[]): InjectedFault[] {
    const mine: readonly string[] = PARTS[part];
    switch (work) {
      case 'clean':
        this.cleanings += 1;
        if (part === 'airflow-sensor') this.wetS = 0;
        if (part === 'throttle-body') this.throttleUntaught = true;
        return faults.flatMap((f) => (mine.includes(f.id) ? this.cleaned(f) : [f]));
      case 'replace':
        if (part === 'airflow-sensor') {
          this.wetS = null;
          this.mounting = 'right';
        }
        if (part === 'throttle-body') this.throttleUntaught = true;
        return faults.filter((f) => !mine.includes(f.id));
      case 'refit':
      case 'refit-backwards':
      case 'refit-without-ring':
        if (part !== 'airflow-sensor')
          throw new RangeError(`${work}: only the airflow sensor can be refitted wrongly here`);
        this.mounting = work === 'refit' ? 'right' : work === 'refit-backwards' ? 'backwards' : 'no-ring';
        return [...faults];
      case 'throttle-relearn':
        this.throttleUntaught = false;
        return [...faults];
    }
  }

  /** By the same seed the same cleaning takes the same away; the next one takes another share of what is left. */
  private cleaned(f: InjectedFault): InjectedFault[] {
    const row = CLEANS[f.id];
    if (!row || uniform(this.seed, 900, this.cleanings) < row.nothing) return [f];
    const share = row.least + (row.most - row.least) * uniform(this.seed, 901, this.cleanings);
    const severity = f.severity * (1 - share);
    // Less than what can be found at all is gone.
    const fault = SIM_FAULTS.find((x) => x.id === f.id)!;
    return Math.abs(severity) < Math.max(Math.abs(fault.low), 0.05 * Math.abs(fault.high)) ? [] : [{ ...f, severity }];
  }

  /** On top of the faults: how it is mounted, and that it is wet. */
  apply(e: FaultEffects): void {
    if (this.mounting === 'backwards') e.mafGain *= BACKWARDS_GAIN;
    if (this.mounting === 'no-ring') e.ductShare += NO_RING_SHARE;
    if (this.wetS !== null) e.mafGain *= 1 + WET_SHARE * Math.exp(-this.wetS / DRY_TAU_S);
  }

  /** Time goes by, running or not. True while something changes by itself. */
  pass(seconds: number): boolean {
    if (this.wetS === null) return false;
    this.wetS += seconds;
    if (this.wetS > 6 * DRY_TAU_S) this.wetS = null;
    return true;
  }
}
