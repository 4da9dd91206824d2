import { type TrimLimits, verdict } from '@just-balance/core/trims';
import { counted, signed } from '@just-balance/core/units';

const CALLED = {
  normal: 'in band',
  watch: 'watch',
  act: 'act',
  undecided: 'undecided: within one step of a limit',
} as const;

/** The sum nobody has to make in the head, and what it is called at this tool's steps. */
export function TotalNow({
  short,
  long,
  quantum,
  limits,
}: {
  short: number | undefined;
  long: number | undefined;
  quantum: number;
  limits: TrimLimits;
}) {
  const total = (short ?? 0) + (long ?? 0);
  const known = (short ?? long) !== undefined && !Number.isNaN(total);
  return (
    <p className="col-span-2 m-0 text-soft sm:col-span-4" aria-live="polite">
      {known && (
        <>
          Total <span className="figure font-bold text-ink">{signed(total)} %</span>:{' '}
          {CALLED[verdict(total, limits, quantum)]}
        </>
      )}
    </p>
  );
}

export function often(hz: number): string {
  if (hz < 1) return `every ${counted(Math.round(10 / hz) / 10, 'second')}`;
  return hz === 1 ? 'once a second' : `${hz} times a second`;
}
