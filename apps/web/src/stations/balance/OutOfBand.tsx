import type { JobView } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { QUANTITY_LABEL } from '@just-balance/core/expected';
import { counted, midSentence } from '@just-balance/core/units';
import { useCompared, useSpan } from './compared.ts';

/** The figures that are off, each beside what was expected; the others are counted. */
export function OutOfBand({ job }: { job: JobView }) {
  const rows = useCompared(job);
  const { measured, span, unit } = useSpan();
  if (rows.length === 0) return null;
  const past = rows.filter((r) => r.call === 'past');
  const rest = rows.length - past.length;
  return (
    <ul aria-label="Figures out of band" className="m-0 flex list-none flex-wrap items-center gap-2 p-0 text-[0.95rem]">
      {past.map((r) => (
        <li key={`${r.quantity}${r.at}`} className="rounded-lg border-[1.5px] border-ink bg-bench px-3 py-1">
          <strong className="font-[650]">
            {QUANTITY_LABEL[r.quantity]}, {midSentence(pointLabel(r.at))} <span className="figure">{measured(r)}</span>
          </strong>
          , expected <span className="figure">{span(r, r.band)}</span> {unit(r.band)}
        </li>
      ))}
      {rest > 0 && (
        <li className="text-soft">
          {past.length === 0 ? `${counted(rest, 'figure')} compared, none out of band` : `${rest} more not out of band`}
        </li>
      )}
    </ul>
  );
}
