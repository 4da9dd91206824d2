import type { JobView, Phase } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { keyFigure } from '@just-balance/core/proof';
import { type Said } from '@just-balance/core/units';
import { Check } from 'lucide-react';
import { type ReactNode, useEffect, useMemo, useRef, useSyncExternalStore } from 'react';
import type { JobLive } from '../data/live.tsx';
import { useMay } from '../data/session.tsx';
import { newestReadings } from '../job/judgement/figures.ts';
import { Cautions } from '../job/work/Cautions.tsx';
import { useAdapter } from '../link/captures.ts';
import { CaptureSession, planOfPhase, underWay } from '../sessions/CaptureSession.ts';
import { later } from '../ui/later.tsx';
import { Problem } from '../ui/Problem.tsx';
import { usePreferences, useSay } from '../ui/preferences.tsx';
import { playTone } from '../ui/tone.ts';
import { useAction } from '../ui/useAction.ts';
import { useSingleKeys } from '../ui/useSingleKeys.ts';
import { CaptureHead } from './CaptureHead.tsx';
import { Conditions } from './Conditions.tsx';
import { HandEntry } from './HandEntry.tsx';
import { KeptReading } from './KeptReading.tsx';

const Strips = later(async () => (await import('./Strips.tsx')).Strips, <p className="text-soft">Drawing…</p>);
const BayControls = later(async () => (await import('../practice/BayControls.tsx')).BayControls);

/** The captures of this phase over whichever link the job has now. */
function useCapture(job: JobView, live: JobLive, phase: Phase): CaptureSession {
  const { tones } = usePreferences();
  const adapter = useAdapter(job, live);
  const now = useRef({ adapter, tones });
  now.current = { adapter, tones };
  const session = useMemo(
    () =>
      new CaptureSession(phase, {
        start: (at, p, only) => now.current.adapter.start(at, p, { only }),
        command: (id, c) => now.current.adapter.command(id, c),
        tone: (t) => now.current.tones && playTone(t),
      }),
    [phase],
  );
  useEffect(() => session.follow(live.capture), [session, live.capture]);
  return session;
}

interface Props {
  job: JobView;
  live: JobLive;
  phase: Phase;
  /** Where it goes on once everything asked for is kept. */
  next: ReactNode;
  /** What the card says once every point is kept. */
  summary?: { title: string; why: Said };
  /** What stands under the capture: before and after, for Prove. */
  children?: React.ReactNode;
  /** What stands below everything, told how to start a free recording; not while one runs. */
  below?: (free: { start: (only: string | undefined) => void; disabled: boolean }) => React.ReactNode;
}

/** Guided capture of the points a job asks for; used for the first readings and again for the proof. */
export function CaptureRunner({ job, live, phase, next, summary, children, below }: Props) {
  const readings = newestReadings(job, phase);
  const have = (at: string) => readings.find((r) => r.reading.at === at);
  const { busy, trouble, run } = useAction();
  const say = useSay();
  const session = useCapture(job, live, phase);
  const choice = useSyncExternalStore(session.subscribe, session.choice);
  const { chosen, byHand, more } = choice;
  const status = underWay(live.capture, phase);
  const { wanted, open, point, offered } = planOfPhase(job, phase, choice, status);
  const kept = chosen === null ? undefined : have(chosen);
  const may = useMay('work');
  useSingleKeys(may ? { h: () => session.byHand(true) } : {});

  return (
    <>
      <CaptureHead
        job={job}
        point={point}
        status={status}
        complete={
          !open && !chosen
            ? (summary ?? {
                title: wanted.length === 2 ? 'Both points are kept' : `All ${wanted.length} points are kept`,
                why: 'What this complaint asks for is in; more points can be taken or entered by hand.',
              })
            : null
        }
        busy={busy}
        next={next}
        start={() => run(() => session.start(point.at))}
        command={(c) => run(async () => status && session.command(status, c))}
        hand={() => session.byHand(true)}
        again={() => session.choose('idle')}
      />
      <Problem trouble={trouble} />
      <Cautions job={job} step={`${phase === 'before' ? 'read' : 'prove'}:${point.at}`} />
      <div
        className="grid grid-cols-2 gap-3 lg:grid-cols-[repeat(auto-fit,minmax(180px,1fr))]"
        role="group"
        aria-label="Operating points"
      >
        {offered.map((p) => {
          const r = have(p.at);
          const on = p.at === point.at && (status !== null || open !== null || chosen !== null);
          return (
            <button
              key={p.at}
              type="button"
              aria-pressed={on}
              disabled={status !== null}
              className={`card min-h-[62px] cursor-pointer px-4 py-2 text-left text-ink disabled:cursor-default ${on ? 'border-2 border-act' : ''}`}
              onClick={() => session.choose(p.at)}
            >
              <span className="flex items-center gap-2 font-[650]">
                {r && <Check size={17} aria-label="kept" />} {p.label}
              </span>
              <span className="figure text-[0.9rem] text-soft">
                {status?.at === p.at
                  ? status.state
                  : r
                    ? `${say(keyFigure(r.reading))}${r.doubtful ? ' · doubtful' : ''}`
                    : 'not taken'}
              </span>
            </button>
          );
        })}
        {readings
          .filter((r) => !offered.some((p) => p.at === r.reading.at))
          .map((r) => (
            <button
              key={r.id}
              type="button"
              aria-pressed={chosen === r.reading.at}
              className={`card min-h-[62px] cursor-pointer px-4 py-2 text-left text-ink ${chosen === r.reading.at ? 'border-2 border-act' : ''}`}
              onClick={() => session.choose(r.reading.at)}
            >
              <span className="flex items-center gap-2 font-[650]">
                <Check size={17} aria-label="kept" /> {pointLabel(r.reading.at)}
              </span>
              <span className="figure text-[0.9rem] text-soft">{say(keyFigure(r.reading))} · by hand</span>
            </button>
          ))}
        {!more && (
          <button
            type="button"
            className="card min-h-[62px] cursor-pointer px-4 py-2 text-left text-soft"
            disabled={status !== null}
            onClick={() => session.morePoints()}
          >
            More points
          </button>
        )}
      </div>
      {!status && kept && <KeptReading key={kept.id} job={job} kept={kept} />}
      {byHand && <HandEntry job={job} phase={phase} at={point.at} close={() => session.byHand(false)} />}
      {(status || !children) && (
        <div className="grid grid-cols-[minmax(0,1fr)] items-start gap-3 lg:grid-cols-[minmax(0,1fr)_230px]">
          <section className="card p-4" aria-label="Live strips">
            <Strips live={live} job={job} point={point} status={status} />
          </section>
          <Conditions status={status} point={point} job={job} />
        </div>
      )}
      {children}
      {below?.({
        start: (only) => void run(() => session.startFree(only)),
        disabled: busy || !job.adapter || status !== null,
      })}
      {job.adapter?.startsWith('sim:') && <BayControls bay={Number(job.adapter.slice(4))} compact />}
    </>
  );
}
