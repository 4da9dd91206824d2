import { type JobView, KnownFigureRequest, WRITES } from '@just-balance/contract';
import { type OperatingPoint, pointLabel } from '@just-balance/core/case';
import { familyOf, QUANTITY_LABEL, QUANTITY_UNIT, type Quantity } from '@just-balance/core/expected';
import { metricOf, midSentence, shown } from '@just-balance/core/units';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** A better figure than physics: from service information for this vehicle, or known good of its engine family. */
export function KnownForm({
  job,
  at,
  quantity,
  close,
}: {
  job: JobView;
  at: OperatingPoint;
  quantity: Quantity;
  close: () => void;
}) {
  const { units } = usePreferences();
  const unit = QUANTITY_UNIT[quantity];
  const shownUnit = shown(1, unit, 1, units).unit;
  const number = (t: string) => (t.trim() === '' ? Number.NaN : metricOf(Number(typed(t)), unit, units));
  const { register, submit, busy, trouble, error, rest } = useTypedForm({
    dto: KnownFigureRequest,
    defaults: { layer: 'entered' as 'entered' | 'shop', low: '', high: '', source: '' },
    body: (t) => ({
      id: newId(),
      layer: t.layer,
      at,
      quantity,
      low: number(t.low),
      high: number(t.high),
      source: t.source.trim(),
    }),
    send: async (body) => {
      const label = `${QUANTITY_LABEL[quantity]}, ${midSentence(pointLabel(at))}`;
      await queueWrite(`Figure: ${label}`, WRITES.addKnown(job.id), body);
      close();
    },
  });
  return (
    <form className="grid gap-3 border-t border-rule pt-3" aria-label="A better figure" onSubmit={submit} noValidate>
      <h3 className="m-0 text-[1rem] font-[650]">
        {QUANTITY_LABEL[quantity]}, {midSentence(pointLabel(at))}: a better figure
      </h3>
      <fieldset className="m-0 grid gap-1 border-0 p-0">
        <legend className="sr-only">What it holds for</legend>
        {(
          [
            ['entered', 'This vehicle, from its service information'],
            ['shop', `Known good of this engine family: ${familyOf(job.vehicle)}`],
          ] as const
        ).map(([id, label]) => (
          <label key={id} className="flex min-h-12 cursor-pointer items-center gap-3">
            <input type="radio" className="radio" value={id} {...register('layer')} />
            {label}
          </label>
        ))}
      </fieldset>
      <div className="flex flex-wrap gap-3">
        {(['low', 'high'] as const).map((k) => (
          <Field key={k} className="w-36" label={`${k === 'low' ? 'From' : 'To'}, ${shownUnit}`} error={error(k)}>
            {(aria) => <input className="input" inputMode="text" {...register(k)} {...aria} />}
          </Field>
        ))}
        <Field className="min-w-56 flex-1" label="Where it comes from" error={error('source')}>
          {(aria) => <input className="input" maxLength={200} {...register('source')} {...aria} />}
        </Field>
      </div>
      <Problem text={rest} trouble={trouble} />
      <div className="flex gap-3">
        <button type="submit" className="btn btn-primary" disabled={busy}>
          Keep this figure
        </button>
        <button type="button" className="btn btn-ghost underline" onClick={close}>
          Cancel
        </button>
      </div>
    </form>
  );
}
