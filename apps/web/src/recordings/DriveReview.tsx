import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { DriveEntry } from '@just-balance/contract/drives';
import { MONITORS } from '@just-balance/core/obd';
import {
  attemptOf,
  type Band,
  type DriveProcedure,
  distanceKm,
  type DriveReview as Review,
  reviewDrive,
  type StepReview,
  stretchesOf,
  tenths,
} from '@just-balance/core/readiness';
import type { Series } from '@just-balance/core/series';
import { said } from '@just-balance/core/units';
import { useMemo } from 'react';
import { newId } from '../data/api.ts';
import { queueWrite } from '../data/writes.ts';
import { carBefore } from '../job/work/car.ts';
import { useAttempts, useDriveChoice } from '../job/work/drives.tsx';
import { Field } from '../ui/Field.tsx';
import { clock } from '../ui/figures.ts';
import { May } from '../ui/May.tsx';
import { Problem } from '../ui/Problem.tsx';
import { Say, SentenceList } from '../ui/preferences.tsx';
import { Scrolls } from '../ui/Scrolls.tsx';
import { Table } from '../ui/Table.tsx';
import { useTypedForm } from '../ui/useTypedForm.ts';
import { BandLane } from './BandLane.tsx';

const STATE: Readonly<Record<StepReview['state'], { text: string; tag: string }>> = {
  done: { text: '✓ done', tag: 'badge-success' },
  broken: { text: '✗ broken', tag: 'badge-warning' },
  running: { text: '… not finished', tag: 'badge-outline' },
  'not-reached': { text: 'not reached', tag: 'badge-outline border-dashed' },
  'not-possible': { text: '✗ not possible', tag: 'badge-warning' },
};
const RESULT: Readonly<Record<Review['result'], string>> = {
  complete: 'Everything was driven as asked',
  incomplete: 'Not all of it was held',
  failed: 'It could not succeed',
};

/** A recorded drive against a drive procedure: a lane a step, every break with its second and reason, what remains. */
export function DriveReview({
  job,
  captureId,
  series,
  seek,
}: {
  job: JobView;
  /** The recording. */
  captureId: string;
  series: Series;
  /** Put the shared cursor there, s of the recording. */
  seek: (s: number) => void;
}) {
  const { procedure, choice } = useDriveChoice('Held against', 'max-w-md');
  const at = series.startedAt;
  const review = useMemo(
    () => reviewDrive(procedure, series, carBefore(job, procedure, series, at)),
    [procedure, series, job, at],
  );
  const minutes = useMemo(() => {
    const [from, to] = spanOf(series);
    return Math.max(1, to - from) / 60;
  }, [series]);
  return (
    <div className="grid gap-4">
      {choice}
      <ReviewSheet review={review} procedure={procedure} series={series} seek={seek} />
      <Count job={job} captureId={captureId} review={review} series={series} minutes={minutes} />
    </div>
  );
}

/** First and last second of a series. */
function spanOf(series: Series): [number, number] {
  const all = series.channels.filter((c) => c.time.length > 0);
  return [Math.min(...all.map((c) => c.time[0]!)), Math.max(...all.map((c) => c.time.at(-1)!))];
}

