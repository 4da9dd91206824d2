import type { ReadFigure, Reading } from '../case/index.ts';
import { figure, joined, type Said, said, signed } from '../units/index.ts';
import { digitsOf, throttleOf } from './figures.ts';
import { bankTotals } from './totals.ts';

/**
 * The one figure of a reading: what it was taken for, where it has that; else its trims, airflow, the sensor's signal, or
 * pressure. A figure that was asked for and not read is said to be missing, before what was read instead.
 */
export function keyFigure(r: Reading, asked?: ReadFigure): Said {
  const wanted = asked && ASKED[asked](r);
  if (wanted !== undefined && wanted !== null) return wanted;
  const first = figuresOf(r)[0] ?? 'kept';
  return wanted === null ? said`${NAMES[asked!]} not read; ${first}` : first;
}

/** Every figure of a reading in a line: trims of each bank, airflow, pressure. */
export function readingInWords(r: Reading): Said {
  return joined(figuresOf(r), ', ');
}

function figuresOf(r: Reading): Said[] {
  const totals = bankTotals(r);
  return [
    ...(totals.length > 0 ? [`${totals.map((t) => signed(t.totalPct)).join(' / ')} %`] : []),
    ...(r.mafGps === undefined ? [] : [said`${figure(r.mafGps, 'g/s', r.mafGps < 10 ? 2 : 1)}`]),
    ...(r.mafV === undefined ? [] : [said`${figure(r.mafV, 'V', 2)} of the airflow sensor`]),
    ...(r.mapKPa === undefined ? [] : [said`${figure(r.mapKPa, 'kPa', r.mapKPa % 1 === 0 ? 0 : 1)}`]),
  ];
}

const NAMES: Readonly<Record<ReadFigure, string>> = {
  throttle: 'relative throttle',
  crossings: 'crossings',
  pressure: 'manifold pressure',
};

/** Null: not read. */
const ASKED: Readonly<Record<ReadFigure, (r: Reading) => Said | null>> = {
  throttle: (r) => {
    const t = throttleOf(r);
    return (
      t &&
      said`relative throttle ${figure(t.value, t.unit, digitsOf({ before: t.value, after: t.value, unit: t.unit }))}`
    );
  },
  crossings: (r) => {
    const counts = Object.entries(r.o2 ?? {}).flatMap(([sensor, o]) =>
      o.crossingsPer10s === undefined ? [] : [`${sensor[4]}/${sensor[6]}: ${o.crossingsPer10s}`],
    );
    return counts.length > 0 ? `crossings in 10 s, sensor ${counts.join(', ')}` : null;
  },
  pressure: (r) => (r.mapKPa === undefined ? null : said`manifold ${figure(r.mapKPa, 'kPa', 1)}`),
};
