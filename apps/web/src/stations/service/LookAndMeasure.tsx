import { bankNamed } from '@just-balance/core/catalogue';
import { leadsOf, liveTicks } from '@just-balance/core/procedures';
import { Field } from '../../ui/Field.tsx';
import { Say } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import type { StepProps } from './stepProps.ts';

/** More answers than this stand in two columns. */
const MANY = 6;

/** What was seen, or decided: one of the step's answers. */
export function Answers({ job, step, done }: StepProps) {
  const oneBank = (job.vehicle.banks ?? 1) === 1;
  // A bank that the engine has not got is no answer.
  const answers = (step.answers ?? []).filter((a) => !(oneBank && bankNamed(a.finds?.outcome ?? '') === 2));
  return (
    <fieldset className={`m-0 grid gap-2 border-0 p-0 ${answers.length > MANY ? 'sm:grid-cols-2' : ''}`}>
      <legend className="sr-only">
        <Say text={step.text} />
      </legend>
      {answers.map((a) => (
        <button
          key={a.text}
          type="button"
          className="btn btn-lg justify-start text-left font-[650]"
          onClick={() => done({ answer: a.text })}
        >
          {a.text}
          {a.stopRule && <span className="badge badge-warning ml-auto">ends the work as planned</span>}
        </button>
      ))}
    </fieldset>
  );
}

/** What a meter that shows no end of it is kept as: more than it can show. */
const OVER = 99_999;
const OVER_WORDS = /^o\.?l\.?$/i;

/** A meter's figure as a number; “OL” is more than it can show. NaN of anything else. */
function metered(text: string): number {
  const t = text.trim();
  if (OVER_WORDS.test(t)) return OVER;
  return t === '' ? Number.NaN : Number(typed(t));
}

/** A figure, typed or read from the adapter, against its limits. */
export function Measure({ handle, step, live, done }: StepProps) {
  const { register, watch, setValue, submit, error } = useTypedForm({
    defaults: { value: '' },
    body: (t) => ({ value: metered(t.value) }),
    check: (t) =>
      t.value.trim() === ''
        ? { value: 'enter what the meter shows' }
        : Number.isFinite(metered(t.value))
          ? {}
          : { value: `“${t.value}” is not a number; OL of a meter is taken too` },
    send: async ({ value }) => done({ value }),
  });
  const text = watch('value');
  const seen = liveTicks(handle.run.procedure.id, step.id, live.values).find((t) => t.value !== null);
  const value = metered(text);
  const low = step.low ?? Number.NEGATIVE_INFINITY;
  const high = step.high ?? Number.POSITIVE_INFINITY;
  const limits =
    step.low !== undefined && step.high !== undefined
      ? `${step.low} to ${step.high}`
      : step.low !== undefined
        ? `at least ${step.low}`
        : `at most ${step.high}`;
  const inside = value >= low && value <= high;
  return (
    <form className="flex flex-wrap items-start gap-4" onSubmit={submit} noValidate>
      <Field label={`${step.quantity}, ${step.unit} (${limits})`} className="w-72" error={error('value')}>
        {(aria) => (
          <input className="input figure text-[1.3rem]" inputMode="decimal" {...register('value')} {...aria} />
        )}
      </Field>
      <output className="mt-7 min-h-12 content-center font-[650]">
        {Number.isFinite(value) && (
          <span className={`badge badge-lg ${inside ? 'badge-success' : 'badge-warning'}`}>
            {inside ? 'within its limits' : value < low ? 'below its limit' : 'above its limit'}
          </span>
        )}
        {Number.isFinite(value) && leadsOf(step, value)?.stopRule && (
          <span className="badge badge-lg badge-warning ml-2">ends the work as planned</span>
        )}
      </output>
      {seen && (
        <button
          type="button"
          className="btn mt-7"
          onClick={() => setValue('value', String(Math.round(seen.value! * 10) / 10))}
        >
          Read it from the adapter
        </button>
      )}
      <button type="submit" className="btn btn-primary btn-lg mt-6">
        Keep it
      </button>
    </form>
  );
}
