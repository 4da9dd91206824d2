import type { JobView } from '@just-balance/contract';
import { ChartLine } from 'lucide-react';
import type { ReactNode } from 'react';
import { captureLabel } from '../job/judgement/figures.ts';
import { clock } from '../ui/figures.ts';

/** What this job holds as recordings: captures that have ended, and imports. */
export function Recordings({
  job,
  look,
  children,
}: {
  job: JobView;
  look: (captureId: string) => void;
  children: ReactNode;
}) {
  const ended = job.captures.filter((c) => c.state !== 'running');
  return (
    <section className="card flex flex-row flex-wrap items-center gap-2 p-4 no-print">
      <h2 className="card-title mr-2">Recordings</h2>
      {ended.map((c) => (
        <button key={c.id} type="button" className="btn px-3" onClick={() => look(c.id)}>
          <ChartLine size={17} aria-hidden />
          {c.name ?? captureLabel(c.at)}
          <span className="figure text-soft">
            {c.phase === 'after' ? 'after · ' : ''}
            {c.source === 'link' ? clock(c.seconds) : 'imported'}
            {c.state === 'stopped' ? ' · stopped' : c.state === 'failed' ? ' · cut off' : ''}
          </span>
        </button>
      ))}
      {ended.length === 0 && <span className="text-soft">None yet: every capture becomes one.</span>}
      <span className="ml-auto flex flex-wrap items-center gap-3">{children}</span>
    </section>
  );
}
