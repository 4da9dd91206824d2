import { type AttemptView, DriveAnswerRequest, type PracticeDrive, ROUTES, WRITES } from '@just-balance/contract';
import { MONITORS, type MonitorId } from '@just-balance/core/obd';
import { DRIVE_NEXT, type DriveNext, driveChoices } from '@just-balance/core/practice';
import {
  type BeforeCondition,
  bandInOwnUnit,
  boundsText,
  CONDITION_NAMES,
  stretchesOf,
} from '@just-balance/core/readiness';
import { pyramid, type Series } from '@just-balance/core/series';
import { idInWords, midSentence, numberText, type Said } from '@just-balance/core/units';
import { useMemo, useState } from 'react';
import { mutate } from 'swr';
import { around, type Range } from '../../charts/range.ts';
import { TraceChart, type TraceStrip } from '../../charts/TraceChart.tsx';
import { api } from '../../data/api.ts';
import { useAccount } from '../../data/session.tsx';
import { GiveUp } from '../../practice/GiveUp.tsx';
import { ReviewSheet } from '../../recordings/DriveReview.tsx';
import { channelLabel } from '../../recordings/importing/channels.ts';
import { Field } from '../../ui/Field.tsx';
import { clock } from '../../ui/figures.ts';
import { May } from '../../ui/May.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say, useShown } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** A drive that came back with something open: how the car stood, what was asked, what was driven, and what broke it. */
export function DriveCase({ a, drive }: { a: AttemptView; drive: PracticeDrive }) {
  const [zoom, setZoom] = useState<Range | null>(null);
  const [cursor, setCursor] = useState<number | null>(null);
  const series = useMemo((): Series => {
    const time = Float64Array.from(drive.time);
    const channels = drive.channels.map((c) => ({ id: c.id, unit: c.unit, time, value: Float64Array.from(c.values) }));
    return { startedAt: null, channels, marks: [] };
  }, [drive]);
  const all = useMemo((): Range => ({ from: 0, to: Math.max(1, drive.time.at(-1) ?? 1) }), [drive]);
  const { procedure, review } = drive;
  // With help the bands that the steps hold lie behind the traces.
  const helped = a.hints || review !== null;
  const strips = useMemo(
    (): TraceStrip[] =>
      series.channels.map((channel) => {
        const band = helped
          ? drive.procedure.steps
              .flatMap((s) => stretchesOf(s).flatMap((x) => x.hold ?? []))
              .find((b) => b.channel === channel.id && !b.ifKnown && b.low !== undefined)
          : undefined;
        const { low, high } = band ? bandInOwnUnit(band, channel.unit) : { low: null, high: null };
        return {
          channel,
          levels: pyramid(channel.time, channel.value),
          gaps: [],
          label: channelLabel(channel.id),
          digits: channel.unit === 'rpm' ? 0 : 1,
          low,
          high,
          expected: null,
        };
      }),
    [series, helped, drive.procedure],
  );
  const seek = (s: number) => {
    setZoom(around(s, s, all));
    setCursor(s);
  };
  // A try is answered by whoever began it.
  const mine = useAccount().name === a.by;
  const open = (ids: readonly string[]) => ids.map((m) => MONITORS[m as MonitorId] ?? m).join(', ') || 'none';
  return (
    <>
      {!a.answered && (
        <NextStep
          title="One thing kept this drive from finishing"
          why="Hold how the car stood and what was driven against what the procedure asks. Then name what broke it."
        >
          {mine && <GiveUp attempt={a} />}
        </NextStep>
      )}
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <section className="card p-4">
          <h2 className="card-title">Before the key, and what came of it</h2>
          <Stood drive={drive} />
          <p className="m-0 mt-2">
            <span className="text-soft">Open before:</span> {open(drive.open.before)}
          </p>
          <p className="m-0">
            <span className="text-soft">Open after:</span>{' '}
            <strong className="font-[650]">{open(drive.open.after)}</strong>
          </p>
        </section>
        <section className="card p-4">
          <h2 className="card-title">Asked: {midSentence(procedure.title)}</h2>
          <ul className="m-0 mt-1 list-disc pl-5">
            {procedure.before.map((c) => (
              <li key={c.id}>
                {CONDITION_NAMES[c.id]}: <Say text={asked(c)} />
              </li>
            ))}
          </ul>
          <ol className="m-0 mt-2 list-decimal pl-5">
            {procedure.steps.map((s) => (
              <li key={s.id}>
                <span className="font-[650]">{idInWords(s.id)}:</span> <Say text={s.says} />
                {s.seconds === undefined ? '' : ` Held for ${clock(s.seconds)}${s.inAll ? ' in all' : ''}.`}
              </li>
            ))}
          </ol>
        </section>
      </div>
      <section className="card p-4" aria-label="What was driven">
        <div className="flex flex-wrap items-center justify-between gap-2">
          <h2 className="card-title">What was driven</h2>
          <button type="button" className="btn no-print" onClick={() => setZoom(null)} disabled={zoom === null}>
            All of it
          </button>
        </div>
        <TraceChart
          strips={strips}
          range={zoom ?? all}
          all={all}
          cursor={cursor}
          marks={[]}
          gaps={[]}
          setRange={(change) => setZoom((old) => change(old ?? all))}
          setCursor={setCursor}
        />
      </section>
      {!a.answered && mine && (
        <May needs="drive">
          <Answer a={a} drive={drive} cursor={cursor} />
        </May>
      )}
      {review && (
        <section className="card p-4" aria-label="The drive, step by step">
          <h2 className="card-title">As the coach saw it</h2>
          <ReviewSheet review={review} procedure={drive.procedure} series={series} seek={seek} />
        </section>
      )}
    </>
  );
}

