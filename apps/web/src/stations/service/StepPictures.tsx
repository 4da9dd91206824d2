import { type PhotoView, ROUTES } from '@just-balance/contract';
import { wordsOf } from '@just-balance/core/units';
import { useRead } from '../../data/reads.ts';
import { JobPhoto } from '../../photos/JobPhoto.tsx';
import { PhotoButton } from '../../photos/PhotoButton.tsx';
import type { StepProps } from './stepProps.ts';

export type GoodPhoto = PhotoView & { jobId: string };

/** The shop's pictures of good parts. */
export const useGoodPhotos = (): GoodPhoto[] => useRead(ROUTES.goodPhotos).data ?? [];

/** Kinds that take their own picture, or need none. */
const WITHOUT_PLACE: ReadonlySet<string> = new Set(['photo', 'take-off', 'timer', 'torque', 'decide', 'read']);
const MOST = 3;

/** The picture place of a step: what was taken at it, and a good part as the shop has seen it at the same step. */
export function StepPictures({ job, handle, step }: StepProps) {
  const here = job.photos.filter((p) => p.run === handle.run.id && p.step === step.id && !p.undone);
  // A picture is named by its step, in the units the step is written in.
  const name = wordsOf(step.text, 'own');
  const good = useGoodPhotos().filter((g) => g.jobId !== job.id && g.label === name.slice(0, 120));
  const place = !WITHOUT_PLACE.has(step.kind);
  if (here.length === 0 && good.length === 0 && !place) return null;
  return (
    <section aria-label="Pictures of this step" className="flex flex-wrap items-start gap-4">
      {good.slice(0, MOST).map((p) => (
        <Pictured key={p.id} jobId={p.jobId} photo={p} says="a good one, from this shop" />
      ))}
      {here.slice(-MOST).map((p) => (
        <Pictured key={p.id} jobId={job.id} photo={p} says="this car, at this step" />
      ))}
      {place && (
        <div className="grid min-h-28 w-44 place-items-center rounded-box border-2 border-dashed border-rule p-2 text-center text-[0.9rem] text-soft">
          <PhotoButton jobId={job.id} run={handle.run.id} step={step.id} label={name} taken={() => undefined}>
            {here.length === 0 ? 'Picture of this' : 'One more'}
          </PhotoButton>
        </div>
      )}
    </section>
  );
}

function Pictured({ jobId, photo, says }: { jobId: string; photo: PhotoView; says: string }) {
  return (
    <figure className="m-0 block">
      <JobPhoto jobId={jobId} photo={photo} small className="max-h-44 rounded-box" />
      <figcaption className="text-[0.9rem] text-soft">{says}</figcaption>
    </figure>
  );
}
