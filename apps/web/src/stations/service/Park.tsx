import { useState } from 'react';
import { Field } from '../../ui/Field.tsx';
import type { RunHandle } from './useRun.ts';

const REASONS = ['part not in stock', 'end of day', 'rain', 'waits for the customer'];

/** Half done, and safe to leave: what it waits for, and what is to be ordered. */
export function Park({ handle, close }: { handle: RunHandle; close: () => void }) {
  const { procedure } = handle.run;
  const [reason, setReason] = useState('');
  const [order, setOrder] = useState<readonly string[]>([]);
  const toggle = (name: string) => setOrder(order.includes(name) ? order.filter((x) => x !== name) : [...order, name]);
  const [other, setOther] = useState('');
  return (
    <form
      className="card grid gap-3 p-4"
      aria-label="Park it"
      onSubmit={(e) => {
        e.preventDefault();
        if (!reason.trim()) return;
        const toOrder = [...order, ...(other.trim() ? [other.trim().slice(0, 120)] : [])];
        void handle.say({ kind: 'parked', reason: reason.trim(), toOrder });
        close();
      }}
    >
      <h2 className="card-title">Park it half done</h2>
      <Field label="What it waits for">
        {(aria) => (
          <input
            className="input"
            list="park-reasons"
            maxLength={300}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            {...aria}
          />
        )}
      </Field>
      <datalist id="park-reasons">
        {REASONS.map((r) => (
          <option key={r} value={r} />
        ))}
      </datalist>
      <fieldset className="m-0 grid gap-1 border-0 p-0">
        <legend className="p-0 text-[0.93rem] font-[550]">To order</legend>
        {procedure.parts.map((p) => (
          <label key={p.name} className="flex min-h-12 items-center gap-3">
            <input
              type="checkbox"
              className="checkbox"
              checked={order.includes(p.name)}
              onChange={() => toggle(p.name)}
            />
            {p.name}
          </label>
        ))}
        <Field label="Something else">
          {(aria) => <input className="input" value={other} onChange={(e) => setOther(e.target.value)} {...aria} />}
        </Field>
      </fieldset>
      <div className="flex gap-3">
        <button type="submit" className="btn btn-primary" disabled={!reason.trim()}>
          Park it
        </button>
        <button type="button" className="btn" onClick={close}>
          Not yet
        </button>
      </div>
    </form>
  );
}
