import { WRITES } from '@just-balance/contract';
import { BEFORE_INSPECTION } from '@just-balance/core/readiness';
import { joined, said } from '@just-balance/core/units';
import { format } from 'date-fns';
import { Printer } from 'lucide-react';
import { Link } from 'react-router';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { MayChange } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say } from '../../ui/preferences.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useRuleAnswers } from './WouldPass.tsx';

/** What is looked at before driving to an inspection, with the monitors as they were read; prints. */
export function InspectionSheet({ job }: StationProps) {
  const { busy, trouble, run } = useAction();
  const record = [...job.records].reverse().find((r) => r.monitors);
  const answers = useRuleAnswers(job, record).filter((a) => a.accepts !== null);
  const entry = [...job.entries].reverse().find((e) => e.kind === 'inspection' && !e.undone);
  const seen = entry?.kind === 'inspection' ? entry.data.seen : [];
  const open = record?.monitors?.monitors.filter((m) => m.state === 'incomplete').length ?? null;
  const tick = (id: string) =>
    run(async () => {
      const next = seen.includes(id) ? seen.filter((s) => s !== id) : [...seen, id];
      await queueWrite('Sheet before the inspection', WRITES.addEntry(job.id), {
        id: newId(),
        kind: 'inspection',
        data: { seen: next },
      });
    });
  return (
    <>
      <section className="card flex flex-row flex-wrap items-center justify-between gap-4 p-4 no-print">
        <div>
          <h1 className="m-0 text-xl font-bold">Before the inspection</h1>
          <p className="m-0">Walk round the car with it; every tick is kept.</p>
        </div>
        <div className="flex flex-wrap gap-4">
          <button type="button" className="btn btn-lg" onClick={() => window.print()}>
            <Printer aria-hidden size={20} />
            Print the sheet
          </button>
          <Link className="btn btn-primary btn-lg" to={`/jobs/${job.id}/readiness`}>
            Back to Readiness
          </Link>
        </div>
      </section>
      <Problem trouble={trouble} />
      <section className="card grid gap-3 p-4" aria-label="Sheet">
        <h2 className="card-title">
          {job.vehicle.label}
          {job.vehicle.note ? `, ${job.vehicle.note}` : ''}
          {job.vehicle.year ? `, ${job.vehicle.year}` : ''}
        </h2>
        <p className="m-0">
          {record
            ? `Monitors read ${format(new Date(record.at), 'd MMM yyyy, HH:mm')}: ${open === 0 ? 'all complete' : `${open} open`}; lamp ${record.lampOn ? 'on' : 'off'}; ${record.codes.length === 0 ? 'no codes' : record.codes.map((c) => `${c.code} ${c.state}`).join(', ')}.`
            : 'Monitors not read yet.'}
        </p>
        <MayChange>
          <ul className="m-0 grid list-none gap-2 p-0">
            {BEFORE_INSPECTION.map((b) => (
              <li key={b.id}>
                <label className="flex min-h-12 cursor-pointer items-start gap-3">
                  <input
                    type="checkbox"
                    className="checkbox mt-1"
                    checked={seen.includes(b.id)}
                    disabled={busy}
                    onChange={() => void tick(b.id)}
                  />
                  <span>
                    <span className="font-[650]">{b.says}</span>
                    <span className="block text-[0.93rem] text-soft">{b.why}</span>
                  </span>
                </label>
              </li>
            ))}
          </ul>
        </MayChange>
        {answers.length > 0 && (
          <>
            <h2 className="card-title">What rules say of it as read</h2>
            <ul className="m-0 pl-5">
              {answers.map((a) => (
                <li key={a.rule.id}>
                  {a.rule.title} ({a.rule.place}, as of {a.rule.asOf}): {a.accepts ? 'takes it' : 'refuses it'}
                  {a.reasons.length > 0 ? `; ${a.reasons.join('; ')}` : ''}.
                  {a.extras.length > 0 && (
                    <Say
                      text={said` Also tested: ${joined(
                        a.extras.map((e) => e.says),
                        '; ',
                      )}.`}
                    />
                  )}
                </li>
              ))}
            </ul>
          </>
        )}
        <p className="m-0 text-soft">
          Ask your local programme: it decides. A station may refuse what the rule allows. Service information and local
          law come first.
        </p>
      </section>
    </>
  );
}
