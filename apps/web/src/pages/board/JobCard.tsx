import { type JobListItem } from '@just-balance/contract';
import { complaintLabel, pointLabel } from '@just-balance/core/case';
import { midSentence, signed } from '@just-balance/core/units';
import { formatDistanceToNowStrict } from 'date-fns';
import { Link } from 'react-router';
import { useLimits } from '../../data/limits.ts';
import { standsAt } from '../../job/frame/standsAt.ts';
import { leaning } from '../../ui/figures.ts';
import { Plate } from '../../ui/Plate.tsx';
import { useSay } from '../../ui/preferences.tsx';
import { useHands } from './useHands.ts';
import { Waits } from './Waits.tsx';

const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** One car of the shop: its plate, what is done to it next, and what stands beside that; edged where it is one’s own. */
export function JobCard({ job }: { job: JobListItem }) {
  const say = useSay();
  const limits = useLimits();
  const { mine, hands } = useHands()(job);
  const lean = job.worst && leaning(job.worst.totalPct, limits.watchPct);
  const closed = job.status === 'closed';
  return (
    <Link
      to={`/jobs/${job.id}`}
      className={`grid grid-cols-[minmax(0,1fr)] gap-1 rounded-(--radius-box) border border-l-8 border-rule bg-sheet px-3 py-2.5 text-ink no-underline hover:border-soft ${mine ? 'border-l-act hover:border-l-act' : ''}`}
    >
      <span className="flex items-baseline gap-3">
        <Plate of={job.plate} className="text-[0.95rem]" />
        <span className="ml-auto truncate text-[0.9rem] text-soft">
          {hands} · {formatDistanceToNowStrict(new Date(job.openedAt))}
        </span>
      </span>
      <span className="text-[1.1rem] leading-tight font-bold">
        {closed ? standsAt(job) : sentence(job.standing.next.title)}
      </span>
      <span className="text-[0.95rem] leading-snug text-soft">
        <span className="font-[550] text-ink">{[job.label, job.note].filter(Boolean).join(', ')}</span>
        {job.worst ? (
          <>
            {' · '}
            <span className={lean ? `font-[650] ${lean.text}` : ''}>
              {lean ? `${lean.word} ` : ''}
              <span className="figure whitespace-nowrap">{signed(job.worst.totalPct)} %</span> at{' '}
              {midSentence(pointLabel(job.worst.at))}
            </span>
            {!lean && ', in band'}
          </>
        ) : (
          job.symptom && ` · ${midSentence(complaintLabel(job.symptom))}`
        )}
      </span>
      <span className="flex flex-wrap items-center gap-2 empty:hidden">
        {job.damaged && <span className="badge badge-warning">needs mending</span>}
        <Waits waits={job.waits} />
        {job.work && (
          <span className="badge badge-warning" title={say(job.standing.next.why)}>
            {job.work.state === 'parked' ? 'parked' : 'under way'}
            {job.work.off.length > 0 && ` · ${job.work.off.length} off`}
            {job.work.toOrder.length > 0 && ` · order ${job.work.toOrder.length}`}
          </span>
        )}
      </span>
    </Link>
  );
}
