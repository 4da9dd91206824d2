import type { JobView } from '@just-balance/contract';
import type { OperatingPoint } from '@just-balance/core/case';
import { pointLabel } from '@just-balance/core/case';
import { phaseNow } from '@just-balance/core/proof';
import { midSentence } from '@just-balance/core/units';
import type { JobLive } from '../../data/live.tsx';
import { keyFigure } from '../../job/judgement/figures.ts';
import { useAdapter } from '../../link/captures.ts';
import { Problem } from '../../ui/Problem.tsx';
import { Say } from '../../ui/preferences.tsx';
import { useAction } from '../../ui/useAction.ts';
import type { RunHandle } from './useRun.ts';

interface Props {
  job: JobView;
  live: JobLive;
  handle: RunHandle;
  at: OperatingPoint;
  runStartedMs: number;
  done: () => void;
}

/** A guided capture inside a step: before anything came off it belongs to the readings before, later to those after. */
export function Reading({ job, live, handle, at, runStartedMs, done }: Props) {
  const { busy, trouble, run } = useAction();
  const adapter = useAdapter(job, live);
  const ahead = handle.run.procedure.steps.filter((s) => handle.state.ahead.includes(s.id));
  const untouched = handle.state.off.length === 0 && ahead.some((s) => s.kind === 'take-off');
  const phase = untouched ? phaseNow(job) : 'after';
  const kept = job.readings.filter((r) => r.reading.at === at && Date.parse(r.at) >= runStartedMs).at(-1);
  const { capture } = live;
  const mine = capture && capture.at === at && capture.state !== 'done' ? capture : null;
  const start = () =>
    run(async () => {
      await adapter.start(at, phase);
    });
  return (
    <div className="grid gap-3">
      {kept ? (
        <p className="m-0 text-[1.1rem]">
          {pointLabel(at)} is kept:{' '}
          <strong className="font-[650]">
            <Say text={keyFigure(kept.reading)} />
          </strong>
        </p>
      ) : mine ? (
        <p className="m-0 text-[1.1rem]" role="status">
          {mine.state === 'waiting'
            ? `Waiting: ${mine.reason ?? 'until it is steady'}`
            : `${mine.state}, ${mine.keptSeconds} s kept`}
        </p>
      ) : (
        <p className="m-0 text-soft">
          {job.adapter
            ? 'The capture starts by itself once it is steady.'
            : 'No adapter: enter it by hand at Readings or Prove.'}
        </p>
      )}
      <Problem trouble={trouble} />
      <div className="flex flex-wrap gap-4">
        {!kept && !mine && job.adapter && (
          <button type="button" className="btn btn-primary btn-lg" disabled={busy} onClick={start}>
            Read {midSentence(pointLabel(at))}
          </button>
        )}
        {kept && (
          <button type="button" className="btn btn-primary btn-lg" onClick={done}>
            Go on
          </button>
        )}
      </div>
    </div>
  );
}
