import { type AttemptView, ROUTES } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { faultLabel, TEST_BY_ID } from '@just-balance/core/catalogue';
import { chanceText, midSentence } from '@just-balance/core/units';
import { format } from 'date-fns';
import { Printer } from 'lucide-react';
import { useMemo } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { mutate } from 'swr';
import { Plot, useChartTheme } from '../../charts/Plot.tsx';
import { api, newId } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount, useMay } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { later } from '../../ui/later.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say, useSay } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { useAction } from '../../ui/useAction.ts';

const DriveCase = later(async () => (await import('./DriveCase.tsx')).DriveCase);

const PARTS = {
  cause: 'Cause',
  size: 'Size',
  remedy: 'What to do',
  minutes: 'Minutes',
  parts: 'Parts condemned',
  cautions: 'Cautions',
  broke: 'What broke',
  second: 'When',
  next: 'What next',
} as const;

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
      {!a.answer && a.job && (
        <NextStep title="Its cause is not named yet" why="Go back to the car.">
          <Link className="btn btn-primary btn-lg" to={`/jobs/${a.job}`}>
            Go on
          </Link>
        </NextStep>
      )}
    </Frame>
  );
}

const faultsInWords = (a: AttemptView) =>
  (a.faults ?? []).map((f) => midSentence(faultLabel(f.id))).join(' and ') || 'nothing was wrong';

