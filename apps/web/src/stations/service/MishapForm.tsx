import { HappenedDto, happened } from '@just-balance/contract/service';
import { useEffect } from 'react';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import type { RunHandle } from './useRun.ts';

const WHATS = ['a clip broke', 'a bolt sheared off', 'a screw fell', 'a plug broke', 'a rag or a tool fell in'];

/** Something broke or fell: what, where it is now, and what becomes of it. What is still in there is open until it is out. */
export function MishapForm({ handle, close }: { handle: RunHandle; close: () => void }) {
  const step = handle.state.current!;
  const { register, setFocus, submit, error, watch, rest, trouble, busy } = useTypedForm({
    dto: HappenedDto,
    keep: `${handle.run.id} mishap`,
    defaults: { what: '', where: '', out: false, next: '' },
    body: (t) => ({
      kind: 'mishap' as const,
      step: step.id,
      what: t.what.trim(),
      where: t.where.trim(),
      out: t.out,
      ...(t.next.trim() ? { next: t.next.trim() } : {}),
    }),
    check: (t) => ({
      ...(t.what.trim() ? {} : { what: 'say what' }),
      ...(t.where.trim() ? {} : { where: 'say where it is now' }),
    }),
    send: async (body) => {
      close();
      await handle.say(happened(body));
    },
  });
  // It was asked for, maybe from far down the page.
  useEffect(() => setFocus('what'), [setFocus]);
  return (
    <form
      className="card grid scroll-mt-48 gap-3 p-4"
      aria-label="Something broke or fell"
      onSubmit={submit}
      noValidate
    >
      <h2 className="card-title">Something broke or fell</h2>
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="What" error={error('what')}>
          {(aria) => <input className="input" list="mishaps" maxLength={200} {...register('what')} {...aria} />}
        </Field>
        <Field label="Where it is now" error={error('where')}>
          {(aria) => <input className="input" maxLength={200} {...register('where')} {...aria} />}
        </Field>
      </div>
      <datalist id="mishaps">
        {WHATS.map((w) => (
          <option key={w} value={w} />
        ))}
      </datalist>
      <label className="flex min-h-12 items-center gap-3">
        <input type="checkbox" className="checkbox" {...register('out')} />
        It is out of the engine bay, or harms nothing where it is
      </label>
      <Field label="What becomes of it" error={error('next')}>
        {(aria) => <input className="input" maxLength={300} {...register('next')} {...aria} />}
      </Field>
      {!watch('out') && (
        <p className="m-0 text-caution">
          Do not start the engine while it is in there. The run asks for it at its end.
        </p>
      )}
      <Problem text={rest} trouble={trouble} />
      <div className="flex gap-3">
        <button type="submit" className="btn btn-primary" disabled={busy}>
          Write it down
        </button>
        <button type="button" className="btn" onClick={close}>
          Nothing broke
        </button>
      </div>
    </form>
  );
}
