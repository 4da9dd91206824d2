import { type EntryView, WRITES } from '@just-balance/contract';
import { MONITORS } from '@just-balance/core/obd';
import { type BankRelearn, type RelearnState, relearn } from '@just-balance/core/relearn';
import { counted, figure, said, signed } from '@just-balance/core/units';
import { useEffect, useState } from 'react';
import { newId } from '../../data/api.ts';
import { type JobLive } from '../../data/live.tsx';
import { type TracePoint } from '../../data/traces.ts';
import { write } from '../../data/writes.ts';
import { type StationProps } from '../../job/frame/station.ts';
import { clock } from '../../job/frame/TimerBar.tsx';
import { newestReadings } from '../../job/judgement/figures.ts';
import { AT_DEVICE } from '../../link/deviceLive.ts';
import { later } from '../../ui/later.tsx';
import { May, Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say } from '../../ui/preferences.tsx';
import { useAction } from '../../ui/useAction.ts';

const Memory = later(async () => (await import('./Memory.tsx')).Memory);

/** Two schools, both guided: leave the memory and watch it settle, or clear it once everything is on record. */
export function AfterRepair({ job, live }: StationProps) {
  return (
    <div className="grid items-start gap-6 lg:grid-cols-2">
      <Relearn job={job} live={live} />
      <Reset job={job} live={live} />
    </div>
  );
}

function columns(id: string, unit: string, points: readonly TracePoint[]) {
  return { id, unit, time: Float64Array.from(points, (p) => p.t), value: Float64Array.from(points, (p) => p.v) };
}

/** Where the trims are going, once a second, from what has come over the link since the page was opened. */
function useForecast(live: JobLive) {
  const [shown, setShown] = useState(() => forecast(live));
  useEffect(() => {
    setShown(forecast(live));
    const timer = setInterval(() => setShown(forecast(live)), 1000);
    return () => clearInterval(timer);
  }, [live]);
  return shown;
}

function forecast(live: JobLive) {
  const channels = ['stft1', 'ltft1', 'stft2', 'ltft2', 'rpm'].flatMap((id) => {
    const points = live.traces.get(id);
    return points && points.length > 0 ? [columns(id, id === 'rpm' ? 'rpm' : '%', points)] : [];
  });
  // Nothing has come yet: that is said where the trims would stand, and there is no recording to speak of.
  if (!channels.some((c) => c.id.startsWith('stft'))) return { banks: [], warnings: [] };
  return relearn({ startedAt: null, channels, marks: [] });
}

const STATES: Readonly<Record<BankRelearn['state'], string>> = {
  settling: 'settling',
  settled: 'settled',
  'not-settling': 'not settling',
  'no-closed-loop': 'no closed loop',
};

function Relearn({ job, live }: StationProps) {
  const { banks, warnings } = useForecast(live);
  return (
    <section className="grid gap-3" aria-label="Relearn">
      <h2 className="card-title">Relearn: nothing is cleared</h2>
      {job.vehicle.fuel === 'diesel' ? (
        <p className="m-0 text-soft">A diesel has no fuel trims to settle: compare airflow and boost at Prove.</p>
      ) : banks.length === 0 ? (
        <p className="m-0 text-soft">
          {live.link?.state === 'ready'
            ? 'No trims come in yet: start the engine and let it idle warm.'
            : 'Connect the adapter and let it idle warm: short term and long term are followed here.'}
        </p>
      ) : (
        banks.map((b) => (
          <div key={b.bank} className="grid gap-2">
            <p className="m-0 flex flex-wrap items-baseline gap-x-4">
              <span className="font-[650]">Bank {b.bank}</span>
              <span className={`badge ${b.state === 'settled' ? 'badge-success' : 'badge-warning'}`}>
                {STATES[b.state]}
              </span>
              {b.nowTotalPct !== null && (
                <span className="text-soft">
                  now <span className="figure font-[650] text-ink">{signed(b.nowTotalPct)}</span> % (
                  {signed(b.shortPct ?? 0)} short, {signed(b.longPct ?? 0)} long)
                </span>
              )}
            </p>
            {b.settled && (
              <p className="m-0">
                {b.state === 'settled' ? 'Settled at' : 'Goes to'}{' '}
                <strong className="figure font-[650]">{signed(b.settled.totalPct)} %</strong>{' '}
                <span className="text-soft">
                  ({signed(b.settled.low)} to {signed(b.settled.high)})
                </span>
                {b.longSettlesInS !== null && (
                  <>
                    {' '}
                    in about <strong className="figure font-[650]">{clock(b.longSettlesInS)}</strong>{' '}
                    <span className="text-soft">
                      ({clock(b.lowS ?? 0)} to {clock(b.highS ?? 0)})
                    </span>
                  </>
                )}
              </p>
            )}
            <Memory bank={b} live={live} />
          </div>
        ))
      )}
      {warnings.map((w) => (
        <p key={w} className="m-0 text-soft">
          {w}
        </p>
      ))}
      {job.vehicle.fuel !== 'diesel' && <p className="m-0 text-soft">{outlook(banks.map((b) => b.state))}</p>}
    </section>
  );
}

