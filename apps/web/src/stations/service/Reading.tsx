import type { ReadingView } from '@just-balance/contract';
import { pointLabel, type ReadFigure } from '@just-balance/core/case';
import { keyFigure, phaseNow } from '@just-balance/core/proof';
import { midSentence } from '@just-balance/core/units';
import { useState } from 'react';
import { HandEntry } from '../../capture/HandEntry.tsx';
import { useAdapter } from '../../link/captures.ts';
import { later } from '../../ui/later.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say } from '../../ui/preferences.tsx';
import { useAction } from '../../ui/useAction.ts';
import { ACT, InDock } from './Dock.tsx';
import type { StepProps } from './stepProps.ts';

const BayControls = later(async () => (await import('../../practice/BayControls.tsx')).BayControls);

const timeOf = (iso: string) => new Date(iso).toLocaleTimeString([], { timeStyle: 'short' });

/**
 * A guided capture inside a step, by hand, or the reading that is there: before anything came off it belongs to the
 * readings before, later to those after.
 */
export function Reading({ job, live, handle, step, done }: StepProps) {
  const at = step.at!;
  const { busy, trouble, run } = useAction();
  const adapter = useAdapter(job, live);
  const [byHand, setByHand] = useState(false);
  const ahead = handle.run.procedure.steps.filter((s) => handle.state.ahead.includes(s.id));
  const untouched = handle.state.off.length === 0 && ahead.some((s) => s.kind === 'take-off');
  const phase = untouched ? phaseNow(job) : 'after';
  const began = Date.parse(handle.run.at);
  const newest = job.readings.findLast((r) => r.reading.at === at && r.phase === phase);
  const fresh = newest !== undefined && Date.parse(newest.at) >= began;
  const { capture } = live;
  const mine = capture && capture.at === at && capture.phase === phase && capture.state !== 'done' ? capture : null;
  const read = () => run(() => adapter.start(at, phase));
  const command = (c: 'stop' | 'keep-doubtful') => run(async () => mine && adapter.command(mine.captureId, c));
  return (
    <div className="grid gap-3">
      {mine ? (
        <div role="status" className="grid gap-2">
          <p className="m-0 text-[1.1rem] font-[650]">
            {mine.state === 'capturing'
              ? `Steady: ${Math.floor(mine.goodS)} of ${mine.wantedS} s`
              : mine.sentence
                ? null
                : `Waiting: ${mine.reason ?? 'until it is steady'}`}
            {mine.state !== 'capturing' && mine.sentence && <Say text={mine.sentence} />}
          </p>
          <progress className="progress" value={mine.goodS} max={mine.wantedS} aria-label="Steady seconds" />
        </div>
      ) : newest ? (
        <Kept reading={newest} fresh={fresh} asked={step.figure} />
      ) : (
        <p className="m-0 text-soft">
          {job.adapter
            ? 'The capture keeps itself once it is steady.'
            : 'No adapter is chosen: type what your tool shows.'}
        </p>
      )}
      <Problem trouble={trouble} />
      <div className="flex flex-wrap gap-4">
        {mine ? (
          <>
            <button type="button" className="btn btn-lg" disabled={busy} onClick={() => command('stop')}>
              Stop
            </button>
            {mine.keepable && (
              <button type="button" className="btn btn-lg" disabled={busy} onClick={() => command('keep-doubtful')}>
                Keep it as doubtful
              </button>
            )}
          </>
        ) : (
          job.adapter &&
          newest && (
            <button type="button" className="btn btn-lg" disabled={busy} onClick={read}>
              Read it again
            </button>
          )
        )}
        <button type="button" className="btn btn-lg" onClick={() => setByHand(true)}>
          Enter by hand
        </button>
      </div>
      {!mine && (newest || job.adapter) && (
        <InDock>
          {newest ? (
            <button
              type="button"
              className={ACT}
              onClick={() => done(fresh ? {} : { note: `the reading of ${timeOf(newest.at)}` })}
            >
              {fresh ? 'Go on' : 'Take this one'}
            </button>
          ) : (
            <button type="button" className={ACT} disabled={busy} onClick={read}>
              Read {midSentence(pointLabel(at))}
            </button>
          )}
        </InDock>
      )}
      {byHand && <HandEntry job={job} phase={phase} at={at} close={() => setByHand(false)} />}
      {job.adapter?.startsWith('sim:') && <BayControls bay={Number(job.adapter.slice(4))} compact />}
    </div>
  );
}

function Kept({ reading, fresh, asked }: { reading: ReadingView; fresh: boolean; asked: ReadFigure | undefined }) {
  return (
    <p className="m-0 text-[1.1rem]">
      {pointLabel(reading.reading.at)} {fresh ? 'is kept' : `was read at ${timeOf(reading.at)}, before this work`}:{' '}
      <strong className="font-[650]">
        <Say text={keyFigure(reading.reading, asked)} />
      </strong>
      {reading.doubtful && <span className="badge badge-warning ml-2">doubtful</span>}
    </p>
  );
}
