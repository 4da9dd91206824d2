import type { JobSummary } from '@just-balance/contract';
import { faultLabel, pointLabel } from '@just-balance/core/diagnosis';
import { STATION_LABELS, STATIONS, type StationId } from '@just-balance/core/job';
import { formatDistanceToNowStrict } from 'date-fns';
import { ChevronRight, Plus } from 'lucide-react';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import useSWR from 'swr';
import { api } from '../shared/api.ts';
import { Frame, HouseNav } from '../shared/Frame.tsx';
import { leaning, signed } from '../shared/figures.ts';
import { NextStep } from '../shared/NextStep.tsx';
import { useAccount } from '../shared/session.tsx';

/** Where a job stands, from its counts: the board needs no more. */
function standing(j: JobSummary): number {
  if (j.status === 'closed') return 7;
  if (j.counts.after >= 2) return j.counts.recordsAfter > 0 ? 6 : 5;
  if (j.counts.repairs > 0) return 4;
  if (j.counts.before >= 2) return (j.leading?.probability ?? 0) >= 0.85 ? 3 : 2;
  return j.counts.records > 0 ? 1 : 0;
}

function nextWords(j: JobSummary): { title: string; why: string } {
  const s = standing(j);
  const cause = j.leading ? faultLabel(j.leading.fault).toLowerCase() : '';
  return [
    { title: 'keep codes and monitors first', why: 'Before anything is touched: codes, freeze frame, readiness.' },
    { title: 'take the readings', why: 'Idle, then a 2,500 rpm hold; both capture by themselves.' },
    { title: 'find the cause', why: 'Readings are in; one test will separate what is left.' },
    { title: `repair: ${cause}`, why: 'The cause stands; write down what is done.' },
    { title: 'prove the repair', why: 'The same readings again, beside the first.' },
    { title: 'read the monitors again', why: 'Proven; readiness is next.' },
    { title: 'hand over', why: 'What was wrong, measured, done, proven.' },
    { title: 'handed over', why: '' },
  ][s]!;
}

export function Board() {
  const { data: jobs, error } = useSWR<JobSummary[]>('/jobs', api.get, { refreshInterval: 15_000 });
  const account = useAccount();
  const [whose, setWhose] = useState<'mine' | 'everyone'>('everyone');
  const navigate = useNavigate();
  const open = (jobs ?? []).filter((j) => j.status !== 'closed');
  const mine = open.filter((j) => j.openedBy === account.name);
  const shown = whose === 'mine' ? mine : (jobs ?? []);
  const first = mine.find((j) => standing(j) < 6) ?? open.find((j) => standing(j) < 6);
  return (
    <Frame
      title={account.shop.name}
      subtitle={`${open.length} jobs open · ${mine.length} yours`}
      side={<HouseNav current="board" />}
    >
      {error && !jobs && <NextStep tone="trouble" title="The board could not be read" why={String(error.message)} />}
      {first ? (
        <NextStep title={`${first.vehicle.label}: ${nextWords(first).title}`} why={nextWords(first).why}>
          <Link to={`/jobs/${first.id}`} className="press press-act press-big">
            Go to it
          </Link>
        </NextStep>
      ) : (
        jobs && (
          <NextStep
            title="No job waits. Start one with the vehicle in front of you, or practise on a simulated one."
            why="A job takes seven stations from complaint to hand-over."
          >
            <Link to="/practice" className="press press-big">
              Practise
            </Link>
            <Link to="/new" className="press press-act press-big">
              New job
            </Link>
          </NextStep>
        )
      )}
      <div className="flex flex-wrap items-center gap-3">
        {(['mine', 'everyone'] as const).map((w) => (
          <button
            key={w}
            type="button"
            aria-pressed={whose === w}
            className={`press ${whose === w ? 'border-ink bg-ink text-sheet' : ''}`}
            onClick={() => setWhose(w)}
          >
            {w === 'mine' ? `Mine ${mine.length}` : `Everyone ${jobs?.length ?? 0}`}
          </button>
        ))}
        <Link to="/new" className="press ml-auto">
          <Plus size={18} aria-hidden /> New job
        </Link>
      </div>
      <ul className="sheet m-0 list-none p-2" aria-label="Jobs">
        {shown.map((j) => (
          <JobRow key={j.id} job={j} open={() => navigate(`/jobs/${j.id}`)} />
        ))}
        {jobs && shown.length === 0 && <li className="p-6 text-soft">Nothing here yet.</li>}
      </ul>
    </Frame>
  );
}

function JobRow({ job, open }: { job: JobSummary; open: () => void }) {
  const at = standing(job);
  const station = (STATIONS[Math.min(at, 6)] ?? 'hand-over') as StationId;
  const lean = job.worst && leaning(job.worst.totalPct, 5);
  return (
    <li className="border-b border-rule last:border-b-0">
      <button
        type="button"
        onClick={open}
        className="grid w-full cursor-pointer grid-cols-[minmax(150px,1fr)_auto] items-center gap-x-4 gap-y-1 rounded-lg border-0 bg-transparent px-3 py-3 text-left text-ink hover:bg-bench lg:grid-cols-[minmax(130px,1fr)_200px_330px_96px_110px_24px]"
      >
        <span>
          <span className="block text-[1.1rem] leading-tight font-[650]">{job.vehicle.label}</span>
          <span className="text-soft">{job.vehicle.note}</span>
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
          <span className="font-[550]">{at >= 7 ? 'Handed over' : STATION_LABELS[station]}</span>
        </span>
        <span className="flex flex-wrap items-center gap-2">
          {job.worst ? (
            <>
              <span className={`figure font-bold ${lean?.text ?? ''}`}>
                {signed(job.worst.totalPct)} % at {pointLabel(job.worst.at as never).toLowerCase()}
              </span>
              {lean ? (
                <span className={`tag ${lean.tag}`}>{lean.word}</span>
              ) : (
                <span className="tag tag-ok">in band</span>
              )}
            </>
          ) : (
            <span className="font-[550]">{job.complaint.symptoms[0]?.replaceAll('-', ' ') ?? 'new'}</span>
          )}
        </span>
        <span className="text-soft max-lg:hidden">{job.openedBy}</span>
        <span className="text-soft max-lg:hidden">open {formatDistanceToNowStrict(new Date(job.openedAt))}</span>
        <ChevronRight aria-hidden className="max-lg:hidden" />
      </button>
    </li>
  );
}
