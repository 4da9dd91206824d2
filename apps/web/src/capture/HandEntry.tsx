import { type JobView, type Phase, POINTS, READING_RANGES } from '@just-balance/contract';
import { quantumOf, TOOL_PROFILES, toolProfile } from '@just-balance/core/capture';
import { pointLabel, type Reading } from '@just-balance/core/case';
import { DEFAULT_LIMITS, type TrimLimits, verdict } from '@just-balance/core/trims';
import { convert, shown, type Unit, type UnitSystem } from '@just-balance/core/units';
import { Fragment, useEffect, useRef, useState } from 'react';
import { mutate } from 'swr';
import { newId } from '../data/api.ts';
import { queuePost } from '../data/queue.ts';
import { useAccount } from '../data/session.tsx';
import { signed } from '../ui/figures.ts';
import { Problem } from '../ui/Problem.tsx';
import { usePreferences } from '../ui/preferences.tsx';
import { SignedField } from '../ui/SignedField.tsx';
import { typed } from '../ui/typed.ts';
import { useAction } from '../ui/useAction.ts';

type Values = Record<string, string>;

/** What a tool shows beside the trims; outside low–high (metric) it is asked about. Ranges [house]. */
const FIELDS = [
  { key: 'rpm', field: 'rpm', label: 'Engine speed', unit: 'rpm', low: 300, high: 7500 },
  { key: 'maf', field: 'mafGps', label: 'Airflow', unit: 'g/s', low: 0.3, high: 450 },
  { key: 'map', field: 'mapKPa', label: 'Manifold, absolute', unit: 'kPa', low: 12, high: 300 },
  { key: 'ect', field: 'ectC', label: 'Coolant', unit: '°C', low: -40, high: 125 },
  { key: 'iat', field: 'iatC', label: 'Intake air', unit: '°C', low: -40, high: 90 },
] as const;

const whole = (v: number) => Math.round(v).toLocaleString('en-US');

function unitOf(f: (typeof FIELDS)[number], units: UnitSystem): string {
  return shown(0, f.unit, 0, units).unit;
}

