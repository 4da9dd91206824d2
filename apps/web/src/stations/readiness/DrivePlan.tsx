import type { JobView } from '@just-balance/contract';
import { MONITORS } from '@just-balance/core/obd';
import {
  type CarState,
  type DriveProcedure,
  type DrivePlan as Plan,
  type PlanCondition,
  planDrive,
} from '@just-balance/core/readiness';
import { metricOf } from '@just-balance/core/units';
import { format } from 'date-fns';
import { CalendarPlus } from 'lucide-react';
import { useState } from 'react';
import { openMonitors, useDriveChoice } from '../../job/drives.tsx';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Quantity, usePreferences, useShown } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { typed } from '../../ui/typed.ts';
import { calendarFile } from './calendar.ts';
import { typedForecast } from './forecast.ts';

type Numbers = 'coolantC' | 'intakeC' | 'altitudeM' | 'fuelPct' | 'tankL' | 'consumptionLPer100Km' | 'batteryV';
const FIELDS: readonly { key: Numbers; label: string; unit: string; low: number; high: number }[] = [
  { key: 'coolantC', label: 'Coolant now', unit: '°C', low: -60, high: 250 },
  { key: 'intakeC', label: 'Intake air now', unit: '°C', low: -60, high: 120 },
  { key: 'altitudeM', label: 'Altitude', unit: 'm', low: -500, high: 9000 },
  { key: 'fuelPct', label: 'Fuel in the tank', unit: '%', low: 0, high: 100 },
  { key: 'tankL', label: 'Tank holds', unit: 'L', low: 1, high: 2000 },
  { key: 'consumptionLPer100Km', label: 'Consumption', unit: 'L/100 km', low: 0.1, high: 200 },
];

const STATE: Readonly<Record<PlanCondition['state'], { text: string; tag: string }>> = {
  holds: { text: '✓ holds', tag: 'badge-success' },
  'not-yet': { text: '… not yet', tag: 'badge-outline' },
  never: { text: '✗ not by waiting', tag: 'badge-warning' },
  unknown: { text: '? not known', tag: 'badge-outline border-dashed' },
};
const CALLED: Readonly<Record<PlanCondition['id'], string>> = {
  soak: 'Soak',
  'coolant-start': 'Coolant at the start',
  'coolant-to-air': 'Coolant close to the air',
  ambient: 'Outside air',
  intake: 'Intake air',
  altitude: 'Altitude',
  'fuel-level': 'Fuel level',
  lamp: 'Lamp',
  codes: 'Codes',
  battery: 'Battery',
};
const day = (iso: string) => format(new Date(iso), 'EEE d MMM, HH:mm');

/** What the latest record says of the car; the rest is typed. */
function fromRecord(job: JobView): CarState {
  const record = job.records.at(-1);
  const open = openMonitors(record);
  return {
    ...(record ? { lamp: record.lampOn ? ('on' as const) : ('off' as const) } : {}),
    ...(record ? { codes: record.codes.filter((c) => c.state !== 'permanent').map((c) => c.code) } : {}),
    ...(open ? { incomplete: open } : {}),
  };
}

/** Every enabling condition of a drive with its state now, when it will hold, and the earliest start. */
export function DrivePlan({ job }: { job: JobView }) {
  const { units } = usePreferences();
  const show = useShown();
  const { procedure, choice } = useDriveChoice('Procedure', 'sm:col-span-2');
  const [text, setText] = useState<Record<string, string>>({});
  const [off, setOff] = useState('');
  const [forecast, setForecast] = useState('');
  const [now] = useState(() => new Date());
  const read = (f: (typeof FIELDS)[number]) => {
    const raw = text[f.key]?.trim() ?? '';
    if (raw === '') return {};
    const v = metricOf(Number(typed(raw)), f.unit, units);
    if (Number.isNaN(v)) return { error: `“${raw}” is not a number` };
    if (v >= f.low && v <= f.high) return { v };
    const text_ = (x: number) => show(x, f.unit, 0).value.toFixed(0);
    return { error: `${text_(f.low)} to ${text_(f.high)} ${show(0, f.unit, 0).unit}` };
  };
  const car: CarState = {
    ...fromRecord(job),
    ...(job.ambient.airC === undefined ? {} : { ambientC: job.ambient.airC }),
    ...(off === '' ? {} : { engineOffSince: new Date(off).toISOString() }),
    ...Object.fromEntries(FIELDS.flatMap((f) => (read(f).v === undefined ? [] : [[f.key, read(f).v]]))),
  };
  const air = typedForecast(forecast, now);
  const plan = planDrive({
    procedure,
    now: now.toISOString(),
    state: car,
    forecast: air.points.map((p) => ({ at: p.at, airC: metricOf(p.value, '°C', units) })),
  });
  const input = (f: (typeof FIELDS)[number]) => (
    <Field key={f.key} label={`${f.label}, ${show(0, f.unit, 0).unit}`} error={read(f).error}>
      {(aria) => (
        <input
          className="input figure"
          inputMode={f.low < 0 ? 'text' : 'decimal'}
          value={text[f.key] ?? ''}
          onChange={(e) => setText({ ...text, [f.key]: e.target.value })}
          {...aria}
        />
      )}
    </Field>
  );
  return (
    <section className="grid gap-3" aria-label="Plan the drive">
      <div className="card grid gap-4 p-4">
        <h2 className="card-title">Plan the drive</h2>
        <div className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
          {choice}
          <label className="field sm:col-span-2">
            Engine off since
            <input className="input" type="datetime-local" value={off} onChange={(e) => setOff(e.target.value)} />
          </label>
          {FIELDS.filter((f) => units === 'metric' || f.key !== 'consumptionLPer100Km').map(input)}
        </div>
        <Field
          label={`Forecast of outside air, a line an hour: 06:00 ${show(4, '°C', 0).value.toFixed(0)} (${show(0, '°C', 0).unit})`}
          error={air.bad.length > 0 ? `line ${air.bad.join(', ')}: a time, then a temperature` : undefined}
        >
          {(aria) => (
            <textarea
              className="textarea figure min-h-24"
              value={forecast}
              onChange={(e) => setForecast(e.target.value)}
              {...aria}
            />
          )}
        </Field>
      </div>
      <Answer plan={plan} procedure={procedure} job={job} soakEnds={plan.conditions.find((c) => c.id === 'soak')} />
    </section>
  );
}