/** What a review says: the result, a lane a step with the bands it holds, every break, what remains. */
export function ReviewSheet({
  review,
  procedure,
  series,
  seek,
}: {
  review: Review;
  procedure: DriveProcedure;
  series: Series;
  /** Put the shared cursor there, s of the recording. */
  seek: (s: number) => void;
}) {
  const [first, last] = useMemo(() => spanOf(series), [series]);
  const length = Math.max(1, last - first);
  return (
    <div className="grid gap-4">
      <div aria-live="polite">
        <p className="m-0 text-[1.2rem] font-bold">{RESULT[review.result]}</p>
        <p className="m-0">
          <Say text={review.nextAttempt} />
        </p>
      </div>
      <Scrolls label="Steps of the drive">
        <Table
          rows={review.steps}
          keyOf={(s) => s.id}
          columns={[
            {
              head: 'Step',
              names: true,
              cell: (s) => (
                <>
                  {s.id.replaceAll('-', ' ')}
                  {s.finishes.length > 0 && (
                    <span className="block text-[0.87rem] font-normal text-soft">
                      {s.finishes.map((m) => MONITORS[m]).join(', ')}
                    </span>
                  )}
                </>
              ),
            },
            {
              head: 'State',
              cell: (s) => <span className={`badge ${STATE[s.state].tag}`}>{STATE[s.state].text}</span>,
            },
            {
              head: 'Held',
              figure: true,
              cellClass: 'min-w-28',
              cell: held,
            },
            {
              className: 'w-1/2',
              head: (
                <span className="flex justify-between">
                  <span>0:00</span>
                  <span>{clock(length)}</span>
                </span>
              ),
              cell: (s) => (
                <>
                  <Lane step={s} length={length} />
                  {bandsOf(procedure, s.id).map((b) => (
                    <BandLane
                      key={`${b.channel} ${b.low} ${b.high}`}
                      series={series}
                      band={b}
                      first={first}
                      length={length}
                      seek={(at) => seek(first + at)}
                    />
                  ))}
                </>
              ),
            },
          ]}
        />
      </Scrolls>
      <Before review={review} />
      <Lapses review={review} seek={(s) => seek(first + s)} />
      {review.remains.length > 0 && (
        <section>
          <h2 className="m-0 mb-1 text-base font-[650]">What remains</h2>
          <SentenceList className="m-0 pl-5" sentences={review.remains} />
        </section>
      )}
      {review.warnings.length > 0 && (
        <SentenceList className="m-0 list-none p-0 text-[0.93rem] text-soft" sentences={review.warnings} />
      )}
    </div>
  );
}

/** Seconds held of those asked for; what the vehicle itself called complete needs no more. */
function held(s: StepReview): string {
  if (s.neededS === null) return clock(s.heldS);
  const early = s.state === 'done' && s.heldS < s.neededS;
  return early ? `${clock(s.heldS)}, then the monitor was complete` : `${clock(s.heldS)} of ${clock(s.neededS)}`;
}

/** What a step holds, each band once. */
function bandsOf(p: DriveProcedure, id: string): Band[] {
  const step = p.steps.find((s) => s.id === id);
  const all = step ? stretchesOf(step).flatMap((s) => s.hold ?? []) : [];
  return all.filter(
    (b, i) => !b.ifKnown && all.findIndex((o) => o.channel === b.channel && o.low === b.low && o.high === b.high) === i,
  );
}

