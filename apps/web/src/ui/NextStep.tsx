import type { ReactNode } from 'react';

/** The single next action, why, and how long. `tone`: act (do it), wait, trouble. */
export function NextStep({
  title,
  why,
  tone = 'act',
  children,
  aside,
}: {
  title: ReactNode;
  why: ReactNode;
  tone?: 'act' | 'wait' | 'trouble';
  children?: ReactNode;
  aside?: ReactNode;
}) {
  const edge = tone === 'act' ? 'bg-act' : tone === 'wait' ? 'bg-soft' : 'bg-caution';
  return (
    <section
      aria-label="Next step"
      className="sheet relative flex flex-wrap items-center gap-x-6 gap-y-3 overflow-hidden py-4 pr-4 pl-6 no-print"
      aria-live="polite"
    >
      <span aria-hidden className={`absolute inset-y-0 left-0 w-2 ${edge}`} />
      <div className="min-w-[240px] flex-1">
        <h1 className="m-0 text-[1.35rem] leading-tight font-bold">{title}</h1>
        <p className="m-0 mt-1 text-soft">{why}</p>
      </div>
      {aside}
      <div className="flex flex-wrap items-center gap-4">{children}</div>
    </section>
  );
}
