import { HappenedDto, happened } from '@just-balance/contract/service';
import { useEffect } from 'react';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import type { RunHandle } from './useRun.ts';

const REASONS = ['part not in stock', 'end of day', 'rain', 'waits for the customer'];

/** Half done, and safe to leave: what it waits for, and what is to be ordered. */
export function Park({ handle, close }: { handle: RunHandle; close: () => void }) {
  const { procedure } = handle.run;
  const { register, setFocus, submit, error, rest, trouble, busy } = useTypedForm({
    dto: HappenedDto,
    keep: `${handle.run.id} park`,
    defaults: { reason: '', toOrder: procedure.parts.map(() => false), other: '' },
    body: (t) => ({
      kind: 'parked' as const,
      reason: t.reason.trim(),
      toOrder: [
        ...procedure.parts.filter((_, i) => t.toOrder[i]).map((p) => p.name),
        ...(t.other.trim() ? [t.other.trim()] : []),
      ],
    }),
    check: (t) => ({
      ...(t.reason.trim() ? {} : { reason: 'say what it waits for' }),
      ...(t.other.trim().length > 120 ? { other: 'at most 120 characters' } : {}),
    }),
    send: async (body) => {
      close();
      await handle.say(happened(body));
    },
  });
  // It was asked for, maybe from far down the page.
  useEffect(() => setFocus('reason'), [setFocus]);
  return (
    <form className="card grid gap-3 p-4" aria-label="Park it" onSubmit={submit} noValidate>
      <h2 className="card-title">Park it half done</h2>
      <Field label="What it waits for" error={error('reason')}>
        {(aria) => <input className="input" list="park-reasons" maxLength={300} {...register('reason')} {...aria} />}
      </Field>
      <datalist id="park-reasons">
        {REASONS.map((r) => (
          <option key={r} value={r} />
        ))}
      </datalist>
      <fieldset className="m-0 grid gap-1 border-0 p-0">
        <legend className="p-0 text-[0.93rem] font-[550]">To order</legend>
        {procedure.parts.map((p, i) => (
          <label key={p.name} className="flex min-h-12 items-center gap-3">
            <input type="checkbox" className="checkbox" {...register(`toOrder.${i}`)} />
            {p.name}
          </label>
        ))}
        <Field label="Something else" error={error('other')}>
          {(aria) => <input className="input" maxLength={120} {...register('other')} {...aria} />}
        </Field>
      </fieldset>
      <Problem text={rest} trouble={trouble} />
      <div className="flex gap-3">
        <button type="submit" className="btn btn-primary" disabled={busy}>
          Park it
        </button>
        <button type="button" className="btn" onClick={close}>
          Not yet
        </button>
      </div>
    </form>
  );
}
