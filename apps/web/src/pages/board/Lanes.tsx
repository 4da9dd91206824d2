import type { JobListItem } from '@just-balance/contract';
import { LANE_LABELS, LANES, type Lane, laneOf } from '@just-balance/core/shop';
import { STATION_LABELS, STATIONS } from '@just-balance/core/standing';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { standsAt } from '../../job/frame/standsAt.ts';
import { Boundary } from '../../ui/Boundary.tsx';
import { JobCard } from './JobCard.tsx';

/** How the cars of the board are put together. */
export type Together = 'waits' | 'station' | 'person';

/** The cars of the shop in lanes, by what each waits for. `beside`: what else belongs to a lane. */
export function Lanes({
  jobs,
  more,
  beside,
}: {
  jobs: readonly JobListItem[];
  /** There are more than were read. */
  more: boolean;
  beside: Partial<Record<Lane, ReactNode>>;
}) {
  const lanes = new Map<Lane, JobListItem[]>(LANES.map((l) => [l, []]));
  for (const j of jobs) lanes.get(laneOf(j.standing, j.waits))!.push(j);
  return (
    <div className="grid items-start gap-x-3 gap-y-5 md:grid-cols-2 xl:grid-cols-[1.25fr_1fr_1fr_1fr]">
      {LANES.map((lane) => (
        <Group
          key={lane}
          name={LANE_LABELS[lane]}
          jobs={lanes.get(lane)!}
          more={more}
          list="grid grid-cols-[minmax(0,1fr)] gap-2.5"
        >
          {beside[lane]}
        </Group>
      ))}
    </div>
  );
}

/** The same under the station they stand at, or under who has them in hand. */
export function Groups({ jobs, by }: { jobs: readonly JobListItem[]; by: Exclude<Together, 'waits'> }) {
  return grouped(jobs, by).map(([name, list]) => (
    <Group
      key={name}
      name={name}
      jobs={list}
      more={false}
      list="grid grid-cols-[minmax(0,1fr)] gap-2.5 md:grid-cols-2 xl:grid-cols-3"
    />
  ));
}

function Group({
  name,
  jobs,
  more,
  list,
  children,
}: {
  name: string;
  jobs: readonly JobListItem[];
  more: boolean;
  list: string;
  children?: ReactNode;
}) {
  return (
    <section aria-label={name} className="grid min-w-0 gap-2">
      <h2 className="m-0 flex justify-between px-1 text-[1.05rem] font-bold">
        {name}
        <span className="text-soft">
          {jobs.length}
          {more && '+'}
        </span>
      </h2>
      {children}
      {jobs.length > 0 && (
        <ul className={`m-0 list-none p-0 ${list}`} aria-label={`Jobs: ${name}`}>
          {jobs.map((j) => (
            <li key={j.id} className="min-w-0">
              <Boundary fallback={() => <Broken id={j.id} />}>
                <JobCard job={j} />
              </Boundary>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function Broken({ id }: { id: string }) {
  return (
    <Link to={`/jobs/${id}`} className="card flex flex-row flex-wrap items-center gap-3 p-3 text-ink">
      <span className="badge badge-warning">cannot be shown</span> Open this job to see what is wrong with it
    </Link>
  );
}

/** Stations in their order, people by name. */
function grouped(jobs: readonly JobListItem[], by: Exclude<Together, 'waits'>): [string, JobListItem[]][] {
  const key = (j: JobListItem) => (by === 'person' ? (j.hands ?? j.openedBy) : standsAt(j));
  const groups = new Map<string, JobListItem[]>();
  for (const j of jobs) groups.set(key(j), [...(groups.get(key(j)) ?? []), j]);
  const order = (name: string) => {
    const at = STATIONS.findIndex((s) => STATION_LABELS[s] === name);
    return at < 0 ? STATIONS.length : at;
  };
  return [...groups].sort(([a], [b]) => (by === 'station' ? order(a) - order(b) : a.localeCompare(b)));
}
