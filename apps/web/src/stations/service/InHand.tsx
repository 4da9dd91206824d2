import { format, isSameDay } from 'date-fns';
import { Users } from 'lucide-react';
import type { JobLive } from '../../data/live.tsx';
import { useMe } from '../../data/session.tsx';
import { shopNow } from '../../data/shopClock.ts';
import { Press } from '../../ui/May.tsx';
import type { RunHandle } from './useRun.ts';

/** What presence says of somebody at a step of a work. */
const AT_WORK = /^Service: (.*)$/;

const saidWhen = (atMs: number, nowMs: number) => format(atMs, isSameDay(atMs, nowMs) ? 'HH:mm' : 'd MMM, HH:mm');

/** Whether somebody else has taken this work over: keys and the voice are theirs then. */
export const inOthersHands = ({ state }: Pick<RunHandle, 'state'>, me: string): boolean =>
  state.hands !== null && state.hands.by !== me;

/** Who else is at this work and at which step, or has taken it over; and a press to take it over. */
export function InHand({ handle, live }: { handle: RunHandle; live: Pick<JobLive, 'present'> }) {
  const me = useMe().name;
  const { state, busy, say } = handle;
  const theirs = inOthersHands(handle, me);
  const others = new Map(
    (live.present ?? []).flatMap((p) => {
      const step = AT_WORK.exec(p.at ?? '')?.[1];
      return p.name !== me && step ? [[p.name, step] as const] : [];
    }),
  );
  // Who has it in hand here is not asked whether to take it over from those who look on.
  if (!theirs && (others.size === 0 || state.hands)) return null;
  const here = [...others].map(([name, step]) => `${name} is at this work: ${step.replace(/\.$/, '')}.`);
  return (
    <section
      role={theirs ? 'alert' : 'status'}
      aria-label="Who has this work in hand"
      className={`alert flex flex-row flex-wrap items-center gap-x-6 gap-y-2 px-4 py-3 no-print ${theirs ? 'alert-warning' : ''}`}
    >
      <span className="flex min-w-60 flex-1 items-start gap-3">
        <Users size={20} aria-hidden className="mt-[1px] shrink-0" />
        <span>
          {theirs && (
            <strong className="font-[650]">
              {state.hands!.by} took this work over at {saidWhen(state.hands!.atMs, shopNow())}.{' '}
            </strong>
          )}
          {here.join(' ')}
        </span>
      </span>
      <Press className="btn" disabled={busy} onClick={() => void say({ kind: 'took-over' })}>
        Take over
      </Press>
    </section>
  );
}
