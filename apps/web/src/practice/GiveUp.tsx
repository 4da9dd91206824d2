import { type AttemptLine, ROUTES, WRITES } from '@just-balance/contract';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { mutate } from 'swr';
import { api } from '../data/api.ts';
import { Press } from '../ui/May.tsx';
import { Problem } from '../ui/Problem.tsx';
import { useAction } from '../ui/useAction.ts';

/** Ends a try without an answer; asked once more, for it cannot be taken back. */
export function GiveUp({ attempt }: { attempt: Pick<AttemptLine, 'id' | 'exam'> }) {
  const [sure, setSure] = useState(false);
  const { busy, trouble, run } = useAction();
  const navigate = useNavigate();
  const end = () =>
    run(async () => {
      const now = await api.send(WRITES.giveUpAttempt(attempt.id), {});
      await mutate(ROUTES.attempt(attempt.id), now, { revalidate: false });
      await mutate(ROUTES.attempts);
      navigate(`/practice/${attempt.id}`);
    });
  return (
    <>
      {sure && (
        <>
          <span className="self-center text-soft">
            {attempt.exam ? 'No points for this one, and it stays so.' : 'No points, and what is wrong is told.'}
          </span>
          <button type="button" className="btn" disabled={busy} onClick={() => setSure(false)}>
            Keep at it
          </button>
        </>
      )}
      <Press
        needs="drive"
        className={`btn ${sure ? 'btn-error' : 'btn-ghost'}`}
        disabled={busy}
        onClick={() => (sure ? void end() : setSure(true))}
      >
        {busy ? 'It is ended…' : sure ? 'Give it up for good' : 'Give up'}
      </Press>
      <Problem trouble={trouble} />
    </>
  );
}
