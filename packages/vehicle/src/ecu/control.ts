import type { EngineState } from '../engine/index.ts';
import { AFR } from '../engine/index.ts';

const DT = 0.005;
/** Trim authority, %: where short and long term each stop. */
export const TRIM_LIMIT = 25;
/** Share of the short-term correction moved to memory each second. */
const LEARN_PER_S = 0.06;
const CLOSED_LOOP_FROM_C = 45;
const SENSOR_READY_S = 18;

/** Where memory is kept: idle, light, medium, heavy. */
export type Cell = 0 | 1 | 2 | 3;

export interface ControlState {
  closed: boolean;
  stft: [number, number];
  ltft: [number[], number[]];
  sensorV: [number, number];
  idleIntegral: number;
  cell: Cell;
}

/** Fuel, idle and speed control of the invented ECU. Metered air: it fuels what the airflow signal says. */
export class Control {
  readonly state: ControlState = {
    closed: false,
    stft: [0, 0],
    ltft: [
      [0, 0, 0, 0],
      [0, 0, 0, 0],
    ],
    sensorV: [0.45, 0.45],
    idleIntegral: 0,
    cell: 0,
  };

  constructor(
    private readonly upstream: 'narrow' | 'wide',
    private readonly banks: 1 | 2,
    private readonly displacementL: number,
    private readonly idleRpm: number,
  ) {}

  /** Target speed: cold engines idle faster. */
  targetRpm(s: EngineState, holdRpm: number | null): number {
    return holdRpm ?? this.idleRpm + Math.max(0, (60 - s.ectC) * 6);
  }

  step(
    s: EngineState,
    holdRpm: number | null,
  ): { throttleMm2: number; fuelCommandGps: [number, number]; sparkGain: number } {
    const c = this.state;
    const target = this.targetRpm(s, holdRpm);
    const error = (target - s.rpm) / target;
    c.idleIntegral = Math.min(Math.max(c.idleIntegral + error * 26 * this.displacementL * DT, 0), 400);
    const throttleMm2 = Math.max(1, 2 * this.displacementL + c.idleIntegral + 14 * this.displacementL * error);
    const sparkGain = 1 + Math.min(Math.max(0.9 * error, -0.25), 0.25);

    c.closed = s.ectC >= CLOSED_LOOP_FROM_C && s.runS >= SENSOR_READY_S;
    const load = s.mafSignalGps / this.displacementL;
    c.cell = holdRpm === null && s.rpm < 1300 ? 0 : load < 8 ? 1 : load < 18 ? 2 : 3;
    for (let b = 0; b < this.banks; b++) this.trim(b as 0 | 1, s.lambdaAtSensor[b]!);

    const enrichment = 1 + Math.max(0, (70 - s.ectC) / 260);
    const perBank = Math.max(s.mafSignalGps, 0.3) / this.banks / AFR;
    const fuel: [number, number] = [0, 0];
    for (let b = 0; b < this.banks; b++) {
      const short = c.closed ? c.stft[b]! : 0;
      fuel[b] = perBank * (1 + short / 100) * (1 + c.ltft[b]![c.cell]! / 100) * (c.closed ? 1 : enrichment);
    }
    return { throttleMm2, fuelCommandGps: fuel, sparkGain };
  }

  /** Short term follows the sensor; long term learns from short term while closed. */
  private trim(b: 0 | 1, lambda: number) {
    const c = this.state;
    // Narrow-band sigmoid about the switch point, 0.45 V, with the element's own lag.
    const v = 0.5 - 0.41 * Math.tanh((lambda - 1) * 55);
    c.sensorV[b] += ((v - c.sensorV[b]) * DT) / 0.04;
    if (!c.closed) {
      c.stft[b] = 0;
      return;
    }
    if (this.upstream === 'wide') c.stft[b] += (lambda - 1) * 100 * 0.9 * DT;
    else c.stft[b] += (c.sensorV[b] < 0.45 ? 1 : -1) * 2.2 * DT;
    c.stft[b] = Math.min(Math.max(c.stft[b], -TRIM_LIMIT), TRIM_LIMIT);
    const cells = c.ltft[b]!;
    const moved = c.stft[b] * LEARN_PER_S * DT;
    const before = cells[c.cell]!;
    cells[c.cell] = Math.min(Math.max(before + moved, -TRIM_LIMIT), TRIM_LIMIT);
    c.stft[b] -= (cells[c.cell]! - before) * 0.9;
  }
}
