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

/** Typed figures in the units shown: their inputs, whether all are numbers, and the metric values. */
export function useFigures(fields: readonly TestField[], start: Readonly<Record<string, string>> = {}) {
  const { units } = usePreferences();
  const [text, setText] = useState<Record<string, string>>(start);
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const unit = (f: TestField) => (f.unit ? shown(0, f.unit, 0, units, f.role).unit : '');
  useFollowUnits(
    Object.fromEntries(fields.flatMap((f) => (f.unit ? [[f.key, unit(f)]] : []))),
    (k) => text[k] ?? '',
    (k, v) => setText((now) => ({ ...now, [k]: v })),
  );
  const metric = (f: TestField): number | undefined => {
    const raw = text[f.key]?.trim();
    if (!raw) return undefined;
    const v = Number(typed(raw));
    const m = f.unit ? metricOf(v, f.unit, units, f.role) : v;
    return units === 'metric' ? m : Math.round(m * 1000) / 1000;
  };
  return {
    values: () =>
      Object.fromEntries(
        fields.flatMap((f) => {
          const v = metric(f);
          return v === undefined ? [] : [[f.key, v]];
        }),
      ) as Record<string, number>,
    /** Says what is no number at its field. */
    check(least = 0): boolean {
      const bad = Object.fromEntries(
        fields.flatMap((f) => (Number.isNaN(metric(f) ?? 0) ? [[f.key, `“${text[f.key]}” is not a number`]] : [])),
      );
      const typedIn = fields.filter((f) => text[f.key]?.trim()).length;
      if (Object.keys(bad).length === 0 && typedIn < least && fields[0])
        bad[fields[0].key] = 'enter at least one figure';
      setWrong(bad);
      return Object.keys(bad).length === 0;
    },
    odd: () =>
      fields.find((f) => {
        const v = metric(f);
        return v !== undefined && (v < f.low || v > f.high);
      }),
    /** A range in the units shown. */
    range(f: TestField): string {
      if (!f.unit) return `${f.low}–${f.high}`;
      const [a, b] = [shown(f.low, f.unit, 0, units, f.role), shown(f.high, f.unit, 0, units, f.role)];
      return `${numberText(a.value, a.digits)}–${numberText(b.value, b.digits)} ${b.unit}`;
    },
    textOf: (f: TestField) => text[f.key] ?? '',
    fields: fields.map((f) =>
      f.low < 0 ? (
        <SignedField
          key={f.key}
          label={unit(f) ? `${f.label}, ${unit(f)}` : f.label}
          value={text[f.key] ?? ''}
          set={(v) => setText({ ...text, [f.key]: v })}
          error={wrong[f.key]}
        />
      ) : (
        <Field key={f.key} className="w-52" label={unit(f) ? `${f.label}, ${unit(f)}` : f.label} error={wrong[f.key]}>
          {(aria) => (
            <input
              className="input"
              inputMode="decimal"
              value={text[f.key] ?? ''}
              onChange={(e) => setText({ ...text, [f.key]: e.target.value })}
              {...aria}
            />
          )}
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
  const figures = useFigures(measuredFields(row.id), throttle && limit ? { limit: String(limit.limit) } : {});
  const send = async (certain: boolean) => {
    setDoubt(null);
    if (!figures.check(1)) return;
    const odd = figures.odd();
    if (odd && !certain)
      return setDoubt(`${odd.label}: ${figures.textOf(odd)} is outside ${figures.range(odd)}. Right as it stands?`);
    await record({ ...figures.values(), ...(throttle ? { unit } : {}) });
  };
  return (
    <form
      className="flex flex-wrap items-end gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        void send(false);
      }}
      noValidate
    >
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
          <button type="button" className="btn" onClick={() => void send(true)}>
            Keep it
          </button>
        </div>
      )}
    </form>
  );
}