/** Both banks on one screen; what your tool shows, as it shows it. Comma or point. */
export function HandEntry({ job, phase, at, close }: { job: JobView; phase: Phase; at: string; close: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [point, setPoint] = useState(at);
  const [values, setValues] = useState<Values>({});
  const [doubt, setDoubt] = useState<string | null>(null);
  const { busy, problem, run } = useAction();
  useEffect(() => dialog.current?.showModal(), []);
  const banks = job.vehicle.banks ?? 1;
  const set = (k: string) => (e: React.ChangeEvent<HTMLInputElement>) => setValues({ ...values, [k]: e.target.value });
  const number = (k: string): number | undefined => {
    const raw = typed(values[k] ?? '');
    return raw ? Number(raw) : undefined;
  };
  const { units } = usePreferences();
  const { limits } = useAccount().shop.settings;
  const [toolId, setToolId] = useState(() => localStorage.getItem('jb-tool') ?? 'reader-full');
  const tool = toolProfile(toolId) ?? TOOL_PROFILES[1]!;
  const unitHere = (f: (typeof FIELDS)[number]) => tool.unit[f.key] ?? unitOf(f, units);
  const chooseTool = (id: string) => {
    localStorage.setItem('jb-tool', id);
    setToolId(id);
  };
  const save = (sure: boolean) =>
    run(async () => {
      setDoubt(null);
      const reading: Reading = { at: point as Reading['at'] };
      for (const f of FIELDS) {
        const v = number(f.key);
        if (v === undefined) continue;
        if (Number.isNaN(v)) throw new Error(`${f.label}: “${values[f.key]}” is not a number`);
        const from = unitHere(f);
        const metric = from === f.unit ? v : convert(v, from as Unit, f.unit as Unit);
        const [low, high] = READING_RANGES[f.field].map((x) =>
          from === f.unit ? x : convert(x, f.unit as Unit, from as Unit),
        );
        // The range in the unit that was typed: what the server would say is metric.
        if (!(metric >= READING_RANGES[f.field][0] && metric <= READING_RANGES[f.field][1]))
          throw new Error(`${f.label}: ${values[f.key]} ${from} cannot be: ${whole(low!)} to ${whole(high!)} ${from}`);
        reading[f.field] = from === f.unit ? v : Math.round(metric * 100) / 100;
      }
      for (let b = 1; b <= banks; b++) {
        const stft = number(`s${b}`);
        const ltft = number(`l${b}`);
        if (Number.isNaN(stft) || Number.isNaN(ltft)) throw new Error(`bank ${b}: a trim is not a number`);
        if (stft === undefined && ltft === undefined) continue;
        const [low, high] = READING_RANGES.trim;
        for (const t of [stft, ltft])
          if (t !== undefined && !(t >= low && t <= high))
            throw new Error(`bank ${b}: a trim of ${t} % cannot be: ${low} to ${high} %`);
        reading.trims = {
          ...reading.trims,
          [`bank${b}`]: { ...(stft !== undefined ? { stft } : {}), ...(ltft !== undefined ? { ltft } : {}) },
        };
      }
      // The steps of what was read stand with it: noise, and what is undecided, follow from them.
      reading.quantum = Object.fromEntries(
        ['stft', 'ltft', 'maf', 'map', 'ect', 'iat', 'rpm'].map((c) => [c, quantumOf(tool, c)]),
      );
      const odd = FIELDS.find((f) => {
        const v = reading[f.field];
        return v !== undefined && !(v >= f.low && v <= f.high);
      });
      if (odd && !sure) {
        setDoubt(`${odd.label} ${values[odd.key]} ${unitHere(odd)} is unusual. Right as it stands?`);
        return;
      }
      await queuePost(job.id, `Reading by hand, ${pointLabel(point as Reading['at'])}`, `/jobs/${job.id}/readings`, {
        id: newId(),
        phase,
        reading,
      });
      await mutate(`/jobs/${job.id}`);
      close();
    });
  const field = (k: string, label: string) => (
    <label className="field">
      {label}
      <input className="input" inputMode="decimal" value={values[k] ?? ''} onChange={set(k)} />
    </label>
  );
  const trim = (k: string, label: string) => (
    <SignedField label={label} value={values[k] ?? ''} set={(v) => setValues({ ...values, [k]: v })} />
  );
  return (
    <dialog ref={dialog} className="modal modal-middle text-ink" onClose={close} aria-labelledby="hand-title">
      <form
        className="modal-box grid w-[min(680px,94vw)] max-w-none gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void save(false);
        }}
        noValidate
      >
        <h2 id="hand-title" className="m-0 text-xl font-bold">
          Enter by hand
        </h2>
        <div className="grid gap-3 sm:grid-cols-2">
          <label className="field">
            Operating point
            <select className="select" value={point} onChange={(e) => setPoint(e.target.value)}>
              {POINTS.filter((p) => !['snap', 'decel', 'boost'].includes(p)).map((p) => (
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
          {FIELDS.filter((f) => f.key !== 'maf' || job.vehicle.metering !== 'speed-density').map((f) => (
            <Fragment key={f.key}>{field(f.key, `${f.label}, ${unitHere(f)}`)}</Fragment>
          ))}
        </div>
        {job.vehicle.fuel === 'petrol' &&
          Array.from({ length: banks }, (_, i) => i + 1).map((b) => (
            <fieldset key={b} className="m-0 grid grid-cols-2 gap-3 border-0 p-0">
              <legend className="p-0 font-[650]">
                Bank {b} {b === 1 ? '●' : '◇'}
              </legend>
              {trim(`s${b}`, 'Short-term trim (STFT), %')}
              {trim(`l${b}`, 'Long-term trim (LTFT), %')}
              <TotalNow
                short={number(`s${b}`)}
                long={number(`l${b}`)}
                quantum={quantumOf(tool, 'stft')}
                limits={{ ...DEFAULT_LIMITS, ...limits }}
              />
            </fieldset>
          ))}
        <p className="m-0 text-soft">Read by eye counts with more noise than a capture.</p>
        <Problem text={problem ?? doubt} />
        <div className="flex justify-end gap-4">
          {doubt && (
            <button type="button" className="btn" disabled={busy} onClick={() => void save(true)}>
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
