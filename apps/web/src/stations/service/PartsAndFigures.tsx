import type { EntryView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import type { OutcomeEntry } from '@just-balance/contract/service';
import { PartEntry, ValueEntry } from '@just-balance/contract/service';
import { OWN_VALUES } from '@just-balance/core/case';
import { CLEANABLE } from '@just-balance/core/procedures';
import { newId } from '../../data/api.ts';
import { queueWrite, write } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { Field } from '../../ui/Field.tsx';
import { May, Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { typed } from '../../ui/typed.ts';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** Parts on record, the vehicle's own figures, and whether a cleaning has held. */
export function PartsAndFigures({ job }: StationProps) {
  const { busy, trouble, run } = useAction();
  const undo = (e: EntryView) =>
    run(async () => {
      await write(WRITES.undoEntry(job.id, e.id), { rev: e.rev, undone: !e.undone });
    });
  const shown = job.entries.filter((e) => e.kind === 'part' || e.kind === 'value' || e.kind === 'outcome');
  return (
    <div className="grid items-start gap-6 lg:grid-cols-2">
      <May>
        <PartForm jobId={job.id} />
      </May>
      <div className="grid gap-6">
        <May>
          <ValueForm jobId={job.id} />
          <Outcome jobId={job.id} />
        </May>
        <section>
          <h2 className="card-title">On record</h2>
          <Problem trouble={trouble} />
          <ul className="m-0 mt-2 grid list-none gap-2 p-0">
            {shown.map((e) => (
              <li
                key={e.id}
                className="flex items-center justify-between gap-3 border-b border-rule pb-2 last:border-b-0"
              >
                <span className={e.undone ? 'text-soft line-through' : ''}>
                  {wordsOf(e)}
                  <span className="block text-[0.9rem] text-soft">{e.by}</span>
                </span>
                <Press className="btn" disabled={busy} onClick={() => undo(e)}>
                  {e.undone ? 'Put back' : 'Undo'}
                </Press>
              </li>
            ))}
            {shown.length === 0 && <li className="text-soft">Nothing yet.</li>}
          </ul>
        </section>
      </div>
    </div>
  );
}

function wordsOf(e: EntryView): string {
  if (e.kind === 'part') {
    const { name, number, supersededBy, make, price, oldKept, substitute } = e.data;
    return [
      name,
      number,
      supersededBy && `superseded by ${supersededBy}`,
      make === 'copy' ? 'copy: weak evidence against it' : make,
      price !== undefined && `price ${price}`,
      oldKept && 'old part kept',
      substitute && `substitute: ${substitute}`,
    ]
      .filter(Boolean)
      .join(' · ');
  }
  if (e.kind === 'value') return `${e.data.quantity} ${e.data.value} ${e.data.unit} (${e.data.source})`;
  if (e.kind === 'outcome') {
    const part = CLEANABLE.find((c) => c.id === e.data.part)?.label ?? e.data.part;
    return `${part}: the cleaning ${e.data.held ? 'has held' : 'did not hold'}`;
  }
  return '';
}

function PartForm({ jobId }: { jobId: string }) {
  const form = useTypedForm({
    dto: PartEntry,
    keep: `${jobId} part`,
    defaults: {
      name: '',
      number: '',
      supersededBy: '',
      make: 'original',
      price: '',
      supplier: '',
      oldKept: 'yes',
      substitute: '',
    },
    body: (t) =>
      Object.assign(new PartEntry(), {
        name: t.name.trim(),
        make: t.make,
        oldKept: t.oldKept === 'yes',
        ...(t.number.trim() ? { number: t.number.trim() } : {}),
        ...(t.supersededBy.trim() ? { supersededBy: t.supersededBy.trim() } : {}),
        ...(t.price.trim() ? { price: Number(typed(t.price)) } : {}),
        ...(t.supplier.trim() ? { supplier: t.supplier.trim() } : {}),
        ...(t.substitute.trim() ? { substitute: t.substitute.trim() } : {}),
      }),
    send: async (data) => {
      await queueWrite('Part', WRITES.addEntry(jobId), { id: newId(), kind: 'part', data });
      form.reset();
    },
  });
  const text = (label: string, name: 'name' | 'number' | 'supersededBy' | 'price' | 'supplier' | 'substitute') => (
    <Field label={label} error={form.error(name)}>
      {(aria) => <input className="input" {...form.register(name)} {...aria} />}
    </Field>
  );
  return (
    <form className="grid gap-3" onSubmit={form.submit} noValidate>
      <h2 className="card-title">A part</h2>
      {text('Part', 'name')}
      <div className="grid gap-3 sm:grid-cols-2">
        {text('Number', 'number')}
        {text('Superseded by', 'supersededBy')}
        <Field label="Make" error={form.error('make')}>
          {(aria) => (
            <select className="select" {...form.register('make')} {...aria}>
              <option value="original">original</option>
              <option value="copy">copy</option>
              <option value="used">used</option>
              <option value="not known">not known</option>
            </select>
          )}
        </Field>
        {text('Price', 'price')}
        {text('Supplier', 'supplier')}
        <Field label="Old part kept until proven" error={form.error('oldKept')}>
          {(aria) => (
            <select className="select" {...form.register('oldKept')} {...aria}>
              <option value="yes">yes</option>
              <option value="no">no</option>
            </select>
          )}
        </Field>
      </div>
      {text('Substitute or reused seal, and why', 'substitute')}
      <p className="m-0 text-soft">
        A part that was replaced by a copy is hardly cleared by it: “already replaced” proves little.
      </p>
      <Problem text={form.rest} trouble={form.trouble} />
      <button type="submit" className="btn btn-primary justify-self-start" disabled={form.busy}>
        Keep the part
      </button>
    </form>
  );
}

function ValueForm({ jobId }: { jobId: string }) {
  const form = useTypedForm({
    dto: ValueEntry,
    keep: `${jobId} value`,
    defaults: { quantity: '', value: '', unit: 'N·m', source: '' },
    body: (t) =>
      Object.assign(new ValueEntry(), {
        quantity: t.quantity.trim(),
        value: t.value.trim() === '' ? Number.NaN : Number(typed(t.value)),
        unit: t.unit,
        source: t.source.trim(),
      }),
    send: async (data) => {
      await queueWrite('Figure of the vehicle', WRITES.addEntry(jobId), { id: newId(), kind: 'value', data });
      form.reset();
    },
  });
  return (
    <form className="grid gap-3" onSubmit={form.submit} noValidate>
      <h2 className="card-title">This vehicle’s own figure</h2>
      <div className="grid gap-3 sm:grid-cols-[minmax(0,1fr)_110px_110px]">
        <Field label="What" error={form.error('quantity')}>
          {(aria) => <input className="input" list="own-values" {...form.register('quantity')} {...aria} />}
        </Field>
        <Field label="Value" error={form.error('value')}>
          {(aria) => <input className="input figure" inputMode="decimal" {...form.register('value')} {...aria} />}
        </Field>
        <Field label="Unit" error={form.error('unit')}>
          {(aria) => (
            <select className="select" {...form.register('unit')} {...aria}>
              {['N·m', 'kPa', 'ohm', '%', '°', 'g/s', 'V'].map((u) => (
                <option key={u}>{u}</option>
              ))}
            </select>
          )}
        </Field>
      </div>
      <datalist id="own-values">
        {OWN_VALUES.map((v) => (
          <option key={v.quantity} value={v.quantity} />
        ))}
      </datalist>
      <Field label="Where it comes from" error={form.error('source')}>
        {(aria) => <input className="input" {...form.register('source')} {...aria} />}
      </Field>
      <Problem text={form.rest} trouble={form.trouble} />
      <button type="submit" className="btn btn-primary justify-self-start" disabled={form.busy}>
        Keep the figure
      </button>
    </form>
  );
}

/** What the shop learns from: whether an earlier cleaning held. */
function Outcome({ jobId }: { jobId: string }) {
  const { busy, trouble, run } = useAction();
  const say = (part: OutcomeEntry['part'], held: boolean) =>
    run(async () => {
      await queueWrite('How a cleaning turned out', WRITES.addEntry(jobId), {
        id: newId(),
        kind: 'outcome',
        data: { part, held },
      });
    });
  return (
    <section className="grid gap-2">
      <h2 className="card-title">Has an earlier cleaning held?</h2>
      <Problem trouble={trouble} />
      <ul className="m-0 grid list-none gap-2 p-0">
        {CLEANABLE.map((c) => (
          <li key={c.id} className="flex items-center gap-2">
            <span className="flex-1">{c.label}</span>
            <button
              type="button"
              className="btn"
              disabled={busy}
              onClick={() => say(c.id, true)}
              aria-label={`${c.label}: it held`}
            >
              It held
            </button>
            <button
              type="button"
              className="btn"
              disabled={busy}
              onClick={() => say(c.id, false)}
              aria-label={`${c.label}: it did not hold`}
            >
              It did not
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
