import type { JobView } from '@just-balance/contract';
import { complaintLabel } from '@just-balance/core/case';
import { faultLabel, TEST_BY_ID } from '@just-balance/core/catalogue';
import { MONITORS } from '@just-balance/core/obd';
import { dirtSource, goesBackOn, runState } from '@just-balance/core/procedures';
import { chanceText, midSentence } from '@just-balance/core/units';
import { format } from 'date-fns';
import { Download, Printer } from 'lucide-react';
import { ofJob } from '../../data/ofJob.ts';
import { useAccount } from '../../data/session.tsx';
import { stillCondemned, useProof } from '../../job/afterRepair.ts';
import { BeforeAfter } from '../../job/BeforeAfter.tsx';
import { Cautions, Precedence } from '../../job/Cautions.tsx';
import { inUnits } from '../../job/cardFacts.ts';
import { newestReadings } from '../../job/figures.ts';
import type { StationProps } from '../../job/station.ts';
import { showing } from '../../job/TestList.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useShown } from '../../ui/preferences.tsx';
import { useAction } from '../../ui/useAction.ts';

export function HandOverStation({ job }: StationProps) {
  const { busy, trouble, run } = useAction();
  const show = useShown();
  const account = useAccount();
  const proof = useProof(job);
  const verdict = newestReadings(job, 'after').length > 0 ? proof : null;
  const status = (s: 'open' | 'closed') =>
    run(async () => {
      await ofJob(job.id).patch('', { rev: job.rev, status: s });
    });
  const diagnosis = job.diagnoses.at(-1)?.output;
  const first = diagnosis?.causes[0];
  const record = job.records.at(-1);
  const open = record?.monitors?.monitors.filter((m) => m.state === 'incomplete') ?? [];
  const v = job.vehicle;
  const said = toldAtHandOver(job);
  const condemned = stillCondemned(job);
  return (
    <>
      <NextStep
        title={job.status === 'closed' ? 'Handed over' : 'Hand it over'}
        why="What was wrong, measured, done, proven; for the customer and for the next technician."
      >
        <a className="btn btn-lg" href={`/api/jobs/${job.id}/export`} download={`job-${job.id}.json`}>
          <Download size={19} aria-hidden /> Export JSON
        </a>
        <button type="button" className="btn btn-lg" onClick={() => window.print()}>
          <Printer size={19} aria-hidden /> Print
        </button>
        {job.status === 'closed' ? (
          <button type="button" className="btn btn-lg" disabled={busy} onClick={() => status('open')}>
            Open again
          </button>
        ) : (
          <button type="button" className="btn btn-primary btn-lg" disabled={busy} onClick={() => status('closed')}>
            Close the job
          </button>
        )}
      </NextStep>
      <Problem trouble={trouble} />
      <Cautions job={job} step="hand-over" />
      <article className="grid gap-3" aria-label="Job page">
        <header className="card p-5">
          <p className="m-0 text-soft">
            {account.shop.name} · {format(new Date(job.openedAt), 'd MMMM yyyy')} · {job.openedBy}
          </p>
          <h2 className="m-0 mt-1 text-2xl font-bold">
            {v.label}
            {v.note ? `, ${v.note}` : ''}
          </h2>
          <p className="m-0 text-soft">
            {[
              v.year,
              `${v.displacementL} L, ${v.cylinders} cylinders`,
              v.odometerKm && inUnits(show, v.odometerKm, 'km'),
              v.vin,
            ]
              .filter(Boolean)
              .join(' · ')}
          </p>
        </header>
        <section className="card grid gap-4 p-5 md:grid-cols-2">
          <Part title="Complaint">
            <p className="m-0">{job.complaint.story || '—'}</p>
            <p className="m-0 text-soft">{job.complaint.symptoms.map(complaintLabel).join(', ')}</p>
          </Part>
          <Part title="What was wrong">
            {first ? (
              <>
                <p className="m-0 font-[650]">
                  {faultLabel(first.fault)}, {chanceText(first.probability)} of what fits
                </p>
                {first.because.slice(0, 3).map((b) => (
                  <p key={b} className="m-0">
                    {b}
                  </p>
                ))}
              </>
            ) : (
              <p className="m-0 text-soft">Not judged.</p>
            )}
            {condemned.length > 0 && (
              <p className="m-0 text-caution">
                Condemned by what was seen, and not replaced yet:{' '}
                {condemned.map((f) => midSentence(faultLabel(f))).join(', ')}.
              </p>
            )}
          </Part>
          <Part title="Tests">
            {job.tests
              .filter((t) => !t.undone)
              .map((t) => (
                <p key={t.id} className="m-0">
                  {TEST_BY_ID.get(t.test.id)?.label}: {showing(t.test, show)}
                </p>
              ))}
            {job.tests.every((t) => t.undone) && <p className="m-0 text-soft">None.</p>}
          </Part>
          <Part title="Done">
            {job.repairs
              .filter((r) => !r.undone)
              .map((r) => (
                <p key={r.id} className="m-0">
                  {r.text}
                  {r.part ? ` (${r.part})` : ''}
                </p>
              ))}
            {job.repairs.every((r) => r.undone) && <p className="m-0 text-soft">Nothing yet.</p>}
            {said.map((t) => (
              <p key={t} className="m-0 text-caution">
                {t}
              </p>
            ))}
          </Part>
          <Part title="Proof">
            {verdict ? (
              <>
                <p className="m-0 font-[650]">{verdict.title}</p>
                <p className="m-0">{verdict.why}</p>
              </>
            ) : (
              <p className="m-0 text-soft">Not taken again yet.</p>
            )}
          </Part>
          <Part title="Codes and monitors">
            <p className="m-0">
              {record
                ? record.codes.length === 0
                  ? 'No codes.'
                  : record.codes.map((c) => `${c.code} ${c.state}`).join(', ')
                : 'Not read.'}
            </p>
            <p className="m-0">
              {record?.monitors
                ? open.length === 0
                  ? 'All supported monitors complete.'
                  : `Open: ${open.map((m) => MONITORS[m.id]).join(', ')}.`
                : ''}
            </p>
          </Part>
          <Part title="Warnings">
            {(diagnosis?.warnings ?? []).map((w) => (
              <p key={w} className="m-0">
                {w}
              </p>
            ))}
            {(diagnosis?.warnings ?? []).length === 0 && <p className="m-0 text-soft">None.</p>}
          </Part>
        </section>
        {newestReadings(job, 'before').length > 0 && <BeforeAfter job={job} />}
        <Precedence />
      </article>
    </>
  );
}

