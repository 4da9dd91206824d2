import { WRITES } from '@just-balance/contract';
import { PinsEntry } from '@just-balance/contract/service';
import {
  BATTERY_NEGATIVE,
  BATTERY_POSITIVE,
  findPins,
  type PairReading,
  type Pin,
  type Settling,
  settlingPairs,
} from '@just-balance/core/electrical';
import { counted, numberText } from '@just-balance/core/units';
import { useDeferredValue, useMemo, useRef } from 'react';
import { newId } from '../../data/api.ts';
import { useDraft } from '../../data/drafts.ts';
import { queueWrite } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { Field } from '../../ui/Field.tsx';
import { Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Table } from '../../ui/Table.tsx';
import { typed } from '../../ui/typed.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** What a meter is put to, and what the contract takes. */
const MOST_V = 60;
const MOST_PINS = 24;

interface Row {
  key: string;
  red: string;
  black: string;
  text: string;
}
const POSTS: Readonly<Record<string, string>> = { [BATTERY_NEGATIVE]: 'battery −', [BATTERY_POSITIVE]: 'battery +' };
const nameOf = (pin: string) => POSTS[pin] ?? `pin ${pin}`;

/** How much more is to be read until all of it is settled, where it is no more than two. */
const saidOf = ({ second }: Settling): string => {
  const pairs = second.map((p) => `red on ${nameOf(p.red)}, black on ${nameOf(p.black)}`);
  if (pairs.length === 0) return 'Read right, this one settles all of them.';
  return pairs.length === 1
    ? `Read right, two settle all of them: this one, then ${pairs[0]}.`
    : `Read right, two settle all of them: this one, then, by what it shows, ${pairs.join('; or ')}.`;
};

