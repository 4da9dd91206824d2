import { HandRecordRequest } from '@just-balance/contract';
import { newId } from '../../data/api.ts';
import { ofJob } from '../../data/ofJob.ts';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';

const LISTS = [
  { name: 'stored', label: 'Stored codes' },
  { name: 'pending', label: 'Pending codes' },
  { name: 'permanent', label: 'Permanent codes' },
] as const;

const codes = (s: string) =>
  s
    .toUpperCase()
    .split(/[\s,;]+/)
    .filter(Boolean);

/** Codes and lamp as a tool without an adapter shows them. */
export function HandRecord({ jobId, done }: { jobId: string; done: () => void }) {
  const { register, submit, busy, trouble, error, rest } = useTypedForm({
    dto: HandRecordRequest,
    defaults: { stored: '', pending: '', permanent: '', lampOn: false },
    body: (t) => ({
      id: newId(),
      phase: 'before' as const,
      stored: codes(t.stored),
      pending: codes(t.pending),
      permanent: codes(t.permanent),
      lampOn: t.lampOn,
    }),
    send: async (body) => {
      await ofJob(jobId).queue('Record by hand', '/records/by-hand', body);
      done();
    },
  });
  return (
    <form className="card grid gap-3 p-4 md:grid-cols-2" onSubmit={submit} noValidate>
      {LISTS.map((l) => (
        <Field key={l.name} label={l.label} error={error(l.name)}>
          {(aria) => <input className="input" autoComplete="off" {...register(l.name)} {...aria} />}
        </Field>
      ))}
      <label className="flex min-h-12 items-center gap-3 font-[550]">
        <input type="checkbox" className="checkbox" {...register('lampOn')} />
        Lamp is on
      </label>
      <button type="submit" className="btn btn-primary" disabled={busy}>
        Keep this record
      </button>
      <Problem text={rest} trouble={trouble} />
    </form>
  );
}
