import { type JobView } from '@just-balance/contract';
import { MONITORS } from '@just-balance/core/obd';
import {
  boundsText,
  type DriveProcedure,
  decidedBy,
  type ForecastPoint,
  type DrivePlan as Plan,
  type PlanCondition,
  stretchesOf,
  tonight,
  wantedConditions,
} from '@just-balance/core/readiness';
import { counted, midSentence, type Said, said } from '@just-balance/core/units';
import { CalendarPlus } from 'lucide-react';
import { useState } from 'react';
import { shopNow } from '../../data/shopClock.ts';
import { calendarFile, takeCalendar } from '../../job/work/calendar.ts';
import { Fold } from '../../ui/Fold.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { SentenceList, useSay } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';
import { day, STATE } from './driveFrom.ts';
import { PlanAxis } from './PlanAxis.tsx';
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
  open,
  forecast,
  now,
}: {
  road: string;
  plan: Plan;
  procedure: DriveProcedure;
  job: JobView;
  soakEnds: PlanCondition | undefined;
  /** Monitors that are not complete; null: not known. */
  open: readonly string[] | null;
  forecast: readonly ForecastPoint[];
  now: Date;
}) {
  const say = useSay();
  // What no step needs that is open keeps nobody waiting.
  const wanted = new Set(wantedConditions(procedure, open).map((c) => c.id));
  const counts = plan.conditions.filter((c) => wanted.has(c.id));
  const list = plan.conditions.some((c) => wanted.has(c.id) && c.state === 'not-yet') ? tonight(procedure, open) : [];
  const decide = decidedBy(counts, plan.earliestStart);
  const decides = decide.map((c, i) => (i === 0 ? CALLED[c.id] : midSentence(CALLED[c.id]))).join(' and ');
  const first = counts.find((c) => c.state === 'never');
  const offUnknown = !first && counts.some((c) => c.id === 'soak' && c.state === 'unknown');
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
        ...(list.length > 0
          ? [
              {
                uid: `${job.id}-tonight@just-balance`,
                title: `Before the cold start: ${job.vehicle.label}`,
                at: new Date(shopNow()).toISOString(),
                minutes: 15,
                words: list.map(say).join(' '),
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
  const speed = speedOf(procedure);
  const rows = [
    ...plan.conditions.map((c) => ({
      name: CALLED[c.id],
      state: wanted.has(c.id) ? c.state : ('not-needed' as const),
      from: c.state === 'not-yet' && c.holdsFrom ? day(c.holdsFrom) : '—',
      until: c.holdsUntil ? day(c.holdsUntil) : '—',
      why: say(c.why),
    })),
    ...(speed === null
      ? []
      : [
          {
            name: 'Road',
            state: road ? ('holds' as const) : ('unknown' as const),
            from: '—',
            until: '—',
            why:
              road ||
              say(said`Find one where ${speed} is safe and lawful for as long as it takes: often the hardest part.`),
          },
        ]),
  ];
  return (
    <>
      <div className="card relative grid gap-2 py-4 pr-4 pl-6" aria-live="polite">
        <span aria-hidden className="absolute inset-y-0 left-0 w-2 rounded-l-(--radius-box) bg-act" />
        <p className="m-0 text-[1.7rem] leading-tight font-bold">
          {offUnknown
            ? 'Since when is the engine off? The soak decides when it can start'
            : plan.earliestStart
              ? `Earliest start${counts.some((c) => c.state === 'unknown') ? ', as far as is known' : ''}: ${day(plan.earliestStart)}${decides ? `. ${decides} ${decide.length > 1 ? 'decide' : 'decides'}` : ''}`
              : first
                ? `Not by waiting: ${midSentence(CALLED[first.id])} comes first`
                : 'No moment in the forecast has all of it'}
        </p>
        <p className="m-0 text-[1.1rem]">
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
        {plan.earliestStart && !offUnknown && (
          <button type="button" className="btn justify-self-start" onClick={take}>
            <CalendarPlus size={18} aria-hidden /> Calendar file
          </button>
        )}
        <Problem text={trouble} />
      </div>
      <div className={`grid items-start gap-3 ${list.length > 0 ? 'lg:grid-cols-[minmax(0,1fr)_18rem]' : ''}`}>
        <PlanAxis
          earliest={offUnknown ? null : plan.earliestStart}
          minutes={plan.minutes}
          procedure={procedure}
          counts={counts}
          forecast={forecast}
          now={now}
        />
        {list.length > 0 && (
          <section className="card grid gap-2 p-4" aria-label="Tonight">
            <h2 className="card-title">Tonight, before the cold start</h2>
            <SentenceList className="m-0 list-disc pl-5" sentences={list} />
          </section>
        )}
      </div>
      <Fold title="Each condition in words" className="card px-4 py-2">
        <Scrolls label="Conditions before the start">
          <Table
            rows={rows}
            keyOf={(c) => c.name}
            columns={[
              { head: 'Condition', names: true, cell: (c) => c.name },
              {
                head: 'Now',
                cell: (c) => <span className={`badge ${STATE[c.state].tag}`}>{STATE[c.state].text}</span>,
              },
              { head: 'From', cellClass: 'whitespace-nowrap', cell: (c) => c.from },
              { head: 'Until', cellClass: 'whitespace-nowrap', cell: (c) => c.until },
              { head: 'Why', cell: (c) => c.why },
            ]}
          />
        </Scrolls>
      </Fold>
      <p className="m-0 text-[0.93rem] text-soft">Source: {procedure.source}.</p>
    </>
  );
}