function Answer({
  plan,
  procedure,
  job,
  soakEnds,
}: {
  plan: Plan;
  procedure: DriveProcedure;
  job: JobView;
  soakEnds: PlanCondition | undefined;
}) {
  const show = useShown();
  const first = plan.conditions.find((c) => c.state === 'never');
  const goes = procedure.steps.find((s) => s.id === plan.goStraightTo);
  const finishes = plan.couldFinish.map((m) => MONITORS[m]).join(', ');
  const [trouble, setTrouble] = useState<string | null>(null);
  const take = () => {
    try {
      const start = plan.earliestStart!;
      const entries = [
        ...(soakEnds?.state === 'not-yet'
          ? [
              {
                uid: `${job.id}-soak@just-balance`,
                title: `Soak over: ${job.vehicle.label}`,
                at: soakEnds.holdsFrom!,
                minutes: 5,
                words: 'Do not start the engine before.',
              },
            ]
          : []),
        {
          uid: `${job.id}-drive@just-balance`,
          title: `Drive: ${job.vehicle.label}`,
          at: start,
          minutes: plan.minutes ?? 30,
          words: `${procedure.title}. ${procedure.steps.map((s) => s.says).join(' ')}`,
        },
      ];
      const url = URL.createObjectURL(new Blob([calendarFile(entries)], { type: 'text/calendar' }));
      const a = document.createElement('a');
      a.href = url;
      a.download = 'drive.ics';
      a.click();
      URL.revokeObjectURL(url);
      setTrouble(null);
    } catch (e) {
      setTrouble((e as Error).message);
    }
  };
  return (
    <>
      <div className="card grid gap-2 p-4" aria-live="polite">
        <p className="m-0 text-[1.25rem] font-bold">
          {plan.earliestStart
            ? `Earliest start${plan.conditions.some((c) => c.state === 'unknown') ? ', as far as is known' : ''}: ${day(plan.earliestStart)}`
            : first
              ? 'Not by waiting: something must be done first'
              : 'No moment in the forecast has all of it'}
        </p>
        <p className="m-0">
          {first ? `${first.why} ` : ''}
          {finishes ? `This drive can finish ${finishes}` : 'This drive finishes nothing that is open'}
          {plan.minutes === null ? '.' : `, in about ${plan.minutes} minutes.`}
          {goes ? ` Go straight to it: ${goes.says}` : ''}
        </p>
        {plan.warnings.map((w) => (
          <p key={w} className="m-0 text-soft">
            {w}
          </p>
        ))}
        {plan.earliestStart && (
          <button type="button" className="btn justify-self-start" onClick={take}>
            <CalendarPlus size={18} aria-hidden /> Calendar file
          </button>
        )}
        <Problem text={trouble} />
      </div>
      <Scrolls label="Conditions before the start">
        <table className="table">
          <thead>
            <tr>
              <th scope="col">Condition</th>
              <th scope="col">Now</th>
              <th scope="col">From</th>
              <th scope="col">Until</th>
              <th scope="col">Why</th>
            </tr>
          </thead>
          <tbody>
            {plan.conditions.map((c) => (
              <tr key={c.id}>
                <th scope="row">{CALLED[c.id]}</th>
                <td>
                  <span className={`badge ${STATE[c.state].tag}`}>{STATE[c.state].text}</span>
                </td>
                <td className="whitespace-nowrap">{c.state === 'not-yet' && c.holdsFrom ? day(c.holdsFrom) : '—'}</td>
                <td className="whitespace-nowrap">{c.holdsUntil ? day(c.holdsUntil) : '—'}</td>
                <td>
                  {c.why}
                  {c.litres !== undefined && show(0, 'L', 0).unit !== 'L' && (
                    <>
                      {' '}
                      <Quantity value={Math.abs(c.litres)} unit="L" digits={1} />
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scrolls>
      <p className="m-0 text-[0.93rem] text-soft">Source: {procedure.source}.</p>
    </>
  );
}