/** What had to be true before the start, with what the log says of it. */
function Before({ review }: { review: Review }) {
  if (review.conditions.length === 0) return null;
  const said = { met: '✓', 'not-met': '✗', unknown: '?' } as const;
  return (
    <section>
      <h2 className="m-0 mb-1 text-base font-[650]">Before the start</h2>
      <ul className="m-0 grid list-none gap-1 p-0">
        {review.conditions.map((c) => (
          <li key={c.id} className={c.state === 'not-met' ? 'font-[650] text-caution' : ''}>
            <span aria-hidden>{said[c.state]}</span> <Say text={c.why} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The drive counts for the vehicle: some need over a thousand kilometres of them. */
function Count({
  job,
  captureId,
  review,
  series,
  minutes,
}: {
  job: JobView;
  captureId: string;
  review: Review;
  series: Series;
  minutes: number;
}) {
  const { data, mutate } = useAttempts(job.vehicle.id);
  const counted = job.entries.some(
    (e) => e.kind === 'drive' && !e.undone && e.data.capture === captureId && e.data.procedure === review.procedure,
  );
  const { register, submit, busy, trouble, error, rest } = useTypedForm({
    dto: DriveEntry,
    defaults: { road: '' },
    body: (t) => {
      const vss = series.channels.find((c) => c.id === 'vss');
      const km = vss ? distanceKm(vss.time, vss.value) : 0;
      return { ...attemptOf(review, { distanceKm: km, minutes }, t.road.trim()), capture: captureId };
    },
    send: async (data) => {
      await queueWrite('Drive', WRITES.addEntry(job.id), { id: newId(), kind: 'drive', data: { ...data } });
      await mutate();
    },
  });
  return (
    <form className="flex flex-wrap items-end gap-3" onSubmit={submit} noValidate>
      {counted ? (
        <p className="m-0" role="status">
          Counted among the drives of this vehicle{data ? `, ${data.length} so far` : ''}.
        </p>
      ) : (
        <May>
          <Field label="Road, in your words" error={error('road')}>
            {(aria) => <input className="input" maxLength={120} {...register('road')} {...aria} />}
          </Field>
          <button type="submit" className="btn" disabled={busy}>
            Count this drive
          </button>
        </May>
      )}
      <Problem text={rest} trouble={trouble} />
    </form>
  );
}

/** The stretch that counted, with its pauses as gaps and its breaks as crosses. */
function Lane({ step, length }: { step: StepReview; length: number }) {
  const x = (s: number) => `${(100 * Math.min(length, Math.max(0, s))) / length}%`;
  const says = step.broken.map((b) => `${b.paused ? 'pause' : 'break'} at ${clock(b.atS)}`).join(', ');
  return (
    <svg
      className="block h-8 w-full overflow-visible"
      role="img"
      aria-label={`${step.fromS === null ? 'never begun' : `from ${clock(step.fromS)} to ${clock(step.toS ?? length)}`}${says ? `; ${says}` : ''}`}
    >
      <line x1="0" x2="100%" y1="16" y2="16" stroke="var(--color-rule)" strokeWidth="2" />
      {step.fromS !== null && (
        <line
          x1={x(step.fromS)}
          x2={x(step.toS ?? length)}
          y1="16"
          y2="16"
          stroke={step.state === 'done' ? 'var(--color-act)' : 'var(--color-soft)'}
          strokeWidth="12"
        />
      )}
      {step.broken.map((b) =>
        b.paused ? (
          <line
            key={`${b.atS} ${b.condition}`}
            x1={x(b.atS)}
            x2={x(b.atS)}
            y1="6"
            y2="26"
            stroke="var(--color-ink)"
            strokeWidth="2"
            strokeDasharray="3 3"
          />
        ) : (
          <text
            key={`${b.atS} ${b.condition}`}
            x={x(b.atS)}
            y="23"
            textAnchor="middle"
            className="fill-caution text-[20px] font-bold"
          >
            ✕
          </text>
        ),
      )}
    </svg>
  );
}

function Lapses({ review, seek }: { review: Review; seek: (s: number) => void }) {
  const breaks = review.steps.flatMap((s) => s.broken.filter((b) => !b.paused).map((b) => ({ ...b, step: s.id })));
  const pauses = review.steps.reduce((n, s) => n + s.broken.filter((b) => b.paused).length, 0);
  if (breaks.length + pauses === 0) return null;
  return (
    <section>
      <h2 className="m-0 mb-1 text-base font-[650]">
        {breaks.length} {breaks.length === 1 ? 'break' : 'breaks'}, {pauses} {pauses === 1 ? 'pause' : 'pauses'}
      </h2>
      <ul className="m-0 grid list-none gap-2 p-0">
        {breaks.slice(0, 30).map((b) => (
          <li key={`${b.step} ${b.atS} ${b.condition}`} className="flex flex-wrap items-center gap-3">
            <button type="button" className="btn btn-sm figure" onClick={() => seek(b.atS)}>
              {clock(b.atS)}
            </button>
            <span>
              {b.step.replaceAll('-', ' ')}: <Say text={b.why} />
              {b.value !== null && <Say text={said`, ${tenths(b.value, b.unit === null ? {} : { unit: b.unit })}`} />}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
