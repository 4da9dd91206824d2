import type { JobView, ReadingView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { pointLabel, type Reading } from '@just-balance/core/case';
import { displayedTotal } from '@just-balance/core/trims';
import { counted, numberText, signed } from '@just-balance/core/units';
import { Fragment, useState } from 'react';
import { write } from '../data/writes.ts';
import { Press } from '../ui/May.tsx';
import { Problem } from '../ui/Problem.tsx';
import { Say, useShown } from '../ui/preferences.tsx';
import { useAction } from '../ui/useAction.ts';
import { HandEntry } from './HandEntry.tsx';
import { HAND_FIELDS, SENSOR_FIGURES } from './handFields.ts';

const SOURCE = { capture: 'captured', hand: 'by hand', import: 'from a log' } as const;

/** The figures of a reading one after the other; a figure and its unit stay together. */
export function ReadingLine({ lines }: { lines: readonly [string, string][] }) {
  return lines.map(([label, text], i) => (
    <Fragment key={label + text}>
      {i > 0 && ' · '}
      {label} <span className="figure whitespace-nowrap">{text}</span>
    </Fragment>
  ));
}

/** Every figure of a reading as a line: what it is, and what it says. */
export function readingLines(r: Reading, banks: number, show: ReturnType<typeof useShown>): [string, string][] {
  const out: [string, string][] = [];
  const put = (label: string, text: string | undefined) => {
    if (text !== undefined) out.push([label, text]);
  };
  for (const f of HAND_FIELDS) {
    const v = r[f.key];
    if (v === undefined) continue;
    const s = show(v, f.unit, Number.isInteger(v) ? 0 : 1, f.role);
    put(f.label, `${numberText(s.value, s.digits)} ${s.unit}`);
  }
  put('Airflow sensor’s signal', r.mafV === undefined ? undefined : `${r.mafV.toFixed(2)} V`);
  put('Relative throttle', r.relativeThrottlePct === undefined ? undefined : `${r.relativeThrottlePct} %`);
  put('Relative throttle', r.relativeThrottleDeg === undefined ? undefined : `${r.relativeThrottleDeg}°`);
  put('Air conditioning', r.airCon === undefined ? undefined : r.airCon ? 'on' : 'off');
  put('Recirculation', r.recirculation);
  put('Fuel control', r.loop && `${r.loop} loop`);
  for (const key of ['bank1', 'bank2'] as const) {
    const name = banks === 2 ? `, bank ${key[4]}` : '';
    const t = r.trims?.[key];
    const total = t && displayedTotal(t);
    if (t && total !== undefined)
      put(
        `Trim${name}`,
        `${signed(total)} % (short ${t.stft === undefined ? '—' : signed(t.stft)}, long ${t.ltft === undefined ? '—' : signed(t.ltft)})${t.n ? `, ${counted(t.n, 'sample')}` : ''}${t.sd === undefined ? '' : `, spread ${t.sd.toFixed(1)}`}`,
      );
    put(`Lambda${name}`, r.lambda?.[key]?.toFixed(3));
    put(`Upstream sensor${name}`, r.o2V?.[key] === undefined ? undefined : `${r.o2V[key].toFixed(2)} V`);
  }
  for (const [sensor, o] of Object.entries(r.o2 ?? {}))
    put(
      `Sensor ${sensor[4]}/${sensor[6]}`,
      SENSOR_FIGURES.flatMap((x) =>
        o[x.key] === undefined
          ? []
          : [
              `${x.label.replace(/,.*/, '').toLowerCase()} ${o[x.key]}${x.key.endsWith('Ms') ? ' ms' : x.key.endsWith('V') ? ' V' : ''}`,
            ],
      ).join(', '),
    );
  put('Rate', r.sampleHz === undefined ? undefined : `${counted(r.sampleHz, 'value')} a second`);
  return out;
}

/** A reading that is kept: all its figures; put right where it was typed, taken back wherever it came from. */
export function KeptReading({ job, kept }: { job: JobView; kept: ReadingView }) {
  const [open, setOpen] = useState(false);
  const { busy, trouble, run } = useAction();
  const show = useShown();
  const lines = readingLines(kept.reading, job.vehicle.banks ?? 1, show);
  const undo = () =>
    run(async () => {
      await write(WRITES.undoReading(job.id, kept.id), { rev: kept.rev, undone: true });
    });
  return (
    <section className="card grid gap-2 p-4" aria-label={`Kept: ${pointLabel(kept.reading.at)}`}>
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="card-title mr-auto">
          {pointLabel(kept.reading.at)}, {SOURCE[kept.source]}
        </h2>
        {kept.source === 'hand' && (
          <Press className="btn" onClick={() => setOpen(true)}>
            Put it right
          </Press>
        )}
        <Press className="btn btn-ghost underline" disabled={busy} onClick={undo}>
          Remove it
        </Press>
      </div>
      {kept.doubtful && (
        <p className="m-0 font-[550] text-caution">
          <Say text={`Doubtful: ${kept.doubtful}.`} />
        </p>
      )}
      <dl className="m-0 grid gap-x-6 gap-y-1 sm:grid-cols-2">
        {lines.map(([label, text]) => (
          <div key={`${label}${text}`} className="flex justify-between gap-4 border-t border-rule py-1">
            <dt className="text-soft">{label}</dt>
            <dd className="figure m-0 text-right">{text}</dd>
          </div>
        ))}
      </dl>
      <Problem trouble={trouble} />
      {open && (
        <HandEntry job={job} phase={kept.phase} at={kept.reading.at} reading={kept} close={() => setOpen(false)} />
      )}
    </section>
  );
}
