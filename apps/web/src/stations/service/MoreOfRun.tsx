import { useRef } from 'react';
import { Press } from '../../ui/May.tsx';
import type { RunHandle } from './useRun.ts';

/** What is seldom wanted at a step, tucked away behind one button of the dock. */
export function MoreOfRun({
  handle: { session, busy },
  short,
  turnShort,
}: {
  handle: RunHandle;
  short: boolean;
  turnShort: () => void;
}) {
  const menu = useRef<HTMLDivElement>(null);
  const close = () => menu.current?.closest('details')?.removeAttribute('open');
  const row = 'btn btn-ghost justify-start';
  return (
    // Chosen or not: after a press it is closed.
    // biome-ignore lint/a11y/noStaticElementInteractions lint/a11y/useKeyWithClickEvents: the buttons in it take the keys
    <div ref={menu} onClick={close} className="dropdown-content card z-30 mb-2 grid w-64 gap-1 p-2 text-left shadow-lg">
      {!short && (
        <Press className={row} disabled={busy} onClick={() => session.ask('skip')}>
          Skip
        </Press>
      )}
      <Press className={row} onClick={() => session.ask('park')}>
        Park it
      </Press>
      <Press className={row} onClick={() => session.ask('mishap')}>
        Something broke or fell
      </Press>
      <Press className={row} onClick={() => session.ask('give-up')}>
        Give up
      </Press>
      <button type="button" className={row} onClick={turnShort}>
        {short ? 'Step by step' : 'Short form'}
      </button>
    </div>
  );
}
