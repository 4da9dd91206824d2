import type { JobView } from '@just-balance/contract';
import { type Band, type ComparedReading, compareReadings } from '@just-balance/core/expected';
import { numberText } from '@just-balance/core/units';
import { useMemo } from 'react';
import { newestReadings } from '../../job/judgement/figures.ts';
import { engineFacts } from '../../job/vehicle/engineFacts.ts';
import { useShown } from '../../ui/preferences.tsx';

export const DIGITS = { airflow: 1, manifold: 0, coolant: 0 } as const;

/** The newest figures of the job, each beside its band; those out of band first. */
export function useCompared(job: JobView): ComparedReading[] {
  return useMemo(() => {
    const rows = compareReadings(
      newestReadings(job, 'before').map((r) => r.reading),
      engineFacts(job),
      job.known,
    );
    const once = rows.filter(
      (r, i) => r.quantity !== 'coolant' || rows.findIndex((x) => x.quantity === 'coolant') === i,
    );
    return [...once.filter((r) => r.call === 'past'), ...once.filter((r) => r.call !== 'past')];
  }, [job]);
}

/** A compared figure and its band in the units shown, as text. */
export function useSpan() {
  const show = useShown();
  const text = (v: number, unit: Band['unit'], digits: number) => {
    const s = show(v, unit, digits);
    return numberText(s.value, s.digits);
  };
  return {
    measured: (r: ComparedReading) => text(r.measured, r.band.unit, DIGITS[r.quantity]),
    span: (r: ComparedReading, b: Band) =>
      `${text(b.low, b.unit, DIGITS[r.quantity])}–${text(b.high, b.unit, DIGITS[r.quantity])}`,
    unit: (b: Band) => show(0, b.unit, 0).unit,
  };
}
