import { useEffect } from 'react';
import { Field } from '../../ui/Field.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** One line that must be filled in before something unusual is kept. */
export function ReasonBox({
  label,
  keep,
  button = 'Keep it',
}: {
  label: string;
  keep: (reason: string) => void;
  button?: string;
}) {
  const { register, setFocus, submit, error } = useTypedForm({
    defaults: { reason: '' },
    body: (t) => ({ reason: t.reason.trim() }),
    check: (t) => (t.reason.trim() ? {} : { reason: 'say why in a few words' }),
    send: async ({ reason }) => keep(reason),
  });
  // The box was asked for: typing goes on in it.
  useEffect(() => setFocus('reason'), [setFocus]);
  return (
    <form className="flex flex-wrap items-start gap-3" onSubmit={submit} noValidate>
      <Field label={label} className="min-w-64 flex-1" error={error('reason')}>
        {(aria) => <input className="input" maxLength={300} {...register('reason')} {...aria} />}
      </Field>
      <button type="submit" className="btn mt-7">
        {button}
      </button>
    </form>
  );
}
