import { useCallback, useState } from 'react';
import { said } from './api.ts';

/** Run an action once at a time; keep its error for the screen. */
export function useAction(): {
  busy: boolean;
  problem: string | null;
  run: (f: () => Promise<unknown>) => Promise<void>;
  clear: () => void;
} {
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const run = useCallback(async (f: () => Promise<unknown>) => {
    setBusy(true);
    setProblem(null);
    try {
      await f();
    } catch (e) {
      setProblem(said(e));
    } finally {
      setBusy(false);
    }
  }, []);
  const clear = useCallback(() => setProblem(null), []);
  return { busy, problem, run, clear };
}
