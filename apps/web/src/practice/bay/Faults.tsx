import { BayCommand, type BayView } from '@just-balance/contract';
import { metricOf, shown } from '@just-balance/core/units';
import { type UseFormRegisterReturn } from 'react-hook-form';
import { Combobox } from '../../ui/Combobox.tsx';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences, useShown } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { asTyped, useFollowUnits } from '../../ui/useFollowUnits.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import { type Post, Press, type Send } from './Press.tsx';

export function faultsText(view: BayView, show: ReturnType<typeof useShown>): string {
  return view.faultsIn
    .map((f) => {
      const row = view.faults.find((r) => r.id === f.id);
      const bank = row?.perBank ? `, bank ${f.bank ?? 1}` : '';
      return `${row?.label ?? f.id}${bank}${row?.unit ? `, ${inShown(f.severity, row.unit, show)}` : ''}`;
    })
    .join(' and ');
}

function inShown(v: number, unit: string, show: ReturnType<typeof useShown>): string {
  const s = show(v, unit, 3, unit === 'kPa' ? 'fuel' : undefined);
  return `${asTyped(s.value, 3)} ${s.unit}`;
}

interface FaultTyped {
  fault: string;
  severity: string;
  bank: string;
  /** Beside the one that is in. */
  also: boolean;
}

export function Faults({ view, send, post, busy }: { view: BayView; send: Send; post: Post; busy: boolean }) {
  const rowOf = (id: string) => view.faults.find((f) => f.id === id);
  const { units } = usePreferences();
  const roleOf = (u: string) => (u === 'kPa' ? ('fuel' as const) : undefined);
  const form = useTypedForm<FaultTyped, BayCommand>({
    dto: BayCommand,
    defaults: { fault: '', severity: '', bank: '1', also: false },
    body: (t) => ({
      command: 'fault',
      fault: t.fault,
      also: t.also,
      ...(rowOf(t.fault)?.unit
        ? { severity: metricOf(Number(typed(t.severity)), rowOf(t.fault)!.unit, units, roleOf(rowOf(t.fault)!.unit)) }
        : { severity: rowOf(t.fault)?.typical ?? 1 }),
      ...(rowOf(t.fault)?.perBank ? { faultBank: t.bank === '2' ? 2 : 1 } : {}),
    }),
    fields: { faultBank: 'bank' },
    send: post,
  });
  const chosen = rowOf(form.watch('fault'));
  const sizeUnit = chosen?.unit ? shown(0, chosen.unit, 0, units, roleOf(chosen.unit)).unit : '';
  useFollowUnits(
    sizeUnit ? { severity: sizeUnit } : {},
    () => form.getValues('severity'),
    (_, text) => form.setValue('severity', text),
  );
  const waits = busy || form.busy;
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      noValidate
      onSubmit={(e) => {
        const { submitter } = e.nativeEvent as SubmitEvent;
        form.setValue('also', submitter instanceof HTMLButtonElement && submitter.value === 'also');
        form.submit(e);
      }}
    >
      <Combobox
        className="min-w-64"
        label="Fault"
        placeholder="Any word of it"
        all={view.faults}
        textOf={(f) => f.label}
        keyOf={(f) => f.id}
        chosen={chosen ?? null}
        choose={(f) => {
          form.setValue('fault', f?.id ?? '');
          form.setValue('severity', f ? asTyped(shown(f.typical, f.unit, 3, units, roleOf(f.unit)).value, 3) : '');
        }}
      />
      {chosen?.unit && (
        <Field className="w-36" label={`Size, ${sizeUnit}`} error={form.error('severity')}>
          {(aria) => <input className="input" inputMode="decimal" {...form.register('severity')} {...aria} />}
        </Field>
      )}
      {chosen?.perBank && <Bank register={form.register('bank')} />}
      <button type="submit" className="btn" disabled={waits || !chosen}>
        Put it in
      </button>
      {view.faultsIn.length === 1 && (
        <button type="submit" value="also" className="btn" disabled={waits || !chosen}>
          Add it
        </button>
      )}
      <Press busy={waits || view.faultsIn.length === 0} act={() => send('repair')}>
        Repair it
      </Press>
      <Problem trouble={form.trouble} text={form.rest} />
    </form>
  );
}

export function Bank({ register }: { register: UseFormRegisterReturn }) {
  return (
    <label className="field w-28">
      Bank
      <select className="select" {...register}>
        <option value="1">1</option>
        <option value="2">2</option>
      </select>
    </label>
  );
}
