import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { write } from '../data/writes.ts';
import { Press } from '../ui/May.tsx';
import { Problem } from '../ui/Problem.tsx';
import { useAction } from '../ui/useAction.ts';
import { JobPhoto } from './JobPhoto.tsx';
import { PhotoButton } from './PhotoButton.tsx';

/** The pictures that belong to one thing of a job, each removable, and the button that takes another. */
export function PhotosOf({ job, step, label }: { job: JobView; step: string; label: string }) {
  const { busy, trouble, run } = useAction();
  const photos = job.photos.filter((p) => p.step === step && p.run === null && !p.undone);
  return (
    <div className="grid gap-2">
      {photos.length > 0 && (
        <ul className="m-0 flex list-none flex-wrap gap-3 p-0">
          {photos.map((p) => (
            <li key={p.id} className="grid w-36 gap-1">
              <a href={`/api/jobs/${job.id}/photos/${p.id}`} target="_blank" rel="noreferrer">
                <JobPhoto jobId={job.id} photo={p} small className="h-24 w-36 rounded-box object-cover" />
              </a>
              <Press
                className="btn btn-ghost btn-sm underline"
                disabled={busy}
                onClick={() =>
                  run(async () => {
                    await write(WRITES.changePhoto(job.id, p.id), { rev: p.rev, undone: true });
                  })
                }
              >
                Remove
              </Press>
            </li>
          ))}
        </ul>
      )}
      <PhotoButton jobId={job.id} step={step} label={label} taken={() => undefined}>
        Picture
      </PhotoButton>
      <Problem trouble={trouble} />
    </div>
  );
}
