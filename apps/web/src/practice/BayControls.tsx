import type { BayView } from '@just-balance/contract';
import { useEffect, useState } from 'react';
import useSWR, { mutate } from 'swr';
import { api } from '../shared/api.ts';
import { Problem } from '../shared/Problem.tsx';
import { Quantity } from '../shared/preferences.tsx';
import { useAction } from '../shared/useAction.ts';

/** What may be done to a simulated vehicle; clearly marked as simulated. `compact`: only the driver's part. */
export function BayControls({ bay, compact = false }: { bay: number; compact?: boolean }) {
  const { data: bays } = useSWR<BayView[]>('/bays', api.get, { refreshInterval: 2000 });
  const view = bays?.find((b) => b.bay === bay);
  const { busy, problem, run } = useAction();
  const [fault, setFault] = useState('');
  const [severity, setSeverity] = useState('');
  useEffect(() => {
    const row = view?.faults.find((f) => f.id === fault);
    if (row) setSeverity(String(row.typical));
  }, [fault, view?.faults]);
  if (!view) return null;
  const send = (command: string, rest: Record<string, unknown> = {}) =>
    run(async () => {
      await api.post(`/bays/${bay}`, { command, ...rest });
      await mutate('/bays');
    });
  const chosen = view.faults.find((f) => f.id === fault);
  const drive = (
    <div className="flex flex-wrap gap-3">
      <button type="button" className="press" disabled={busy} onClick={() => send('idle')}>
        Idle
      </button>
      <button type="button" className="press" disabled={busy} onClick={() => send('hold', { rpm: 2500 })}>
        Hold 2,500
      </button>
      <button type="button" className="press" disabled={busy} onClick={() => send('warm')}>
        Warm it up
      </button>
      <button type="button" className="press" disabled={busy} onClick={() => send('settle')}>
        Let trims settle
      </button>
      {!compact && (
        <>
          <button type="button" className="press" disabled={busy} onClick={() => send('cold')}>
            Make it cold
          </button>
          <button type="button" className="press" disabled={busy} onClick={() => send('key', { on: false })}>
            Key off
          </button>
        </>
      )}
    </div>
  );
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
          {view.target} · <span className="figure">{view.rpm.toLocaleString('en-US')}</span> rpm ·{' '}
          <Quantity value={view.ectC} unit="°C" digits={0} />
          {!compact &&
            view.fault &&
            ` · fault in: ${view.faults.find((f) => f.id === view.fault?.id)?.label}, ${view.fault.severity} ${view.faults.find((f) => f.id === view.fault?.id)?.unit}`}
        </span>
      </div>
      <div className="mt-3 grid gap-3">
        {drive}
        {!compact && (
          <div className="flex flex-wrap items-end gap-3">
            <label className="field min-w-56">
              Fault
              <select value={fault} onChange={(e) => setFault(e.target.value)}>
                <option value="">Choose…</option>
                {view.faults.map((f) => (
                  <option key={f.id} value={f.id}>
                    {f.label}
                  </option>
                ))}
              </select>
            </label>
            <label className="field w-36">
              Size{chosen ? `, ${chosen.unit}` : ''}
              <input
                inputMode="decimal"
                value={severity}
                disabled={!chosen}
                onChange={(e) => setSeverity(e.target.value)}
              />
            </label>
            <button
              type="button"
              className="press"
              disabled={busy || !chosen}
              onClick={() => send('fault', { fault, severity: Number(severity.replace(',', '.')) })}
            >
              Put it in
            </button>
            <button type="button" className="press" disabled={busy || !view.fault} onClick={() => send('repair')}>
              Repair it
            </button>
          </div>
        )}
        {compact && (
          <details>
            <summary className="min-h-8 cursor-pointer text-soft">Instructor: fault in this car</summary>
            <div className="mt-2 flex flex-wrap items-center gap-3">
              <span>
                {view.fault
                  ? `${view.faults.find((f) => f.id === view.fault?.id)?.label}, ${view.fault.severity} ${view.faults.find((f) => f.id === view.fault?.id)?.unit}`
                  : 'none'}
              </span>
              <button type="button" className="press" disabled={busy || !view.fault} onClick={() => send('repair')}>
                Repair it
              </button>
            </div>
          </details>
        )}
        <Problem text={problem} />
      </div>
    </section>
  );
}
