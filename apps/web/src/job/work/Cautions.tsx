import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { cautionsFor, PRECEDENCE } from '@just-balance/core/procedures';
import { TriangleAlert } from 'lucide-react';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import { Fold } from '../../ui/Fold.tsx';
import { Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

/** The cautions of a step, each acknowledged once in a job and recorded. `inDock`: short, and in sight all the time. */
export function Cautions({ job, step, inDock = false }: { job: JobView; step: string; inDock?: boolean }) {
  const { busy, trouble, run } = useAction();
  const rows = cautionsFor(step);
  const known = (id: string) => job.cautions.some((c) => c.caution === id);
  const open = rows.filter((c) => !known(c.id));
  if (rows.length === 0) return null;
  const acknowledge = () =>
    run(async () => {
      for (const c of open)
        await queueWrite('Caution acknowledged', WRITES.acknowledge(job.id), { id: newId(), caution: c.id, step });
    });
  const press = (look: string) => (
    <Press className={`btn ${look}`} disabled={busy} onClick={acknowledge}>
      Understood
    </Press>
  );
  if (inDock)
    return (
      <section
        aria-label="Cautions"
        className="flex items-center gap-x-4 text-[0.95rem] leading-snug text-caution no-print"
      >
        <ul className={`m-0 grid list-none gap-1 p-0 ${open.length > 0 ? 'font-[650]' : ''}`}>
          {rows.map((c) => (
            <li key={c.id} className="flex items-start gap-2">
              <TriangleAlert aria-hidden size={18} className="mt-[2px] shrink-0" />
              {c.text}
            </li>
          ))}
        </ul>
        {open.length > 0 && press('btn-sm min-h-11 shrink-0')}
        <Problem trouble={trouble} />
      </section>
    );
  if (open.length === 0) {
    return (
      <Fold
        className="text-caution no-print"
        title={
          <>
            <TriangleAlert aria-hidden size={16} />
            {rows.length === 1 ? 'Caution' : `${rows.length} cautions`} acknowledged
          </>
        }
      >
        <ul className="m-0 mt-1 alert alert-warning grid list-none gap-1 p-3">
          {rows.map((c) => (
            <li key={c.id}>{c.text}</li>
          ))}
        </ul>
      </Fold>
    );
  }
  return (
    <section
      aria-label="Cautions"
      className="alert alert-warning flex flex-wrap items-center gap-x-6 gap-y-3 px-4 py-3 no-print"
    >
      <ul className="m-0 grid min-w-[240px] flex-1 list-none gap-1 p-0">
        {open.map((c) => (
          <li key={c.id} className="flex items-start gap-2 font-[650]">
            <TriangleAlert aria-hidden size={18} className="mt-[2px] shrink-0" />
            {c.text}
          </li>
        ))}
      </ul>
      {press('')}
      <Problem trouble={trouble} />
    </section>
  );
}

/** Stands on every Service, Readiness and printed page. */
export function Precedence() {
  return <p className="m-0 text-[0.93rem] text-soft">{PRECEDENCE}</p>;
}
