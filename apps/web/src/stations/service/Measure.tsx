import { WRITES } from '@just-balance/contract';
import { limitOf } from '@just-balance/core/case';
import { against, LIES, leadsOf, limitsOf, liveTicks, type StepLimits } from '@just-balance/core/procedures';
import { metricOf, numberText } from '@just-balance/core/units';
import { useId } from 'react';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import { Field } from '../../ui/Field.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { usePreferences, useShown } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { asTyped, useFollowUnits } from '../../ui/useFollowUnits.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import { ACT, InDock } from './Dock.tsx';
import { draftName, type StepProps } from './stepProps.ts';

/** What a meter that shows no end of it is kept as: more than it can show. */
const OVER = 99_999;
const OVER_WORDS = /^o\.?l\.?$/i;

const isTyped = (text: string) => text.trim() !== '';

/** A figure, typed or read from the adapter, in the reader's unit, against limits; the vehicle's own limits win. */
export function Measure({ job, handle, step, live, done }: StepProps) {
  const id = useId();
  const { units } = usePreferences();
  const show = useShown();
  const quantity = step.quantity!;
  const own = step.unit!;
  const entered = job.entries.flatMap((e) => (e.kind === 'value' && !e.undone ? [e.data] : []));
  const standing = limitsOf(step, job.vehicle.limits, entered);
  // Of hundreds nobody reads tenths; a unit of the other system has its own digits.
  const large = Math.max(Math.abs(standing.low ?? 0), Math.abs(standing.high ?? 0)) >= 100;
  const { unit, digits } = show(0, own, large ? 0 : 1, step.role);
  const inShown = (v: number) => show(v, own, digits, step.role).value;
  const inOwn = (text: string) => (isTyped(text) ? metricOf(Number(typed(text)), own, units, step.role) : Number.NaN);
  const metered = (text: string) => (OVER_WORDS.test(text.trim()) ? OVER : inOwn(text));
  const bound = (v: number | undefined) => (v === undefined ? '' : asTyped(inShown(v), digits));
  const before = {
    low: standing.whose === null ? '' : bound(standing.low),
    high: standing.whose === null ? '' : bound(standing.high),
    source: standing.whose ?? '',
  };
  /** What stands in the fields of the vehicle's own limits; what was not changed keeps its digits. */
  const limitsIn = (t: { low: string; high: string; source: string }): StepLimits => {
    if (!isTyped(t.low) && !isTyped(t.high)) return limitsOf(step, undefined, []);
    if (t.low === before.low && t.high === before.high && t.source === before.source) return standing;
    return {
      ...(isTyped(t.low) ? { low: t.low === before.low ? standing.low! : inOwn(t.low) } : {}),
      ...(isTyped(t.high) ? { high: t.high === before.high ? standing.high! : inOwn(t.high) } : {}),
      whose: t.source.trim(),
    };
  };
  const notANumber = (text: string) =>
    isTyped(text) && !Number.isFinite(inOwn(text)) ? `“${text}” is no number` : null;
  const form = useTypedForm({
    keep: `${draftName(handle, step)} ${unit}`,
    defaults: { value: '', ...before },
    body: (t) => ({ value: metered(t.value), limits: limitsIn(t) }),
    check: (t) => {
      const [low, high] = [notANumber(t.low), notANumber(t.high)];
      const { low: least, high: most, whose } = limitsIn(t);
      return {
        ...(!isTyped(t.value)
          ? { value: 'enter what the meter shows' }
          : Number.isFinite(metered(t.value))
            ? {}
            : { value: `“${t.value}” is not a number; OL of a meter is taken too` }),
        ...(low ? { low } : {}),
        ...(high
          ? { high }
          : least !== undefined && most !== undefined && least > most
            ? { high: 'below the least' }
            : {}),
        ...(whose === '' ? { source: 'say where the limits come from' } : {}),
      };
    },
    send: async ({ value, limits }) => {
      for (const side of ['low', 'high'] as const)
        if (limits !== standing && limits.whose !== null && limits[side] !== undefined)
          await queueWrite('Limit of this vehicle', WRITES.addEntry(job.id), {
            id: newId(),
            kind: 'value',
            data: { quantity: limitOf(quantity, side), value: limits[side], unit: own, source: limits.whose },
          });
      done({ value, ...(limits.whose === null ? {} : { limits }) });
    },
  });
  useFollowUnits(
    { value: unit, low: unit, high: unit },
    (f) => form.getValues(f as 'value'),
    (f, text) => form.setValue(f as 'value', text),
  );
  const now = form.watch();
  const value = metered(now.value);
  const limits = limitsIn(now);
  const lies = against(value, limits);
  const seen = liveTicks(handle.run.procedure.id, step.id, live.values).find((t) => t.value !== null);
  const { error } = form;
  return (
    <form id={id} className="grid gap-4" onSubmit={form.submit} noValidate>
      <div className="flex flex-wrap items-start gap-4">
        <Field
          label={`${quantity[0]!.toUpperCase()}${quantity.slice(1)}, ${unit}`}
          className="w-72"
          error={error('value')}
        >
          {(aria) => (
            <input className="input figure input-xl" inputMode="decimal" {...form.register('value')} {...aria} />
          )}
        </Field>
        {seen && (
          <button
            type="button"
            className="btn mt-7"
            onClick={() => form.setValue('value', asTyped(inShown(seen.value!), 1))}
          >
            Read it from the adapter
          </button>
        )}
        <InDock>
          <button type="submit" form={id} className={ACT}>
            Keep it
          </button>
        </InDock>
      </div>
      <p className="m-0 flex min-h-8 flex-wrap items-center gap-x-4 gap-y-2">
        <span>
          {between(limits, (v) => numberText(Number(asTyped(inShown(v), digits))))} {unit}
        </span>
        <span className={`badge ${limits.whose === null ? 'badge-warning' : 'badge-neutral'}`}>
          {limits.whose === null ? 'generic' : 'of this vehicle'}
        </span>
        <output className="font-[650]">
          {Number.isFinite(value) && (
            <span className={`badge badge-lg ${lies === 'within' ? 'badge-success' : 'badge-warning'}`}>
              {LIES[lies]}
            </span>
          )}
          {Number.isFinite(value) && leadsOf(step, value, limits)?.stopRule && (
            <span className="badge badge-lg badge-warning ml-2">ends the work as planned</span>
          )}
        </output>
      </p>
      <Fold title="This vehicle’s limits">
        <div className="flex flex-wrap items-start gap-4">
          <Field label={`At least, ${unit}`} className="w-36" error={error('low')}>
            {(aria) => <input className="input figure" inputMode="decimal" {...form.register('low')} {...aria} />}
          </Field>
          <Field label={`At most, ${unit}`} className="w-36" error={error('high')}>
            {(aria) => <input className="input figure" inputMode="decimal" {...form.register('high')} {...aria} />}
          </Field>
          <Field label="Where they come from" className="min-w-56 flex-1" error={error('source')}>
            {(aria) => <input className="input" maxLength={200} {...form.register('source')} {...aria} />}
          </Field>
        </div>
        <p className="mt-2 mb-0 text-soft">They win over the generic ones, and stay with this vehicle.</p>
      </Fold>
    </form>
  );
}

function between({ low, high }: StepLimits, text: (v: number) => string): string {
  if (low !== undefined && high !== undefined) return `${text(low)} to ${text(high)}`;
  return low !== undefined ? `at least ${text(low)}` : `at most ${text(high!)}`;
}
