import { LOGBOOK_FILTERS, type LogbookCounts, type LogbookFilter } from '@just-balance/contract';
import { X } from 'lucide-react';
import { Fold } from '../../ui/Fold.tsx';
import { FILTER_LABELS, tagLabel } from './labels.ts';

const OFFERED = LOGBOOK_FILTERS.filter((f) => f !== 'vehicle');
/** Open from the start; the others once they are asked for. */
const FIRST: readonly LogbookFilter[] = ['cause', 'code', 'status'];

/** What the jobs that match have in common, each with how many; one press narrows, another widens again. */
export function Filters({
  chosen,
  counts,
  choose,
}: {
  chosen: URLSearchParams;
  counts: LogbookCounts | undefined;
  choose: (kind: LogbookFilter, value: string | null) => void;
}) {
  return (
    <section className="card grid content-start gap-1 p-3" aria-label="Filters">
      {OFFERED.map((kind) => {
        const value = chosen.get(kind);
        const offered = counts?.by[kind] ?? [];
        if (value !== null)
          return (
            <div key={kind} className="border-b border-rule py-1 last:border-b-0">
              <span className="text-[0.9rem] text-soft">{FILTER_LABELS[kind]}</span>
              <button
                type="button"
                className="btn btn-neutral h-auto min-h-11 w-full justify-between text-left"
                aria-label={`${FILTER_LABELS[kind]} ${tagLabel(kind, value)}: take it away`}
                onClick={() => choose(kind, null)}
              >
                {tagLabel(kind, value)} <X size={16} aria-hidden />
              </button>
            </div>
          );
        if (offered.length === 0) return null;
        return (
          <Fold
            key={kind}
            title={FILTER_LABELS[kind]}
            open={FIRST.includes(kind)}
            className="border-b border-rule last:border-b-0"
          >
            <ul className="m-0 list-none p-0">
              {offered.map((o) => (
                <li key={o.value}>
                  <button
                    type="button"
                    className="btn btn-ghost h-auto min-h-11 w-full justify-between gap-3 px-2 text-left font-normal"
                    onClick={() => choose(kind, o.value)}
                  >
                    <span className="min-w-0 break-words">{tagLabel(kind, o.value)}</span>
                    <span className="figure text-soft">{o.count.toLocaleString('en-US')}</span>
                  </button>
                </li>
              ))}
            </ul>
          </Fold>
        );
      })}
      {counts && Object.keys(counts.by).length === 0 && <p className="m-0 text-soft">Nothing to narrow by.</p>}
    </section>
  );
}
