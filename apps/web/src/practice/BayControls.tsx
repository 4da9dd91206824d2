import { type BayView, ROUTES, WRITES } from '@just-balance/contract';
import { type ReactNode } from 'react';
import { mutate } from 'swr';
import { api } from '../data/api.ts';
import { useRead } from '../data/reads.ts';
import { Fold } from '../ui/Fold.tsx';
import { MayChange } from '../ui/May.tsx';
import { Problem } from '../ui/Problem.tsx';
import { Quantity, Say, useShown } from '../ui/preferences.tsx';
import { useAction } from '../ui/useAction.ts';
import { BenchTests } from './bay/BenchTests.tsx';
import { Drive, WholeDrive } from './bay/Drive.tsx';
import { Faults, faultsText } from './bay/Faults.tsx';
import { type Post, Press, type Send } from './bay/Press.tsx';
import { Surroundings } from './bay/Surroundings.tsx';
import { WorkOnIt } from './bay/WorkOnIt.tsx';

/** What may be done to a simulated vehicle; clearly marked as simulated. `compact`: only the driver's part. */
export function BayControls({
  bay,
  compact = false,
  drives = !compact,
  children,
}: {
  bay: number;
  /** Beside its name. */
  children?: ReactNode;
  compact?: boolean;
  /** Whole drives, and how fast time goes. */
  drives?: boolean;
}) {
  const { data: bays } = useRead(ROUTES.bays, { refreshInterval: 2000 });
  const view = bays?.find((b) => b.bay === bay);
  const { busy, trouble, run } = useAction();
  const show = useShown();
  if (!view) return null;
  const post: Post = async (body) => {
    const answer = await api.send(WRITES.bay(bay), body);
    const { result: _, ...now } = answer;
    await mutate<BayView[]>(ROUTES.bays, (all) => all?.map((b) => (b.bay === bay ? now : b)), { revalidate: false });
    return answer;
  };
  const send: Send = (command, rest = {}) => run(() => post({ command, ...rest }));
  return (
    <section
      aria-label={`Bay ${bay}, simulated`}
      className="rounded-xl border-2 border-dashed border-soft p-4 no-print"
    >
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 className="m-0 text-[1.05rem] font-bold">
          Bay {bay}: simulated {view.vehicle.label}
        </h2>
        <span className="text-soft">
          {view.script ? `${view.script}: ` : ''}
          <Say text={view.target} /> · <Quantity value={view.rpm} unit="rpm" digits={0} /> ·{' '}
          {view.kmh > 0 && (
            <>
              <Quantity value={view.kmh} unit="km/h" digits={0} /> ·{' '}
            </>
          )}
          <Quantity value={view.ectC} unit="°C" digits={0} />
          {view.rate !== 1 && ` · time ×${view.rate}`}
          {!compact && view.faultsIn.length > 0 && ` · fault in: ${faultsText(view, show)}`}
        </span>
        {children && <span className="ml-auto">{children}</span>}
      </div>
      <MayChange needs="drive">
        <div className="mt-3 grid gap-3">
          <Drive send={send} busy={busy} view={view} />
          {drives && <WholeDrive send={send} busy={busy} view={view} />}
          {!compact && <Faults view={view} send={send} post={post} busy={busy} />}
          {!compact && <WorkOnIt send={send} busy={busy} />}
          {!compact && (
            <Fold title="Vehicle, surroundings, time, link, bench tests">
              <div className="grid gap-3">
                <Surroundings view={view} send={send} post={post} busy={busy} />
                <BenchTests view={view} post={post} busy={busy} />
              </div>
            </Fold>
          )}
          {compact && (
            <Fold title="Instructor: fault in this car">
              <div className="mt-2 flex flex-wrap items-center gap-3">
                <span>{faultsText(view, show) || 'none'}</span>
                <Press busy={busy || view.faultsIn.length === 0} act={() => send('repair')}>
                  Repair it
                </Press>
              </div>
            </Fold>
          )}
          <Problem trouble={trouble} />
        </div>
      </MayChange>
    </section>
  );
}
