import {
  type JobView,
  NewReadingRequest,
  type Phase,
  ReadingChangeRequest,
  type ReadingView,
  WRITES,
} from '@just-balance/contract';
import { quantumOf, TOOL_PROFILES, toolProfile } from '@just-balance/core/capture';
import { OPERATING_POINTS, pointLabel, type Reading } from '@just-balance/core/case';
import { stationPressure } from '@just-balance/core/expected';
import { DEFAULT_LIMITS } from '@just-balance/core/trims';
import { useEffect, useRef, useState } from 'react';
import { newId } from '../data/api.ts';
import { useDraft } from '../data/drafts.ts';
import { useAccount } from '../data/session.tsx';
import { queueWrite, write } from '../data/writes.ts';
import { Clashes } from '../ui/Clashes.tsx';
import { Field } from '../ui/Field.tsx';
import { Fold } from '../ui/Fold.tsx';
import { onlyChanged } from '../ui/merge.ts';
import { Problem } from '../ui/Problem.tsx';
import { usePreferences } from '../ui/preferences.tsx';
import { SignedField } from '../ui/SignedField.tsx';
import { typed } from '../ui/typed.ts';
import { useFollowUnits } from '../ui/useFollowUnits.ts';
import { useTypedForm } from '../ui/useTypedForm.ts';
import {
  HAND_FIELDS,
  type HandField,
  type HandSetup,
  type HandText,
  handProblems,
  handReading,
  keptAsVolts,
  SENSOR_FIGURES,
  TERMS,
  unitOf,
} from './handFields.ts';
import { sensorLabel, sensorsOf, textOf } from './handText.ts';
import { often, TotalNow } from './TotalNow.tsx';

const NONE_PICKED: Readonly<Record<string, string>> = {};
const VOLTS_PICKED: Readonly<Record<string, string>> = { mafGps: 'V' };

