import { BayCommand, type BayView, type BenchTestResult, ROUTES } from '@just-balance/contract';
import { outcomeLabel, TEST_BY_ID } from '@just-balance/core/catalogue';
import { valuesInWords } from '@just-balance/core/job';
import { isSaid, joined, metricOf, shown } from '@just-balance/core/units';
import { type ReactNode, useState } from 'react';
import type { UseFormRegisterReturn } from 'react-hook-form';
import { mutate } from 'swr';
import { api } from '../data/api.ts';
import { useRead } from '../data/reads.ts';
import { Choice } from '../ui/Choice.tsx';
import { Combobox } from '../ui/Combobox.tsx';
import { Field } from '../ui/Field.tsx';
import { Fold } from '../ui/Fold.tsx';
import { Problem } from '../ui/Problem.tsx';
import { Quantity, Say, usePreferences, useShown } from '../ui/preferences.tsx';
import { typed } from '../ui/typed.ts';
import { useAction } from '../ui/useAction.ts';
import { asTyped, useFollowUnits } from '../ui/useFollowUnits.ts';
import { useTypedForm } from '../ui/useTypedForm.ts';

/** One command; throws what the server refuses it for. */
type Post = (body: BayCommand) => Promise<BayView>;
/** The same from a button: what goes wrong stands under the panel. */
type Send = (command: BayCommand['command'], rest?: Partial<BayCommand>) => Promise<void>;

/** What may be done to a simulated vehicle; clearly marked as simulated. `compact`: only the driver's part. */
export function BayControls({
  bay,
  compact = false,
  drives = !compact,
  children,
}: {
  bay: number;
  /** Beside its name. */
  children?: ReactNode;
  compact?: boolean;
  /** Whole drives, and how fast time goes. */
  drives?: boolean;
}) {
  const { data: bays } = useRead(ROUTES.bays, { refreshInterval: 2000 });
  const view = bays?.find((b) => b.bay === bay);
  const { busy, trouble, run } = useAction();
  const show = useShown();
  if (!view) return null;
  const post: Post = async (body) => {
    const answer = await api.post<BayView>(`/bays/${bay}`, body);
    const { result: _, ...now } = answer;
    await mutate<BayView[]>(ROUTES.bays, (all) => all?.map((b) => (b.bay === bay ? now : b)), { revalidate: false });
    return answer;
  };
  const send: Send = (command, rest = {}) => run(() => post({ command, ...rest }));
  return (
    <section
      aria-label={`Bay ${bay}, simulated`}
      className="rounded-xl border-2 border-dashed border-soft p-4 no-print"
    >
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 className="m-0 text-[1.05rem] font-bold">
          Bay {bay}: simulated {view.vehicle.label}
        </h2>
        <span className="text-soft">
          {view.script ? `${view.script}: ` : ''}
          <Say text={view.target} /> · <Quantity value={view.rpm} unit="rpm" digits={0} /> ·{' '}
          {view.kmh > 0 && (
            <>
              <Quantity value={view.kmh} unit="km/h" digits={0} /> ·{' '}
            </>
          )}
          <Quantity value={view.ectC} unit="°C" digits={0} />
          {view.rate !== 1 && ` · time ×${view.rate}`}
          {!compact && view.faultsIn.length > 0 && ` · fault in: ${faultsText(view, show)}`}
        </span>
        {children && <span className="ml-auto">{children}</span>}
      </div>
      <div className="mt-3 grid gap-3">
        <Drive send={send} busy={busy} view={view} />
        {drives && <WholeDrive send={send} busy={busy} view={view} />}
        {!compact && <Faults view={view} send={send} post={post} busy={busy} />}
        {!compact && <WorkOnIt send={send} busy={busy} />}
        {!compact && (
          <Fold title="Vehicle, surroundings, time, link, bench tests">
            <div className="grid gap-3">
              <Surroundings view={view} send={send} post={post} busy={busy} />
              <BenchTests view={view} post={post} busy={busy} />
            </div>
          </Fold>
        )}
        {compact && (
          <Fold title="Instructor: fault in this car">
            <div className="mt-2 flex flex-wrap items-center gap-3">
              <span>{faultsText(view, show) || 'none'}</span>
              <Press busy={busy || view.faultsIn.length === 0} act={() => send('repair')}>
                Repair it
              </Press>
            </div>
          </Fold>
        )}
        <Problem trouble={trouble} />
      </div>
    </section>
  );
}

