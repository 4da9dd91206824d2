import { BayCommand, type BayView } from '@just-balance/contract';
import { metricOf, shown } from '@just-balance/core/units';
import { Choice } from '../../ui/Choice.tsx';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { asTyped, useFollowUnits } from '../../ui/useFollowUnits.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import { type Post, Press, type Send } from './Press.tsx';

const LINKS = {
  sound: { label: 'sound', degradation: {} },
  poor: { label: 'poor: drops, delays', degradation: { dropShare: 0.08, delayMs: 60 } },
  noisy: { label: 'noisy: corrupted frames', degradation: { corruptShare: 0.05, dropShare: 0.02 } },
  weak: { label: 'browns out when cranking', degradation: { brownOut: true } },
} as const;

export function Surroundings({ view, send, post, busy }: { view: BayView; send: Send; post: Post; busy: boolean }) {
  const { units } = usePreferences();
  const unit = { altitudeM: shown(0, 'm', 0, units).unit, airC: shown(0, '°C', 0, units).unit };
  const form = useTypedForm<{ altitudeM: string; airC: string }, BayCommand>({
    dto: BayCommand,
    defaults: { altitudeM: '', airC: '' },
    body: (t) => ({
      command: 'ambient',
      ...(t.altitudeM.trim() ? { altitudeM: metricOf(Number(typed(t.altitudeM)), 'm', units) } : {}),
      ...(t.airC.trim() ? { airC: metricOf(Number(typed(t.airC)), '°C', units) } : {}),
    }),
    send: post,
  });
  useFollowUnits(
    unit,
    (k) => form.getValues(k as 'airC'),
    (k, text) => form.setValue(k as 'airC', text),
  );
  const [altitude, air] = form.watch(['altitudeM', 'airC']);
  const current = (Object.keys(LINKS) as (keyof typeof LINKS)[])
    .filter((k) => k !== 'sound')
    .find((k) =>
      Object.entries(LINKS[k].degradation).every(([key, v]) => view.degradation[key as 'dropShare'] === (v as unknown)),
    );
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Field className="min-w-52" label="Vehicle">
        {(aria) => (
          <Choice
            value={view.vehicleId}
            disabled={busy}
            choose={(vehicle) => void send('vehicle', { vehicle })}
            {...aria}
          >
            {view.fleet.map((f) => (
              <option key={f.id} value={f.id}>
                {f.label}
              </option>
            ))}
          </Choice>
        )}
      </Field>
      <form className="contents" onSubmit={form.submit} noValidate>
        <Field className="w-32" label={`Altitude, ${unit.altitudeM}`} error={form.error('altitudeM')}>
          {(aria) => <input className="input" inputMode="numeric" {...form.register('altitudeM')} {...aria} />}
        </Field>
        <Field className="w-32" label={`Outside air, ${unit.airC}`} error={form.error('airC')}>
          {(aria) => (
            <input
              className="input"
              inputMode="decimal"
              placeholder={asTyped(shown(view.airC, '°C', 1, units).value, 1)}
              {...form.register('airC')}
              {...aria}
            />
          )}
        </Field>
        <button
          type="submit"
          className="btn"
          disabled={busy || form.busy || (altitude.trim() === '' && air.trim() === '')}
        >
          Set
        </button>
        <Problem trouble={form.trouble} text={form.rest} />
      </form>
      <Press busy={busy} act={() => send('soak', { hours: 12 })}>
        Stand overnight
      </Press>
      <Field className="min-w-52" label="Link">
        {(aria) => (
          <Choice
            value={current ?? 'sound'}
            disabled={busy}
            choose={(link) => void send('degrade', { degradation: LINKS[link as keyof typeof LINKS].degradation })}
            {...aria}
          >
            {Object.entries(LINKS).map(([id, l]) => (
              <option key={id} value={id}>
                {l.label}
              </option>
            ))}
          </Choice>
        )}
      </Field>
    </div>
  );
}
