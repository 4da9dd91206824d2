import { isParts, type Parts } from '@just-balance/core/units';
import type { ReactNode } from 'react';
import { useSay } from './preferences.tsx';

/** The single next action, why, and how long. `tone`: act (do it), wait, trouble. */
export function NextStep({
  title,
  why,
  tone = 'act',
  spoken,
  children,
  aside,
}: {
  title: ReactNode | Parts;
  why: ReactNode | Parts;
  tone?: 'act' | 'wait' | 'trouble';
  /** What is read out in place of a title whose figures run. */
  spoken?: string;
  children?: ReactNode;
  aside?: ReactNode;
}) {
  const say = useSay();
  const said = (x: ReactNode | Parts) => (isParts(x) ? say(x) : x);
  const edge = tone === 'act' ? 'bg-act' : tone === 'wait' ? 'bg-soft' : 'bg-caution';
  return (
    <section
      aria-label="Next step"
      className="card relative flex flex-row flex-wrap items-center gap-x-6 gap-y-3 py-4 pr-4 pl-6 no-print md:sticky md:top-[65px] md:z-10"
    >
      <span aria-hidden className={`absolute inset-y-0 left-0 w-2 rounded-l-(--radius-box) ${edge}`} />
      <div className="min-w-[240px] flex-1">
        <h1 className="m-0 text-[1.35rem] leading-tight font-bold" aria-live={spoken ? undefined : 'polite'}>
          {said(title)}
        </h1>
        {spoken && (
          <span className="sr-only" aria-live="polite">
            {spoken}
          </span>
        )}
        <p className="m-0 mt-1 text-soft">{said(why)}</p>
      </div>
      {aside}
      <div className="flex flex-wrap items-center gap-4">{children}</div>
    </section>
  );
}
