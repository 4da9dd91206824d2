import { WRITES } from '@just-balance/contract';
import { torqueDoubt } from '@just-balance/core/procedures';
import { convert, numberText } from '@just-balance/core/units';
import { useId, useState } from 'react';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import { Field } from '../../ui/Field.tsx';
import { TORQUE_UNITS, type TorqueUnit, usePreferences } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import { ACT, InDock } from './Dock.tsx';
import { ownTorque } from './ownTorque.ts';
import { draftName, type StepProps } from './stepProps.ts';

/** Small screws are told apart by tenths. */
const DIGITS: Readonly<Record<TorqueUnit, number>> = { N·m: 1, lbf·ft: 1, lbf·in: 0 };
const written = (nm: number, unit: TorqueUnit) =>
  String(Number(convert(nm, 'N·m', unit).toFixed(unit === 'N·m' ? 2 : DIGITS[unit])));

/** What the contract takes. */
const MOST_NM = 2000;

/** How tight, in the unit of this tablet's wrench, and in the others; a figure of the vehicle's own wins. */
export function Torque({ job, handle, step, done }: StepProps) {
  const id = useId();
  const { torque: unit, setTorque } = usePreferences();
  // Entered for this vehicle, here or in an earlier job: it wins over what is generic.
  const { quantity, entered } = ownTorque(job, handle.run.procedure, step);
  const isTyped = (text: string) => text.trim() !== '';
  const asEntered = (text: string) => entered !== null && text === written(entered.value, unit);
  const nmOf = (text: string) =>
    !isTyped(text)
      ? step.torqueNm!
      : asEntered(text)
        ? entered!.value
        : round(convert(Number(typed(text)), unit, 'N·m'));
  const [meant, setMeant] = useState<string | null>(null);
  const doubtOf = (text: string) =>
    isTyped(text) && !asEntered(text) && fits(nmOf(text))
      ? torqueDoubt(Number(typed(text)), unit, step.torqueNm!)
      : null;
  const fits = (nm: number) => nm > 0 && nm <= MOST_NM;
  const { register, watch, setValue, submit, error } = useTypedForm({
    keep: `${draftName(handle, step)} ${unit}`,
    defaults: { figure: entered ? written(entered.value, unit) : '', source: entered?.source ?? '' },
    body: (t) => ({ nm: nmOf(t.figure), source: isTyped(t.figure) ? t.source.trim() : null }),
    check: (t) => ({
      ...(fits(nmOf(t.figure))
        ? {}
        : { figure: `“${t.figure}” is no torque; at most ${written(MOST_NM, unit)} ${unit}` }),
      ...(doubtOf(t.figure) && meant !== t.figure ? { figure: 'is it meant so? See below' } : {}),
      ...(isTyped(t.figure) && t.source.trim() === '' ? { source: 'say where the figure comes from' } : {}),
    }),
    send: async ({ nm, source }, t) => {
      if (source !== null && quantity && !(asEntered(t.figure) && source === entered!.source))
        await queueWrite('Torque of this vehicle', WRITES.addEntry(job.id), {
          id: newId(),
          kind: 'value',
          data: { quantity, value: nm, unit: 'N·m', source },
        });
      done({ torqueNm: nm, torqueSource: source ?? 'generic' });
    },
  });
  const text = watch('figure');
  const nm = nmOf(text);
  const doubt = meant === text ? null : doubtOf(text);
  const turn = (to: TorqueUnit) => {
    if (isTyped(text) && fits(nm)) setValue('figure', written(nm, to));
    setTorque(to);
  };
  return (
    <form id={id} className="grid gap-3" onSubmit={submit} noValidate>
      <p className="m-0 flex flex-wrap items-baseline gap-x-6">
        <span>
          <span className="figure text-[4.5rem] leading-none font-bold">{fits(nm) ? written(nm, unit) : '—'}</span>{' '}
          <span className="text-[1.6rem]">{unit}</span>
        </span>
        {fits(nm) && (
          <span className="text-soft">
            {TORQUE_UNITS.filter((u) => u !== unit)
              .map((u) => `${numberText(convert(nm, 'N·m', u), DIGITS[u])} ${u}`)
              .join(' · ')}
          </span>
        )}
        <span className="badge badge-warning">{isTyped(text) ? 'entered' : 'generic'}</span>
      </p>
      {step.sequence && <Sequence order={step.sequence} />}
      <div className="flex flex-wrap items-start gap-4">
        <Field label={`This vehicle’s figure, ${unit}`} className="w-56" error={error('figure')}>
          {(aria) => <input className="input figure" inputMode="decimal" {...register('figure')} {...aria} />}
        </Field>
        <Field label="Unit of the wrench" className="w-44">
          {(aria) => (
            <select className="select" value={unit} onChange={(e) => turn(e.target.value as TorqueUnit)} {...aria}>
              {TORQUE_UNITS.map((u) => (
                <option key={u}>{u}</option>
              ))}
            </select>
          )}
        </Field>
        <Field label="Where it comes from" className="min-w-56 flex-1" error={error('source')}>
          {(aria) => <input className="input" maxLength={200} {...register('source')} {...aria} />}
        </Field>
      </div>
      {doubt && (
        <section role="alert" className="alert alert-warning flex flex-wrap items-center gap-x-6 gap-y-3 px-4 py-3">
          <p className="m-0 min-w-56 flex-1">
            {doubt.times > 1
              ? `That is ${numberText(doubt.times, 0)} times what such a screw usually takes: it shears, or pulls its thread out.`
              : `That is ${numberText(1 / doubt.times, 0)} times less than such a screw usually takes.`}
          </p>
          {doubt.meant && (
            <button type="button" className="btn" onClick={() => setTorque(doubt.meant!.unit)}>
              It is {text} {doubt.meant.unit}
            </button>
          )}
          <button type="button" className="btn" onClick={() => setMeant(text)}>
            It is meant so
          </button>
        </section>
      )}
      <p className="m-0 text-soft">
        {entered
          ? `Entered for this vehicle: ${written(entered.value, unit)} ${unit} (${entered.source}).`
          : 'A figure entered here stays with this vehicle.'}
      </p>
      <InDock>
        <button type="submit" form={id} className={ACT}>
          Tight
        </button>
      </InDock>
    </form>
  );
}

/** What a wrench can be set to. */
const round = (nm: number) => Math.round(nm * 100) / 100;

/** The order of tightening, drawn: numbered bolts round the part, or along it. */
function Sequence({ order }: { order: readonly string[] }) {
  const ring = order.every((o) => /^\d+$/.test(o));
  if (!ring)
    return (
      <ol className="steps m-0">
        {order.map((o) => (
          <li key={o} className="step step-primary">
            {o}
          </li>
        ))}
      </ol>
    );
  const n = order.length;
  const at = (k: number) => {
    const a = (2 * Math.PI * k) / n - Math.PI / 4;
    return [60 + 44 * Math.cos(a), 60 + 44 * Math.sin(a)] as const;
  };
  const words = `Tighten in the order ${order.join(', ')} as numbered round the part`;
  return (
    <svg viewBox="0 0 120 120" className="h-36 w-36" role="img" aria-label={words}>
      <rect x="24" y="24" width="72" height="72" rx="14" fill="none" stroke="var(--rule)" strokeWidth="3" />
      {order.map((bolt, turn) => {
        const [x, y] = at(Number(bolt) - 1);
        return (
          <g key={bolt}>
            <circle cx={x} cy={y} r="14" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="2.5" />
            <text x={x} y={y + 5} textAnchor="middle" fontSize="15" fontWeight="700" fill="var(--ink)">
              {turn + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
