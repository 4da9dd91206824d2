import { MONITORS } from '@just-balance/core/obd';
import { inspectionAnswers, MONITOR_NOTES, recentlyCleared } from '@just-balance/core/readiness';
import { lazy, Suspense } from 'react';
import { Link, useSearchParams } from 'react-router';
import { newId } from '../../data/api.ts';
import { ofJob } from '../../data/ofJob.ts';
import { Cautions, Precedence } from '../../job/Cautions.tsx';
import type { StationProps } from '../../job/station.ts';
import { ToStation } from '../../job/ToStation.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { useAction } from '../../ui/useAction.ts';

const DrivePlan = lazy(async () => ({ default: (await import('./DrivePlan.tsx')).DrivePlan }));

const Coach = lazy(async () => ({ default: (await import('./Coach.tsx')).Coach }));

export function ReadinessStation(props: StationProps) {
  const [asked] = useSearchParams();
  if (asked.has('coach'))
    return (
      <Suspense>
        <Coach {...props} />
      </Suspense>
    );
  return <Monitors {...props} />;
}

function Monitors({ job }: StationProps) {
  const { busy, trouble, run } = useAction();
  const record = job.records.at(-1);
  const monitors = record?.monitors?.monitors ?? [];
  const open = monitors.filter((m) => m.state === 'incomplete');
  const phase = job.repairs.some((r) => !r.undone) ? 'after' : 'before';
  const read = () =>
    run(async () => {
      await ofJob(job.id).post('/records', { id: newId(), phase });
    });
  const answers = record?.monitors ? inspectionAnswers(record.monitors, job.vehicle.year, job.vehicle.fuel) : [];
  const cleared = record ? recentlyCleared(record.warmupsSinceClear, record.distanceSinceClearKm) : null;
  const names = open.map((m) => MONITORS[m.id]).join(', ');
  const readAgain = (
    <button type="button" className="btn btn-lg" disabled={busy || !job.adapter} onClick={read}>
      {busy ? 'Reading…' : record?.monitors ? 'Read again' : 'Read the monitors'}
    </button>
  );
  return (
    <>
      {!record?.monitors ? (
        <NextStep title="Read the monitors" why="Complete or not, one by one, straight from the vehicle.">
          {readAgain}
        </NextStep>
      ) : open.length === 0 ? (
        <NextStep
          title="All supported monitors are complete"
          why="Necessary for an inspection. The mixture repair itself is proven by the trims, not by the fuel-system monitor."
        >
          {readAgain}
          <ToStation station="hand-over">To Hand-over</ToStation>
        </NextStep>
      ) : (
        <NextStep
          title={`Still open: ${names}`}
          why="Drive it under the monitor's own conditions, then read again. A hand-over may say that it is open."
        >
          {readAgain}
          <Link className="btn btn-lg" to={`/jobs/${job.id}/readiness?coach`}>
            Coach the drive
          </Link>
          <ToStation station="hand-over">To Hand-over</ToStation>
        </NextStep>
      )}
      <Problem trouble={trouble} />
      <Cautions job={job} step="readiness-drive" />
      <div className="grid items-start gap-3 lg:grid-cols-[1.2fr_1fr]">
        <Scrolls label="Monitors">
          <h2 className="card-title">Monitors since codes were cleared</h2>
          <table className="table">
            <thead>
              <tr>
                <th scope="col">Monitor</th>
                <th scope="col">State</th>
                <th scope="col">What it proves</th>
              </tr>
            </thead>
            <tbody>
              {monitors.map((m) => (
                <tr key={m.id} className={m.state === 'unsupported' ? 'text-soft' : ''}>
                  <td className="font-[650]">{MONITORS[m.id]}</td>
                  <td>
                    <span
                      className={`badge ${m.state === 'complete' ? 'badge-success' : m.state === 'incomplete' ? 'badge-warning' : 'badge-outline border-dashed'}`}
                    >
                      {m.state === 'complete'
                        ? '✓ complete'
                        : m.state === 'incomplete'
                          ? '○ incomplete'
                          : 'not supported'}
                    </span>
                  </td>
                  <td className="text-[0.93rem] text-soft">
                    {m.state === 'unsupported' ? '' : (MONITOR_NOTES[m.id]?.proves ?? '')}
                  </td>
                </tr>
              ))}
              {monitors.length === 0 && (
                <tr>
                  <td colSpan={3} className="text-soft">
                    Not read yet.
                  </td>
                </tr>
              )}
            </tbody>
          </table>
        </Scrolls>
        <div className="grid gap-3">
          <section className="card grid gap-3 p-4">
            <h2 className="card-title">Would it pass?</h2>
            {answers.map((a) => (
              <div key={a.rule}>
                <div className="flex items-center justify-between gap-2">
                  <span className="font-[650]">{a.rule}</span>
                  <span
                    className={`badge ${a.passes === null ? 'badge-outline border-dashed' : a.passes ? 'badge-success' : 'badge-warning'}`}
                  >
                    {a.passes === null ? 'not covered' : a.passes ? '✓ allowed' : 'not allowed'}
                  </span>
                </div>
                <p className="m-0 text-[0.93rem] text-soft">
                  {a.reason}. As of {a.asOf}; {a.source}.
                </p>
              </div>
            ))}
            {answers.length === 0 && <p className="m-0 text-soft">After the monitors are read.</p>}
            <p className="m-0 text-[0.93rem] text-soft">
              Our advice: all complete. A station may refuse what the rule allows.
            </p>
          </section>
          {cleared !== null && (
            <section className="card p-4">
              <h2 className="card-title">Since codes were cleared</h2>
              <p className="m-0 mt-1">
                <span className="figure font-bold">{record?.warmupsSinceClear ?? '—'}</span> warm-ups,{' '}
                <span className="figure font-bold">{record?.distanceSinceClearKm ?? '—'}</span> km
                {cleared ? '. Not long ago: open monitors may only be young.' : '.'}
              </p>
            </section>
          )}
        </div>
      </div>
      {(open.length > 0 || monitors.length === 0) && (
        <Suspense>
          <DrivePlan job={job} />
        </Suspense>
      )}
      <Precedence />
    </>
  );
}
