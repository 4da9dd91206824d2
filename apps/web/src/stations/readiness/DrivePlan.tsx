import type { JobView } from '@just-balance/contract';
import { MONITORS } from '@just-balance/core/obd';
import {
  boundsText,
  type CarState,
  carFromValues,
  type DriveProcedure,
  type DrivePlan as Plan,
  type PlanCondition,
  planDrive,
  stretchesOf,
} from '@just-balance/core/readiness';
import { counted, metricOf, type Said, said } from '@just-balance/core/units';
import { format } from 'date-fns';
import { CalendarPlus } from 'lucide-react';
import { useState } from 'react';
import { newId } from '../../data/api.ts';
import { ofJob } from '../../data/ofJob.ts';
import { calendarFile, takeCalendar } from '../../job/calendar.ts';
import { openMonitors, useDriveChoice, useDriveProcedures } from '../../job/drives.tsx';
import type { StationProps } from '../../job/station.ts';
import { Field } from '../../ui/Field.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences, useSay, useShown } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { typed } from '../../ui/typed.ts';
import { useAction } from '../../ui/useAction.ts';
import { useMinute } from '../../ui/useMinute.ts';
import { Compared } from './Compared.tsx';
import { typedForecast } from './forecast.ts';
import { CALLED } from './words.ts';

type Numbers = 'coolantC' | 'intakeC' | 'altitudeM' | 'fuelPct' | 'tankL' | 'consumptionLPer100Km' | 'batteryV';
const FIELDS: readonly { key: Numbers; label: string; unit: string; low: number; high: number }[] = [
  { key: 'coolantC', label: 'Coolant now', unit: '°C', low: -60, high: 250 },
  { key: 'intakeC', label: 'Intake air now', unit: '°C', low: -60, high: 120 },
  { key: 'altitudeM', label: 'Altitude', unit: 'm', low: -500, high: 9000 },
  { key: 'fuelPct', label: 'Fuel in the tank', unit: '%', low: 0, high: 100 },
  { key: 'tankL', label: 'Tank holds', unit: 'L', low: 1, high: 2000 },
  { key: 'batteryV', label: 'Battery at rest', unit: 'V', low: 0, high: 60 },
  { key: 'consumptionLPer100Km', label: 'Consumption', unit: 'L/100 km', low: 0.1, high: 200 },
];

const STATE: Readonly<Record<PlanCondition['state'], { text: string; tag: string }>> = {
  holds: { text: '✓ holds', tag: 'badge-success' },
  'not-yet': { text: '… not yet', tag: 'badge-outline' },
  never: { text: '✗ not by waiting', tag: 'badge-warning' },
  unknown: { text: '? not known', tag: 'badge-outline border-dashed' },
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

const HOUR_MS = 3_600_000;
/** For a field of the browser's clock: local time, to the minute. */
const localMinute = (iso: string) => format(new Date(iso), "yyyy-MM-dd'T'HH:mm");

/** Every enabling condition of a drive with its state now, when it will hold, and the earliest start; kept with the job. */
export function DrivePlan({ job, live }: StationProps) {
  const { units } = usePreferences();
  const show = useShown();
  const entry = [...job.entries].reverse().find((e) => e.kind === 'plan' && !e.undone);
  const kept = entry?.kind === 'plan' ? entry.data : null;
  const line = (at: string, airC: number) =>
    `${format(new Date(at), 'yyyy-MM-dd HH:mm')} ${Number(show(airC, '°C', 1).value.toFixed(1))}`;
  const { procedure, choice } = useDriveChoice('Procedure', 'sm:col-span-2', kept?.procedure);
  const procedures = useDriveProcedures();
  const [text, setText] = useState<Record<string, string>>(() =>
    Object.fromEntries(
      FIELDS.flatMap((f) => {
        const v = kept?.state[f.key];
        return v === undefined ? [] : [[f.key, String(Number(show(v, f.unit, 1).value.toFixed(1)))]];
      }),
    ),
  );
  const [off, setOff] = useState(kept?.state.engineOffSince ? localMinute(kept.state.engineOffSince) : '');
  const [forecast, setForecast] = useState(() => (kept?.forecast ?? []).map((p) => line(p.at, p.airC)).join('\n'));
  const [cooled, setCooled] = useState(() => (kept?.cooling ?? []).map((p) => line(p.at, p.coolantC)).join('\n'));
  const [road, setRoad] = useState(kept?.road ?? '');
  // A page that was left open overnight plans from now.
  const now = useMinute();
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
  // Read while it cooled: within the day before now.
  const past = typedForecast(cooled, new Date(now.getTime() - 23 * HOUR_MS));
  const request = {
    procedure,
    now: now.toISOString(),
    state: car,
    forecast: air.points.map((p) => ({ at: p.at, airC: metricOf(p.value, '°C', units) })),
    cooling: past.points.map((p) => ({ at: p.at, coolantC: metricOf(p.value, '°C', units) })),
  };
  const plan = planDrive(request);
  // What it says of itself now; the height from its air pressure, which weather moves by some 200 m.
  const take = () => {
    const said = carFromValues(live.values);
    setText({
      ...text,
      ...Object.fromEntries(
        FIELDS.flatMap((f) => {
          const v = said[f.key];
          return v === undefined ? [] : [[f.key, String(Number(show(v, f.unit, 1).value.toFixed(1)))]];
        }),
      ),
    });
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
    if (JSON.stringify(data) === JSON.stringify(before)) return;
    void run(() => ofJob(job.id).queue('Plan of the drive', '/entries', { id: newId(), kind: 'plan', data }));
  };
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
      {/* What was typed is kept once the typing moves on. */}
      <fieldset className="card m-0 grid gap-4 border p-4" onBlur={keep}>
        <legend className="sr-only">What the plan is made from</legend>
        <div className="flex flex-wrap items-center justify-between gap-3">
          <h2 className="card-title">Plan the drive</h2>
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
            <input className="input" type="datetime-local" value={off} onChange={(e) => setOff(e.target.value)} />
          </label>
          <label className="field sm:col-span-2">
            Road where the speed is safe and lawful
            <input className="input" maxLength={120} value={road} onChange={(e) => setRoad(e.target.value)} />
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
        <Fold title="Coolant while it cools: two readings or more give this car’s own cooling" open={cooled !== ''}>
          <Field
            label={`A line a reading, oldest first: 18:05 ${show(71, '°C', 0).value.toFixed(0)} (${show(0, '°C', 0).unit})`}
            error={past.bad.length > 0 ? `line ${past.bad.join(', ')}: a time, then a temperature` : undefined}
          >
            {(aria) => (
              <textarea
                className="textarea figure min-h-20"
                value={cooled}
                onChange={(e) => setCooled(e.target.value)}
                {...aria}
              />
            )}
          </Field>
        </Fold>
        <Problem trouble={trouble} />
      </fieldset>
      <Answer
        road={road.trim()}
        plan={plan}
        procedure={procedure}
        job={job}
        soakEnds={plan.conditions.find((c) => c.id === 'soak')}
      />
      <Compared procedures={procedures} request={request} />
    </section>
  );
}

