import { type AttemptView, ROUTES, WRITES } from '@just-balance/contract';
import { format } from 'date-fns';
import { Printer } from 'lucide-react';
import { Link, useNavigate } from 'react-router';
import { mutate } from 'swr';
import { api, newId } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount } from '../../data/session.tsx';
import { Press } from '../../ui/May.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

/** Where the exam stands; once it is over, its sheet. */
export function Exam({ attempt }: { attempt: AttemptView }) {
  const account = useAccount();
  const navigate = useNavigate();
  const { data: tries } = useRead(ROUTES.attempts);
  const { busy, trouble, run } = useAction();
  const exam = attempt.exam!;
  const mine = (tries ?? []).filter((t) => t.exam?.id === exam.id).sort((x, y) => x.exam!.place - y.exam!.place);
  const next = () =>
    run(async () => {
      const a = await api.send(WRITES.beginAttempt, { id: newId(), hints: false, exam: exam.id });
      await mutate(ROUTES.attempts);
      navigate(a.job === null ? `/practice/${a.id}` : `/jobs/${a.job}/complaint`);
    });
  const done = attempt.answered;
  const one = attempt.drive ? 'Drive' : 'Car';
  if (!exam.over)
    return (
      <>
        <NextStep
          title={`${one} ${exam.place} of ${exam.of}${attempt.gaveUp ? ' was given up' : done ? ' is answered' : ''}`}
          why="What was wrong is told once the exam is over."
        >
          {done && attempt.by === account.name && (
            <Press needs="drive" className="btn btn-primary btn-lg" disabled={busy} onClick={next}>
              The next one
            </Press>
          )}
        </NextStep>
        <Problem trouble={trouble} />
      </>
    );
  const totals = mine.flatMap((t) => t.total ?? []);
  const mean = totals.reduce((n, x) => n + x, 0) / Math.max(1, totals.length);
  return (
    <>
      <NextStep
        title={`The exam is over: ${mean.toFixed(0)} points`}
        why={`${exam.of} without help, ${mine.reduce((n, t) => n + t.minutes, 0)} minutes in all.`}
      >
        <button type="button" className="btn btn-lg" onClick={() => window.print()}>
          <Printer size={19} aria-hidden /> Print the sheet
        </button>
      </NextStep>
      <section className="card p-4" aria-label="Sheet of the exam">
        <h2 className="card-title">
          Sheet: {attempt.by}, {format(new Date(attempt.at), 'd MMMM yyyy')}
        </h2>
        <ul className="m-0 mt-2 grid list-none gap-2 p-0">
          {mine.map((t) => (
            <li key={t.id} className="flex flex-wrap gap-x-4">
              <Link to={`/practice/${t.id}`}>{t.title}</Link>
              <span className="figure">{t.total} points</span>
              <span className="figure text-soft">{t.minutes} min</span>
              {t.signed && <span className="badge badge-success">signed by {t.signed.by}</span>}
            </li>
          ))}
        </ul>
      </section>
    </>
  );
}
