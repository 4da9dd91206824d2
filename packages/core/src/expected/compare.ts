import { QUANTUM } from '../obd/index.ts';
import { againstBand, type LimitCall } from '../trims/index.ts';
import { airflowBand, type Band, COOLANT_BAND, type EngineFacts, manifoldBand } from './bands.ts';

/** One measured figure beside what it should be. */
export interface ComparedReading {
  quantity: 'airflow' | 'manifold' | 'coolant';
  at: string;
  measured: number;
  band: Band;
  /** Read by eye and within one step of an edge: nothing is said. */
  call: LimitCall;
}

/** What of a reading is compared. */
interface ComparableReading {
  at: string;
  rpm?: number;
  mafGps?: number;
  mapKPa?: number;
  ectC?: number;
  iatC?: number;
  sampleHz?: number;
  quantum?: Record<string, number>;
}

/** Every comparable figure of a reading with its band and where the band came from. */
export function compareReadings(readings: readonly ComparableReading[], facts: EngineFacts): ComparedReading[] {
  const out: ComparedReading[] = [];
  for (const r of readings) {
    // A capture's mean lies between the steps of its channel; a figure read by eye stands on one.
    const step = (channel: string) =>
      r.sampleHz === undefined ? (r.quantum?.[channel] ?? QUANTUM.get(channel) ?? 0) : 0;
    const put = (quantity: ComparedReading['quantity'], channel: string, measured: number, band: Band) =>
      out.push({ quantity, at: r.at, measured, band, call: againstBand(measured, band.low, band.high, step(channel)) });
    const air = airflowBand(r.at, facts, r);
    if (air && r.mafGps !== undefined) put('airflow', 'maf', r.mafGps, air);
    const map = manifoldBand(r.at, facts);
    if (map && r.mapKPa !== undefined) put('manifold', 'map', r.mapKPa, map);
    if (r.ectC !== undefined && r.at !== 'koeo' && r.at !== 'cold-idle') {
      put('coolant', 'ect', r.ectC, {
        ...COOLANT_BAND,
        unit: '°C',
        from: 'trade',
        note: 'hot engine, common practice',
      });
    }
  }
  return out;
}
