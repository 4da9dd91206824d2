import type { PhotoView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { Star } from 'lucide-react';
import { useState } from 'react';
import { write } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { JobPhoto } from '../../photos/JobPhoto.tsx';
import { PhotoButton } from '../../photos/PhotoButton.tsx';
import { Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useGoodPhotos } from './StepPictures.tsx';

/** All pictures of the job; two beside each other under one slider; the shop's own of good parts. */
export function Pictures({ job }: StationProps) {
  const photos = job.photos.filter((p) => !p.undone);
  const good = useGoodPhotos();
  const [pair, setPair] = useState<readonly (PhotoView & { jobId?: string })[]>([]);
  const { busy, trouble, run } = useAction();
  const pick = (p: PhotoView & { jobId?: string }) =>
    setPair(pair.some((x) => x.id === p.id) ? pair.filter((x) => x.id !== p.id) : [...pair, p].slice(-2));
  const patch = (p: PhotoView, change: { good?: boolean; undone?: boolean }) =>
    run(async () => {
      await write(WRITES.changePhoto(job.id, p.id), { rev: p.rev, ...change });
    });
  const others = good.filter((g) => g.jobId !== job.id);
  const tile = (p: PhotoView & { jobId?: string }) => (
    <li key={p.id} className="grid gap-1">
      <button
        type="button"
        aria-pressed={pair.some((x) => x.id === p.id)}
        aria-label={`Compare: ${p.label || 'picture'}`}
        onClick={() => pick(p)}
        className={`cursor-pointer overflow-hidden rounded-box border-3 bg-transparent p-0 ${pair.some((x) => x.id === p.id) ? 'border-act' : 'border-transparent'}`}
      >
        <JobPhoto jobId={p.jobId ?? job.id} photo={p} small className="h-32 w-full object-cover" />
      </button>
      <span className="text-[0.9rem]">{p.label || 'picture'}</span>
      <span className="text-[0.85rem] text-soft">
        {new Date(p.at).toLocaleString([], { dateStyle: 'short', timeStyle: 'short' })}
      </span>
    </li>
  );
  return (
    <div className="grid gap-4">
      <div className="flex flex-wrap items-center gap-3">
        <PhotoButton jobId={job.id} label="Picture" taken={() => undefined}>
          Take a picture
        </PhotoButton>
        <p className="m-0 flex-1 text-soft">
          Choose two to lay them over each other. Place and camera are taken out of every picture.
        </p>
      </div>
      <Problem trouble={trouble} />
      {pair.length === 2 && <Compare jobId={job.id} before={pair[0]!} after={pair[1]!} />}
      {pair.length === 1 && <Magnified jobId={pair[0]!.jobId ?? job.id} photo={pair[0]!} />}
      {pair.length === 1 && !pair[0]!.jobId && (
        <div className="flex gap-3">
          <Press className="btn" disabled={busy} onClick={() => patch(pair[0]!, { good: !pair[0]!.good })}>
            <Star size={18} aria-hidden /> {pair[0]!.good ? 'No longer a good part' : 'Keep as a good part'}
          </Press>
          <Press
            className="btn"
            disabled={busy}
            onClick={() => {
              void patch(pair[0]!, { undone: true });
              setPair([]);
            }}
          >
            Take it out
          </Press>
        </div>
      )}
      {photos.length === 0 ? (
        <p className="m-0 text-soft">No picture yet: steps ask for them, or take one here.</p>
      ) : (
        <ul className="m-0 grid list-none grid-cols-2 gap-3 p-0 sm:grid-cols-4 xl:grid-cols-6">{photos.map(tile)}</ul>
      )}
      {others.length > 0 && (
        <section>
          <h2 className="card-title">Good parts of this shop</h2>
          <ul className="m-0 mt-2 grid list-none grid-cols-2 gap-3 p-0 sm:grid-cols-4 xl:grid-cols-6">
            {others.map(tile)}
          </ul>
        </section>
      )}
    </div>
  );
}

/** One picture over the other, the border moved by hand or by the arrow keys. */
function Compare({
  jobId,
  before,
  after,
}: {
  jobId: string;
  before: PhotoView & { jobId?: string };
  after: PhotoView & { jobId?: string };
}) {
  const [at, setAt] = useState(50);
  return (
    <figure className="m-0 block w-full">
      <div className="relative overflow-hidden rounded-box bg-bench">
        <JobPhoto jobId={before.jobId ?? jobId} photo={before} className="block max-h-[420px] w-full object-contain" />
        <div className="absolute inset-0" style={{ clipPath: `inset(0 0 0 ${at}%)` }}>
          <JobPhoto
            jobId={after.jobId ?? jobId}
            photo={after}
            className="block h-full max-h-[420px] w-full bg-bench object-contain"
          />
        </div>
        <span aria-hidden className="absolute inset-y-0 w-[3px] bg-act" style={{ left: `${at}%` }} />
      </div>
      <input
        type="range"
        className="range mt-2 w-full"
        min={0}
        max={100}
        value={at}
        aria-label={`Border between ${before.label || 'the first'} and ${after.label || 'the second'}`}
        onChange={(e) => setAt(Number(e.target.value))}
      />
      <figcaption className="flex justify-between gap-6 text-[0.93rem] text-soft">
        <span>{before.label || 'first'}</span>
        <span>{after.label || 'second'}</span>
      </figcaption>
    </figure>
  );
}

/** A picture and a place in it, enlarged. */
function Magnified({ jobId, photo }: { jobId: string; photo: PhotoView }) {
  const [zoom, setZoom] = useState(1);
  const [origin, setOrigin] = useState('50% 50%');
  return (
    <div className="grid gap-2">
      <div
        className="overflow-hidden rounded-box bg-bench"
        onPointerMove={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          setOrigin(`${(100 * (e.clientX - box.left)) / box.width}% ${(100 * (e.clientY - box.top)) / box.height}%`);
        }}
      >
        <div style={{ transform: `scale(${zoom})`, transformOrigin: origin }}>
          <JobPhoto jobId={jobId} photo={photo} className="block max-h-[420px] w-full object-contain" />
        </div>
      </div>
      <label className="flex items-center gap-3 text-soft">
        Enlarge
        <input
          type="range"
          className="range"
          min={1}
          max={6}
          step={0.25}
          value={zoom}
          onChange={(e) => setZoom(Number(e.target.value))}
        />
        <span className="figure">{zoom.toFixed(2)}×</span>
      </label>
    </div>
  );
}
