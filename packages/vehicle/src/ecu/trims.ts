import type { CarSpec } from '../engine/index.ts';
import { DT, type EngineState } from '../engine/index.ts';

/** Trim authority, %: where short and long term each stop. */
export const TRIM_LIMIT = 25;
/** Share of the short-term correction moved to memory each second. */
const LEARN_PER_S = 0.06;
/** Closed-loop rates: narrow-band integrator % per s and jump %, wide-band % per s and % of error. [house] */
const NARROW_PER_S = 8;
const NARROW_JUMP = 2;
const WIDE_PER_S = 85;
/** λ is dithered about 1 behind a wide-band sensor, as much as a catalyst likes. [house] */
const DITHER = 0.012;
const DITHER_S = 1.4;
export const CELLS = 7;

/** Memory cell by speed and load: idle; then below and above 3,000 rpm, light, medium, heavy. */
export function cellOf(idle: boolean, rpm: number, airPerL: number): number {
  if (idle) return 0;
  const heavy = airPerL < 6 ? 0 : airPerL < 14 ? 1 : 2;
  return 1 + (rpm < 3000 ? 0 : 3) + heavy;
}

/** Short-term and long-term trim of one bank; corrections multiply. */
export class BankTrim {
  short = 0;
  readonly long = new Float64Array(CELLS);
  sensorV = 0.45;
  private jump = 0;
  private phase = 0;

  /** The element's voltage: a sigmoid about the switch point, flattened when cold. */
  sense(lambda: number, heatC: number): void {
    const awake = Math.min(1, Math.max(0, (heatC - 250) / 100));
    const v = 0.45 + (0.05 - 0.41 * Math.tanh((lambda - 1.0005) * 55)) * awake;
    this.sensorV += ((v - this.sensorV) * DT) / 0.03;
  }

  /** One closed-loop step; `learn` speeds the memory up when it is let settle at once. */
  close(kind: 'narrow' | 'wide', lambda: number, cell: number, learn: number): void {
    if (kind === 'wide') {
      this.phase = (this.phase + DT) % DITHER_S;
      const target = 1 + (this.phase < DITHER_S / 2 ? DITHER : -DITHER);
      this.short += (lambda - 1) * WIDE_PER_S * DT;
      this.jump = (1 - target) * 100;
    } else {
      const lean = this.sensorV < 0.45;
      this.short += (lean ? 1 : -1) * NARROW_PER_S * DT;
      this.jump = lean ? NARROW_JUMP : -NARROW_JUMP;
    }
    this.short = Math.min(Math.max(this.short, -TRIM_LIMIT), TRIM_LIMIT);
    const before = this.long[cell]!;
    const after = Math.min(Math.max(before + this.short * LEARN_PER_S * learn * DT, -TRIM_LIMIT), TRIM_LIMIT);
    this.long[cell] = after;
    this.short -= (after - before) * 0.95;
  }

  open(): void {
    this.short = 0;
    this.jump = 0;
  }

  clear(): void {
    this.open();
    this.long.fill(0);
  }

  /** What a tool shows as short term now, %. */
  get shown(): number {
    return Math.min(Math.max(this.short + this.jump, -TRIM_LIMIT), TRIM_LIMIT);
  }

  factor(cell: number): number {
    return (1 + this.shown / 100) * (1 + this.long[cell]! / 100);
  }
}

/** Upstream sensors awake: hot enough to be believed. */
export function sensorsReady(spec: CarSpec, s: EngineState): boolean {
  const hot = (b: 0 | 1) => s.sensorHeatC[b] > 340;
  return spec.upstream !== 'none' && hot(0) && (spec.banks === 1 || hot(1));
}
