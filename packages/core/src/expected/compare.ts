import type { OperatingPoint } from '../case/index.ts';
import { QUANTUM } from '../obd/index.ts';
import { againstBand, type LimitCall } from '../trims/index.ts';
import type { Band, EngineFacts } from './bands.ts';
import { type KnownFigure, layersOf, type Quantity } from './layers.ts';

/** One measured figure beside what it should be. */
export interface ComparedReading {
  quantity: Quantity;
  at: OperatingPoint;
  measured: number;
  band: Band;
  /** The layers that the band won over. */
  beneath: Band[];
  /** Read by eye and within one step of an edge: nothing is said. */
  call: LimitCall;
}

/** What of a reading is compared. */
interface ComparableReading {
  at: OperatingPoint;
  rpm?: number;
  mafGps?: number;
  mapKPa?: number;
  ectC?: number;
  iatC?: number;
  sampleHz?: number;
  quantum?: Record<string, number>;
}

/** Every comparable figure of a reading with its band and where the band came from; the layers it beat come after. */
export function compareReadings(
  readings: readonly ComparableReading[],
  facts: EngineFacts,
  known: readonly KnownFigure[] = [],
): ComparedReading[] {
  const out: ComparedReading[] = [];
  for (const r of readings) {
    // A capture's mean lies between the steps of its channel; a figure read by eye stands on one.
    const step = (channel: string) =>
      r.sampleHz === undefined ? (r.quantum?.[channel] ?? QUANTUM.get(channel) ?? 0) : 0;
    for (const [quantity, channel, measured] of [
      ['airflow', 'maf', r.mafGps],
      ['manifold', 'map', r.mapKPa],
      ['coolant', 'ect', r.ectC],
    ] as const) {
      if (measured === undefined) continue;
      const [band, ...beneath] = layersOf(quantity, r.at, facts, r, known);
      if (!band) continue;
      const call = againstBand(measured, band.low, band.high, step(channel));
      out.push({ quantity, at: r.at, measured, band, beneath, call });
    }
  }
  return out;
}
