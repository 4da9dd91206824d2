import type { JobView } from '@just-balance/contract';
import { type ReactNode, useState } from 'react';
import { useDead } from '../../ui/Dock.tsx';
import { UndoBar } from './UndoBar.tsx';

/** What comes next, at the foot: what it is at the left, what it may have shown at the right. */
export function InDock({
  job,
  means,
  first,
  title,
  why,
  more,
  caution,
  children,
}: {
  job: JobView;
  /** What a press in it would answer now: right after a change of it none is taken. */
  means: string;
  /** The small words before the title: minutes, what is needed. */
  first?: ReactNode;
  title: string;
  why: ReactNode;
  /** What else could be done: as words, beside the first line. */
  more?: ReactNode;
  caution?: ReactNode;
  children?: ReactNode;
}) {
  const dead = useDead(means);
  const [told, setTold] = useState(false);
  return (
    <div className="grid w-full items-center gap-x-8 gap-y-1 md:min-h-[136px] lg:grid-cols-[minmax(20rem,3fr)_minmax(0,4fr)]">
      <div className="flex min-h-11 flex-wrap items-center gap-x-4 text-[0.93rem] text-soft lg:col-span-2 lg:col-start-1 lg:row-start-1 lg:pr-80">
        {first && <span className="font-[650]">{first}</span>}
        {more}
        <button
          type="button"
          className="link inline-flex min-h-11 items-center font-[650] text-ink sm:hidden"
          aria-expanded={told}
          onClick={() => setTold(!told)}
        >
          Why
        </button>
        <UndoBar job={job} />
      </div>
      <div className="min-w-0">
        <h1 className="m-0 text-[1.35rem] leading-tight font-bold" aria-live="polite">
          {title}
        </h1>
        {/* A hand’s width has no room for it beside the pictures. */}
        <p className={`m-0 mt-1 text-[0.93rem] leading-snug text-soft ${told ? '' : 'max-sm:hidden'}`}>{why}</p>
      </div>
      {/* What a test may have shown lies in two places of this grid. */}
      <div inert={dead} className="contents">
        {children}
      </div>
      {caution && <div className="lg:col-span-2">{caution}</div>}
    </div>
  );
}
