import type { JobListItem } from '@just-balance/contract';
import { complaintLabel } from '@just-balance/core/case';
import { midSentence } from '@just-balance/core/units';
import { Link } from 'react-router';
import { Plate } from '../../ui/Plate.tsx';
import { Say } from '../../ui/preferences.tsx';
import { useHands } from './useHands.ts';

/** The one thing to do now: which car, what, why. */
export function Now({ job }: { job: JobListItem }) {
  const mine = useHands()(job).mine;
  const { title, why } = job.standing.next;
  return (
    <section
      aria-label="Next step"
      className="flex flex-wrap items-center gap-x-6 gap-y-3 rounded-(--radius-box) bg-act px-5 py-4 text-sheet"
    >
      <Plate of={job.plate} className="text-[1.2rem]" />
      <div className="min-w-60 flex-1">
        <p className="m-0 text-[0.95rem] font-[650]">
          {mine ? 'You, now' : 'Next'} · {[job.label, job.note].filter(Boolean).join(', ')}
          {job.symptom && ` · ${midSentence(complaintLabel(job.symptom))}`}
        </p>
        <h1 className="m-0 text-[1.6rem] leading-tight font-bold" aria-live="polite">
          {title.charAt(0).toUpperCase() + title.slice(1)}
        </h1>
        <p className="m-0 mt-1">
          <Say text={why} />
        </p>
      </div>
      <Link to={`/jobs/${job.id}`} className="btn btn-lg px-8">
        Go to it
      </Link>
    </section>
  );
}