const USUAL: readonly string[] = ['o2Heater', 'o2Sensor', 'egrVvt', 'catalyst', 'secondaryAir', 'evap'];

/** The speed a procedure holds, in its own unit; null where it holds none. */
function speedOf(p: DriveProcedure): Said | null {
  const band = p.steps
    .flatMap((s) => stretchesOf(s))
    .flatMap((s) => s.hold ?? [])
    .find((b) => b.channel === 'vss');
  if (!band) return null;
  return boundsText(band);
}

function Answer({
  road,
  plan,
  procedure,
  job,
  soakEnds,
}: {
  road: string;
  plan: Plan;
  procedure: DriveProcedure;
  job: JobView;
  soakEnds: PlanCondition | undefined;
}) {
  const say = useSay();
  const first = plan.conditions.find((c) => c.state === 'never');
  const goes = procedure.steps.find((s) => s.id === plan.goStraightTo);
  // The usual order, easiest first. Common practice, no source.
  const finishes = [...plan.couldFinish]
    .sort((a, b) => USUAL.indexOf(a) - USUAL.indexOf(b))
    .map((m) => MONITORS[m])
    .join(', then ');
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
          words: `${procedure.title}. ${procedure.steps.map((s) => say(s.says)).join(' ')}`,
        },
      ];
      takeCalendar('drive.ics', calendarFile(entries));
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
          {first ? `${say(first.why)} ` : ''}
          {finishes ? `This drive can finish ${finishes}` : 'This drive finishes nothing that is open'}
          {plan.minutes === null ? '.' : `, in about ${counted(plan.minutes, 'minute')}.`}
          {goes ? ` Go straight to it: ${say(goes.says)}` : ''}
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
                <td>{say(c.why)}</td>
              </tr>
            ))}
            {speedOf(procedure) !== null && (
              <tr>
                <th scope="row">Road</th>
                <td>
                  <span className={`badge ${road ? STATE.holds.tag : STATE.unknown.tag}`}>
                    {road ? STATE.holds.text : STATE.unknown.text}
                  </span>
                </td>
                <td>—</td>
                <td>—</td>
                <td>
                  {road ||
                    say(
                      said`Find one where ${speedOf(procedure)!} is safe and lawful for as long as it takes: often the hardest part.`,
                    )}
                </td>
              </tr>
            )}
          </tbody>
        </table>
      </Scrolls>
      <p className="m-0 text-[0.93rem] text-soft">Source: {procedure.source}.</p>
    </>
  );
}