/** What the next owner of the trouble must know: dirt whose source stays, what was left off, steps left out. */
function toldAtHandOver(job: JobView): string[] {
  return job.runs.flatMap((run) => {
    const s = runState(run.procedure, run.events);
    const { title } = run.procedure;
    const dirt = s.source && !s.source.repaired ? dirtSource(s.source.source) : undefined;
    const skipped = [...s.results].filter(([, r]) => r.kind === 'skipped');
    return [
      ...(dirt && dirt.left < 1
        ? [
            `${title}: where the dirt came from is not repaired (${midSentence(dirt.label)}). It may be back. To do: ${dirt.mend}`,
          ]
        : []),
      ...(s.ended?.left ?? []).map((l) => {
        const item = goesBackOn(s).find((o) => o.id === l.item)?.item ?? l.item;
        return `${title}: ${item} was left off: ${l.reason}.`;
      }),
      ...(s.status === 'running' || s.status === 'parked' ? [`${title} is not finished.`] : []),
      ...(skipped.length > 0
        ? [
            `${title}: ${skipped.length} ${skipped.length === 1 ? 'step' : 'steps'} left out (${[...new Set(skipped.map(([, r]) => r.reason))].join('; ')}).`,
          ]
        : []),
    ];
  });
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <div>
      <h3 className="card-title mb-1">{title}</h3>
      <div className="grid gap-1">{children}</div>
    </div>
  );
}
