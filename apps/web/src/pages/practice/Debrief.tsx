import { type AttemptView, ROUTES, WRITES } from '@just-balance/contract';
import { format } from 'date-fns';
import { Link, useParams } from 'react-router';
import { mutate } from 'swr';
import { api } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useMay, useMe } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { later } from '../../ui/later.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { Exam } from './Exam.tsx';
import { Scored } from './Scored.tsx';

const DriveCase = later(async () => (await import('./DriveCase.tsx')).DriveCase);

/** A try looked back at: the points, every move with what it could have told, the belief as it went, the best path. */
export function Debrief() {
  const { attemptId } = useParams();
  const { data: a, error } = useRead(attemptId ? ROUTES.attempt(attemptId) : null);
  if (!a)
    return (
      <Frame title="Practice" subtitle="" side={<HouseNav current="practice" />}>
        {error && <NextStep tone="trouble" title="This try cannot be shown" why={String(error.message)} />}
      </Frame>
    );
  return (
    <Frame
      title={a.title}
      subtitle={`${a.by}, ${format(new Date(a.at), 'd MMMM yyyy')}`}
      side={<HouseNav current="practice" />}
    >
      {a.exam && <Exam attempt={a} />}
      {a.score && <Scored a={a} />}
      {a.drive && <DriveCase a={a} drive={a.drive} />}
      {a.score && <Sign a={a} />}
      {!a.answered && a.job && (
        <NextStep title="Its cause is not named yet" why="Go back to the car.">
          <Link className="btn btn-primary btn-lg" to={`/jobs/${a.job}`}>
            Go on
          </Link>
        </NextStep>
      )}
    </Frame>
  );
}

function Sign({ a }: { a: AttemptView }) {
  const lead = useMay('lead');
  // Nobody signs for what they did themselves.
  const own = useMe().name === a.by;
  const { busy, trouble, run } = useAction();
  const sign = () =>
    run(async () => {
      await mutate(ROUTES.attempt(a.id), await api.send(WRITES.signAttempt(a.id), {}), {
        revalidate: false,
      });
      await mutate(ROUTES.attempts);
    });
  return (
    <section className="card flex flex-row flex-wrap items-center justify-between gap-4 p-4">
      <p className="m-0">
        {a.signed
          ? `Signed by ${a.signed.by} on ${format(new Date(a.signed.at), 'd MMMM yyyy')}.`
          : 'Not signed. The lead signs what was gone through together.'}
      </p>
      {lead && !own && !a.signed && (
        <button type="button" className="btn no-print" disabled={busy} onClick={sign}>
          Sign it
        </button>
      )}
      <Problem trouble={trouble} />
    </section>
  );
}
