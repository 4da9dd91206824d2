import type { JobView } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/diagnosis';
import { type ComparedReading, compareReadings, stationPressure } from '@just-balance/core/expected';
import { newestReadings } from '../shared/figures.ts';
import { useShown } from '../shared/preferences.tsx';
import { Scrolls } from '../shared/Scrolls.tsx';

const QUANTITY = { airflow: 'Airflow', manifold: 'Manifold', coolant: 'Coolant' } as const;
const FROM = { physics: 'physics', entered: 'entered', shop: 'shop', trade: 'common practice' } as const;
const DIGITS = { airflow: 1, manifold: 0, coolant: 0 } as const;

/** No figure alone: each beside its band and where the band came from. */
export function MeasuredExpected({ job }: { job: JobView }) {
  const facts = {
    displacementL: job.vehicle.displacementL,
    baroKPa: stationPressure(job.ambient).baroKPa,
    airC: job.ambient.airC ?? 20,
  };
  const rows = compareReadings(
    newestReadings(job, 'before').map((r) => r.reading),
    facts,
  );
  const once = rows.filter((r, i) => r.quantity !== 'coolant' || rows.findIndex((x) => x.quantity === 'coolant') === i);
  if (once.length === 0) return null;
  return (
    <Scrolls label="Measured beside expected">
      <h2 className="sheet-title">Measured beside expected</h2>
      <table className="plain">
        <thead>
          <tr>
            <th scope="col">Reading</th>
            <th scope="col" className="right">
              Measured
            </th>
            <th scope="col" className="right">
              Expected
            </th>
            <th scope="col" className="w-[26%] max-sm:hidden">
              <span className="sr-only">Drawn</span>
            </th>
            <th scope="col" className="max-sm:hidden">
              From
            </th>
          </tr>
        </thead>
        <tbody>
          {once.map((r) => (
            <Row key={`${r.quantity}${r.at}`} row={r} />
          ))}
        </tbody>
      </table>
    </Scrolls>
  );
}

function Row({ row }: { row: ComparedReading }) {
  const show = useShown();
  const d = DIGITS[row.quantity];
  const m = show(row.measured, row.band.unit, d);
  const low = show(row.band.low, row.band.unit, d);
  const high = show(row.band.high, row.band.unit, d);
  return (
    <tr>
      <td>
        {QUANTITY[row.quantity]}, {pointLabel(row.at as never).toLowerCase()}
      </td>
      <td className="right">
        <span className="figure font-bold">{m.value.toFixed(m.digits)}</span>
        {row.call === 'past' && <span className="sr-only"> outside the band</span>}
        {row.call === 'undecided' && <span className="tag tag-off ml-2">undecided: within one step</span>}
      </td>
      <td className="right whitespace-nowrap">
        <span className="figure">
          {low.value.toFixed(low.digits)} – {high.value.toFixed(high.digits)}
        </span>{' '}
        <span className="text-soft">{m.unit}</span>
      </td>
      <td className="max-sm:hidden">
        <Ruler low={row.band.low} high={row.band.high} value={row.measured} />
      </td>
      <td className="text-soft max-sm:hidden" title={row.band.note}>
        {FROM[row.band.from]}
      </td>
    </tr>
  );
}

function Ruler({ low, high, value }: { low: number; high: number; value: number }) {
  const span = high - low;
  const from = Math.min(low - span, value - span * 0.2);
  const to = Math.max(high + span, value + span * 0.2);
  const at = (v: number) => (150 * (v - from)) / (to - from);
  return (
    <svg viewBox="0 0 150 20" width="100%" height="20" preserveAspectRatio="none" aria-hidden role="presentation">
      <rect x="0" y="8" width="150" height="4" rx="2" fill="var(--rule)" />
      <rect
        x={at(low)}
        y="4"
        width={at(high) - at(low)}
        height="12"
        rx="3"
        fill="var(--band)"
        stroke="var(--band-edge)"
        strokeWidth="1.5"
        vectorEffect="non-scaling-stroke"
      />
      <rect x={at(value) - 1.2} y="2" width="2.4" height="16" fill="var(--ink)" />
    </svg>
  );
}
