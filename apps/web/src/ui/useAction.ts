import { useCallback, useState } from 'react';
import { ApiFailure, said } from '../data/api.ts';

/** Why an action did not go through, as the screen needs it. */
export interface Trouble {
  message: string;
  /** Fields that the server found wrong, each with what to do. */
  errors: readonly { field: string; message: string }[];
  /** Somebody else was quicker: what stands now, and what was to be written. */
  conflict: { mine: object; theirs: object } | null;
}

export function troubleOf(e: unknown, mine: object | null = null): Trouble {
  const failure = e instanceof ApiFailure ? e : null;
  const theirs = failure?.current;
  return {
    message: said(e),
    errors: failure?.errors ?? [],
    conflict: mine && theirs && typeof theirs === 'object' ? { mine, theirs } : null,
  };
}

/** Run an action once at a time; keep its error for the screen. `mine`: what it writes, shown beside what won. */
export function useAction(): {
  busy: boolean;
  problem: string | null;
  trouble: Trouble | null;
  run: (f: () => Promise<unknown>, mine?: object) => Promise<void>;
  clear: () => void;
} {
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<Trouble | null>(null);
  const run = useCallback(async (f: () => Promise<unknown>, mine?: object) => {
    setBusy(true);
    setTrouble(null);
    try {
      await f();
    } catch (e) {
      setTrouble(troubleOf(e, mine ?? null));
    } finally {
      setBusy(false);
    }
  }, []);
  const clear = useCallback(() => setTrouble(null), []);
  return { busy, problem: trouble?.message ?? null, trouble, run, clear };
}
