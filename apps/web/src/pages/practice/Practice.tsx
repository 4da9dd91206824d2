import { type AttemptLine, type AttemptView, ROUTES, WRITES } from '@just-balance/contract';
import { LEVEL_LABELS, PRACTICE_LEVELS } from '@just-balance/core/practice';
import { counted } from '@just-balance/core/units';
import { format } from 'date-fns';
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { mutate } from 'swr';
import { api, newId } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount, useMay } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { GiveUp } from '../../practice/GiveUp.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { later } from '../../ui/later.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';
import { useAction } from '../../ui/useAction.ts';

const Bays = later(async () => (await import('./Bays.tsx')).Bays);

/** Where a try is worked on: at its car, or at the sheet of its drive. */
const placeOf = (a: AttemptView) => (a.job ? `/jobs/${a.job}/complaint` : `/practice/${a.id}`);

/** Cars with something hidden in them, an exam, how everybody comes on, and the bays to play with. */
export function Practice() {
  const account = useAccount();
  const navigate = useNavigate();
  const may = useMay('drive');
  const makes = useMay('lead');
  const { data: cars, error } = useRead(ROUTES.scenarios);
  const { data: tries } = useRead(ROUTES.attempts);
  const [asked] = useSearchParams();
  const [hints, setHints] = useState(true);
  const { busy, trouble, run } = useAction();
  const [starting, setStarting] = useState('');
  const start = async (what: string, body: object) => {
    setStarting(what);
    const a = await api.send(WRITES.beginAttempt, { id: newId(), hints, ...body });
    await mutate(ROUTES.attempts);
    navigate(placeOf(a));
  };
  const begin = (what: string, body: object) => run(() => start(what, body));
  const fromFile = (chosen: File) =>
    run(async () => {
      let file: Record<string, unknown>;
      try {
        file = JSON.parse(await chosen.text());
      } catch {
        throw new Error(`${chosen.name}: not JSON`);
      }
      await start(chosen.name, { file });
    });
  const open = tries?.find((t) => !t.answered && t.by === account.name);
  return (
    <Frame title="Practice" subtitle={account.shop.name} side={<HouseNav current="practice" />}>
      {error ? (
        <NextStep tone="trouble" title="The practice cars cannot be read" why={String(error.message)} />
      ) : open ? (
        <NextStep
          title={open.job ? `${open.title}: ${open.minutes} min so far` : open.title}
          why={`${open.job ? 'Its cause is not named yet.' : 'What broke this drive is not named yet.'} One at a time: the others wait until it is answered or given up.`}
        >
          <GiveUp attempt={open} />
          <Link className="btn btn-primary btn-lg" to={open.job ? `/jobs/${open.job}` : `/practice/${open.id}`}>
            Go on
          </Link>
        </NextStep>
      ) : (
        <NextStep
          title="Find what is wrong in the fewest minutes"
          why="The car answers from its physics; a look can be wrong, as in life. Minutes are simulated: nothing is waited for."
        >
          {may && (
            <button
              type="button"
              className="btn btn-lg"
              disabled={busy}
              onClick={() => begin('exam', { exam: newId(), hints: false })}
            >
              {busy && starting === 'exam' ? 'The first car is made ready…' : 'Begin an exam'}
            </button>
          )}
        </NextStep>
      )}
      <Problem trouble={trouble} />
      {may && (
        <label className="flex min-h-12 w-fit items-center gap-3">
          <input type="checkbox" className="toggle" checked={hints} onChange={(e) => setHints(e.target.checked)} />
          With help: what fits and the next best test are shown
        </label>
      )}
      <div className="grid gap-3 lg:grid-cols-2">
        {PRACTICE_LEVELS.map((level) => (
          <section
            key={level}
            className={`card p-4 ${level === 'drive' ? 'lg:col-span-2' : ''}`}
            aria-label={LEVEL_LABELS[level]}
          >
            <h2 className="card-title">{LEVEL_LABELS[level]}</h2>
            <ul className={`m-0 mt-1 list-none p-0 ${level === 'drive' ? 'lg:grid lg:grid-cols-2 lg:gap-x-7' : ''}`}>
              {cars
                ?.filter((c) => c.level === level)
                .map((c) => (
                  <li
                    key={c.id}
                    className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule py-2 last:border-b-0"
                  >
                    <div className="min-w-52 flex-1">
                      <div className="font-[650]">{c.title}</div>
                      <div className="text-[0.93rem] text-soft">“{c.story}”</div>
                    </div>
                    {c.points !== null && (
                      <span className="badge badge-outline">{counted(c.points, 'point')} at the first try</span>
                    )}
                    {may && (
                      <button
                        type="button"
                        className="btn"
                        disabled={busy || open !== undefined}
                        aria-label={`Work on it: ${c.title}`}
                        onClick={() => begin(c.id, { scenario: c.id })}
                      >
                        {busy && starting === c.id
                          ? level === 'drive'
                            ? 'The drive is driven…'
                            : 'The car is made ready…'
                          : 'Work on it'}
                      </button>
                    )}
                    {makes && (
                      <a
                        className="btn btn-ghost"
                        href={`/api/practice/scenarios/${c.id}/file`}
                        download={`${c.id}.json`}
                      >
                        File
                      </a>
                    )}
                  </li>
                ))}
            </ul>
          </section>
        ))}
      </div>
      {may && (
        <section className="card flex flex-row flex-wrap items-center gap-4 p-4">
          <p className="m-0 flex-1">
            <strong className="font-[650]">A car of somebody else:</strong> practice cars can be passed on as files, and
            changed in any editor.
          </p>
          <label className="btn cursor-pointer">
            Choose a file
            <input
              type="file"
              className="sr-only"
              accept=".json,application/json"
              onChange={(e) => {
                const file = e.target.files?.[0];
                e.target.value = '';
                if (file) void fromFile(file);
              }}
            />
          </label>
        </section>
      )}
      <Tries tries={tries ?? []} />
      <section className="card p-4">
        <Fold title="The bays: put a fault in yourself" open={asked.has('bays')}>
          <Bays />
        </Fold>
      </section>
    </Frame>
  );
}