/** Both banks on one screen; what your tool shows, as it shows it. Comma or point. `reading`: one to be put right. */
export function HandEntry({
  job,
  phase,
  at,
  reading,
  close,
}: {
  job: JobView;
  phase: Phase;
  at: string;
  reading?: ReadingView;
  close: () => void;
}) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [doubt, setDoubt] = useState<string | null>(null);
  const sure = useRef(false);
  useEffect(() => dialog.current?.showModal(), []);
  const { vehicle } = job;
  const banks = vehicle.banks ?? 1;
  const petrol = vehicle.fuel === 'petrol';
  const { units } = usePreferences();
  const { limits } = useAccount().shop.settings;
  const [toolId, setToolId] = useState(() => localStorage.getItem('jb-tool') ?? 'reader-full');
  const tool = toolProfile(toolId) ?? TOOL_PROFILES[1]!;
  // Half typed it outlives the dialog, with the units it is typed in.
  // The point it was opened at: as soon as it is kept the page goes on to the next one.
  const [first] = useState(at);
  const name = `${reading ? reading.id : `${job.id} ${phase} ${first}`} reading`;
  const start = reading?.reading.mafV === undefined ? NONE_PICKED : VOLTS_PICKED;
  const [picked, setPicked, forgetPicked] = useDraft(`${name} units`, start);
  const [gauge, setGauge, forgetGauge] = useDraft(`${name} gauge`, false);
  const sensors = sensorsOf(job);
  const setup: HandSetup = { vehicle, tool, units, picked, gauge, baroKPa: stationPressure(job.ambient).baroKPa };
  const chooseTool = (id: string) => {
    localStorage.setItem('jb-tool', id);
    setToolId(id);
  };
  const number = (text: string | undefined) => (text?.trim() ? Number(typed(text)) : undefined);
  const fields = HAND_FIELDS.filter((f) => f.key !== 'mafGps' || vehicle.metering !== 'speed-density');
  const opened: HandSetup = { ...setup, picked: start, gauge: false };
  const asText = (r: Reading): HandText => ({ at: r.at, ethanol: '', ...textOf(r, opened, sensors) });
  const forget = () => {
    forgetPicked();
    forgetGauge();
  };
  const form = useTypedForm<HandText, NewReadingRequest | ReadingChangeRequest, ReadingView>({
    dto: reading ? ReadingChangeRequest : NewReadingRequest,
    keep: `${name} ${units}`,
    ...(reading ? { over: { now: reading, text: (v) => asText(v.reading) } } : {}),
    defaults: asText(reading?.reading ?? ({ at } as Reading)),
    fields: Object.fromEntries(
      [1, 2].flatMap((b) => [
        [`reading.trims.bank${b}.stft`, `stft${b}`],
        [`reading.trims.bank${b}.ltft`, `ltft${b}`],
        [`reading.lambda.bank${b}`, `lambda${b}`],
        [`reading.o2V.bank${b}`, `o2V${b}`],
      ]),
    ),
    body: (t, stands) => {
      const of = (text: HandText, how: HandSetup) =>
        handReading(text, how, sensors, stands?.reading) as NewReadingRequest['reading'];
      if (!stands) return { id: newId(), phase, reading: of(t, setup) };
      // In the units it was opened in: another unit at a figure is another figure.
      const untouched = of(asText(stands.reading), opened);
      return { rev: stands.rev, reading: onlyChanged(stands.reading, untouched, of(t, setup)) };
    },
    check: (t) => {
      setDoubt(null);
      return handProblems(t, setup, sensors);
    },
    send: async (body, t) => {
      const odd = fields.find((f) => {
        const v = body.reading[f.key];
        return v !== undefined && !(v >= f.low && v <= f.high);
      });
      const strange = TERMS.flatMap((x) => [1, 2].map((b) => ({ ...x, b }))).find(({ term, b, low, high }) => {
        const v = number(t[`${term}${b}`]);
        return v !== undefined && !(v >= low && v <= high);
      });
      if (!sure.current && odd)
        return setDoubt(`${odd.label} ${t[odd.key]} ${unitOf(odd, setup)} is unusual. Right as it stands?`);
      if (!sure.current && strange)
        return setDoubt(
          `Bank ${strange.b}: ${strange.label.replace(/, .*/, '')} ${t[`${strange.term}${strange.b}`]} is unusual. Right as it stands?`,
        );
      const label = `Reading by hand, ${pointLabel(t.at as Reading['at'])}`;
      const ethanol = number(t.ethanol);
      if (reading) await write(WRITES.changeReading(job.id, reading.id), body as ReadingChangeRequest);
      else await queueWrite(label, WRITES.addReading(job.id), body as NewReadingRequest);
      if (ethanol !== undefined)
        await queueWrite('Ethanol in the fuel', WRITES.addTest(job.id), {
          id: newId(),
          test: { id: 'fuel-ethanol', values: { pct: ethanol } },
        });
      forget();
      close();
    },
  });
  const { register, watch, setValue, getValues, submit, busy, trouble, error, rest } = form;
  useFollowUnits(
    Object.fromEntries(fields.filter((f) => !picked[f.key]).map((f) => [f.key, unitOf(f, setup)])),
    (k) => getValues(k),
    (k, text) => form.follow(k, text),
  );
  const press = (certain: boolean) => (e: React.SyntheticEvent) => {
    sure.current = certain;
    submit(e);
  };
  const now = watch();
  const signedField = (key: string, label: string) => (
    <SignedField
      key={key}
      name={key}
      label={label}
      value={now[key] ?? ''}
      set={(v) => setValue(key, v)}
      error={error(key)}
    />
  );
  const plainField = (key: string, label: string) => (
    <Field key={key} label={label} error={error(key)}>
      {(aria) => <input className="input" inputMode="decimal" {...register(key)} {...aria} />}
    </Field>
  );
  const field = (f: HandField) => {
    const unit = unitOf(f, setup);
    const label = `${f.label}, ${unit}`;
    const choices = (f.also ?? []).filter((u) => u !== 'mg/stroke' || !petrol || vehicle.cylinders > 0);
    const input = f.low < 0 ? signedField(f.key, label) : plainField(f.key, label);
    if (choices.length === 0) return input;
    return (
      <div key={f.key} className="grid gap-1">
        {input}
        <select
          className="select select-sm"
          aria-label={`${f.label}: the unit it is shown in`}
          value={unit}
          onChange={(e) => setPicked({ ...picked, [f.key]: e.target.value })}
        >
          {[...new Set([unit, ...choices])].map((u) => (
            <option key={u} value={u}>
              in {u}
            </option>
          ))}
        </select>
        {keptAsVolts(f, setup) && (
          <p className="m-0 text-[0.9rem] text-soft">
            Kept as volts: what airflow they mean needs the sensor’s curve, on the vehicle’s card.
          </p>
        )}
        {f.key === 'mapKPa' && (
          <select
            className="select select-sm"
            aria-label="Manifold pressure is counted"
            value={gauge ? 'gauge' : 'absolute'}
            onChange={(e) => setGauge(e.target.value === 'gauge')}
          >
            <option value="absolute">absolute</option>
            <option value="gauge">above the air outside (gauge)</option>
          </select>
        )}
      </div>
    );
  };
  const choice = (key: string, label: string, options: readonly (readonly [string, string])[]) => (
    <label className="field">
      {label}
      <select className="select" {...register(key)}>
        {options.map(([id, text]) => (
          <option key={id} value={id}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <dialog ref={dialog} className="modal modal-middle text-ink" onClose={close} aria-labelledby="hand-title">
      <form className="modal-box grid w-[min(760px,96vw)] max-w-none gap-3" onSubmit={press(false)} noValidate>
        <h2 id="hand-title" className="m-0 text-xl font-bold">
          {reading ? 'Put the reading right' : 'Enter by hand'}
        </h2>
        <div className="grid gap-3 sm:grid-cols-2">
          <label className="field">
            Operating point
            <select className="select" {...register('at')}>
              {OPERATING_POINTS.filter((p) => p !== 'boost' || vehicle.induction === 'turbo').map((p) => (
                <option key={p} value={p}>
                  {pointLabel(p)}
                </option>
              ))}
            </select>
          </label>
          <label className="field">
            Tool it is read from
            <select className="select" value={tool.id} onChange={(e) => chooseTool(e.target.value)}>
              {TOOL_PROFILES.filter((t) => t.kind === 'hand-held').map((t) => (
                <option key={t.id} value={t.id}>
                  {t.label}
                </option>
              ))}
            </select>
          </label>
        </div>
        <p className="m-0 text-[0.93rem] text-soft">
          This tool’s trims step by {quantumOf(tool, 'stft').toFixed(2)} %: a figure within one step of a limit decides
          nothing. It shows each of a dozen channels {often(tool.manyHz)}, one alone {often(tool.aloneHz)}: a peak is
          easily missed below ten times.
        </p>
        <div className="grid grid-cols-2 items-start gap-3 sm:grid-cols-3">
          {fields.filter((f) => !f.more).map(field)}
          {!petrol &&
            choice('recirculation', 'Recirculation (EGR), as commanded', [
              ['', 'not noted'],
              ['shut', 'shut'],
              ['open', 'open'],
            ])}
        </div>
        {petrol &&
          Array.from({ length: banks }, (_, i) => i + 1).map((b) => (
            <fieldset key={b} className="m-0 grid grid-cols-2 gap-3 border-0 p-0 sm:grid-cols-4">
              <legend className="p-0 font-[650]">
                Bank {b} {b === 1 ? '●' : '◇'}
              </legend>
              {TERMS.map((x) =>
                x.term === 'lambda' || x.term === 'o2V'
                  ? plainField(`${x.term}${b}`, x.label)
                  : signedField(`${x.term}${b}`, x.label),
              )}
              <TotalNow
                short={number(now[`stft${b}`])}
                long={number(now[`ltft${b}`])}
                quantum={quantumOf(tool, 'stft')}
                limits={{ ...DEFAULT_LIMITS, ...limits }}
              />
            </fieldset>
          ))}
        <Fold title="Throttle, speed, fuel, air conditioning">
          <div className="grid grid-cols-2 items-start gap-3 sm:grid-cols-3">
            <div className="grid gap-1">
              {plainField('throttle', `Relative throttle, ${now.throttleUnit}`)}
              <select
                className="select select-sm"
                aria-label="Relative throttle: its unit"
                {...register('throttleUnit')}
              >
                <option value="°">in °</option>
                <option value="%">in %</option>
              </select>
            </div>
            {fields.filter((f) => f.more).map(field)}
            {petrol && plainField('ethanol', 'Ethanol in the fuel, %')}
            {choice('airCon', 'Air conditioning', [
              ['', 'not noted'],
              ['off', 'off'],
              ['on', 'on'],
            ])}
            {petrol &&
              choice('loop', 'Fuel control', [
                ['', 'not noted'],
                ['closed', 'closed loop'],
                ['open', 'open loop'],
              ])}
          </div>
        </Fold>
        {petrol && (
          <Fold title="Oxygen sensors, one by one" open={Object.keys(reading?.reading.o2 ?? {}).length > 0}>
            {sensors.map((s) => (
              <fieldset key={s} className="m-0 mb-2 grid grid-cols-2 gap-3 border-0 p-0 sm:grid-cols-5">
                <legend className="p-0 font-[650]">{sensorLabel(s)}</legend>
                {SENSOR_FIGURES.map((x) => plainField(`${s}_${x.key}`, x.label))}
              </fieldset>
            ))}
          </Fold>
        )}
        <p className="m-0 text-soft">Read by eye counts with more noise than a capture.</p>
        <Clashes clashes={form.clashes} settle={form.settle} />
        <Problem text={rest ?? doubt} trouble={trouble} />
        <div className="flex justify-end gap-4">
          {doubt && (
            <button type="button" className="btn" disabled={busy} onClick={press(true)}>
              Keep it as it is
            </button>
          )}
          <button
            type="button"
            className="btn"
            onClick={() => {
              form.forget();
              forget();
              dialog.current?.close();
            }}
          >
            Cancel
          </button>
          <button type="submit" className="btn btn-primary" disabled={busy}>
            Keep this reading
          </button>
        </div>
      </form>
    </dialog>
  );
}
