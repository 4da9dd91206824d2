import type { JobView, Phase } from '@just-balance/contract';
import { type TestResult, throttleLimit } from '@just-balance/core/case';
import {
  outcomeLabel,
  outcomesOf,
  SWAP_LABELS,
  SWAP_PARTS,
  severalCanBe,
  standTogether,
  type TestRow,
} from '@just-balance/core/catalogue';
import { stationPressure } from '@just-balance/core/expected';
import { besideFields, measuredFields, NAMES_CYLINDERS, type TestField } from '@just-balance/core/job';
import { metricOf, numberText, shown } from '@just-balance/core/units';
import { Ban, CircleCheck, CircleHelp, OctagonAlert } from 'lucide-react';
import { useState } from 'react';
import { CalculatorCard } from '../../calculators/CalculatorCard.tsx';
import { newId } from '../../data/api.ts';
import { ofJob } from '../../data/ofJob.ts';
import { Cautions } from '../../job/Cautions.tsx';
import { newestReadings } from '../../job/figures.ts';
import { announceUndo } from '../../job/UndoBar.tsx';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { SignedField } from '../../ui/SignedField.tsx';
import { typed } from '../../ui/typed.ts';
import { useAction } from '../../ui/useAction.ts';
import { useFollowUnits } from '../../ui/useFollowUnits.ts';

/** The calculator that goes with a test. */
const BESIDE: Readonly<Record<string, string>> = {
  'vacuum-gauge': 'altitude',
  'koeo-baro': 'altitude',
  'full-load-airflow': 'airflow',
  'fuel-pressure': 'injector',
  'fuel-ethanol': 'ethanol',
  'gas-analysis': 'lambda',
};

