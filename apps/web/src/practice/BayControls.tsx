import type { BayView, BenchTestResult } from '@just-balance/contract';
import { outcomeLabel, TEST_BY_ID } from '@just-balance/core/catalogue';
import { type ReactNode, useEffect, useState } from 'react';
import useSWR, { mutate } from 'swr';
import { api } from '../data/api.ts';
import { Fold } from '../ui/Fold.tsx';
import { Problem } from '../ui/Problem.tsx';
import { Quantity } from '../ui/preferences.tsx';
import { typed } from '../ui/typed.ts';
import { useAction } from '../ui/useAction.ts';

type Send = (command: string, rest?: Record<string, unknown>) => Promise<BayView | undefined>;

/** What may be done to a simulated vehicle; clearly marked as simulated. `compact`: only the driver's part. */
export function BayControls({ bay, compact = false }: { bay: number; compact?: boolean }) {
  const { data: bays } = useSWR<BayView[]>('/bays', { refreshInterval: 2000 });
  const view = bays?.find((b) => b.bay === bay);
  const { busy, trouble, run } = useAction();
  if (!view) return null;
  const send: Send = async (command, rest = {}) => {
    let answer: BayView | undefined;
    await run(async () => {
      answer = await api.post<BayView>(`/bays/${bay}`, { command, ...rest });
      await mutate('/bays');
    });
    return answer;
  };
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
          {view.target} · <span className="figure">{view.rpm.toLocaleString('en-US')}</span> rpm ·{' '}
          {view.kmh > 0 && (
            <>
              <Quantity value={view.kmh} unit="km/h" digits={0} /> ·{' '}
            </>
          )}
          <Quantity value={view.ectC} unit="°C" digits={0} />
          {view.rate !== 1 && ` · time ×${view.rate}`}
          {!compact && view.faultsIn.length > 0 && ` · fault in: ${faultsText(view)}`}
        </span>
      </div>
      <div className="mt-3 grid gap-3">
        <Drive send={send} busy={busy} compact={compact} view={view} />
        {!compact && <Faults view={view} send={send} busy={busy} />}
        {!compact && (
          <Fold title="Vehicle, surroundings, time, link, bench tests">
            <div className="grid gap-3">
              <Surroundings view={view} send={send} busy={busy} />
              <BenchTests view={view} send={send} busy={busy} />
            </div>
          </Fold>
        )}
        {compact && (
          <Fold title="Instructor: fault in this car">
            <div className="mt-2 flex flex-wrap items-center gap-3">
              <span>{faultsText(view) || 'none'}</span>
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

function faultsText(view: BayView): string {
  return view.faultsIn
    .map((f) => {
      const row = view.faults.find((r) => r.id === f.id);
      const bank = row?.perBank ? `, bank ${f.bank ?? 1}` : '';
      return `${row?.label ?? f.id}${bank}${row?.unit ? `, ${f.severity} ${row.unit}` : ''}`;
    })
    .join(' and ');
}

function Press({ busy, act, children }: { busy: boolean; act: () => unknown; children: ReactNode }) {
  return (
    <button type="button" className="btn" disabled={busy} onClick={() => void act()}>
      {children}
    </button>
  );
}

function Drive({ send, busy, compact, view }: { send: Send; busy: boolean; compact: boolean; view: BayView }) {
  const press = (name: string, command: string, rest?: Record<string, unknown>) => (
    <Press key={name} busy={busy} act={() => send(command, rest)}>
      {name}
    </Press>
  );
  return (
    <div className="flex flex-wrap gap-3">
      {press('Idle', 'idle')}
      {press('Hold 2,500', 'hold', { rpm: 2500 })}
      {press('Warm it up', 'warm')}
      {view.vehicle.fuel === 'petrol' && press('Let trims settle', 'settle')}
      {!compact && [
        press('A/C on', 'idle', { ac: true }),
        press('Snap', 'snap'),
        press('Road 80 km/h', 'speed', { kmh: 80 }),
        press('Full load', 'full-load', { rpm: 4000 }),
        press('Coast', 'coast'),
        ...view.scripts.map((s) => press(s.label, 'script', { script: s.id })),
        press('Key on only', 'koeo'),
        press('Key off', 'key', { on: false }),
      ]}
    </div>
  );
}

const number = (text: string) => Number(typed(text));

function Faults({ view, send, busy }: { view: BayView; send: Send; busy: boolean }) {
  const [fault, setFault] = useState('');
  const [severity, setSeverity] = useState('');
  const [bank, setBank] = useState<1 | 2>(1);
  useEffect(() => {
    const row = view.faults.find((f) => f.id === fault);
    if (row) setSeverity(String(row.typical));
  }, [fault, view.faults]);
  const chosen = view.faults.find((f) => f.id === fault);
  const put = (also: boolean) =>
    send('fault', { fault, severity: number(severity), also, ...(chosen?.perBank ? { faultBank: bank } : {}) });
  return (
    <div className="flex flex-wrap items-end gap-3">
      <label className="field min-w-56">
        Fault
        <select className="select" value={fault} onChange={(e) => setFault(e.target.value)}>
          <option value="">Choose…</option>
          {view.faults.map((f) => (
            <option key={f.id} value={f.id}>
              {f.label}
            </option>
          ))}
        </select>
      </label>
      {chosen?.unit !== '' && (
        <label className="field w-36">
          Size{chosen ? `, ${chosen.unit}` : ''}
          <input
            className="input"
            inputMode="decimal"
            value={severity}
            disabled={!chosen}
            onChange={(e) => setSeverity(e.target.value)}
          />
        </label>
      )}
      {chosen?.perBank && (
        <label className="field w-28">
          Bank
          <select className="select" value={bank} onChange={(e) => setBank(e.target.value === '2' ? 2 : 1)}>
            <option value="1">1</option>
            <option value="2">2</option>
          </select>
        </label>
      )}
      <Press busy={busy || !chosen} act={() => put(false)}>
        Put it in
      </Press>
      {view.faultsIn.length === 1 && (
        <Press busy={busy || !chosen} act={() => put(true)}>
          Add it
        </Press>
      )}
      <Press busy={busy || view.faultsIn.length === 0} act={() => send('repair')}>
        Repair it
      </Press>
    </div>
  );
}

const LINKS = {
  sound: { label: 'sound', degradation: {} },
  poor: { label: 'poor: drops, delays', degradation: { dropShare: 0.08, delayMs: 60 } },
  noisy: { label: 'noisy: corrupted frames', degradation: { corruptShare: 0.05, dropShare: 0.02 } },
  weak: { label: 'browns out when cranking', degradation: { brownOut: true } },
} as const;

function Surroundings({ view, send, busy }: { view: BayView; send: Send; busy: boolean }) {
  const [altitude, setAltitude] = useState('');
  const [air, setAir] = useState('');
  const current = (Object.keys(LINKS) as (keyof typeof LINKS)[])
    .filter((k) => k !== 'sound')
    .find((k) =>
      Object.entries(LINKS[k].degradation).every(([key, v]) => view.degradation[key as 'dropShare'] === (v as unknown)),
    );
  return (
    <div className="flex flex-wrap items-end gap-3">
      <label className="field min-w-52">
        Vehicle
        <select
          className="select"
          value={view.vehicleId}
          disabled={busy}
          onChange={(e) => void send('vehicle', { vehicle: e.target.value })}
        >
          {view.fleet.map((f) => (
            <option key={f.id} value={f.id}>
              {f.label}
            </option>
          ))}
        </select>
      </label>
      <label className="field w-32">
        Altitude, m
        <input className="input" inputMode="numeric" value={altitude} onChange={(e) => setAltitude(e.target.value)} />
      </label>
      <label className="field w-32">
        Outside air, °C
        <input
          className="input"
          inputMode="decimal"
          value={air}
          placeholder={String(view.airC)}
          onChange={(e) => setAir(e.target.value)}
        />
      </label>
      <Press
        busy={busy || (altitude.trim() === '' && air.trim() === '')}
        act={() =>
          send('ambient', {
            ...(altitude.trim() ? { altitudeM: number(altitude) } : {}),
            ...(air.trim() ? { airC: number(air) } : {}),
          })
        }
      >
        Set
      </Press>
      <Press busy={busy} act={() => send('soak', { hours: 12 })}>
        Stand overnight
      </Press>
      <label className="field w-40">
        Time
        <select
          className="select"
          value={String(view.rate)}
          disabled={busy}
          onChange={(e) => void send('rate', { rate: Number(e.target.value) })}
        >
          <option value="0">stopped</option>
          <option value="1">as it is</option>
          <option value="10">10 times</option>
          <option value="50">50 times</option>
        </select>
      </label>
      <label className="field min-w-52">
        Link
        <select
          className="select"
          value={current ?? 'sound'}
          disabled={busy}
          onChange={(e) =>
            void send('degrade', { degradation: LINKS[e.target.value as keyof typeof LINKS].degradation })
          }
        >
          {Object.entries(LINKS).map(([id, l]) => (
            <option key={id} value={id}>
              {l.label}
            </option>
          ))}
        </select>
      </label>
    </div>
  );
}

function BenchTests({ view, send, busy }: { view: BayView; send: Send; busy: boolean }) {
  const [test, setTest] = useState('');
  const [bank, setBank] = useState<1 | 2>(1);
  const [shown, setShown] = useState<BenchTestResult | null>(null);
  const perform = async () => {
    setShown(null);
    const answer = await send('test', { test, ...(view.vehicle.banks === 2 ? { faultBank: bank } : {}) });
    if (answer?.result && !Array.isArray(answer.result)) setShown(answer.result);
  };
  return (
    <div className="flex flex-wrap items-end gap-3">
      <label className="field min-w-56">
        Bench test
        <select className="select" value={test} onChange={(e) => setTest(e.target.value)}>
          <option value="">Choose…</option>
          {view.tests.map((t) => (
            <option key={t} value={t}>
              {TEST_BY_ID.get(t)?.label ?? t}
            </option>
          ))}
        </select>
      </label>
      {view.vehicle.banks === 2 && (
        <label className="field w-28">
          Bank
          <select className="select" value={bank} onChange={(e) => setBank(e.target.value === '2' ? 2 : 1)}>
            <option value="1">1</option>
            <option value="2">2</option>
          </select>
        </label>
      )}
      <Press busy={busy || test === ''} act={perform}>
        Perform it
      </Press>
      <p role="status" className="m-0 min-h-12 content-center">
        {shown && (
          <>
            <strong>{TEST_BY_ID.get(shown.test)?.label ?? shown.test}:</strong>{' '}
            {[
              shown.outcome && outcomeLabel(shown.outcome),
              ...Object.entries(shown.values ?? {}).map(([k, v]) => `${k} ${v}`),
            ]
              .filter(Boolean)
              .join(', ')}
            <span className="text-soft"> (wrong {Math.round(shown.chanceOfWrong * 100)} times in 100)</span>
          </>
        )}
      </p>
    </div>
  );
}
