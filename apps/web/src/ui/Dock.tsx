import { type ReactNode, useEffect, useState } from 'react';

/** After a change of what a press means, a second tap of the same press does nothing, ms. */
const DEAD_MS = 600;

/** Whether what is pressed has just changed its meaning; `means`: what it would answer now. */
export function useDead(means: string): boolean {
  const [dead, setDead] = useState<string | null>(null);
  const [was, setWas] = useState(means);
  if (was !== means) {
    setWas(means);
    setDead(means);
  }
  useEffect(() => {
    if (dead === null) return;
    const timer = setTimeout(() => setDead(null), DEAD_MS);
    return () => clearTimeout(timer);
  }, [dead]);
  return dead !== null;
}

/** A page with one dock at its foot: it stays where it is while the page moves behind it. */
export function WithDock({ label, dock, children }: { label: string; dock: ReactNode; children: ReactNode }) {
  return (
    <div className="grid min-h-[calc(100dvh-5.5rem)] grid-cols-[minmax(0,1fr)] grid-rows-[1fr_auto] gap-3">
      <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-3">{children}</div>
      <section
        aria-label={label}
        className="sticky bottom-[var(--foot,0px)] z-10 -mx-3 mb-[calc(var(--foot,0px)-7rem)] flex flex-wrap items-center gap-x-3 gap-y-2 border-t-[3px] border-act bg-sheet px-3 py-3 no-print md:-mx-[18px] md:mb-[calc(var(--foot,0px)-14px)] md:px-[18px]"
      >
        {dock}
      </section>
    </div>
  );
}