function Scored({ a }: { a: AttemptView }) {
  const say = useSay();
  const s = a.score!;
  return (
    <>
      {!a.exam && (
        <NextStep
          title={`${s.total} points${a.drive ? '' : `: ${faultsInWords(a)}`}`}
          why={
            a.answer
              ? `You named ${midSentence(faultLabel(a.answer.fault))}${a.answer.second ? ` and ${midSentence(faultLabel(a.answer.second))}` : ''} after ${s.minutes} minutes.`
              : (s.parts.find((p) => p.id === 'broke')?.why ?? '')
          }
        >
          <button type="button" className="btn btn-lg" onClick={() => window.print()}>
            <Printer size={19} aria-hidden /> Print
          </button>
          <Link className="btn btn-primary btn-lg" to="/practice">
            Another car
          </Link>
        </NextStep>
      )}
      <Scrolls label="Points">
        <h2 className="card-title">Points</h2>
        <table className="table">
          <tbody>
            {s.parts.map((p) => (
              <tr key={p.id}>
                <th scope="row">{PARTS[p.id]}</th>
                <td className="figure right whitespace-nowrap">
                  {p.points} of {p.of}
                </td>
                <td>{say(p.why)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scrolls>
      {a.moves.length > 0 && <Moves a={a} />}
      <Belief a={a} />
      {a.bestPath && (
        <Scrolls label="The best path">
          <h2 className="card-title">Always the best next test, on this car</h2>
          <table className="table">
            <tbody>
              {a.bestPath.map((p, i) => (
                <tr key={`${i} ${p.what}`}>
                  <td>{p.what}</td>
                  <td className="figure right whitespace-nowrap">{p.minutes} min</td>
                  <td>{say(p.showed)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Scrolls>
      )}
    </>
  );
}

const nameOf = (kind: string, what: string) =>
  kind === 'test' ? (TEST_BY_ID.get(what)?.label ?? what) : pointLabel(what as Parameters<typeof pointLabel>[0]);

function Moves({ a }: { a: AttemptView }) {
  return (
    <Scrolls label="Move by move">
      <h2 className="card-title">Move by move</h2>
      <table className="table">
        <thead>
          <tr>
            <th scope="col">Asked</th>
            <th scope="col" className="right">
              Minutes
            </th>
            <th scope="col">Showed</th>
            <th scope="col">Could have told</th>
            <th scope="col">Better then</th>
            <th scope="col">Believed after it</th>
          </tr>
        </thead>
        <tbody>
          {a.moves.map((m, i) => {
            const best = m.best && m.best.test !== m.what ? m.best : null;
            const first = m.belief?.[0];
            return (
              <tr key={`${i} ${m.what}`}>
                <td className="font-[650]">{nameOf(m.kind, m.what)}</td>
                <td className="figure right">{m.minutes}</td>
                <td>{m.showed !== undefined && <Say text={m.showed} />}</td>
                <td>
                  {m.kind === 'reading'
                    ? 'the shape of the trims'
                    : (m.bits ?? 0) > 0
                      ? `${m.bits!.toFixed(2)} bit`
                      : 'next to nothing by then'}
                </td>
                <td>
                  {best ? `${nameOf('test', best.test)}, ${best.minutes} min, ${best.bits.toFixed(2)} bit` : 'nothing'}
                </td>
                <td>
                  {first ? `${midSentence(faultLabel(first.fault))} ${chanceText(first.probability)}` : ''}
                  <span className="block text-soft">the real one {chanceText(m.truth ?? 0)}</span>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Scrolls>
  );
}

/** How likely the real cause stood after each move, over the minutes. */
function Belief({ a }: { a: AttemptView }) {
  const t = useChartTheme();
  const points = useMemo(() => {
    let minutes = 0;
    return a.moves.map((m) => {
      minutes += m.minutes;
      return { x: minutes, y: 100 * (m.truth ?? 0) };
    });
  }, [a.moves]);
  const data = useMemo(
    () => ({
      datasets: [
        {
          data: points,
          borderColor: t.colour.act,
          backgroundColor: t.colour.act,
          pointRadius: 5,
          // It holds until the next move has shown something, then it moves.
          stepped: 'before' as const,
        },
      ],
    }),
    [points, t],
  );
  const options = useMemo(
    () => ({
      scales: {
        x: {
          type: 'linear' as const,
          min: 0,
          title: t.title('minutes at the bench'),
          ticks: t.tick(12),
          grid: { color: t.colour.rule },
        },
        y: { min: 0, max: 100, title: t.title('the real cause, %'), ticks: t.tick(12), grid: { color: t.colour.rule } },
      },
    }),
    [t],
  );
  if (points.length < 2) return null;
  return (
    <section className="card p-4">
      <h2 className="card-title">What was believed as it went</h2>
      <div className="h-[240px]">
        <Plot
          type="line"
          data={data}
          options={options}
          label={`Probability of the real cause after each move: ${points.map((p) => `${p.x} minutes ${p.y.toFixed(0)} %`).join(', ')}`}
        />
      </div>
    </section>
  );
}

/** Where the exam stands; once it is over, its sheet. */
function Exam({ attempt }: { attempt: AttemptView }) {
  const account = useAccount();
  const navigate = useNavigate();
  const { data: tries } = useRead(ROUTES.attempts);
  const { busy, trouble, run } = useAction();
  const exam = attempt.exam!;
  const mine = (tries ?? []).filter((t) => t.exam?.id === exam.id).sort((x, y) => x.exam!.place - y.exam!.place);
  const next = () =>
    run(async () => {
      const a = await api.post<AttemptView>(ROUTES.attempts, { id: newId(), hints: false, exam: exam.id });
      await mutate(ROUTES.attempts);
      navigate(`/jobs/${a.job}/complaint`);
    });
  if (!exam.over)
    return (
      <>
        <NextStep
          title={attempt.answer ? `Car ${exam.place} of ${exam.of} is answered` : `Car ${exam.place} of ${exam.of}`}
          why="What was wrong is told once the exam is over."
        >
          {attempt.answer && attempt.by === account.name && (
            <button type="button" className="btn btn-primary btn-lg" disabled={busy} onClick={next}>
              Next car
            </button>
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
        why={`${exam.of} cars without help, ${mine.reduce((n, t) => n + t.minutes, 0)} minutes in all.`}
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

function Sign({ a }: { a: AttemptView }) {
  const lead = useMay('lead');
  const { busy, trouble, run } = useAction();
  const sign = () =>
    run(async () => {
      await mutate(ROUTES.attempt(a.id), await api.post<AttemptView>(`/practice/attempts/${a.id}/sign`), {
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
      {lead && !a.signed && (
        <button type="button" className="btn no-print" disabled={busy} onClick={sign}>
          Sign it
        </button>
      )}
      <Problem trouble={trouble} />
    </section>
  );
}
