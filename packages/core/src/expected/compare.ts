import { airflowBand, type Band, COOLANT_BAND, type EngineFacts, manifoldBand } from './bands.ts';

/** One measured figure beside what it should be. */
export interface ComparedReading {
  quantity: 'airflow' | 'manifold' | 'coolant';
  at: string;
  measured: number;
  band: Band;
}

/** Every comparable figure of a reading with its band and where the band came from. */
export function compareReadings(
  readings: readonly { at: string; rpm?: number; mafGps?: number; mapKPa?: number; ectC?: number; iatC?: number }[],
  facts: EngineFacts,
): ComparedReading[] {
  const out: ComparedReading[] = [];
  for (const r of readings) {
    const air = airflowBand(r.at, facts, r);
    if (air && r.mafGps !== undefined) out.push({ quantity: 'airflow', at: r.at, measured: r.mafGps, band: air });
    const map = manifoldBand(r.at, facts);
    if (map && r.mapKPa !== undefined) out.push({ quantity: 'manifold', at: r.at, measured: r.mapKPa, band: map });
    if (r.ectC !== undefined && r.at !== 'koeo' && r.at !== 'cold-idle') {
      out.push({
        quantity: 'coolant',
        at: r.at,
        measured: r.ectC,
        band: { ...COOLANT_BAND, unit: '°C', from: 'trade', note: 'hot engine, common practice' },
      });
    }
  }
  return out;
}
