import { type JobView } from '@just-balance/contract';
import { MONITORS } from '@just-balance/core/obd';
import {
  boundsText,
  type DriveProcedure,
  type DrivePlan as Plan,
  type PlanCondition,
  stretchesOf,
} from '@just-balance/core/readiness';
import { counted, type Said, said } from '@just-balance/core/units';
import { CalendarPlus } from 'lucide-react';
import { useState } from 'react';
import { calendarFile, takeCalendar } from '../../job/work/calendar.ts';
import { Problem } from '../../ui/Problem.tsx';
import { useSay } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { day, STATE } from './driveFrom.ts';
import { CALLED } from './words.ts';

export const HOUR_MS = 3_600_000;

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

export function Answer({
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
