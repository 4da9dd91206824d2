import { type JobView, NewTestRequest } from '@just-balance/contract';
import type { TestResult } from '@just-balance/core/case';
import { outcomeLabel, outcomesOf, type TestRow } from '@just-balance/core/catalogue';
import { stationPressure } from '@just-balance/core/expected';
import { Ban, CircleCheck, CircleHelp, OctagonAlert } from 'lucide-react';
import { useRef, useState } from 'react';
import { CalculatorCard } from '../../calculators/CalculatorCard.tsx';
import { newId } from '../../data/api.ts';
import { ofJob } from '../../data/ofJob.ts';
import { Cautions } from '../../job/Cautions.tsx';
import { newestReadings } from '../../job/figures.ts';
import { announceUndo } from '../../job/UndoBar.tsx';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { typed } from '../../ui/typed.ts';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** Fields of the numeric tests, with what is likely so that a slip is asked about. Common practice. */
const FIELDS: Record<string, { key: string; label: string; low: number; high: number }[]> = {
  'fuel-pressure': [
    { key: 'idleKPa', label: 'At idle, kPa', low: 150, high: 700 },
    { key: 'loadKPa', label: 'Under load, kPa', low: 100, high: 700 },
    { key: 'specKPa', label: 'Should be, kPa', low: 150, high: 700 },
  ],
  boost: [
    { key: 'measuredKPa', label: 'Measured, kPa', low: 0, high: 300 },
    { key: 'targetKPa', label: 'Target, kPa', low: 0, high: 300 },
  ],
  'full-load': [{ key: 'ratio', label: 'Measured over expected airflow', low: 0.2, high: 1.5 }],
  koeo: [{ key: 'differenceKPa', label: 'Sensor minus barometer, kPa', low: -40, high: 40 }],
  throttle: [
    { key: 'value', label: 'Reading at hot idle', low: 0, high: 100 },
    { key: 'limit', label: 'Limit, same channel and unit', low: 0, high: 100 },
  ],
  ethanol: [{ key: 'pct', label: 'Ethanol, % by volume', low: 0, high: 100 }],
  backpressure: [
    { key: 'idleKPa', label: 'At idle, kPa', low: 0, high: 60 },
    { key: 'at2500KPa', label: 'At 2,500 rpm, kPa', low: 0, high: 80 },
  ],
};

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
  recorded,
}: {
  job: JobView;
  row: TestRow;
  /** The part to swap, where that is the test. */
  part?: string;
  likelyBank: 1 | 2;
  recorded: () => void;
}) {
  const { busy, trouble, run } = useAction();
  const [bank, setBank] = useState(likelyBank);
  const aimed = row.perBank === true && (job.vehicle.banks ?? 1) === 2;
  const record = (test: Omit<TestResult, 'id'>) =>
    run(async () => {
      const id = newId();
      await ofJob(job.id).queue(`Result: ${row.label}`, '/tests', {
        id,
        test: { id: row.id, ...test, ...(aimed ? { bank } : {}), ...(part ? { part } : {}) },
      });
      announceUndo(id);
      recorded();
    });
  const banks = job.vehicle.banks ?? 1;
  const outcomes = outcomesOf(row).filter((o) => banks === 2 || !o.endsWith('bank2'));
  return (
    <section className="grid gap-3" aria-label={`Record: ${row.label}`}>
      <Cautions job={job} step={`test:${row.id}`} />
      <div className="card flex flex-row flex-wrap items-center gap-x-6 gap-y-4 px-5 py-4">
        <h2 className="card-title">What did it show?</h2>
        {aimed && (
          <div className="flex gap-2" role="group" aria-label="Bank">
            {([1, 2] as const).map((b) => (
              <button
                key={b}
                type="button"
                aria-pressed={bank === b}
                className={`btn ${bank === b ? 'btn-neutral' : ''}`}
                onClick={() => setBank(b)}
              >
                Bank {b}
              </button>
            ))}
          </div>
        )}
        {row.measure ? (
          <Values testId={row.id} fields={FIELDS[row.measure] ?? []} record={(values) => record({ values })} />
        ) : (
          outcomes.map((o) => (
            <button
              key={o}
              type="button"
              disabled={busy}
              className={`btn btn-lg ${o === outcomes[0] ? 'rounded-full' : ''}`}
              onClick={() => record({ outcome: o })}
            >
              {o === outcomes[0] ? <CircleCheck size={22} aria-hidden /> : <OctagonAlert size={22} aria-hidden />}
              {outcomeLabel(o)}
            </button>
          ))
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

function Values({
  testId,
  fields,
  record,
}: {
  testId: string;
  fields: { key: string; label: string; low: number; high: number }[];
  record: (v: Record<string, number>) => Promise<void>;
}) {
  const [doubt, setDoubt] = useState<string | null>(null);
  const sure = useRef(false);
  const numbers = (t: Record<string, string>) =>
    Object.fromEntries(fields.flatMap((f) => (t[f.key]?.trim() ? [[f.key, Number(typed(t[f.key]!))]] : [])));
  const { register, submit, busy, error } = useTypedForm<Record<string, string>, NewTestRequest>({
    dto: NewTestRequest,
    defaults: Object.fromEntries(fields.map((f) => [f.key, ''])),
    body: (t) => ({ id: newId(), test: { id: testId, values: numbers(t) } }),
    check: (t) => {
      setDoubt(null);
      const wrong = fields.filter((f) => Number.isNaN(numbers(t)[f.key] ?? 0));
      if (wrong.length > 0) return Object.fromEntries(wrong.map((f) => [f.key, `“${t[f.key]}” is not a number`]));
      return Object.keys(numbers(t)).length === 0 ? { [fields[0]!.key]: 'enter at least one figure' } : {};
    },
    send: async (_, t) => {
      const values = numbers(t);
      const odd = fields.find((f) => f.key in values && (values[f.key]! < f.low || values[f.key]! > f.high));
      if (odd && !sure.current)
        return setDoubt(`${odd.label}: ${values[odd.key]} is outside ${odd.low}–${odd.high}. Right as it stands?`);
      await record(values);
    },
  });
  const press = (certain: boolean) => (e: React.SyntheticEvent) => {
    sure.current = certain;
    submit(e);
  };
  return (
    <form className="flex flex-wrap items-end gap-4" onSubmit={press(false)} noValidate>
      {fields.map((f) => (
        <Field key={f.key} className="w-52" label={f.label} error={error(f.key)}>
          {(aria) => (
            <input className="input" inputMode={f.low < 0 ? 'text' : 'decimal'} {...register(f.key)} {...aria} />
          )}
        </Field>
      ))}
      <button type="submit" className="btn btn-primary btn-lg" disabled={busy}>
        Record
      </button>
      {doubt && (
        <div className="flex w-full flex-wrap items-center gap-4">
          <Problem text={doubt} />
          <button type="button" className="btn" disabled={busy} onClick={press(true)}>
            Keep it
          </button>
        </div>
      )}
    </form>
  );
}
