import { WRITES } from '@just-balance/contract';
import { type CarState, carFromValues, DRIVE_PROCEDURES, planDrive } from '@just-balance/core/readiness';
import { metricOf, numberText } from '@just-balance/core/units';
import { format } from 'date-fns';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import { type StationProps } from '../../job/frame/station.ts';
import { fromRecord, planOf, ranAt } from '../../job/work/car.ts';
import { useDriveChoice, useDriveProcedures } from '../../job/work/drives.tsx';
import { Clashes } from '../../ui/Clashes.tsx';
import { Field } from '../../ui/Field.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences, useShown } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { useAction } from '../../ui/useAction.ts';
import { useMinute } from '../../ui/useMinute.ts';
import { Compared } from './Compared.tsx';
import { Answer } from './DriveAnswer.tsx';
import { FIELDS, OF_THE_MOMENT, offSince, planUnit } from './driveFrom.ts';
import { pointsOf } from './forecast.ts';
import { CoolingRows, ForecastRows } from './Temperatures.tsx';
import { type PlanTyped, usePlanTyped } from './usePlanTyped.ts';

/** Every enabling condition of a drive with its state now, when it will hold, and the earliest start; kept with the job. */
export function DrivePlan({ job, live }: StationProps) {
  const { units } = usePreferences();
  const show = useShown();
  const entry = planOf(job);
  const kept = entry?.data ?? null;
  // It has run since it was planned: the soak begins anew, and what was read then is of then.
  const ran = ranAt(job).reduce((last, at) => (at > last ? at : last), entry?.at ?? '');
  const since = ran === (entry?.at ?? '') ? null : ran;
  const line = (at: string, airC: number) =>
    `${format(new Date(at), 'yyyy-MM-dd HH:mm')} ${Number(show(airC, '°C', 1).value.toFixed(1))}`;
  const typedOf = (data: typeof kept): PlanTyped => ({
    procedure: data?.procedure ?? '',
    off: offSince(data?.state.engineOffSince, since),
    road: data?.road ?? '',
    forecast: (data?.forecast ?? []).map((p) => line(p.at, p.airC)).join('\n'),
    cooled: (data?.cooling ?? []).map((p) => line(p.at, p.coolantC)).join('\n'),
    ...Object.fromEntries(
      FIELDS.map((f) => {
        const v = since !== null && OF_THE_MOMENT.has(f.key) ? undefined : data?.state[f.key];
        return [f.key, v === undefined ? '' : String(Number(planUnit(f, units).shown(v).toFixed(1)))];
      }),
    ),
  });
  const stands = typedOf(kept);
  const { values, set, setAll, clashes, settle, wrote } = usePlanTyped(
    entry ? { id: entry.id, typed: stands } : null,
    stands,
  );
  const { off = '', road = '', forecast = '', cooled = '' } = values;
  const { procedure, choice } = useDriveChoice('Procedure', 'sm:col-span-2', {
    id: values.procedure || DRIVE_PROCEDURES[0]!.id,
    choose: (id) => set('procedure', id),
  });
  const procedures = useDriveProcedures();
  // A page that was left open overnight plans from now.
  const now = useMinute();
  const read = (f: (typeof FIELDS)[number]) => {
    const raw = values[f.key]?.trim() ?? '';
    // As it was kept, however it was rounded to be shown.
    if (kept && raw === stands[f.key] && kept.state[f.key] !== undefined) return { v: kept.state[f.key]! };
    if (raw === '') return {};
    const { metric, shown, unit } = planUnit(f, units);
    const v = metric(Number(typed(raw)));
    if (Number.isNaN(v)) return { error: `“${raw}” is not a number` };
    if (v >= f.low && v <= f.high) return { v };
    const [low, high] = [shown(f.low), shown(f.high)].sort((a, b) => a - b);
    return { error: `${numberText(low!, 0)} to ${numberText(high!, 0)} ${unit}` };
  };
  const car: CarState = {
    ...fromRecord(job.records.at(-1)),
    ...(job.ambient.airC === undefined ? {} : { ambientC: job.ambient.airC }),
    ...(off === '' ? {} : { engineOffSince: new Date(off).toISOString() }),
    ...Object.fromEntries(FIELDS.flatMap((f) => (read(f).v === undefined ? [] : [[f.key, read(f).v]]))),
  };
  const request = {
    procedure,
    now: now.toISOString(),
    state: car,
    forecast:
      kept && forecast === stands.forecast
        ? kept.forecast
        : pointsOf(forecast).map((p) => ({ at: p.at, airC: metricOf(p.value, '°C', units) })),
    cooling:
      kept && cooled === stands.cooled
        ? kept.cooling
        : pointsOf(cooled).map((p) => ({ at: p.at, coolantC: metricOf(p.value, '°C', units) })),
  };
  const plan = planDrive(request);
  // What it says of itself now; the height from its air pressure, which weather moves by some 200 m.
  const take = () => {
    const said = carFromValues(live.values);
    setAll(
      Object.fromEntries(
        FIELDS.flatMap((f) => {
          const v = said[f.key];
          return v === undefined ? [] : [[f.key, String(Number(planUnit(f, units).shown(v).toFixed(1)))]];
        }),
      ),
    );
  };
  const { trouble, run } = useAction();
  const keep = () => {
    const state = {
      ...(off === '' ? {} : { engineOffSince: new Date(off).toISOString() }),
      ...Object.fromEntries(FIELDS.flatMap((f) => (read(f).v === undefined ? [] : [[f.key, read(f).v]]))),
    };
    const data = {
      procedure: procedure.id,
      state,
      forecast: request.forecast,
      cooling: request.cooling,
      ...(road.trim() ? { road: road.trim() } : {}),
    };
    const before = kept && {
      procedure: kept.procedure,
      state: kept.state,
      forecast: kept.forecast,
      cooling: kept.cooling,
      ...(kept.road ? { road: kept.road } : {}),
    };
    // What two have put differently is chosen first.
    if (clashes.length > 0 || JSON.stringify(data) === JSON.stringify(before)) return;
    const id = newId();
    wrote(id);
    void run(() => queueWrite('Plan of the drive', WRITES.addEntry(job.id), { id, kind: 'plan', data }));
  };
  const input = (f: (typeof FIELDS)[number]) => (
    <Field key={f.key} label={`${f.label}, ${planUnit(f, units).unit}`} error={read(f).error}>
      {(aria) => (
        <input
          className="input figure"
          inputMode={f.low < 0 ? 'text' : 'decimal'}
          value={values[f.key] ?? ''}
          onChange={(e) => set(f.key, e.target.value)}
          {...aria}
        />
      )}
    </Field>
  );
  return (
    <section className="grid gap-3" aria-label="Plan the drive">
      <Answer
        road={road.trim()}
        plan={plan}
        procedure={procedure}
        job={job}
        open={car.incomplete ?? null}
        forecast={request.forecast}
        now={now}
        soakEnds={plan.conditions.find((c) => c.id === 'soak')}
      />
      {/* What was typed is kept once the typing moves on. */}
      <fieldset className="card m-0 grid gap-4 border p-4" onBlur={keep}>
        <legend className="sr-only">Plan the drive</legend>
        <div className="flex flex-wrap items-center justify-between gap-3">
          <h2 className="card-title">What the plan is made from</h2>
          {live.link?.state === 'ready' && (
            <button type="button" className="btn" onClick={take}>
              Use what the vehicle says
            </button>
          )}
        </div>
        <div className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
          {choice}
          <label className="field sm:col-span-2">
            Engine off since
            <input className="input" type="datetime-local" value={off} onChange={(e) => set('off', e.target.value)} />
          </label>
          <label className="field sm:col-span-2">
            Road where the speed is safe and lawful
            <input className="input" maxLength={120} value={road} onChange={(e) => set('road', e.target.value)} />
          </label>
          {FIELDS.map(input)}
        </div>
        <ForecastRows value={forecast} set={(v) => set('forecast', v)} unit={show(0, '°C', 0).unit} now={now} />
        <Fold title="Coolant while it cools: two readings or more give this car’s own cooling" open={cooled !== ''}>
          <CoolingRows value={cooled} set={(v) => set('cooled', v)} unit={show(0, '°C', 0).unit} now={now} />
        </Fold>
        <Clashes clashes={clashes} settle={settle} />
        <Problem trouble={trouble} />
      </fieldset>
      <Compared procedures={procedures} request={request} />
    </section>
  );
}
