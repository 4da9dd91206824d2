import { BayCommand, type BayView } from '@just-balance/contract';
import { type ReactNode } from 'react';

/** One command; throws what the server refuses it for. */
export type Post = (body: BayCommand) => Promise<BayView>;

/** The same from a button: what goes wrong stands under the panel. */
export type Send = (command: BayCommand['command'], rest?: Partial<BayCommand>) => Promise<void>;

export function Press({ busy, act, children }: { busy: boolean; act: () => unknown; children: ReactNode }) {
  return (
    <button type="button" className="btn" disabled={busy} onClick={() => void act()}>
      {children}
    </button>
  );
}
