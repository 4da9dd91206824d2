import { type JobListItem, ROUTES } from '@just-balance/contract';
import { complaintLabel, pointLabel } from '@just-balance/core/case';
import { STATION_LABELS, STATIONS } from '@just-balance/core/standing';
import { midSentence, signed } from '@just-balance/core/units';
import { formatDistanceToNowStrict } from 'date-fns';
import { ChevronRight, Plus } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import useSWRInfinite from 'swr/infinite';
import { useLimits } from '../../data/limits.ts';
import { type Page, readPage } from '../../data/pages.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount, useMay } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { standsAt } from '../../job/frame/standsAt.ts';
import { Boundary } from '../../ui/Boundary.tsx';
import { leaning } from '../../ui/figures.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { useSay } from '../../ui/preferences.tsx';
import { FirstDay } from './FirstDay.tsx';
import { Running } from './Running.tsx';
import { Due, ToOrder, Waits } from './Waits.tsx';

/** How many stations lie behind it; all of them once it is handed over. */
const behind = (j: JobListItem) => (j.status === 'closed' ? STATIONS.length : STATIONS.indexOf(j.standing.station));

type View = 'mine' | 'everyone' | 'closed';
const QUERY: Readonly<Record<View, string>> = {
  mine: 'status=open&whose=mine',
  everyone: 'status=open',
  closed: 'status=closed',
};
const PAGE = 30;

export function Board() {
  const [view, setView] = useState<View>('everyone');
  const [group, setGroup] = useState<Group>('none');
  const { data, error, size, setSize, isLoading, isValidating } = useSWRInfinite<Page<JobListItem>>(
    (i, before: Page<JobListItem> | null) =>
      i === 0 ? ROUTES.jobs(`${QUERY[view]}&limit=${PAGE}`) : (before?.next ?? null),
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
        <NextStep title={`${first.label}: ${first.standing.next.title}`} why={first.standing.next.why}>
          <Link to={`/jobs/${first.id}`} className="btn btn-primary btn-lg">
            Go to it
          </Link>
        </NextStep>
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
      <Due />
      <ToOrder />
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
          <span className="w-36 shrink-0">
            <select className="select" value={group} onChange={(e) => setGroup(e.target.value as Group)}>
              <option value="none">nothing</option>
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
      {grouped(jobs ?? [], group).map(([name, list]) => (
        <section key={name} aria-label={name || 'Jobs'} className="grid grid-cols-[minmax(0,1fr)] gap-1">
          {name && (
            <h2 className="m-0 px-2 text-[1.05rem] font-[650]">
              {name} <span className="font-normal text-soft">{list.length}</span>
            </h2>
          )}
          <ul className="card m-0 list-none p-2" aria-label={name ? `Jobs: ${name}` : 'Jobs'} aria-busy={isLoading}>
            {list.map((j) => (
              <Boundary key={j.id} fallback={() => <BrokenRow id={j.id} />}>
                <JobRow job={j} />
              </Boundary>
            ))}
          </ul>
        </section>
      ))}
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

type Group = 'none' | 'station' | 'person';

/** Jobs under the station they stand at, or under who has them in hand; one list without a name otherwise. */
function grouped(jobs: readonly JobListItem[], by: Group): [string, JobListItem[]][] {
  if (jobs.length === 0) return [];
  if (by === 'none') return [['', [...jobs]]];
  const key = (j: JobListItem) => (by === 'person' ? (j.hands ?? j.openedBy) : standsAt(j));
  const groups = new Map<string, JobListItem[]>();
  for (const j of jobs) groups.set(key(j), [...(groups.get(key(j)) ?? []), j]);
  const order = (name: string) => {
    const at = STATIONS.findIndex((s) => STATION_LABELS[s] === name);
    return at < 0 ? 99 : at;
  };
  return [...groups].sort(([a], [b]) => (by === 'station' ? order(a) - order(b) : a.localeCompare(b)));
}

function BrokenRow({ id }: { id: string }) {
  return (
    <li className="border-b border-rule last:border-b-0">
      <Link to={`/jobs/${id}`} className="flex items-center gap-3 rounded-lg px-3 py-3 text-ink">
        <span className="badge badge-warning">cannot be shown</span> Open this job to see what is wrong with it
      </Link>
    </li>
  );
}

function JobRow({ job }: { job: JobListItem }) {
  const say = useSay();
  const limits = useLimits();
  const at = behind(job);
  const lean = job.worst && leaning(job.worst.totalPct, limits.watchPct);
  return (
    <li className="border-b border-rule last:border-b-0">
      <Link
        to={`/jobs/${job.id}`}
        className="grid w-full grid-cols-[minmax(150px,1fr)_auto] items-center gap-x-4 gap-y-1 rounded-lg px-3 py-3 text-ink no-underline hover:bg-bench lg:grid-cols-[minmax(130px,1fr)_200px_330px_96px_110px_24px]"
      >
        <span>
          <span className="block text-[1.1rem] leading-tight font-[650]">{job.label}</span>
          <span className="text-soft">{job.note}</span>
        </span>
        <span>
          <span className="flex gap-1" aria-hidden>
            {STATIONS.map((s, i) => (
              <span
                key={s}
                className={`h-3 w-[22px] rounded-full ${i < at ? 'bg-ink' : i === at ? 'bg-act' : 'bg-rule'}`}
              />
            ))}
          </span>
          <span className="font-[550]">{standsAt(job)}</span>
        </span>
        <span className="flex flex-wrap items-center gap-2">
          {job.damaged && <span className="badge badge-warning">needs mending</span>}
          <Waits waits={job.waits} />
          {job.work && (
            <span className="badge badge-warning" title={say(job.standing.next.why)}>
              {job.work.state === 'parked' ? 'parked' : 'under way'}
              {job.work.off.length > 0 && ` · ${job.work.off.length} off`}
              {job.work.toOrder.length > 0 && ` · order ${job.work.toOrder.length}`}
            </span>
          )}
          {job.worst ? (
            <>
              <span className={`figure font-bold ${lean?.text ?? ''}`}>
                {signed(job.worst.totalPct)} % at {midSentence(pointLabel(job.worst.at))}
              </span>
              {lean ? (
                <span className={`badge ${lean.tag}`}>{lean.word}</span>
              ) : (
                <span className="badge badge-success">in band</span>
              )}
            </>
          ) : (
            <span className="font-[550]">{job.symptom ? complaintLabel(job.symptom) : 'new'}</span>
          )}
        </span>
        <span className="text-soft max-lg:hidden">{job.hands ?? job.openedBy}</span>
        <span className="text-soft max-lg:hidden">open {formatDistanceToNowStrict(new Date(job.openedAt))}</span>
        <ChevronRight aria-hidden className="max-lg:hidden" />
      </Link>
    </li>
  );
}
