import { type JobView, NewReadingRequest, type Phase, READING_RANGES } from '@just-balance/contract';
import { quantumOf, TOOL_PROFILES, toolProfile } from '@just-balance/core/capture';
import { type BankKey, OPERATING_POINTS, pointLabel, type Reading } from '@just-balance/core/case';
import { DEFAULT_LIMITS, type TrimLimits, verdict } from '@just-balance/core/trims';
import { convert, shown, signed, type Unit, type UnitSystem } from '@just-balance/core/units';
import { useEffect, useRef, useState } from 'react';
import { newId } from '../data/api.ts';
import { ofJob } from '../data/ofJob.ts';
import { useAccount } from '../data/session.tsx';
import { Field } from '../ui/Field.tsx';
import { Problem } from '../ui/Problem.tsx';
import { usePreferences } from '../ui/preferences.tsx';
import { SignedField } from '../ui/SignedField.tsx';
import { typed } from '../ui/typed.ts';
import { useTypedForm } from '../ui/useTypedForm.ts';

/** What a tool shows beside the trims; outside low–high (metric) it is asked about. Ranges [house]. */
const FIELDS = [
  { channel: 'rpm', key: 'rpm', label: 'Engine speed', unit: 'rpm', low: 300, high: 7500 },
  { channel: 'maf', key: 'mafGps', label: 'Airflow (MAF)', unit: 'g/s', low: 0.3, high: 450 },
  { channel: 'map', key: 'mapKPa', label: 'Manifold, absolute (MAP)', unit: 'kPa', low: 12, high: 300 },
  { channel: 'ect', key: 'ectC', label: 'Coolant (ECT)', unit: '°C', low: -40, high: 125 },
  { channel: 'iat', key: 'iatC', label: 'Intake air (IAT)', unit: '°C', low: -40, high: 90 },
  { channel: 'vss', key: 'vssKmh', label: 'Road speed (VSS)', unit: 'km/h', low: 0, high: 200 },
  { channel: 'fuelLevel', key: 'fuelPct', label: 'Fuel in the tank', unit: '%', low: 0, high: 100 },
] as const;

const TRIMS = [1, 2].flatMap((bank) =>
  (['stft', 'ltft'] as const).map((term) => ({ key: `${term}${bank}`, bank: `bank${bank}` as BankKey, term })),
);

const whole = (v: number) => Math.round(v).toLocaleString('en-US');

function unitOf(f: (typeof FIELDS)[number], units: UnitSystem): string {
  return shown(0, f.unit, 0, units).unit;
}

type Typed = Record<'at' | 'airCon' | (typeof FIELDS)[number]['key'], string> & Record<string, string>;

