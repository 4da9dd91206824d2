import { NewRepairRequest, WRITES } from '@just-balance/contract';
import { faultLabel } from '@just-balance/core/catalogue';
import { midSentence } from '@just-balance/core/units';
import { newId } from '../../data/api.ts';
import { queueWrite, write } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { TestList } from '../../job/work/TestList.tsx';
import { Field } from '../../ui/Field.tsx';
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
    defaults: { text: '', part: '', fault: '' },
    body: (t) => ({
      id: newId(),
      text: t.text.trim(),
      adaptation: 'relearn' as const,
      ...(t.fault ? { fault: t.fault } : {}),
      ...(t.part.trim() ? { part: t.part.trim() } : {}),
    }),
    send: async (body) => {
      await queueWrite('Repair', WRITES.addRepair(job.id), body);
      form.reset();
    },
  });
  const undo = (id: string, rev: number, undone: boolean) =>
    run(async () => {
      await write(WRITES.undoRepair(job.id, id), { rev, undone });
    });
  return (
    <div className="grid items-start gap-6 lg:grid-cols-2">
      <form className="grid gap-3" onSubmit={form.submit} noValidate>
        <h2 className="card-title">What was done</h2>
        <Field label="In a few words" error={form.error('text')}>
          {(aria) => <textarea className="textarea" {...form.register('text')} {...aria} />}
        </Field>
        <Field label="Part, if one was fitted" error={form.error('part')}>
          {(aria) => <input className="input" {...form.register('part')} {...aria} />}
        </Field>
        <Field label="What it was for" error={form.error('fault')}>
          {(aria) => <WorkedFor job={job} {...form.register('fault')} {...aria} />}
        </Field>
        <Problem text={form.rest} trouble={form.trouble} />
        <button type="submit" className="btn btn-primary btn-lg" disabled={form.busy}>
          Keep the repair
        </button>
      </form>
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
                    {[r.fault && !r.guessed ? `for: ${midSentence(faultLabel(r.fault))}` : '', r.part, r.by]
                      .filter(Boolean)
                      .join(' · ')}
                  </span>
                </span>
                <button type="button" className="btn" disabled={busy} onClick={() => undo(r.id, r.rev, !r.undone)}>
                  {r.undone ? 'Put back' : 'Undo'}
                </button>
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
