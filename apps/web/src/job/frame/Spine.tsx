import type { StationId, StationView } from '@just-balance/core/standing';
import { Check } from 'lucide-react';
import { Link } from 'react-router';

/** On a narrow phone the row scrolls: the station one is at is in view. */
const intoView = (el: HTMLLIElement | null) => el?.scrollIntoView({ inline: 'nearest', block: 'nearest' });

/** The seven stations down the left; at phone width a row of seven numbered stops. */
export function Spine({ stations, current, jobId }: { stations: StationView[]; current: StationId; jobId: string }) {
  return (
    <nav
      aria-label="Stations"
      className="border-rule no-print max-md:sticky max-md:top-14 max-md:z-10 max-md:border-b max-md:bg-bench md:sticky md:top-[53px] md:h-[calc(100vh-53px)] md:w-[204px] md:shrink-0 md:self-start md:overflow-y-auto md:border-r md:pt-3"
    >
      <ol className="relative m-0 flex list-none items-center gap-1 overflow-x-auto px-2 py-1.5 md:block md:p-0">
        <span aria-hidden className="absolute top-6 bottom-8 left-[21px] hidden w-px bg-rule md:block" />
        {stations.map((s, i) => {
          const here = s.id === current;
          return (
            <li key={s.id} ref={here ? intoView : undefined} className="relative">
              <Link
                to={`/jobs/${jobId}/${s.id}`}
                aria-current={here ? 'step' : undefined}
                className={`flex items-center gap-2 text-ink no-underline md:min-h-[62px] md:items-start md:px-2 md:py-[9px] ${here ? 'max-md:rounded-full max-md:bg-act max-md:pr-3 max-md:text-on-act md:border-y md:border-rule md:bg-sheet' : ''}`}
              >
                <span
                  className={`figure flex size-9 shrink-0 items-center justify-center rounded-full text-[0.9rem] font-bold md:size-7 ${here ? 'bg-act text-on-act' : s.done ? 'bg-ink text-sheet' : 'border-2 border-rule bg-bench text-soft'}`}
                >
                  {s.done && !here ? <Check size={16} aria-hidden /> : i + 1}{' '}
                </span>
                <span className={`min-w-0 ${here ? '' : 'max-md:sr-only'}`}>
                  <span className="block leading-tight font-[650]">{s.label}</span>{' '}
                  <span className="line-clamp-2 text-[0.87rem] leading-snug text-soft max-md:hidden">{s.figure}</span>
                  {s.done && <span className="sr-only">, done</span>}
                </span>
              </Link>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}