/** Both banks on one screen; what your tool shows, as it shows it. Comma or point. */
export function HandEntry({ job, phase, at, close }: { job: JobView; phase: Phase; at: string; close: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [doubt, setDoubt] = useState<string | null>(null);
  const sure = useRef(false);
  useEffect(() => dialog.current?.showModal(), []);
  const banks = job.vehicle.banks ?? 1;
  const { units } = usePreferences();
  const { limits } = useAccount().shop.settings;
  const [toolId, setToolId] = useState(() => localStorage.getItem('jb-tool') ?? 'reader-full');
  const tool = toolProfile(toolId) ?? TOOL_PROFILES[1]!;
  const unitHere = (f: (typeof FIELDS)[number]) => (tool.unit[f.channel] ?? unitOf(f, units)) as Unit;
  const chooseTool = (id: string) => {
    localStorage.setItem('jb-tool', id);
    setToolId(id);
  };
  const number = (text: string | undefined) => (text?.trim() ? Number(typed(text)) : undefined);
  const readingOf = (t: Typed): Reading => {
    const reading: Reading = { at: t.at as Reading['at'] };
    for (const f of FIELDS) {
      const v = number(t[f.key]);
      if (v === undefined) continue;
      const from = unitHere(f);
      reading[f.key] = from === f.unit ? v : Math.round(convert(v, from, f.unit as Unit) * 100) / 100;
    }
    for (const { key, bank, term } of TRIMS) {
      const v = number(t[key]);
      if (v !== undefined) reading.trims = { ...reading.trims, [bank]: { ...reading.trims?.[bank], [term]: v } };
    }
    if (t.airCon) reading.airCon = t.airCon === 'on';
    // The steps of what was read stand with it: noise, and what is undecided, follow from them.
    reading.quantum = Object.fromEntries(
      ['stft', 'ltft', 'maf', 'map', 'ect', 'iat', 'rpm'].map((c) => [c, quantumOf(tool, c)]),
    );
    return reading;
  };
  const { register, watch, setValue, submit, busy, trouble, error, rest } = useTypedForm<Typed, NewReadingRequest>({
    dto: NewReadingRequest,
    defaults: Object.fromEntries([
      ['at', at],
      ['airCon', ''],
      ...[...FIELDS, ...TRIMS].map(({ key }) => [key, '']),
    ]) as Typed,
    fields: Object.fromEntries(TRIMS.map(({ key, bank, term }) => [`reading.trims.${bank}.${term}`, key])),
    body: (t) => ({ id: newId(), phase, reading: readingOf(t) as NewReadingRequest['reading'] }),
    check: (t) => {
      setDoubt(null);
      const wrong: Record<string, string> = {};
      for (const f of FIELDS) {
        const v = number(t[f.key]);
        const from = unitHere(f);
        const [low, high] = READING_RANGES[f.key].map((x) => (from === f.unit ? x : convert(x, f.unit as Unit, from)));
        if (Number.isNaN(v)) wrong[f.key] = `“${t[f.key]}” is not a number`;
        // The range in the unit that was typed: what the server would say is metric.
        else if (v !== undefined && !(v >= low! && v <= high!))
          wrong[f.key] = `${t[f.key]} ${from} cannot be: ${whole(low!)} to ${whole(high!)} ${from}`;
      }
      const [low, high] = READING_RANGES.trim;
      for (const { key } of TRIMS) {
        const v = number(t[key]);
        if (Number.isNaN(v)) wrong[key] = `“${t[key]}” is not a number`;
        else if (v !== undefined && !(v >= low && v <= high))
          wrong[key] = `a trim of ${t[key]} % cannot be: ${low} to ${high} %`;
      }
      return wrong;
    },
    send: async (body, t) => {
      const odd = FIELDS.find((f) => {
        const v = body.reading[f.key];
        return v !== undefined && !(v >= f.low && v <= f.high);
      });
      if (odd && !sure.current)
        return setDoubt(`${odd.label} ${t[odd.key]} ${unitHere(odd)} is unusual. Right as it stands?`);
      const label = `Reading by hand, ${pointLabel(t.at as Reading['at'])}`;
      await ofJob(job.id).queue(label, '/readings', body);
      close();
    },
  });
  const press = (certain: boolean) => (e: React.SyntheticEvent) => {
    sure.current = certain;
    submit(e);
  };
  const now = watch();
  const trim = (key: string, label: string) => (
    <SignedField label={label} value={now[key] ?? ''} set={(v) => setValue(key, v)} error={error(key)} />
  );
  return (
    <dialog ref={dialog} className="modal modal-middle text-ink" onClose={close} aria-labelledby="hand-title">
      <form className="modal-box grid w-[min(680px,94vw)] max-w-none gap-3" onSubmit={press(false)} noValidate>
        <h2 id="hand-title" className="m-0 text-xl font-bold">
          Enter by hand
        </h2>
        <div className="grid gap-3 sm:grid-cols-2">
          <label className="field">
            Operating point
            <select className="select" {...register('at')}>
              {OPERATING_POINTS.filter((p) => !['snap', 'decel', 'boost'].includes(p)).map((p) => (
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
        <p className="m-0 text-soft">
          Steps of this tool: trims {quantumOf(tool, 'stft').toFixed(2)} %, airflow {quantumOf(tool, 'maf').toFixed(2)}{' '}
          g/s, pressure {quantumOf(tool, 'map')} kPa; about {tool.manyHz}/s each of a dozen, {tool.aloneHz}/s alone. A
          peak is easily missed below ten.
        </p>
        <div className="grid grid-cols-2 gap-3 sm:grid-cols-3">
          {FIELDS.filter((f) => f.channel !== 'maf' || job.vehicle.metering !== 'speed-density').map((f) => (
            <Field key={f.key} label={`${f.label}, ${unitHere(f)}`} error={error(f.key)}>
              {(aria) => (
                <input className="input" inputMode={f.low < 0 ? 'text' : 'decimal'} {...register(f.key)} {...aria} />
              )}
            </Field>
          ))}
          <label className="field">
            Air conditioning
            <select className="select" {...register('airCon')}>
              <option value="">not noted</option>
              <option value="off">off</option>
              <option value="on">on</option>
            </select>
          </label>
        </div>
        {job.vehicle.fuel === 'petrol' &&
          Array.from({ length: banks }, (_, i) => i + 1).map((b) => (
            <fieldset key={b} className="m-0 grid grid-cols-2 gap-3 border-0 p-0">
              <legend className="p-0 font-[650]">
                Bank {b} {b === 1 ? '●' : '◇'}
              </legend>
              {trim(`stft${b}`, 'Short-term trim (STFT), %')}
              {trim(`ltft${b}`, 'Long-term trim (LTFT), %')}
              <TotalNow
                short={number(now[`stft${b}`])}
                long={number(now[`ltft${b}`])}
                quantum={quantumOf(tool, 'stft')}
                limits={{ ...DEFAULT_LIMITS, ...limits }}
              />
            </fieldset>
          ))}
        <p className="m-0 text-soft">Read by eye counts with more noise than a capture.</p>
        <Problem text={rest ?? doubt} trouble={trouble} />
        <div className="flex justify-end gap-4">
          {doubt && (
            <button type="button" className="btn" disabled={busy} onClick={press(true)}>
              Keep it as it is
            </button>
          )}
          <button type="button" className="btn" onClick={() => dialog.current?.close()}>
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

const CALLED = {
  normal: 'in band',
  watch: 'watch',
  act: 'act',
  undecided: 'undecided: within one step of a limit',
} as const;

/** The sum nobody has to make in the head, and what it is called at this tool's steps. */
function TotalNow({
  short,
  long,
  quantum,
  limits,
}: {
  short: number | undefined;
  long: number | undefined;
  quantum: number;
  limits: TrimLimits;
}) {
  const total = (short ?? 0) + (long ?? 0);
  const known = (short ?? long) !== undefined && !Number.isNaN(total);
  return (
    <p className="m-0 text-soft sm:col-span-2" aria-live="polite">
      {known && (
        <>
          Total <span className="figure font-bold text-ink">{signed(total)} %</span>:{' '}
          {CALLED[verdict(total, limits, quantum)]}
        </>
      )}
    </p>
  );
}
