import { type ReactNode, useEffect, useState } from 'react';
import { shopNow } from '../../data/shopClock.ts';
import { Dropdown } from '../../ui/Dropdown.tsx';
import { Press } from '../../ui/May.tsx';
import { ACT } from './Dock.tsx';
import type { RunHandle } from './useRun.ts';

/** Back, and what is tucked away; at a step looked at again, only that. */
export function Ways({ handle, shown, children }: { handle: RunHandle; shown: boolean; children: ReactNode }) {
  const { session, busy, state } = handle;
  if (shown)
    return (
      <Press className="btn btn-lg" onClick={() => void session.again()}>
        Do it again
      </Press>
    );
  return (
    <>
      <Press className="btn btn-lg" disabled={busy || state.way.length === 0} onClick={() => void session.back()}>
        Back
      </Press>
      <Dropdown
        side="top"
        button="btn btn-lg list-none"
        label={
          <span>
            More<span className="max-sm:sr-only">: skip, park, give up</span>
          </span>
        }
      >
        {children}
      </Dropdown>
    </>
  );
}

/** May be pressed once the moment has come; null: something else comes first. */
export function DoneButton({
  fromMs,
  press,
  children,
}: {
  fromMs: number | null;
  press: () => void;
  children: ReactNode;
}) {
  const [over, setOver] = useState(false);
  useEffect(() => {
    const left = fromMs === null ? null : fromMs - shopNow();
    setOver(left !== null && left <= 0);
    if (left === null || left <= 0) return;
    const timer = setTimeout(() => setOver(true), left);
    return () => clearTimeout(timer);
  }, [fromMs]);
  return (
    <button type="button" className={ACT} disabled={!over} onClick={press}>
      {children}
    </button>
  );
}
