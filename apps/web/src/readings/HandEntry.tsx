import type { JobView, Phase } from '@just-balance/contract';
import { POINTS } from '@just-balance/contract';
import { pointLabel, type Reading } from '@just-balance/core/diagnosis';
import { useEffect, useRef, useState } from 'react';
import { mutate } from 'swr';
import { api, newId } from '../shared/api.ts';
import { Problem } from '../shared/Problem.tsx';
import { useAction } from '../shared/useAction.ts';

type Values = Record<string, string>;

/** Both banks on one screen; what your tool shows, as it shows it. Comma or point. */
export function HandEntry({ job, phase, at, close }: { job: JobView; phase: Phase; at: string; close: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [point, setPoint] = useState(at);
  const [values, setValues] = useState<Values>({});
  const { busy, problem, run } = useAction();
  useEffect(() => dialog.current?.showModal(), []);
  const banks = job.vehicle.banks ?? 1;
  const set = (k: string) => (e: React.ChangeEvent<HTMLInputElement>) => setValues({ ...values, [k]: e.target.value });
  const number = (k: string): number | undefined => {
    const raw = values[k]?.trim().replace('−', '-').replace(',', '.');
    return raw ? Number(raw) : undefined;
  };
  const save = () =>
    run(async () => {
      const reading: Reading = { at: point as Reading['at'] };
      for (const [field, key] of [
        ['rpm', 'rpm'],
        ['mafGps', 'maf'],
        ['mapKPa', 'map'],
        ['ectC', 'ect'],
        ['iatC', 'iat'],
      ] as const) {
        const v = number(key);
        if (v !== undefined) {
          if (Number.isNaN(v)) throw new Error(`${key}: “${values[key]}” is not a number`);
          reading[field] = v;
        }
      }
      for (let b = 1; b <= banks; b++) {
        const stft = number(`s${b}`);
        const ltft = number(`l${b}`);
        if (Number.isNaN(stft) || Number.isNaN(ltft)) throw new Error(`bank ${b}: a trim is not a number`);
        if (stft === undefined && ltft === undefined) continue;
        reading.trims = {
          ...reading.trims,
          [`bank${b}`]: { ...(stft !== undefined ? { stft } : {}), ...(ltft !== undefined ? { ltft } : {}) },
        };
      }
      await api.post(`/jobs/${job.id}/readings`, { id: newId(), phase, reading });
      await mutate(`/jobs/${job.id}`);
      close();
    });
  const field = (k: string, label: string) => (
    <label className="field">
      {label}
      <input inputMode="decimal" value={values[k] ?? ''} onChange={set(k)} />
    </label>
  );
  return (
    <dialog
      ref={dialog}
      className="sheet m-auto w-[min(680px,94vw)] p-5 text-ink backdrop:bg-black/50"
      onClose={close}
      aria-labelledby="hand-title"
    >
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
        noValidate
      >
        <h2 id="hand-title" className="m-0 text-xl font-bold">
          Enter by hand
        </h2>
        <label className="field">
          Operating point
          <select value={point} onChange={(e) => setPoint(e.target.value)}>
            {POINTS.filter((p) => !['snap', 'decel', 'boost'].includes(p)).map((p) => (
              <option key={p} value={p}>
                {pointLabel(p)}
              </option>
            ))}
          </select>
        </label>
        <div className="grid grid-cols-2 gap-3 sm:grid-cols-3">
          {field('rpm', 'Engine speed, rpm')}
          {job.vehicle.metering !== 'speed-density' && field('maf', 'Airflow, g/s')}
          {field('map', 'Manifold, kPa absolute')}
          {field('ect', 'Coolant, °C')}
          {field('iat', 'Intake air, °C')}
        </div>
        {job.vehicle.fuel === 'petrol' &&
          Array.from({ length: banks }, (_, i) => i + 1).map((b) => (
            <fieldset key={b} className="m-0 grid grid-cols-2 gap-3 border-0 p-0">
              <legend className="p-0 font-[650]">
                Bank {b} {b === 1 ? '●' : '◇'}
              </legend>
              {field(`s${b}`, 'Short-term trim, %')}
              {field(`l${b}`, 'Long-term trim, %')}
            </fieldset>
          ))}
        <p className="m-0 text-soft">Read by eye counts with more noise than a capture.</p>
        <Problem text={problem} />
        <div className="flex justify-end gap-4">
          <button type="button" className="press" onClick={() => dialog.current?.close()}>
            Cancel
          </button>
          <button type="submit" className="press press-act" disabled={busy}>
            Keep this reading
          </button>
        </div>
      </form>
    </dialog>
  );
}
