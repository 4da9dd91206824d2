import type { CaptureView, JobView } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { storyOf } from '@just-balance/core/proof';
import type { Channel } from '@just-balance/core/series';
import { numberText } from '@just-balance/core/units';
import { useMemo, useState } from 'react';
import { Plot, useChartTheme } from '../charts/Plot.tsx';
import { channelLabel } from './importing/channels.ts';
import { useRecording } from './useRecording.ts';

interface Pair {
  at: string;
  before: CaptureView;
  after: CaptureView;
}

/** Points that were captured both before and after the repair: the newest capture of each. */
function pairsOf(job: JobView): Pair[] {
  const story = storyOf(job);
  const captureOf = (list: typeof story.before, at: string) => {
    const id = list.filter((r) => r.reading.at === at && r.captureId !== null).at(-1)?.captureId;
    return job.captures.find((c) => c.id === id);
  };
  return [...new Set(story.after.map((r) => r.reading.at))].flatMap((at) => {
    const before = captureOf(story.before, at);
    const after = captureOf(story.after, at);
    return before && after ? [{ at, before, after }] : [];
  });
}

const FIRST = ['stft1', 'ltft1', 'maf', 'map', 'rpm', 'tpRel', 'stft2', 'ltft2'];
/** Drawn a second as this many means at most: two lines are compared, not their noise. */
const PER_SECOND = 4;

/** The recordings of one point laid over each other, both from their own start. */
export function Overlaid({ job }: { job: JobView }) {
  const pairs = useMemo(() => pairsOf(job), [job]);
  const [at, setAt] = useState<string | null>(null);
  const pair = pairs.find((p) => p.at === at) ?? pairs[0];
  if (!pair) return null;
  return (
    <section className="card grid gap-3 p-4" aria-label="Recordings laid over each other">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="card-title">Recordings, before under after</h2>
        {pairs.length > 1 &&
          pairs.map((p) => (
            <button
              key={p.at}
              type="button"
              aria-pressed={p === pair}
              className={`btn btn-sm ${p === pair ? 'btn-neutral' : ''}`}
              onClick={() => setAt(p.at)}
            >
              {pointLabel(p.at as Parameters<typeof pointLabel>[0])}
            </button>
          ))}
      </div>
      <Both key={pair.at} jobId={job.id} pair={pair} />
    </section>
  );
}

function Both({ jobId, pair }: { jobId: string; pair: Pair }) {
  const [channel, setChannel] = useState('stft1');
  const wanted = useMemo(() => [channel], [channel]);
  const before = useRecording(jobId, pair.before.id, wanted);
  const after = useRecording(jobId, pair.after.id, wanted);
  const { colour, tick, figures } = useChartTheme();
  const both = (before.view?.channels ?? [])
    .filter((c) => c.kind === 'number' && after.view?.channels.some((a) => a.id === c.id))
    .map((c) => c.id)
    .sort((a, b) => rank(a) - rank(b));
  const drawn = (r: typeof before) => means(r.series.channels.find((c) => c.id === channel));
  const line = { pointRadius: 0, tension: 0, borderWidth: 2.5 };
  const problem = before.problem ?? after.problem;
  return (
    <>
      <label className="flex max-w-md items-center gap-3">
        <span className="font-[550]">Channel</span>
        <select className="select" value={channel} onChange={(e) => setChannel(e.target.value)}>
          {both.map((id) => (
            <option key={id} value={id}>
              {channelLabel(id)}
            </option>
          ))}
        </select>
      </label>
      {problem && <p className="m-0 text-caution">{problem}</p>}
      <div className="h-56" aria-busy={before.loading || after.loading}>
        <Plot
          type="line"
          label={`${channelLabel(channel)} over time, before dashed and after solid`}
          data={{
            datasets: [
              { data: drawn(before), ...line, borderColor: colour.soft, borderDash: [6, 4] },
              { data: drawn(after), ...line, borderColor: colour.ink },
            ],
          }}
          options={{
            scales: {
              x: {
                type: 'linear',
                ticks: { ...tick(), maxRotation: 0, callback: (v) => `${numberText(Number(v))} s` },
              },
              y: { ticks: figures() },
            },
          }}
        />
      </div>
      <p className="m-0 text-[0.9rem] text-soft">dashed: before · solid: after · seconds from the start of each</p>
    </>
  );
}

const rank = (id: string) => {
  const i = FIRST.indexOf(id);
  return i === -1 ? FIRST.length : i;
};

function means(c: Channel | undefined): { x: number; y: number }[] {
  if (!c) return [];
  const bins = new Map<number, { n: number; x: number; y: number }>();
  for (const [i, t] of c.time.entries()) {
    const k = Math.floor(t * PER_SECOND);
    const b = bins.get(k) ?? { n: 0, x: 0, y: 0 };
    bins.set(k, { n: b.n + 1, x: b.x + t, y: b.y + c.value[i]! });
  }
  return [...bins.values()].map((b) => ({ x: b.x / b.n, y: b.y / b.n }));
}
