import { NewRepairRequest, WRITES } from '@just-balance/contract';
import { PARTS } from '@just-balance/core/case';
import { faultLabel } from '@just-balance/core/catalogue';
import { REPAIR_WORKS, type RepairWork, workText } from '@just-balance/core/procedures';
import { midSentence } from '@just-balance/core/units';
import { newId } from '../../data/api.ts';
import { queueWrite, write } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { TestList } from '../../job/work/TestList.tsx';
import { Field } from '../../ui/Field.tsx';
import { May, Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import { WorkedFor } from './WorkedFor.tsx';

/** Work that no procedure guides, written down in a few words; and all repairs of the job. */
export function ByHand({ job }: StationProps) {
  const { busy, trouble, run } = useAction();
  const form = useTypedForm({
    dto: NewRepairRequest,
    keep: `${job.id} repair`,
    defaults: { work: '' as RepairWork | '', text: '', part: '', fault: '' },
    body: (t) => ({
      id: newId(),
      text: t.work ? workText(t.work, t.part, t.text).slice(0, 500) : '',
      adaptation: 'relearn' as const,
      ...(t.work ? { work: t.work } : {}),
      // What is due anyway is done for no cause.
      ...(t.fault && t.work !== 'maintenance' ? { fault: t.fault } : {}),
      ...(t.part.trim() ? { part: t.part.trim() } : {}),
    }),
    check: (t) => ({
      ...(t.work ? {} : { work: 'say which' }),
      ...(t.work && t.work !== 'maintenance' && !t.part.trim() && !t.text.trim() ? { part: 'which part' } : {}),
    }),
    send: async (body) => {
      await queueWrite('Repair', WRITES.addRepair(job.id), body);
      form.reset();
    },
  });
  const work = form.watch('work');
  const undo = (id: string, rev: number, undone: boolean) =>
    run(async () => {
      await write(WRITES.undoRepair(job.id, id), { rev, undone });
    });
  return (
    <div className="grid items-start gap-6 lg:grid-cols-2">
      <May
        needs="judge"
        otherwise={<p className="m-0 text-soft">What was done is written down by whoever may judge a repair.</p>}
      >
        <form className="grid gap-3" onSubmit={form.submit} noValidate>
          <h2 className="card-title">What was done</h2>
          <fieldset className="m-0 flex flex-wrap gap-2 border-0 p-0">
            <legend className="sr-only">Cleaned, replaced, repaired, adjusted or maintenance</legend>
            {REPAIR_WORKS.map((w) => (
              <label key={w} className={`btn ${work === w ? 'btn-neutral' : ''}`}>
                <input
                  type="radio"
                  className="sr-only"
                  value={w}
                  aria-invalid={form.error('work') !== undefined}
                  {...form.register('work')}
                />
                {w}
              </label>
            ))}
          </fieldset>
          <Problem text={form.error('work')} />
          <Field label="Part" error={form.error('part')}>
            {(aria) => (
              <input className="input" maxLength={200} list="work-parts" {...form.register('part')} {...aria} />
            )}
          </Field>
          <datalist id="work-parts">
            {PARTS.map((p) => (
              <option key={p.id} value={p.label} />
            ))}
          </datalist>
          {work !== 'maintenance' && (
            <Field label="What it was for" error={form.error('fault')}>
              {(aria) => <WorkedFor job={job} {...form.register('fault')} {...aria} />}
            </Field>
          )}
          <Field label="In a few words" error={form.error('text')}>
            {(aria) => <textarea className="textarea" maxLength={500} {...form.register('text')} {...aria} />}
          </Field>
          <Problem text={form.rest} trouble={form.trouble} />
          <button type="submit" className="btn btn-primary btn-lg" disabled={form.busy}>
            Keep the repair
          </button>
        </form>
      </May>
      <div className="grid gap-4">
        <section>
          <h2 className="card-title">Repairs</h2>
          <Problem trouble={trouble} />
          <ul className="m-0 mt-2 grid list-none gap-2 p-0">
            {job.repairs.map((r) => (
              <li
                key={r.id}
                className="flex items-center justify-between gap-3 border-b border-rule pb-2 last:border-b-0"
              >
                <span className={r.undone ? 'text-soft line-through' : ''}>
                  <span className="font-[650]">{r.text}</span>
                  <span className="block text-[0.9rem] text-soft">
                    {[
                      r.fault && !r.guessed ? `for: ${midSentence(faultLabel(r.fault))}` : '',
                      r.work ? '' : r.part,
                      r.by,
                    ]
                      .filter(Boolean)
                      .join(' · ')}
                  </span>
                </span>
                <Press needs="judge" className="btn" disabled={busy} onClick={() => undo(r.id, r.rev, !r.undone)}>
                  {r.undone ? 'Put back' : 'Undo'}
                </Press>
              </li>
            ))}
            {job.repairs.length === 0 && <li className="text-soft">None yet.</li>}
          </ul>
        </section>
        {job.tests.length > 0 && <TestList job={job} />}
      </div>
    </div>
  );
}