function faultsText(view: BayView, show: ReturnType<typeof useShown>): string {
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

function Press({ busy, act, children }: { busy: boolean; act: () => unknown; children: ReactNode }) {
  return (
    <button type="button" className="btn" disabled={busy} onClick={() => void act()}>
      {children}
    </button>
  );
}

/** What a driver does with the car: the key, the pedal, the road. */
function Drive({ send, busy, view }: { send: Send; busy: boolean; view: BayView }) {
  const show = useShown();
  const road = show(ROAD_KMH, 'km/h', 0);
  const press = (name: string, command: BayCommand['command'], rest?: Partial<BayCommand>) => (
    <Press key={name} busy={busy} act={() => send(command, rest)}>
      {name}
    </Press>
  );
  return (
    <div className="flex flex-wrap gap-2" role="group" aria-label="Key and pedal">
      {press('Key off', 'key', { on: false })}
      {press('Key on only', 'koeo')}
      {press('Idle', 'idle')}
      {press('A/C on', 'idle', { ac: true })}
      {press('Hold 2,500', 'hold', { rpm: 2500 })}
      {press('Snap', 'snap')}
      {press(`Road ${road.value.toFixed(road.digits)} ${road.unit}`, 'speed', { kmh: ROAD_KMH })}
      {press('Full load', 'full-load', { rpm: 4000 })}
      {press('Coast', 'coast')}
      {press('Warm it up', 'warm')}
      {view.vehicle.fuel === 'petrol' && press('Let trims settle', 'settle')}
    </div>
  );
}

/** A steady road. [house] */
const ROAD_KMH = 80;
const RATES = [0, 1, 10, 40] as const;

/** A drive from the first turn of the key to the last, as asked or with one thing wrong; time can be hurried. */
function WholeDrive({ send, busy, view }: { send: Send; busy: boolean; view: BayView }) {
  const [script, setScript] = useState(view.scripts[0]?.id ?? '');
  return (
    <div className="flex flex-wrap items-end gap-3" role="group" aria-label="A whole drive">
      <Field label="A whole drive">
        {(aria) => (
          <Choice value={script} choose={setScript} {...aria}>
            {view.scripts.map((s) => (
              <option key={s.id} value={s.id}>
                {s.label}
              </option>
            ))}
          </Choice>
        )}
      </Field>
      <Press busy={busy || script === ''} act={() => send('script', { script })}>
        Drive it
      </Press>
      <Field label="Time">
        {(aria) => (
          <Choice
            value={String(view.rate)}
            disabled={busy}
            choose={(rate) => void send('rate', { rate: Number(rate) })}
            {...aria}
          >
            {[...new Set([...RATES, view.rate])]
              .sort((a, b) => a - b)
              .map((r) => (
                <option key={r} value={r}>
                  {r === 0 ? 'stands still' : r === 1 ? 'as it is' : `${r} times as fast`}
                </option>
              ))}
          </Choice>
        )}
      </Field>
    </div>
  );
}

interface FaultTyped {
  fault: string;
  severity: string;
  bank: string;
  /** Beside the one that is in. */
  also: boolean;
}

function Faults({ view, send, post, busy }: { view: BayView; send: Send; post: Post; busy: boolean }) {
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

const PARTS = {
  'airflow-sensor': 'Airflow sensor',
  'pressure-sensor': 'Pressure sensor',
  'oxygen-sensor': 'Oxygen sensor',
  'throttle-body': 'Throttle body',
} as const;

/** Hands on the simulated car: what is done to a part changes its physics, not the figures. */
function WorkOnIt({ send, busy }: { send: Send; busy: boolean }) {
  const [part, setPart] = useState<keyof typeof PARTS>('airflow-sensor');
  const work = (name: string) => () => send('work', { work: name, part });
  return (
    <div className="flex flex-wrap items-end gap-3" role="group" aria-label="Work on it">
      <Field label="Part" className="w-48">
        {(aria) => (
          <Choice value={part} choose={(p) => setPart(p as keyof typeof PARTS)} {...aria}>
            {Object.entries(PARTS).map(([id, label]) => (
              <option key={id} value={id}>
                {label}
              </option>
            ))}
          </Choice>
        )}
      </Field>
      <Press busy={busy} act={work('clean')}>
        Clean it
      </Press>
      <Press busy={busy} act={work('replace')}>
        Replace it
      </Press>
      {part === 'airflow-sensor' && (
        <>
          <Press busy={busy} act={work('refit')}>
            Refit right
          </Press>
          <Press busy={busy} act={work('refit-backwards')}>
            Refit backwards
          </Press>
          <Press busy={busy} act={work('refit-without-ring')}>
            Without its ring
          </Press>
        </>
      )}
      {part === 'throttle-body' && (
        <Press busy={busy} act={work('throttle-relearn')}>
          Relearn it
        </Press>
      )}
    </div>
  );
}

function Bank({ register }: { register: UseFormRegisterReturn }) {
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

const LINKS = {
  sound: { label: 'sound', degradation: {} },
  poor: { label: 'poor: drops, delays', degradation: { dropShare: 0.08, delayMs: 60 } },
  noisy: { label: 'noisy: corrupted frames', degradation: { corruptShare: 0.05, dropShare: 0.02 } },
  weak: { label: 'browns out when cranking', degradation: { brownOut: true } },
} as const;

function Surroundings({ view, send, post, busy }: { view: BayView; send: Send; post: Post; busy: boolean }) {
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

function BenchTests({ view, post, busy }: { view: BayView; post: Post; busy: boolean }) {
  const [done, setDone] = useState<BenchTestResult | null>(null);
  const form = useTypedForm<{ test: string; bank: string }, BayCommand>({
    dto: BayCommand,
    defaults: { test: '', bank: '1' },
    body: (t) => ({
      command: 'test',
      test: t.test,
      ...(view.vehicle.banks === 2 ? { faultBank: t.bank === '2' ? 2 : 1 } : {}),
    }),
    fields: { faultBank: 'bank' },
    send: async (body) => {
      setDone(null);
      const { result } = await post(body);
      if (result && !Array.isArray(result)) setDone(result);
    },
  });
  return (
    <form className="flex flex-wrap items-end gap-3" onSubmit={form.submit} noValidate>
      <Combobox
        className="min-w-64"
        label="Bench test"
        placeholder="Any word of it"
        all={view.tests}
        textOf={(t) => TEST_BY_ID.get(t)?.label ?? t}
        keyOf={(t) => t}
        chosen={form.watch('test') || null}
        choose={(t) => form.setValue('test', t ?? '')}
      />
      {view.vehicle.banks === 2 && <Bank register={form.register('bank')} />}
      <button type="submit" className="btn" disabled={busy || form.busy || form.watch('test') === ''}>
        Perform it
      </button>
      <Problem trouble={form.trouble} text={form.rest} />
      <p role="status" className="m-0 min-h-12 content-center">
        {done && (
          <>
            <strong>{TEST_BY_ID.get(done.test)?.label ?? done.test}:</strong>{' '}
            <Say
              text={joined(
                [
                  done.outcome ? outcomeLabel(done.test, done.outcome) : '',
                  ...valuesInWords(done.test, done.values ?? {}),
                ].filter(isSaid),
                ', ',
              )}
            />
            <span className="text-soft"> (wrong {Math.round(done.chanceOfWrong * 100)} times in 100)</span>
          </>
        )}
      </p>
    </form>
  );
}
