import type { JobView } from '@just-balance/contract';
import type { CapturePoint } from '@just-balance/core/capture';
import { airflowBand, manifoldBand } from '@just-balance/core/expected';
import { holdOnto } from '@just-balance/core/series';
import type { TrimLimits } from '@just-balance/core/trims';
import { scaleLinear } from 'd3-scale';
import type { JobLive } from '../data/live.tsx';
import type { TracePoint } from '../data/traces.ts';
import { engineFacts } from '../job/vehicle/engineFacts.ts';

type Traces = Pick<JobLive, 'traces'>;

/** One live strip: what it draws, and the band it stands over. */
export interface Strip {
  id: string;
  label: string;
  unit: string;
  digits: number;
  low: number | null;
  high: number | null;
  /** Half the least span of the value axis. */
  span: number;
  read: (live: Traces) => TracePoint[];
  /** Whose rate counts. */
  rate: string;
}

function channel(name: string): Strip['read'] {
  return (live) => live.traces.get(name) ?? [];
}

/** Short plus long, the newest long-term value held. */
function total(bank: 1 | 2): Strip['read'] {
  return (live) => {
    const short = live.traces.get(`stft${bank}`) ?? [];
    const long = live.traces.get(`ltft${bank}`) ?? [];
    if (long.length === 0) return [];
    const held = holdOnto(
      short.map((p) => p.t),
      long.map((p) => p.t),
    );
    // Before its first sample the long-term value is taken to have been what it then was.
    return short.map((p, i) => ({ t: p.t, v: p.v + long[Math.max(held[i]!, 0)]!.v }));
  };
}

/**
 * At most five strips over what this engine should show at this point, on this day. `point` null: a free recording, of
 * which only physics says what to expect. A diesel has no fuel trims.
 */
export function stripsOf(
  job: Pick<JobView, 'vehicle' | 'ambient'>,
  point: CapturePoint | null,
  limits: TrimLimits,
  now: { rpm?: number; mapKPa?: number; iatC?: number },
): Strip[] {
  const facts = engineFacts(job);
  const air = airflowBand(point?.at ?? 'road-load', facts, now);
  const manifold = point && manifoldBand(point.at, facts);
  const trims: Strip[] = (job.vehicle.banks === 2 ? ([1, 2] as const) : ([1] as const)).map((bank) => ({
    id: `t${bank}`,
    label: job.vehicle.banks === 2 ? `Total trim, bank ${bank} ${bank === 1 ? '●' : '◇'}` : 'Total trim',
    unit: '%',
    digits: 1,
    low: -limits.watchPct,
    high: limits.watchPct,
    span: 12,
    read: total(bank),
    rate: `stft${bank}`,
  }));
  return [
    {
      id: 'rpm',
      label: 'Engine speed',
      unit: 'rpm',
      digits: 0,
      low: point?.rpmLow ?? null,
      high: point?.rpmHigh ?? null,
      span: 400,
      read: channel('rpm'),
      rate: 'rpm',
    },
    {
      id: 'maf',
      label: 'Airflow (MAF)',
      unit: 'g/s',
      digits: 2,
      low: air?.low ?? null,
      high: air?.high ?? null,
      span: 2,
      read: channel('maf'),
      rate: 'maf',
    },
    {
      id: 'map',
      label: 'Manifold (MAP)',
      unit: 'kPa',
      digits: 0,
      low: manifold?.low ?? null,
      high: manifold?.high ?? null,
      span: 15,
      read: channel('map'),
      rate: 'map',
    },
    ...(job.vehicle.fuel === 'diesel' ? [] : trims),
  ];
}

/** What a strip shows from its lowest to its highest: all values, at least its span, and the band where it is near. */
export function rangeOf(
  values: readonly number[],
  { low, high, span }: { low: number | null; high: number | null; span: number },
): [number, number] {
  const middle = values.length > 0 ? values.reduce((a, b) => a + b, 0) / values.length : 0;
  const near = (v: number | null) => (v !== null && Math.abs(v - middle) < 3 * span ? v : middle);
  const lowest = Math.min(...values, middle - span / 2, near(low));
  const highest = Math.max(...values, middle + span / 2, near(high));
  return scaleLinear([lowest, highest], [0, 1]).nice(3).domain() as [number, number];
}
