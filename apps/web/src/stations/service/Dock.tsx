import { createContext, type ReactNode, useContext, useEffect, useState } from 'react';
import { createPortal } from 'react-dom';
import { MayChange } from '../../ui/May.tsx';

/** The place in the dock, once it is drawn; undefined where there is no dock. */
const Place = createContext<HTMLElement | null | undefined>(undefined);
/** After a change of what the large button means, a second tap of the same press does nothing, ms. */
const DEAD_MS = 600;

/** The one large button of a step, as its piece has it; in its own place where there is no dock. */
export const ACT = 'btn btn-primary btn-xl';

/**
 * A page with one dock at its foot: the large button is always at the same place there and is named by what it says.
 * `means`: what it would answer now. `left`: what stands at its other side.
 */
export function Docked({ means, left, children }: { means: string; left: ReactNode; children: ReactNode }) {
  const [place, setPlace] = useState<HTMLElement | null>(null);
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
  return (
    <Place value={place}>
      <div className="grid min-h-[calc(100dvh-5.5rem)] grid-cols-[minmax(0,1fr)] grid-rows-[1fr_auto] gap-3">
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-3">{children}</div>
        <section
          aria-label="Go on"
          className="sticky bottom-[var(--foot,0px)] z-10 -mx-3 mb-[calc(var(--foot,0px)-7rem)] flex flex-wrap items-center gap-x-3 gap-y-2 border-t-[3px] border-act bg-sheet px-3 py-3 no-print md:-mx-[18px] md:mb-[calc(var(--foot,0px)-14px)] md:px-[18px]"
        >
          {left}
          <MayChange>
            <div
              ref={setPlace}
              inert={dead !== null}
              className="ml-auto flex min-h-[76px] flex-wrap items-center justify-end gap-4 max-sm:flex-1 max-sm:*:flex-1"
            />
          </MayChange>
        </section>
      </div>
    </Place>
  );
}

/** Where many steps stand open at once, each keeps its button beside it. */
export function Inline({ children }: { children: ReactNode }) {
  return <Place value={undefined}>{children}</Place>;
}

/** What belongs to the large button’s place. `only`: nowhere else. */
export function InDock({ only = false, children }: { only?: boolean; children: ReactNode }) {
  const place = useContext(Place);
  if (place === undefined) return only ? null : children;
  return place && createPortal(children, place);
}