/** Record what a test showed: big, apart, undoable; beside “could not tell” and “no access”. */
export function OutcomePanel({
  job,
  row,
  part,
  likelyBank,
  after = false,
  recorded,
}: {
  job: JobView;
  row: TestRow;
  /** The part to swap, where that is the test. */
  part?: string;
  likelyBank: 1 | 2;
  /** Done with the car as it is after the repair. */
  after?: boolean;
  recorded: () => void;
}) {
  const { busy, trouble, run } = useAction();
  const [bank, setBank] = useState(likelyBank);
  const [swapped, setSwapped] = useState(part ?? Object.keys(SWAP_PARTS)[0]!);
  const repaired = job.repairs.some((r) => !r.undone);
  const [phase, setPhase] = useState<Phase>(after || repaired ? 'after' : 'before');
  const [several, setSeveral] = useState<string[] | null>(null);
  const [cylinders, setCylinders] = useState<number[]>([]);
  const banks = job.vehicle.banks ?? 1;
  const aimed = row.perBank === true && banks === 2;
  const besides = useFigures(besideFields(row.id));
  const record = (test: Omit<TestResult, 'id'>) =>
    run(async () => {
      if (!besides.check()) return;
      const id = newId();
      const beside = besides.values();
      const values = { ...beside, ...test.values };
      await ofJob(job.id).queue(`Result: ${row.label}`, '/tests', {
        id,
        phase,
        test: {
          id: row.id,
          ...test,
          ...(Object.keys(values).length > 0 ? { values } : {}),
          ...(aimed ? { bank } : {}),
          ...(cylinders.length > 0 ? { cylinders } : {}),
          ...(row.id === 'known-good-swap' ? { part: swapped } : {}),
        },
      });
      announceUndo(id);
      recorded();
    });
  const outcomes = outcomesOf(row).filter((o) => banks === 2 || !o.endsWith('bank2'));
  const toggle = (o: string) =>
    setSeveral((now) => {
      const list = now ?? [];
      if (list.includes(o)) return list.filter((x) => x !== o);
      // What cannot stand beside it goes.
      return [...list.filter((x) => standTogether(row.id, [x, o])), o];
    });
  const choose = (
    label: string,
    options: readonly (readonly [string, string])[],
    now: string,
    set: (v: string) => void,
  ) => (
    <div className="flex gap-2" role="group" aria-label={label}>
      {options.map(([id, text]) => (
        <button
          key={id}
          type="button"
          aria-pressed={now === id}
          className={`btn ${now === id ? 'btn-neutral' : ''}`}
          onClick={() => set(id)}
        >
          {text}
        </button>
      ))}
    </div>
  );
  return (
    <section className="grid gap-3" aria-label={`Record: ${row.label}`}>
      <Cautions job={job} step={`test:${row.id}`} />
      <div className="card flex flex-row flex-wrap items-center gap-x-6 gap-y-4 px-5 py-4">
        <h2 className="card-title">What did it show?</h2>
        {aimed &&
          choose(
            'Bank',
            [
              ['1', 'Bank 1'],
              ['2', 'Bank 2'],
            ],
            String(bank),
            (v) => setBank(v === '2' ? 2 : 1),
          )}
        {repaired &&
          choose(
            'Done',
            [
              ['before', 'Before the repair'],
              ['after', 'After the repair'],
            ],
            phase,
            (v) => setPhase(v as Phase),
          )}
        {row.id === 'known-good-swap' && (
          <label className="field w-64">
            Part that was swapped in
            <select className="select" value={swapped} onChange={(e) => setSwapped(e.target.value)}>
              {Object.keys(SWAP_PARTS).map((p) => (
                <option key={p} value={p}>
                  {SWAP_LABELS[p]}
                </option>
              ))}
            </select>
          </label>
        )}
        {besides.fields}
        {NAMES_CYLINDERS.includes(row.id) && (
          <div className="flex flex-wrap items-center gap-2" role="group" aria-label="Cylinders, where they are known">
            <span className="text-soft">Cylinders:</span>
            {Array.from({ length: job.vehicle.cylinders }, (_, i) => i + 1).map((n) => (
              <button
                key={n}
                type="button"
                aria-pressed={cylinders.includes(n)}
                className={`btn px-4 ${cylinders.includes(n) ? 'btn-neutral' : ''}`}
                onClick={() =>
                  setCylinders(cylinders.includes(n) ? cylinders.filter((x) => x !== n) : [...cylinders, n].sort())
                }
              >
                {n}
              </button>
            ))}
          </div>
        )}
        {row.measure ? (
          <Values row={row} vehicle={job.vehicle} record={(values) => record({ values })} />
        ) : (
          <>
            {outcomes.map((o) => (
              <button
                key={o}
                type="button"
                disabled={busy}
                aria-pressed={several === null ? undefined : several.includes(o)}
                className={`btn btn-lg ${o === outcomes[0] ? 'rounded-full' : ''} ${several?.includes(o) ? 'btn-neutral' : ''}`}
                onClick={() => (several === null ? record({ outcome: o }) : toggle(o))}
              >
                {o === outcomes[0] ? <CircleCheck size={22} aria-hidden /> : <OctagonAlert size={22} aria-hidden />}
                {outcomeLabel(row.id, o)}
              </button>
            ))}
            {severalCanBe(row.id) && several === null && (
              <button type="button" className="btn btn-ghost underline" onClick={() => setSeveral([])}>
                More than one
              </button>
            )}
            {several !== null && (
              <>
                <button
                  type="button"
                  className="btn btn-primary btn-lg"
                  disabled={busy || several.length === 0}
                  onClick={() => record({ outcome: several.length === 1 ? several[0]! : several })}
                >
                  Record {several.length > 1 ? `these ${several.length}` : ''}
                </button>
                <button type="button" className="btn btn-ghost underline" onClick={() => setSeveral(null)}>
                  One only
                </button>
              </>
            )}
          </>
        )}
        <span className="ml-auto flex flex-wrap gap-4 border-rule md:border-l md:pl-6">
          <button
            type="button"
            className="btn btn-lg"
            disabled={busy}
            onClick={() => record({ outcome: 'inconclusive' })}
          >
            <CircleHelp size={19} aria-hidden /> Could not tell
          </button>
          <button
            type="button"
            className="btn btn-lg"
            disabled={busy}
            onClick={() => record({ outcome: 'not-accessible' })}
          >
            <Ban size={19} aria-hidden /> No access
          </button>
        </span>
        <Problem trouble={trouble} />
      </div>
      {BESIDE[row.id] && (
        <details>
          <summary className="btn w-fit cursor-pointer list-none">Work it out</summary>
          <div className="mt-3 max-w-xl">
            <CalculatorCard id={BESIDE[row.id]!} start={startOf(job)} />
          </div>
        </details>
      )}
    </section>
  );
}

/** What is known of the job already, for the calculator beside a test. */
function startOf(job: JobView): Record<string, number | undefined> {
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
function useFigures(fields: readonly TestField[], start: Readonly<Record<string, string>> = {}) {
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

function Values({
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
