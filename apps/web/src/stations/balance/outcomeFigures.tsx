import { type JobView } from '@just-balance/contract';
import { throttleLimit } from '@just-balance/core/case';
import { type TestRow } from '@just-balance/core/catalogue';
import { stationPressure } from '@just-balance/core/expected';
import { measuredFields, type TestField } from '@just-balance/core/job';
import { metricOf, numberText, shown } from '@just-balance/core/units';
import { useState } from 'react';
import { newestReadings } from '../../job/judgement/figures.ts';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { SignedField } from '../../ui/SignedField.tsx';
import { typed } from '../../ui/typed.ts';
import { useFollowUnits } from '../../ui/useFollowUnits.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

type Typed = Record<string, string>;

/** What is known of the job already, for the calculator beside a test. */
export function startOf(job: JobView): Record<string, number | undefined> {
  const newest = (at: string) => newestReadings(job, 'before').find((r) => r.reading.at === at)?.reading;
  const [idle, full] = [newest('idle'), newest('full-load')];
  const pressure = job.vehicle.limits?.fuelPressureKPa;
  return {
    airflowGps: (full ?? idle)?.mafGps,
    mapKPa: (full ?? idle)?.mapKPa,
    baroKPa: stationPressure(job.ambient).baroKPa,
    displacementL: job.vehicle.displacementL,
    rpm: full?.rpm,
    chargeC: full?.iatC,
    shouldKPa: pressure,
    calibratedPct: job.vehicle.ethanolPctCalibrated ?? 10,
  };
}

interface FigureOptions {
  start?: Readonly<Record<string, string>>;
  /** How many figures must be typed. */
  least?: number;
  /** What Enter and the form's own button do, after each figure was found to be a number. */
  send?: (values: Record<string, number>) => Promise<unknown>;
}

/** Typed figures in the units shown: their inputs, and the metric values. */
export function useFigures(fields: readonly TestField[], { start = {}, least = 0, send }: FigureOptions = {}) {
  const { units } = usePreferences();
  const unit = (f: TestField) => (f.unit ? shown(0, f.unit, 0, units, f.role).unit : '');
  const metric = (f: TestField, text: string | undefined): number | undefined => {
    const raw = text?.trim();
    if (!raw) return undefined;
    const v = Number(typed(raw));
    const m = f.unit ? metricOf(v, f.unit, units, f.role) : v;
    return units === 'metric' ? m : Math.round(m * 1000) / 1000;
  };
  const values = (t: Typed): Record<string, number> =>
    Object.fromEntries(
      fields.flatMap((f) => {
        const v = metric(f, t[f.key]);
        return v === undefined ? [] : [[f.key, v]];
      }),
    );
  const form = useTypedForm<Typed, Record<string, number>>({
    defaults: Object.fromEntries(fields.map((f) => [f.key, start[f.key] ?? ''])),
    body: values,
    check: (t) => {
      const bad: Record<string, string> = {};
      for (const [key, v] of Object.entries(values(t))) if (Number.isNaN(v)) bad[key] = `“${t[key]}” is not a number`;
      if (Object.keys(bad).length === 0 && Object.keys(values(t)).length < least && fields[0])
        bad[fields[0].key] = 'enter at least one figure';
      return bad;
    },
    send: send ?? (async () => undefined),
  });
  useFollowUnits(
    Object.fromEntries(fields.flatMap((f) => (f.unit ? [[f.key, unit(f)]] : []))),
    form.getValues,
    form.setValue,
  );
  const label = (f: TestField) => (unit(f) ? `${f.label}, ${unit(f)}` : f.label);
  return {
    submit: form.submit,
    /** Whether each is a number; what is none is said at its field. */
    valid: form.valid,
    values: () => values(form.getValues()),
    /** The first that is hardly so, in words. */
    odd(): string | null {
      const t = form.getValues();
      const f = fields.find((x) => {
        const v = metric(x, t[x.key]);
        return v !== undefined && (v < x.low || v > x.high);
      });
      if (!f) return null;
      const [a, b] = [f.low, f.high].map((v) => (f.unit ? shown(v, f.unit, 0, units, f.role) : null));
      const range =
        a && b ? `${numberText(a.value, a.digits)}–${numberText(b.value, b.digits)} ${b.unit}` : `${f.low}–${f.high}`;
      return `${f.label}: ${t[f.key]} is outside ${range}. Right as it stands?`;
    },
    fields: fields.map((f) =>
      f.low < 0 ? (
        <SignedField
          key={f.key}
          label={label(f)}
          value={form.watch(f.key) ?? ''}
          set={(v) => form.setValue(f.key, v)}
          error={form.error(f.key)}
        />
      ) : (
        <Field key={f.key} className="w-44" label={label(f)} error={form.error(f.key)}>
          {(aria) => <input className="input" inputMode="decimal" {...form.register(f.key)} {...aria} />}
        </Field>
      ),
    ),
  };
}

export function Values({
  row,
  vehicle,
  record,
}: {
  row: TestRow;
  vehicle: JobView['vehicle'];
  record: (v: Record<string, number | string>) => Promise<void>;
}) {
  const [doubt, setDoubt] = useState<string | null>(null);
  const limit = throttleLimit(vehicle.limits);
  const throttle = row.measure === 'throttle';
  const [unit, setUnit] = useState<'deg' | '%'>(limit?.unit === '%' ? '%' : 'deg');
  const keep = (values: Record<string, number>) => {
    setDoubt(null);
    return record({ ...values, ...(throttle ? { unit } : {}) });
  };
  const figures = useFigures(measuredFields(row.id), {
    start: throttle && limit ? { limit: String(limit.limit) } : {},
    least: 1,
    send: async (values) => {
      const odd = figures.odd();
      if (odd) setDoubt(odd);
      else await keep(values);
    },
  });
  const keepOdd = async () => {
    if (await figures.valid()) await keep(figures.values());
  };
  return (
    <form className="flex flex-wrap items-end gap-3" onSubmit={figures.submit} noValidate>
      {figures.fields}
      {throttle && (
        <label className="field w-24">
          in
          <select className="select" value={unit} onChange={(e) => setUnit(e.target.value as 'deg' | '%')}>
            <option value="deg">°</option>
            <option value="%">%</option>
          </select>
        </label>
      )}
      <button type="submit" className="btn btn-primary btn-lg">
        Record
      </button>
      {doubt && (
        <div className="flex w-full flex-wrap items-center gap-4">
          <Problem text={doubt} />
          <button type="button" className="btn" onClick={() => void keepOdd()}>
            Keep it
          </button>
        </div>
      )}
    </form>
  );
}