/** What follows from where the banks stand. */
function outlook(states: readonly RelearnState[]): string {
  const learning = states.filter((s) => s !== 'no-closed-loop');
  if (learning.length > 0 && learning.length === states.length && learning.every((s) => s === 'settled'))
    return 'It has settled: take the readings again, and prove it. Readiness survived.';
  if (learning.includes('not-settling'))
    return 'What the long term does not take over is no matter of waiting: hold another speed, or look at what is left. Nothing is cleared.';
  return 'No verdict before it has settled: the long-term memory lags. Readiness survives.';
}

function Reset({ job }: StationProps) {
  const { busy, trouble, run } = useAction();
  const [understood, setUnderstood] = useState(false);
  const record = job.records.filter((r) => r.phase === 'before').at(-1);
  const readings = newestReadings(job, 'before');
  const resets = job.entries.filter((e) => e.kind === 'reset');
  const last = resets.at(-1);
  const complete = record?.monitors?.monitors.filter((m) => m.state === 'complete').map((m) => MONITORS[m.id]) ?? [];
  const kept = [
    { ok: record !== undefined, text: 'codes, lamp and monitors' },
    { ok: (record?.freezeFrame.length ?? 0) > 0 || record?.source === 'link', text: 'freeze frame' },
    { ok: readings.length > 0, text: 'readings with their trims' },
  ];
  const ready = record !== undefined && readings.length > 0;
  const clear = () =>
    run(async () => {
      await write(WRITES.clearCodes(job.id), { id: newId(), understood: true });
      setUnderstood(false);
    });
  // It keeps the record and looks at what is left: that is the server's to do.
  const shop = job.adapter && job.adapter !== AT_DEVICE;
  return (
    <section className="grid gap-3" aria-label="Reset">
      <h2 className="card-title">Reset: clear codes and memory</h2>
      <ul className="m-0 list-none p-0">
        {kept.map((k) => (
          <li key={k.text}>
            <span aria-hidden>{k.ok ? '✓' : '—'}</span> {k.text}{' '}
            {k.ok ? 'on record' : <strong className="font-[650]">not on record</strong>}
          </li>
        ))}
      </ul>
      <div className="alert alert-warning block px-4 py-3">
        <p className="m-0 font-[650]">What is lost</p>
        <p className="m-0">
          <Say
            text={said`The freeze frame, pending codes and every monitor that is complete${
              complete.length > 0 ? ` (${complete.join(', ')})` : ''
            }. They run again only under their own conditions: a cold start and steady driving at the least, on some vehicles more than ${figure(1000, 'km')}. Trims swing widely at first.`}
          />
        </p>
      </div>
      <May needs="judge">
        <label className="flex min-h-12 items-center gap-3">
          <input
            type="checkbox"
            className="checkbox"
            checked={understood}
            onChange={(e) => setUnderstood(e.target.checked)}
          />
          Understood. Key on, engine off, standing still.
        </label>
      </May>
      <Problem trouble={trouble} />
      <Press
        needs="judge"
        className="btn btn-lg justify-self-start"
        disabled={busy || !understood || !ready || !shop}
        onClick={clear}
      >
        {busy ? 'Clearing and reading again…' : 'Clear now'}
      </Press>
      {!shop && (
        <p className="m-0 text-soft">
          No adapter of the shop: clear with your own tool, then read the record again at Complaint.
        </p>
      )}
      {last?.kind === 'reset' && <ResetResult entry={last} />}
    </section>
  );
}

function ResetResult({ entry }: { entry: Extract<EntryView, { kind: 'reset' }> }) {
  const d = entry.data;
  if (d.refused !== null)
    return (
      <p role="status" className="m-0 font-[650] text-caution">
        The vehicle refused: {d.refused}.
      </p>
    );
  return (
    <div role="status" className="grid gap-1">
      <p className="m-0 font-[650]">
        Cleared: {d.codesBefore} {d.codesBefore === 1 ? 'code' : 'codes'} before, {d.codesAfter ?? 'not read'} after.
      </p>
      {d.openedMonitors.length > 0 && (
        <p className="m-0 text-soft">Incomplete again: {counted(d.openedMonitors.length, 'monitor')}.</p>
      )}
      {d.before.map((b) => (
        <p key={b.bank} className="m-0">
          Bank {b.bank} long term <span className="figure">{signed(b.longPct)}</span> %, then{' '}
          <span className="figure">{signed(d.after.find((a) => a.bank === b.bank)?.longPct ?? 0)}</span> %
        </p>
      ))}
      {d.adaptationKept === true && (
        <p className="m-0 font-[650] text-caution">
          The codes are gone, the adaptations are not: the vehicle goes on correcting a fault that is gone. Use the
          tool’s adaptation reset where there is one, or let it relearn.
        </p>
      )}
      {d.adaptationKept === false && <p className="m-0 text-soft">The adaptations went with the codes.</p>}
    </div>
  );
}