/** What a condition asks for. */
function asked(c: BeforeCondition): Said {
  if (c.id === 'lamp') return 'off';
  return c.id === 'codes' ? 'none that stands against it' : boundsText(c);
}

function Stood({ drive }: { drive: PracticeDrive }) {
  const show = useShown();
  const inShown = (v: number, unit: string, digits = 0) => {
    const s = show(v, unit, digits);
    return `${numberText(s.value, s.digits)} ${s.unit}`;
  };
  const first = (id: string) => drive.channels.find((c) => c.id === id)?.values[0];
  const { soakHours, fuelPct, airC, altitudeM } = drive.before;
  const [ect, iat] = [first('ect'), first('iat')];
  const rows = [
    ['Engine off for', soakHours === null ? null : `${soakHours} h`],
    ['Coolant at the start', ect === undefined ? null : inShown(ect, '°C')],
    ['Intake air at the start', iat === undefined ? null : inShown(iat, '°C')],
    ['Outside air', airC === null ? null : inShown(airC, '°C')],
    ['Altitude', altitudeM === null ? null : inShown(altitudeM, 'm')],
    ['Fuel in the tank', fuelPct === null ? null : `${fuelPct} %`],
    ['Lamp, codes', 'off, none'],
  ].filter((r): r is [string, string] => r[1] !== null);
  return (
    <dl className="m-0 mt-1 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
      {rows.map(([what, value]) => (
        <div key={what} className="contents">
          <dt className="text-soft">{what}</dt>
          <dd className="figure m-0">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

function Answer({ a, drive, cursor }: { a: AttemptView; drive: PracticeDrive; cursor: number | null }) {
  const form = useTypedForm<{ what: string; second: string; next: string }, DriveAnswerRequest>({
    dto: DriveAnswerRequest,
    defaults: { what: '', second: '', next: '' },
    body: ({ what, second, next }) => ({
      what,
      ...(second.trim() === '' ? {} : { second: Number(typed(second)) }),
      next: next as DriveNext,
    }),
    check: ({ second }) => (Number.isNaN(Number(typed(second))) ? { second: 'seconds from the start' } : {}),
    send: async (body) => {
      const now = await api.send(WRITES.answerDrive(a.id), body);
      await mutate(ROUTES.attempt(a.id), now, { revalidate: false });
      await mutate(ROUTES.attempts);
    },
  });
  const [what, next] = [form.watch('what'), form.watch('next')];
  return (
    <form
      className="card flex flex-row flex-wrap items-end gap-3 p-4 no-print"
      aria-label="What broke it"
      onSubmit={form.submit}
      noValidate
    >
      <Field label="What broke it" error={form.error('what')}>
        {(aria) => (
          <select className="select w-[300px] max-w-full" {...form.register('what')} {...aria}>
            <option value="">choose</option>
            {driveChoices(drive.procedure).map((c) => (
              <option key={c.id} value={c.id}>
                {c.label}
              </option>
            ))}
          </select>
        )}
      </Field>
      <Field label="At second, if it broke on the way" error={form.error('second')}>
        {(aria) => <input className="input w-32" inputMode="decimal" {...form.register('second')} {...aria} />}
      </Field>
      {cursor !== null && (
        <button type="button" className="btn" onClick={() => form.setValue('second', cursor.toFixed(0))}>
          Take the cursor, {clock(cursor)}
        </button>
      )}
      <Field label="What next" error={form.error('next')}>
        {(aria) => (
          <select className="select w-[330px] max-w-full" {...form.register('next')} {...aria}>
            <option value="">choose</option>
            {Object.entries(DRIVE_NEXT).map(([id, label]) => (
              <option key={id} value={id}>
                {label}
              </option>
            ))}
          </select>
        )}
      </Field>
      <button type="submit" className="btn btn-primary" disabled={form.busy || what === '' || next === ''}>
        That is it
      </button>
      <Problem trouble={form.trouble} text={form.rest} />
    </form>
  );
}
