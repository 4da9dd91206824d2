import { type JobListItem, ROUTES } from '@just-balance/contract';
import { Plus } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import useSWRInfinite from 'swr/infinite';
import { type Page, readPage } from '../../data/pages.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount, useMay } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { FirstDay } from './FirstDay.tsx';
import { Groups, Lanes, type Together } from './Lanes.tsx';
import { Now } from './Now.tsx';
import { Running } from './Running.tsx';
import { Due, ToOrder } from './Waits.tsx';

type View = 'mine' | 'everyone' | 'closed';
const QUERY: Readonly<Record<View, string>> = {
  mine: 'status=open&whose=mine',
  everyone: 'status=open',
  closed: 'status=closed',
};
const PAGE: Readonly<Record<View, number>> = { mine: 60, everyone: 60, closed: 30 };

export function Board() {
  const [view, setView] = useState<View>('everyone');
  const [together, setTogether] = useState<Together>('waits');
  const { data, error, size, setSize, isLoading, isValidating } = useSWRInfinite<Page<JobListItem>>(
    (i, before: Page<JobListItem> | null) =>
      i === 0 ? ROUTES.jobs(`${QUERY[view]}&limit=${PAGE[view]}`) : (before?.next ?? null),
    readPage,
    { refreshInterval: 15_000, revalidateFirstPage: true, keepPreviousData: true },
  );
  const { data: counts } = useRead(ROUTES.jobCounts, { refreshInterval: 15_000 });
  const { data: own } = useRead(ROUTES.ownOpenJobs(10), {
    refreshInterval: 15_000,
  });
  const account = useAccount();
  const mayWork = useMay('work');
  const jobs = data?.flatMap((p) => p.rows);
  const more = data?.at(-1)?.next ?? null;
  // What was handed over waits for nothing.
  const lanes = together === 'waits' && view !== 'closed' && jobs !== undefined && jobs.length > 0;
  const open = (j: JobListItem) => j.status !== 'closed' && j.standing.station !== 'hand-over';
  const first = own?.find(open) ?? jobs?.find(open);
  const label: Readonly<Record<View, string>> = {
    mine: `Mine ${counts?.mine ?? ''}`,
    everyone: `Everyone ${counts?.open ?? ''}`,
    closed: `Handed over ${counts ? counts.all - counts.open : ''}`,
  };
  return (
    <Frame
      title={account.shop.name}
      subtitle={counts ? `${counts.open} jobs open · ${counts.mine} yours` : ''}
      side={<HouseNav current="board" />}
    >
      {error && !jobs && <NextStep tone="trouble" title="The board could not be read" why={String(error.message)} />}
      {first ? (
        <Now job={first} />
      ) : (
        jobs &&
        own && (
          <NextStep
            title="No job waits"
            why="Start one with the vehicle in front of you, or practise on a simulated one."
          >
            <Link to="/practice" className="btn btn-lg">
              Practise
            </Link>
            {mayWork && (
              <Link to="/new" className="btn btn-primary btn-lg">
                New job
              </Link>
            )}
          </NextStep>
        )
      )}
      <Running />
      {!lanes && (
        <>
          <Due />
          <ToOrder />
        </>
      )}
      <div className={counts?.all === 0 ? 'hidden' : 'flex flex-wrap items-center gap-3'}>
        {(['mine', 'everyone', 'closed'] as const).map((w) => (
          <button
            key={w}
            type="button"
            aria-pressed={view === w}
            className={`btn ${view === w ? 'btn-neutral' : ''}`}
            onClick={() => setView(w)}
          >
            {label[w].trim()}
          </button>
        ))}
        <label className="ml-auto flex items-center gap-2">
          <span className="whitespace-nowrap text-soft">Together by</span>
          <span className="w-48 shrink-0">
            <select className="select" value={together} onChange={(e) => setTogether(e.target.value as Together)}>
              <option value="waits">what it waits for</option>
              <option value="station">station</option>
              <option value="person">person</option>
            </select>
          </span>
        </label>
        {mayWork && (
          <Link to="/new" className="btn">
            <Plus size={18} aria-hidden /> New job
          </Link>
        )}
      </div>
      <div className="grid gap-5" aria-busy={isLoading}>
        {lanes ? (
          <Lanes jobs={jobs ?? []} more={more !== null} beside={{ part: <ToOrder />, customer: <Due /> }} />
        ) : (
          <Groups jobs={jobs ?? []} by={together === 'person' ? 'person' : 'station'} />
        )}
      </div>
      {counts?.all === 0 && <FirstDay />}
      {jobs?.length === 0 && counts !== undefined && counts.all > 0 && (
        <p className="card m-0 p-6 text-soft">Nothing here.</p>
      )}
      {more && (
        <button
          type="button"
          className="btn justify-self-center"
          disabled={isValidating}
          onClick={() => setSize(size + 1)}
        >
          Older jobs
        </button>
      )}
    </Frame>
  );
}
