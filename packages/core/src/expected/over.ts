import { partLoadVe, speedDensityGps } from '../engine/index.ts';
import { heldAt, type Series } from '../series/index.ts';
import type { EngineFacts } from './bands.ts';

/** Measured airflow beside what rpm, manifold pressure and charge temperature make of it, g/s. */
export interface AirflowMoment {
  t: number;
  measuredGps: number;
  expectedGps: number;
}

/** Every airflow sample of a running engine with its expected value; empty where speed or pressure is missing. Naturally aspirated part load: ± `VE_MODEL_ERROR`. */
export function airflowOver(series: Series, facts: EngineFacts): AirflowMoment[] {
  const find = (id: string) => series.channels.find((c) => c.id === id);
  const [maf, rpm, map, iat] = [find('maf'), find('rpm'), find('map'), find('iat')];
  if (!maf || !rpm || !map) return [];
  const out: AirflowMoment[] = [];
  for (let i = 0; i < maf.time.length; i++) {
    const t: number = maf.time[i]!;
    const n: number = heldAt(rpm, t, 1);
    const p: number = heldAt(map, t, 1);
    const charge: number = iat ? heldAt(iat, t, 60) : facts.airC + 8;
    if (!(n > 300 && p > 5)) continue;
    out.push({
      t,
      measuredGps: maf.value[i]!,
      expectedGps: speedDensityGps(
        partLoadVe(p, facts.baroKPa),
        p,
        Number.isNaN(charge) ? facts.airC + 8 : charge,
        facts.displacementL,
        n,
      ),
    });
  }
  return out;
}
