import { MarkDto } from '@just-balance/contract';
import { type Range } from '../charts/range.ts';
import { Field } from '../ui/Field.tsx';
import { clock } from '../ui/figures.ts';
import { May } from '../ui/May.tsx';
import { Problem } from '../ui/Problem.tsx';
import { useTypedForm } from '../ui/useTypedForm.ts';

export function Marks({
  marks,
  go,
  add,
  span,
  at,
}: {
  marks: readonly { at: string; from: number; to: number; label: string }[];
  go: (m: { from: number; to: number }) => void;
  add: (mark: MarkDto) => Promise<unknown>;
  /** What a new mark is put on. */
  span: Range;
  at: string;
}) {
  const { register, reset, submit, busy, error, trouble } = useTypedForm({
    dto: MarkDto,
    defaults: { at: '' },
    body: (t) => ({ at: t.at.trim(), ...span }),
    check: (t) => (t.at.trim() ? {} : { at: 'say what happened' }),
    send: async (mark) => {
      await add(mark);
      reset();
    },
  });
  return (
    <section className="card p-4">
      <h2 className="card-title">Marks</h2>
      <div className="my-2 flex flex-wrap gap-2">
        {marks.map((m) => (
          <button key={`${m.at}${m.from}`} type="button" className="btn px-3" onClick={() => go(m)}>
            {m.label} <span className="figure text-soft">{clock(m.from)}</span>
          </button>
        ))}
        {marks.length === 0 && <span className="text-soft">None yet.</span>}
      </div>
      <May>
        <form className="flex items-end gap-2" onSubmit={submit} noValidate>
          <Field className="flex-1" label={`Mark ${at}`} error={error('at')}>
            {(aria) => (
              <input className="input" maxLength={60} placeholder="what happened" {...register('at')} {...aria} />
            )}
          </Field>
          <button type="submit" className="btn" disabled={busy}>
            Mark
          </button>
        </form>
      </May>
      <Problem trouble={trouble} />
    </section>
  );
}
