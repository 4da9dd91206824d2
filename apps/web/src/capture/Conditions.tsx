import type { CaptureStatus, JobView } from '@just-balance/contract';
import { type CapturePoint, WARM_FROM_C } from '@just-balance/core/capture';
import { figure, said } from '@just-balance/core/units';
import { Check, Circle } from 'lucide-react';
import { May } from '../ui/May.tsx';
import { useSay } from '../ui/preferences.tsx';

/** What must be true for a capture, and what is; before it runs, what will be looked at. */
export function Conditions({
  status,
  point,
  job,
}: {
  status: CaptureStatus | null;
  point: CapturePoint;
  job: JobView;
}) {
  const say = useSay();
  return (
    <section className="card p-4">
      <h2 className="card-title">What must be true</h2>
      <ul className="m-0 mt-2 list-none p-0">
        {(status?.conditions ?? []).map((c) => (
          <li key={c.id} className="border-t border-rule py-2">
            <div className="flex items-center justify-between gap-2">
              <span className="font-[650]">{c.label}</span>
              {c.met ? (
                <span className="badge badge-success">
                  <Check size={14} aria-hidden /> yes
                </span>
              ) : (
                <span className="badge badge-warning">
                  <Circle size={12} aria-hidden /> not yet
                </span>
              )}
            </div>
            <div className="figure text-[0.9rem] text-soft">{say(c.detail)}</div>
          </li>
        ))}
        {!status && (
          <li className="border-t border-rule py-2 text-soft">
            {[
              point.needsWarm && say(said`warm from ${figure(WARM_FROM_C, '°C')}`),
              point.coldBelowC !== undefined && say(said`coolant at most ${figure(point.coldBelowC, '°C')}`),
              point.needsClosedLoop && job.vehicle.fuel === 'petrol' && 'closed loop',
              point.rpmHigh === 0
                ? 'engine off'
                : `${point.rpmLow.toLocaleString('en-US')}–${point.rpmHigh.toLocaleString('en-US')} rpm`,
              point.speedLowKmh !== undefined && say(said`at least ${figure(point.speedLowKmh, 'km/h')}`),
              point.kind === 'steady' && `steady for ${point.windowS} s`,
            ]
              .filter(Boolean)
              .join(', ')}
            . Checked by itself once started.
          </li>
        )}
      </ul>
      <p className="m-0 mt-2 text-[0.9rem] text-soft">
        Hands free once started.
        <May>
          {' '}
          <kbd className="kbd kbd-sm">H</kbd> hand entry.
        </May>
      </p>
    </section>
  );
}
