import type { JobView } from '@just-balance/contract';
import { runState, timerLeftS } from '@just-balance/core/procedures';
import { AlarmClock } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import { shopNow } from '../../data/shopClock.ts';
import { usePreferences } from '../../ui/preferences.tsx';
import { playTone } from '../../ui/tone.ts';

/** Minutes and seconds, hours where there are any. */
export function clock(s: number): string {
  const h = Math.floor(s / 3600);
  const m = Math.floor((s % 3600) / 60);
  const two = (v: number) => String(v).padStart(2, '0');
  return h > 0 ? `${h}:${two(m)}:${two(s % 60)}` : `${m}:${two(s % 60)}`;
}

/**
 * Timers of the job's runs, at whatever station one is; each says once that it is over, aloud where tones are on.
 * `heardOnly`: the page shows them itself.
 */
export function TimerBar({ job, heardOnly }: { job: JobView; heardOnly: boolean }) {
  const timers = useMemo(
    () =>
      job.runs.flatMap((run) => {
        const s = runState(run.procedure, run.events);
        if (s.status !== 'running' && s.status !== 'parked') return [];
        return s.timers.map((t) => ({ ...t, key: `${run.id} ${t.step} ${t.startedMs}`, title: run.procedure.title }));
      }),
    [job.runs],
  );
  const [now, setNow] = useState(shopNow);
  const { tones } = usePreferences();
  const row = useRef(new Set<string>());
  const running = timers.length > 0;
  useEffect(() => {
    if (!running) return;
    setNow(shopNow());
    const timer = setInterval(() => setNow(shopNow()), 1000);
    return () => clearInterval(timer);
  }, [running]);
  useEffect(() => {
    for (const t of timers) {
      if (timerLeftS(t, now) > 0 || row.current.has(t.key)) continue;
      row.current.add(t.key);
      // One that was over before this page was opened is only shown.
      if (now - t.endsMs > 5000) continue;
      if (tones) playTone('kept');
      if ('Notification' in window && Notification.permission === 'granted')
        new Notification('Time is up', { body: t.title });
    }
  }, [timers, now, tones]);
  if (timers.length === 0) return null;
  const over = timers.filter((t) => timerLeftS(t, now) === 0);
  const said = (
    <span className="sr-only" role="status">
      {over.length > 0 ? `Time is up: ${over.map((t) => t.title).join(', ')}` : ''}
    </span>
  );
  if (heardOnly) return said;
  return (
    <div className="fixed right-4 bottom-4 z-30 grid gap-2 no-print">
      {timers.map((t) => {
        const left = timerLeftS(t, now);
        return (
          <Link
            key={t.key}
            to={`/jobs/${job.id}/service`}
            className={`alert flex items-center gap-3 border-2 px-4 py-2 text-ink no-underline shadow ${left === 0 ? 'border-act bg-band' : 'border-rule bg-sheet'}`}
          >
            <AlarmClock aria-hidden size={20} />
            <span className="figure text-[1.15rem] font-bold">{left === 0 ? 'time is up' : clock(left)}</span>
            <span className="text-soft">{t.title}</span>
          </Link>
        );
      })}
      {said}
    </div>
  );
}
