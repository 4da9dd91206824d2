import type { JobView } from '@just-balance/contract';
import { STATION_LABELS, STATIONS, type StationId, standingOf } from '@just-balance/core/standing';
import { CloudOff, Users } from 'lucide-react';
import { useEffect, useMemo } from 'react';
import { Link, Navigate, useNavigate, useParams } from 'react-router';
import { ApiFailure } from '../../data/api.ts';
import { useJob } from '../../data/job.ts';
import { type JobLive, type Present, useAt, useJobLive } from '../../data/live.tsx';
import { useWaiting } from '../../data/queue.ts';
import { useAccount, useMay } from '../../data/session.tsx';
import { withWaiting } from '../../data/withWaiting.ts';
import { Frame } from '../../frame/Frame.tsx';
import { Spine } from '../../job/frame/Spine.tsx';
import { Damaged } from '../../job/record/Damaged.tsx';
import { inUnits } from '../../job/vehicle/cardFacts.ts';
import { AT_DEVICE, useDeviceLive, useResumed } from '../../link/deviceLive.ts';
import { OfflineRecordings } from '../../link/OfflineRecordings.tsx';
import { useAttempt } from '../../practice/useAttempt.ts';
import { Boundary } from '../../ui/Boundary.tsx';
import { bringTheRest, later } from '../../ui/later.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Quantity, useShown } from '../../ui/preferences.tsx';
import { useSingleKeys } from '../../ui/useSingleKeys.ts';
import { PAGES } from './stationPages.tsx';

const TimerBar = later(async () => (await import('../../job/frame/TimerBar.tsx')).TimerBar);
const PracticeBar = later(async () => (await import('../../practice/PracticeBar.tsx')).PracticeBar);

export function JobPage() {
  const { jobId = '', station } = useParams();
  const { job: data, error } = useJob(jobId);
  const waiting = useWaiting();
  const job = useMemo(() => {
    if (!data) return data;
    return withWaiting(data, waiting);
  }, [data, waiting]);
  if (!job) return <Opening error={error} />;
  if (!station) return <Navigate to={`/jobs/${jobId}/${standingOf(job, job.standing.proof).station}`} replace />;
  if (!STATIONS.includes(station as StationId)) return <Navigate to={`/jobs/${jobId}`} replace />;
  return (
    <OpenJob
      key={job.id}
      job={job}
      station={station as StationId}
      offline={error instanceof ApiFailure && error.status === 0}
    />
  );
}

function Opening({ error }: { error: unknown }) {
  if (!error) return <p className="p-6 text-soft">Opening the job…</p>;
  const missing = error instanceof ApiFailure && (error.status === 404 || error.status === 400);
  return (
    <main className="mx-auto max-w-3xl p-6">
      <NextStep
        tone="trouble"
        title={missing ? 'No such job in this shop' : 'The job could not be opened'}
        why={
          missing
            ? 'It may have been opened in another shop, or its address is not whole. Every job here stands on the board.'
            : error instanceof Error
              ? error.message
              : ''
        }
      >
        <Link className="btn btn-primary" to="/">
          To the board
        </Link>
      </NextStep>
    </main>
  );
}

function OpenJob({ job: kept, station, offline }: { job: JobView; station: StationId; offline: boolean }) {
  const live = useDeviceLive(kept.id, useJobLive(kept.id));
  useResumed(kept, live.atDevice && live.link?.state === 'ready');
  const attempt = useAttempt(kept);
  const blind = kept.practice && !attempt?.hints && !attempt?.answered;
  const job = useMemo(
    () => ({
      ...kept,
      ...(live.atDevice ? { adapter: AT_DEVICE } : {}),
      ...(blind ? { leading: null, diagnoses: [] } : {}),
    }),
    [kept, live.atDevice, blind],
  );
  const navigate = useNavigate();
  const { stations: views } = standingOf(job, job.standing.proof);
  const keys = useMemo(
    () => Object.fromEntries(STATIONS.map((s, i) => [String(i + 1), () => navigate(`/jobs/${job.id}/${s}`)])),
    [navigate, job.id],
  );
  useSingleKeys(keys);
  useEffect(bringTheRest, []);
  // A work under way says itself at which step.
  useAt(station === 'service' ? null : STATION_LABELS[station]);
  const Page = PAGES[station];
  const show = useShown();
  const v = job.vehicle;
  const metering =
    v.metering === 'maf' ? 'metered air' : v.metering === 'both' ? 'metered air and pressure' : 'speed-density';
  const subtitle = [
    v.year,
    metering,
    `${v.banks ?? 1} bank${v.banks === 2 ? 's' : ''}`,
    v.odometerKm && inUnits(show, v.odometerKm, 'km'),
    job.imported && `from an archive, read in by ${job.imported.by}`,
  ]
    .filter(Boolean)
    .join(' · ');
  return (
    <Frame
      plate={v.plate}
      title={v.note ? `${v.label}, ${v.note}` : v.label}
      subtitle={subtitle}
      here={views.find((s) => s.id === station)?.label}
      side={<Spine stations={views} current={station} jobId={job.id} />}
      chips={<Chips job={job} live={live} />}
      docked={job.practice ? <PracticeBar job={job} /> : undefined}
    >
      {(offline || live.lost) && <Offline />}
      <LookOnly />
      <OfflineRecordings jobId={job.id} />
      {job.damaged.length > 0 && <Damaged job={job} />}
      <Boundary key={station} fallback={(e, again) => <Broken error={e} again={again} />}>
        <Page job={job} live={live} />
      </Boundary>
      {job.runs.length > 0 && <TimerBar job={job} heardOnly={station === 'service'} />}
    </Frame>
  );
}

