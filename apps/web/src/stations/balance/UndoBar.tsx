import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { useEffect, useState } from 'react';
import { useMay } from '../../data/session.tsx';
import { write } from '../../data/writes.ts';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

/** How long a result may be taken back with one press, ms. */
const UNDO_MS = 8000;
const UNDO_EVENT = 'jb-undo';

/** A result was recorded: offer to take it back. */
export function announceUndo(testId: string) {
  window.dispatchEvent(new CustomEvent(UNDO_EVENT, { detail: testId }));
}

/** For eight seconds after a result: take it back with one press, where the next one stands. The list of tests can undo it later too. */
export function UndoBar({ job }: { job: JobView }) {
  const may = useMay('work');
  const [id, setId] = useState<string | null>(null);
  const { busy, trouble, run } = useAction();
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const on = (e: Event) => {
      setId((e as CustomEvent<string>).detail);
      clearTimeout(timer);
      timer = setTimeout(() => setId(null), UNDO_MS);
    };
    window.addEventListener(UNDO_EVENT, on);
    return () => {
      window.removeEventListener(UNDO_EVENT, on);
      clearTimeout(timer);
    };
  }, []);
  const test = job.tests.find((t) => t.id === id && !t.undone);
  if (!test || !may) return null;
  return (
    <span role="status" className="flex items-center gap-3 text-ink">
      Recorded.
      <button
        type="button"
        className="btn btn-sm min-h-11"
        disabled={busy}
        onClick={() =>
          run(async () => {
            await write(WRITES.undoTest(job.id, test.id), { rev: test.rev, undone: true });
            setId(null);
          })
        }
      >
        Undo
      </button>
      <Problem trouble={trouble} />
    </span>
  );
}
