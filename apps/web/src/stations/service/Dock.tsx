import { createContext, type ReactNode, useContext, useState } from 'react';
import { createPortal } from 'react-dom';
import { useDead, WithDock } from '../../ui/Dock.tsx';
import { MayChange } from '../../ui/May.tsx';

/** The place in the dock, once it is drawn; undefined where there is no dock. */
const Place = createContext<HTMLElement | null | undefined>(undefined);
/** The one large button of a step, as its piece has it; in its own place where there is no dock. */
export const ACT = 'btn btn-primary btn-xl';

/**
 * A page with one dock at its foot: the large button is always at the same place there and is named by what it says.
 * `means`: what it would answer now. `left`: what stands at its other side.
 */
export function Docked({ means, left, children }: { means: string; left: ReactNode; children: ReactNode }) {
  const [place, setPlace] = useState<HTMLElement | null>(null);
  const dead = useDead(means);
  return (
    <Place value={place}>
      <WithDock
        label="Go on"
        dock={
          <>
            {left}
            <MayChange>
              <div
                ref={setPlace}
                inert={dead}
                className="ml-auto flex min-h-[76px] flex-wrap items-center justify-end gap-4 max-sm:flex-1 max-sm:*:flex-1"
              />
            </MayChange>
          </>
        }
      >
        {children}
      </WithDock>
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