/** Voltmeter readings between pairs of pins, as the meter shows them, into pin voltages and roles. */
export function PinFinder({ job }: StationProps) {
  const kept = job.entries.flatMap((e) => (e.kind === 'pins' && !e.undone ? [e] : [])).reverse();
  const [rows, setRows, forgetRows] = useDraft<readonly Row[]>(`${job.id} pin rows`, []);
  const readings = useMemo(() => rows.map(read), [rows]);
  const { register, watch, submit, reset, busy, trouble, error, rest } = useTypedForm({
    dto: PinsEntry,
    keep: `${job.id} pins`,
    defaults: { connector: '', count: '5', battery: '12.6', running: false },
    body: (t) => ({
      connector: t.connector.trim(),
      pins: [...pinsOf(t.count)],
      batteryV: Number(typed(t.battery)) || 0,
      running: t.running,
      readings: [...readings],
    }),
    check: (t) => ({
      ...(Number.isNaN(Number(typed(t.battery))) ? { battery: `“${t.battery}” is not a number` } : {}),
      ...(readings.length === 0 ? { connector: 'no pair has been read yet' } : {}),
    }),
    fields: { batteryV: 'battery', pins: 'count' },
    send: async (data) => {
      await queueWrite('Pair readings', WRITES.addEntry(job.id), { id: newId(), kind: 'pins', data: { ...data } });
      forgetRows();
    },
  });
  const [count, battery, running] = watch(['count', 'battery', 'running']);
  const pins = useMemo(() => pinsOf(count), [count]);
  const batteryV = Number(typed(battery));
  const known = useMemo(() => ({ pins, running, ...(batteryV > 0 ? { batteryV } : {}) }), [pins, running, batteryV]);
  const result = useMemo(() => findPins({ ...known, readings }), [known, readings]);
  // A dozen times the work of the above: not before the next key.
  const asked = useDeferredValue(readings);
  const settling = useMemo(
    () => (asked === readings ? settlingPairs({ ...known, readings: asked }) : null),
    [known, asked, readings],
  );
  const takeUp = ({ connector, pins: kept, batteryV: volts, running: ran, readings: pairs }: PinsEntry) => {
    reset({ connector, count: String(kept.length), battery: volts > 0 ? String(volts) : '', running: ran });
    setRows(pairs.map((p) => ({ key: newId(), red: p.red, black: p.black, text: String(p.volts) })));
  };
  const add = (r: Row): { red: string; black: string } | null => {
    setRows([...rows, r]);
    return findPins({ ...known, readings: [...readings, read(r)] }).nextPair;
  };
  return (
    <div className="grid items-start gap-6 lg:grid-cols-2">
      <div className="grid gap-4">
        <p className="m-0 text-soft">
          Fuse first. Ignition off to unplug, then on. Meter on 20 V DC, leads in the volt sockets. Type each pair as
          the meter shows it; a forgotten minus sign is found.
        </p>
        <form id="pins-of-connector" className="flex flex-wrap items-start gap-3" onSubmit={submit} noValidate>
          <Field label="Connector" className="min-w-40 flex-1" error={error('connector')}>
            {(aria) => <input className="input" maxLength={80} {...register('connector')} {...aria} />}
          </Field>
          <Field label="Pins" className="w-24" error={error('count')}>
            {(aria) => <input className="input figure" inputMode="numeric" {...register('count')} {...aria} />}
          </Field>
          <Field label="Battery, V" className="w-28" error={error('battery')}>
            {(aria) => <input className="input figure" inputMode="decimal" {...register('battery')} {...aria} />}
          </Field>
          <label className="mt-7 flex min-h-12 items-center gap-2">
            <input type="checkbox" className="checkbox" {...register('running')} />
            engine runs
          </label>
        </form>
        <PairForm choices={[...pins, BATTERY_NEGATIVE, BATTERY_POSITIVE]} found={result.pins} add={add} />
        {result.nextPair && (
          <p className="m-0" role="status">
            <strong className="font-[650]">
              Read next: red on {nameOf(result.nextPair.red)}, black on {nameOf(result.nextPair.black)}.
            </strong>{' '}
            {result.nextPair.why}
            {settling && <span className="block text-soft">{saidOf(settling)}</span>}
          </p>
        )}
        <ol className="m-0 grid list-none gap-1 p-0" aria-label="Pair readings">
          {rows.map((r, i) => (
            <li key={r.key} className="flex items-center gap-3">
              <span className="flex-1">
                {nameOf(r.red)} against {nameOf(r.black)} <span className="figure font-[650]">{r.text}</span> V
                {result.outliers.includes(i) && (
                  <span className="badge badge-warning ml-2">disagrees with the others</span>
                )}
              </span>
              <button
                type="button"
                className="btn btn-sm"
                onClick={() => setRows(rows.filter((x) => x !== r))}
                aria-label={`Remove reading ${i + 1}`}
              >
                Remove
              </button>
            </li>
          ))}
        </ol>
      </div>
      <div className="grid gap-3">
        <Table
          rows={result.pins}
          keyOf={(p) => p.pin}
          columns={[
            { head: 'Pin', names: true, cellClass: 'figure', cell: (p) => p.pin },
            {
              head: 'Volts',
              figure: true,
              cell: (p) => (
                <>
                  {p.volts === null ? '—' : numberText(p.volts, 2)}
                  {p.low !== null && p.high !== null && p.high - p.low > 0.02 && (
                    <span className="block text-[0.85rem] text-soft">
                      {numberText(p.low, 2)} to {numberText(p.high, 2)}
                    </span>
                  )}
                </>
              ),
            },
            { head: 'It is', cellClass: 'font-[650]', cell: (p) => p.role },
            { head: 'Because', cellClass: 'text-soft', cell: (p) => p.because },
          ]}
        />
        {result.warnings.map((w) => (
          <p key={w} className="m-0 text-caution">
            {w}
          </p>
        ))}
        <Problem text={rest} trouble={trouble} />
        <Press
          type="submit"
          form="pins-of-connector"
          className="btn justify-self-start"
          disabled={busy || rows.length === 0}
        >
          Keep these readings
        </Press>
        {kept.length > 0 && (
          <ul className="m-0 grid list-none gap-2 p-0" aria-label="Kept pair readings">
            {kept.map((k) => (
              <li key={k.id} className="flex flex-wrap items-center gap-3">
                <span className="flex-1 text-soft">
                  Kept: {k.data.connector || 'a connector'}, {counted(k.data.readings.length, 'pair reading')}, by{' '}
                  {k.by}
                </span>
                <button type="button" className="btn btn-sm" onClick={() => takeUp(k.data)}>
                  Look at them
                </button>
              </li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}

/** One pair as the meter shows it; the pair to read next is set for it. */
function PairForm({
  choices,
  found,
  add,
}: {
  choices: readonly string[];
  found: readonly Pin[];
  add: (r: Row) => { red: string; black: string } | null;
}) {
  const { register, reset, submit, error, watch, setValue, setFocus } = useTypedForm({
    defaults: { red: '1', black: BATTERY_NEGATIVE, text: '' },
    body: (t) => ({ key: newId(), ...t }),
    check: (t) => ({
      ...(t.red === t.black ? { black: 'both leads on one pin' } : {}),
      ...(t.text.trim() !== '' && Math.abs(Number(typed(t.text))) <= MOST_V
        ? {}
        : { text: `volts, −${MOST_V} to ${MOST_V}` }),
    }),
    send: async (row, t) => {
      const next = add(row);
      lead.current = 'red';
      reset({ red: next?.red ?? t.red, black: next?.black ?? t.black, text: '' });
    },
  });
  const [red, black] = watch(['red', 'black']);
  const lead = useRef<'red' | 'black'>('red');
  /** The first tap is the red lead, the second the black one; then the figure is typed. */
  const tap = (pin: string) => {
    setValue(lead.current, pin);
    lead.current = lead.current === 'red' ? 'black' : 'red';
    if (lead.current === 'red') setFocus('text');
  };
  const options = choices.map((c) => (
    <option key={c} value={c}>
      {nameOf(c)}
    </option>
  ));
  return (
    <form className="flex flex-wrap items-start gap-3" onSubmit={submit} noValidate>
      <div
        role="group"
        aria-label="Connector: tap the red lead’s pin, then the black one’s"
        className="flex w-full flex-wrap gap-2"
      >
        {choices.map((c) => {
          const on = c === red ? 'red' : c === black ? 'black' : null;
          const volts = found.find((p) => p.pin === c)?.volts;
          return (
            <button
              key={c}
              type="button"
              aria-label={`${nameOf(c)}${on ? `, ${on} lead` : ''}`}
              onClick={() => tap(c)}
              className={`grid min-h-16 min-w-16 content-center justify-items-center rounded-box border-2 bg-sheet px-2 ${on ? 'border-ink' : 'border-rule'}`}
            >
              <span className="font-bold">{POSTS[c] ?? c}</span>
              <span className="figure text-[0.85rem] text-soft">
                {volts == null ? '' : `${numberText(volts, 2)} V`}
              </span>
              <span className="min-h-5 text-[0.85rem] font-[650]">{on ?? ''}</span>
            </button>
          );
        })}
      </div>
      <Field label="Red lead" className="w-36" error={error('red')}>
        {(aria) => (
          <select className="select" {...register('red')} {...aria}>
            {options}
          </select>
        )}
      </Field>
      <Field label="Black lead" className="w-36" error={error('black')}>
        {(aria) => (
          <select className="select" {...register('black')} {...aria}>
            {options}
          </select>
        )}
      </Field>
      <Field label="Shows, V" className="w-32" error={error('text')}>
        {(aria) => <input className="input figure text-[1.4rem]" inputMode="decimal" {...register('text')} {...aria} />}
      </Field>
      <button type="submit" className="btn btn-primary mt-[25px]">
        Add
      </button>
    </form>
  );
}

const pinsOf = (count: string): readonly string[] => {
  const n = Math.min(MOST_PINS, Math.max(2, Math.floor(Number(typed(count)) || 2)));
  return Array.from({ length: n }, (_, i) => String(i + 1));
};

function read(r: Row): PairReading {
  const volts = Number(typed(r.text));
  // Who writes a minus sign writes it where it is.
  return { red: r.red, black: r.black, volts, signed: volts < 0 };
}