function Chips({ job, live }: { job: JobView; live: JobLive }) {
  const state = live.link?.state ?? 'off';
  const ready = state === 'ready';
  const label = !job.adapter
    ? 'no adapter'
    : ready
      ? `${live.link!.valuesPerSecond}/s`
      : state === 'off'
        ? 'not connected'
        : state === 'silent'
          ? 'vehicle silent'
          : state === 'lost'
            ? 'adapter lost'
            : 'connecting';
  const others = othersOf(live.present, useAccount().name);
  return (
    <>
      {others && (
        <span className="badge badge-lg badge-outline" role="status">
          <Users size={16} aria-hidden /> <span className="sr-only">Also here: </span>
          <span className="max-w-72 truncate max-xl:sr-only" title={others}>
            {others}
          </span>
        </span>
      )}
      {job.ambient.baroKPa !== undefined && (
        <span className="badge badge-lg badge-outline hidden lg:inline-flex">
          <Quantity value={job.ambient.baroKPa} unit="kPa" digits={1} />
          {job.ambient.airC !== undefined && (
            <>
              <span aria-hidden>·</span>
              <Quantity value={job.ambient.airC} unit="°C" digits={0} />
            </>
          )}
        </span>
      )}
      <span className="badge badge-lg badge-outline">
        <span aria-hidden className={`size-[10px] rounded-full ${ready ? 'bg-band-edge' : 'border-2 border-soft'}`} />
        {job.adapter && (
          <span className="hidden lg:inline">
            {live.atDevice
              ? 'Adapter at this device ·'
              : job.adapter.startsWith('sim:')
                ? `Bay ${job.adapter.slice(4)} adapter ·`
                : `${job.adapter} ·`}
          </span>
        )}
        <span className={ready ? 'figure font-[650] text-ink' : ''}>{label}</span>
      </span>
    </>
  );
}

/** Who else has it open and at what they are; one's own other screens too. */
function othersOf(present: readonly Present[], me: string): string {
  const others = new Map<string, string | null>();
  for (const p of present) if (p.name !== me) others.set(p.name, p.at ?? others.get(p.name) ?? null);
  const mine = present.filter((p) => p.name === me).length;
  return [
    ...[...others].map(([name, at]) => (at ? `${name} at ${at}` : name)),
    ...(mine > 1 ? ['you, on another screen'] : []),
  ].join(', ');
}

/** A station that cannot be shown; the others can. */
function Broken({ error, again }: { error: Error; again: () => void }) {
  return (
    <NextStep
      tone="trouble"
      title="This station cannot be shown"
      why={`Something in it broke (${error.message}). What is kept is safe, and the other stations work.`}
    >
      <button type="button" className="btn btn-primary btn-lg" onClick={again}>
        Try again
      </button>
    </NextStep>
  );
}

/** Why there is nothing to press here, to whom there is not. */
function LookOnly() {
  if (useMay('work')) return null;
  return (
    <p role="status" className="m-0 text-soft no-print">
      Your account looks at this job: nothing in it is changed from here.
    </p>
  );
}

/** Beside the next step, not in its place: work goes on. */
function Offline() {
  return (
    <p role="status" className="alert alert-warning m-0 flex items-start gap-3 px-4 py-3 no-print">
      <CloudOff aria-hidden size={20} className="mt-[1px] shrink-0" />
      <span>
        <strong className="font-[650]">The server does not answer.</strong> Everything shown as kept is safe. Readings
        by hand, test results and imports can go on: they wait on this device and go up by themselves.
      </span>
    </p>
  );
}
