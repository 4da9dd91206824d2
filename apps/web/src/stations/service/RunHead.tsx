import { minutesLeft, type RunState } from '@just-balance/core/procedures';
import { ListChecks, Volume2, VolumeX } from 'lucide-react';
import type { ReactNode } from 'react';
import { IconButton } from '../../ui/IconButton.tsx';
import { speaks } from '../../ui/speech.ts';
import { type RunHandle, useNow } from './useRun.ts';

/** More than this are drawn as one bar. */
const MOST_MARKS = 30;

/** Which work, where in it, how long still; and its steps as marks. */
export function RunHead({
  handle,
  aloud,
  setAloud,
  listed,
  setListed,
}: {
  handle: RunHandle;
  aloud: boolean;
  setAloud: (on: boolean) => void;
  /** Whether the list of steps is open; null: there is none. */
  listed: boolean | null;
  setListed: (on: boolean) => void;
}) {
  const { state, run } = handle;
  const now = useNow(state.timers.length > 0);
  const left = Math.max(1, Math.round(minutesLeft(run.procedure, state, now)));
  const at = state.way.length + 1;
  const all = at + state.ahead.length + state.early.size;
  return (
    <div className="grid gap-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <p className="m-0 mr-auto min-w-0 max-sm:flex-1">
          <strong className="mr-2 text-[1.15rem] font-bold">{run.procedure.title}</strong>{' '}
          <span className="text-soft">
            step {at} of {all} · about {lasts(left)} left
          </span>
        </p>
        {speaks() && (
          <IconButton
            name={aloud ? 'Stop reading steps aloud' : 'Read steps aloud'}
            pressed={aloud}
            press={() => setAloud(!aloud)}
          >
            {aloud ? <Volume2 size={20} aria-hidden /> : <VolumeX size={20} aria-hidden />}
          </IconButton>
        )}
        {listed !== null && (
          <button type="button" className="btn max-lg:px-3" aria-expanded={listed} onClick={() => setListed(!listed)}>
            <ListChecks size={20} aria-hidden /> <span className="max-lg:sr-only">List of steps</span>
          </button>
        )}
      </div>
      <Marks state={state} all={all} />
    </div>
  );
}

const lasts = (min: number) => (min < 90 ? `${min} min` : `${Math.floor(min / 60)} h ${min % 60} min`);

function Marks({ state, all }: { state: RunState; all: number }) {
  const done = state.way.length;
  if (all > MOST_MARKS) return <progress className="progress" value={done} max={all} aria-label="Steps done" />;
  const skipped = (id: string) => state.results.get(id)?.kind === 'skipped';
  const marks: ReactNode[] = Array.from({ length: all }, (_, i) => {
    const id = state.way[i];
    const look = id === undefined ? (i === done ? 'bg-act' : 'bg-rule') : skipped(id) ? 'hatched' : 'bg-ink';
    return <span key={id ?? i} className={`h-2 flex-1 rounded-full ${look}`} />;
  });
  return (
    <div aria-hidden className="flex gap-1">
      {marks}
    </div>
  );
}