/** One's own tries; for the lead everybody's, with how each person comes on. */
function Tries({ tries }: { tries: AttemptLine[] }) {
  const people = [...new Set(tries.map((t) => t.by))].sort();
  if (tries.length === 0) return null;
  return (
    <Scrolls label="Tries">
      <h2 className="card-title">Tries</h2>
      <Table
        rows={tries.slice(0, 60)}
        keyOf={(t) => t.id}
        columns={[
          { head: 'When', cell: (t) => format(new Date(t.at), 'd MMM yyyy') },
          ...(people.length > 1 ? [{ head: 'Who', cell: (t: (typeof tries)[number]) => t.by }] : []),
          {
            head: 'Car',
            cell: (t) => (
              <>
                {t.title}
                {t.exam && <span className="badge badge-outline ml-2">exam</span>}
                {!t.counts && <span className="badge badge-ghost ml-2">again: does not count</span>}
                {t.signed && <span className="badge badge-success ml-2">signed by {t.signed.by}</span>}
              </>
            ),
          },
          { head: 'Minutes', figure: true, cell: (t) => (t.job ? t.minutes : '—') },
          {
            head: 'Points',
            figure: true,
            cell: (t) => (t.gaveUp ? 'given up' : (t.total ?? (t.answered ? 'after the exam' : 'not named'))),
          },
          {
            head: 'Open',
            unseen: true,
            cellClass: 'right',
            cell: (t) => (
              <Link to={t.answered || !t.job ? `/practice/${t.id}` : `/jobs/${t.job}`}>
                {t.answered ? 'Look back' : 'Go on'}
              </Link>
            ),
          },
        ]}
      />
      {people.length > 1 && (
        <p className="m-0 mt-3 text-soft">
          {people
            .map((p) => {
              const mine = tries.filter((t) => t.by === p && t.total !== null && t.counts);
              const mean = (list: AttemptLine[]) => list.reduce((n, t) => n + t.total!, 0) / list.length;
              return mine.length === 0
                ? `${p}: nothing finished`
                : `${p}: ${mine.length} finished, ${mean(mine).toFixed(0)} points on average, the last five ${mean(mine.slice(0, 5)).toFixed(0)}`;
            })
            .join(' · ')}
        </p>
      )}
    </Scrolls>
  );
}
