import { WRITES } from '@just-balance/contract';
import { BATTERY_NEGATIVE, BATTERY_POSITIVE, findPins, type PairReading } from '@just-balance/core/electrical';
import { numberText } from '@just-balance/core/units';
import { useMemo, useState } from 'react';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { typed } from '../../ui/typed.ts';
import { useAction } from '../../ui/useAction.ts';

interface Row {
  key: string;
  red: string;
  black: string;
  text: string;
}
const POSTS: Readonly<Record<string, string>> = { [BATTERY_NEGATIVE]: 'battery −', [BATTERY_POSITIVE]: 'battery +' };
const nameOf = (pin: string) => POSTS[pin] ?? `pin ${pin}`;

/** Voltmeter readings between pairs of pins, as the meter shows them, into pin voltages and roles. */
export function PinFinder({ job }: StationProps) {
  const kept = job.entries.filter((e) => e.kind === 'pins' && !e.undone).at(-1);
  const [count, setCount] = useState('5');
  const [battery, setBattery] = useState('12.6');
  const [running, setRunning] = useState(false);
  const [connector, setConnector] = useState('');
  const [rows, setRows] = useState<readonly Row[]>([]);
  const [draft, setDraft] = useState({ red: '1', black: BATTERY_NEGATIVE, text: '' });
  const { busy, trouble, run } = useAction();

  const n = Math.min(24, Math.max(2, Math.floor(Number(typed(count)) || 2)));
  const pins = useMemo(() => Array.from({ length: n }, (_, i) => String(i + 1)), [n]);
  const batteryV = Number(typed(battery));
  const readings = useMemo(() => rows.map(read), [rows]);
  const result = useMemo(
    () => findPins({ pins, running, readings, ...(batteryV > 0 ? { batteryV } : {}) }),
    [pins, running, readings, batteryV],
  );
  const voltsOf = (text: string) => (text.trim() === '' ? Number.NaN : Number(typed(text)));
  const draftFits = Math.abs(voltsOf(draft.text)) <= 60 && draft.red !== draft.black;
  const add = () => {
    if (!draftFits) return;
    setRows([...rows, { key: newId(), ...draft }]);
    const next = findPins({
      pins,
      running,
      readings: [...readings, read({ key: '', ...draft })],
      ...(batteryV > 0 ? { batteryV } : {}),
    }).nextPair;
    setDraft({ red: next?.red ?? draft.red, black: next?.black ?? draft.black, text: '' });
  };
  const keep = () =>
    run(async () => {
      const data = { connector: connector.trim(), pins, batteryV: batteryV > 0 ? batteryV : 0, running, readings };
      await queueWrite('Pair readings', WRITES.addEntry(job.id), { id: newId(), kind: 'pins', data });
    });
  const choices = [...pins, BATTERY_NEGATIVE, BATTERY_POSITIVE];
  const choice = (label: string, value: string, set: (v: string) => void) => (
    <Field label={label} className="w-36">
      {(aria) => (
        <select className="select" value={value} onChange={(e) => set(e.target.value)} {...aria}>
          {choices.map((c) => (
            <option key={c} value={c}>
              {nameOf(c)}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
  return (
    <div className="grid items-start gap-6 lg:grid-cols-2">
      <div className="grid gap-4">
        <p className="m-0 text-soft">
          Fuse first. Ignition off to unplug, then on. Meter on 20 V DC, leads in the volt sockets. Type each pair as
          the meter shows it; a forgotten minus sign is found.
        </p>
        <div className="flex flex-wrap items-start gap-3">
          <Field label="Connector" className="min-w-40 flex-1">
            {(aria) => (
              <input
                className="input"
                maxLength={80}
                value={connector}
                onChange={(e) => setConnector(e.target.value)}
                {...aria}
              />
            )}
          </Field>
          <Field label="Pins" className="w-24">
            {(aria) => (
              <input
                className="input figure"
                inputMode="numeric"
                value={count}
                onChange={(e) => setCount(e.target.value)}
                {...aria}
              />
            )}
          </Field>
          <Field label="Battery, V" className="w-28">
            {(aria) => (
              <input
                className="input figure"
                inputMode="decimal"
                value={battery}
                onChange={(e) => setBattery(e.target.value)}
                {...aria}
              />
            )}
          </Field>
          <label className="mt-7 flex min-h-12 items-center gap-2">
            <input
              type="checkbox"
              className="checkbox"
              checked={running}
              onChange={(e) => setRunning(e.target.checked)}
            />
            engine runs
          </label>
        </div>
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            add();
          }}
        >
          {choice('Red lead', draft.red, (red) => setDraft({ ...draft, red }))}
          {choice('Black lead', draft.black, (black) => setDraft({ ...draft, black }))}
          <Field label="Shows, V" className="w-32">
            {(aria) => (
              <input
                className="input figure text-[1.2rem]"
                inputMode="decimal"
                value={draft.text}
                onChange={(e) => setDraft({ ...draft, text: e.target.value })}
                {...aria}
              />
            )}
          </Field>
          <button type="submit" className="btn btn-primary" disabled={!draftFits}>
            Add
          </button>
        </form>
        {result.nextPair && (
          <p className="m-0" role="status">
            <strong className="font-[650]">
              Read next: red on {nameOf(result.nextPair.red)}, black on {nameOf(result.nextPair.black)}.
            </strong>{' '}
            {result.nextPair.why}
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
        <table className="table">
          <thead>
            <tr>
              <th scope="col">Pin</th>
              <th scope="col" className="right">
                Volts
              </th>
              <th scope="col">It is</th>
              <th scope="col">Because</th>
            </tr>
          </thead>
          <tbody>
            {result.pins.map((p) => (
              <tr key={p.pin}>
                <th scope="row" className="figure">
                  {p.pin}
                </th>
                <td className="right figure">
                  {p.volts === null ? '—' : numberText(p.volts, 2)}
                  {p.low !== null && p.high !== null && p.high - p.low > 0.02 && (
                    <span className="block text-[0.85rem] text-soft">
                      {numberText(p.low, 2)} to {numberText(p.high, 2)}
                    </span>
                  )}
                </td>
                <td className="font-[650]">{p.role}</td>
                <td className="text-soft">{p.because}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {result.ambiguous && (
          <p className="m-0 text-caution">
            Another set of signs fits as well: one reading against battery negative settles it.
          </p>
        )}
        {result.warnings.map((w) => (
          <p key={w} className="m-0 text-caution">
            {w}
          </p>
        ))}
        <Problem trouble={trouble} />
        <button type="button" className="btn justify-self-start" disabled={busy || rows.length === 0} onClick={keep}>
          Keep these readings
        </button>
        {kept?.kind === 'pins' && (
          <p className="m-0 text-soft">
            Kept: {kept.data.connector || 'a connector'}, {kept.data.readings.length} pair readings, by {kept.by}.
          </p>
        )}
      </div>
    </div>
  );
}

function read(r: Row): PairReading {
  const volts = Number(typed(r.text));
  // Who writes a minus sign writes it where it is.
  return { red: r.red, black: r.black, volts, signed: volts < 0 };
}
