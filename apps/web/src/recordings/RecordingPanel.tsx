import { type JobView, MarkDto, type RecordingView, ROUTES, WRITES } from '@just-balance/contract';
import { OPERATING_POINTS, type OperatingPoint } from '@just-balance/core/case';
import { airflowOver, COOLANT_BAND } from '@just-balance/core/expected';
import { type Gap, gapsOf, pyramid } from '@just-balance/core/series';
import { counted, numberText } from '@just-balance/core/units';
import { Minus, Plus } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { mutate } from 'swr';
import { around, type Range, zoomed } from '../charts/range.ts';
import { TraceChart, type TraceStrip } from '../charts/TraceChart.tsx';
import { api } from '../data/api.ts';
import { useLimits } from '../data/limits.ts';
import { captureLabel } from '../job/judgement/figures.ts';
import { engineFacts } from '../job/vehicle/engineFacts.ts';
import { clock } from '../ui/figures.ts';
import { IconButton } from '../ui/IconButton.tsx';
import { Press } from '../ui/May.tsx';
import { NextStep } from '../ui/NextStep.tsx';
import { Problem } from '../ui/Problem.tsx';
import { Tabs } from '../ui/Tabs.tsx';
import { ChannelChoice } from './ChannelChoice.tsx';
import { DriveReview } from './DriveReview.tsx';
import { ExportMenu } from './ExportMenu.tsx';
import { Figures } from './Figures.tsx';
import { FOR_THE_CASE, IntoTheCase } from './IntoTheCase.tsx';
import { Marks } from './Marks.tsx';
import { OxygenSensors } from './OxygenSensors.tsx';
import { AirflowAgainstExpected, TrimAgainstAirflow, TrimMapPlot } from './Plots.tsx';
import { useRecording } from './useRecording.ts';
import { FIRST, FOR_DRIVE, FOR_TRACES, FOR_VIEWS, labelOf, MOST_STRIPS, VIEWS, type View } from './views.ts';

/** Strips that are shown where a recording has as many channels. [house] */
const LEAST_STRIPS = 4;

/** A recording: traces with a shared cursor, and what they make when drawn against each other. */
export function RecordingPanel({ job, captureId, close }: { job: JobView; captureId: string; close: () => void }) {
  const [view, setView] = useState<View>('Traces');
  const [chosen, setChosen] = useState<readonly string[] | null>(null);
  const [reading, setReading] = useState(false);
  /** What is shown while nobody has chosen: known once it is known which channels there are. */
  const [unasked, setUnasked] = useState<readonly string[]>([]);
  const wanted = useMemo(
    () => [
      ...new Set<string>([
        ...(reading ? FOR_THE_CASE : []),
        ...(view === 'Traces' ? FOR_TRACES : view === 'Drive' ? FOR_DRIVE : FOR_VIEWS),
        ...(chosen ?? unasked),
      ]),
    ],
    [view, chosen, unasked, reading],
  );
  const { view: recording, series, levels, loading, problem } = useRecording(job.id, captureId, wanted);
  const [zoom, setZoom] = useState<Range | null>(null);
  const [cursor, setCursor] = useState<number | null>(null);
  const all = useMemo((): Range => ({ from: 0, to: Math.max(1, recording?.durationS ?? 1) }), [recording?.durationS]);
  const range = zoom ?? all;
  const setRange = (change: (r: Range) => Range) => setZoom((old) => change(old ?? all));
  const available = useMemo(() => {
    const ids = (recording?.channels ?? []).filter((c) => c.kind === 'number').map((c) => c.id);
    return [...['1', '2'].filter((b) => ids.includes(`stft${b}`)).map((b) => `total${b}`), ...ids];
  }, [recording]);
  useEffect(() => {
    const first = FIRST.filter((id) => available.includes(id));
    const others = available.filter((id) => !FIRST.includes(id));
    setUnasked([...first, ...others].slice(0, Math.min(MOST_STRIPS, Math.max(LEAST_STRIPS, first.length))));
  }, [available]);
  const ids = chosen ?? unasked;
  const [maf, rpm, map, iat] = ['maf', 'rpm', 'map', 'iat'].map((id) => series.channels.find((c) => c.id === id));
  const expectedAir = useMemo(() => {
    const channels = [maf, rpm, map, iat].filter((c) => c !== undefined);
    const moments = airflowOver({ startedAt: null, channels, marks: [] }, engineFacts(job));
    if (moments.length === 0) return null;
    const time = Float64Array.from(moments, (m) => m.t);
    const value = Float64Array.from(moments, (m) => m.expectedGps);
    return { time, value, levels: pyramid(time, value) };
  }, [maf, rpm, map, iat, job]);
  const { watchPct } = useLimits();
  const strips = useMemo(
    (): TraceStrip[] =>
      ids.flatMap((id) => {
        const channel = series.channels.find((c) => c.id === id);
        if (!channel) return [];
        const trim = channel.unit === '%' && /^(total|stft|ltft)/.test(id);
        return [
          {
            channel,
            levels: levels.get(id) ?? [],
            gaps: gapsOf(channel.time),
            label: labelOf(id),
            digits: channel.unit === 'rpm' ? 0 : channel.unit === 'V' || channel.unit === 'λ' ? 2 : 1,
            low: trim ? -watchPct : id === 'ect' ? COOLANT_BAND.low : null,
            high: trim ? watchPct : id === 'ect' ? COOLANT_BAND.high : null,
            expected: id === 'maf' ? expectedAir : null,
          },
        ];
      }),
    [ids, series, levels, expectedAir, watchPct],
  );
  const marks = useMemo(() => (recording?.marks ?? []).map((m) => ({ ...m, label: captureLabel(m.at) })), [recording]);
  const middle = (range.from + range.to) / 2;
  const markHere = marks.find((m) => m.from <= middle && m.to >= middle)?.at;
  // Those that were seen as it was captured; of a file, wherever a strip that is shown has none.
  const gaps = useMemo(() => {
    if (!recording) return [];
    return recording.source === 'import' ? joined(strips.flatMap((s) => s.gaps)) : recording.gapSpans;
  }, [recording, strips]);
  const addMark = async (mark: MarkDto) =>
    mutate(ROUTES.recording(job.id, captureId), await api.send(WRITES.mark(job.id, captureId), mark), {
      revalidate: false,
    });
  if (!recording)
    return (
      <NextStep tone={problem ? 'trouble' : 'wait'} title={problem ?? 'Opening the recording…'} why="">
        <button type="button" className="btn btn-lg" onClick={close}>
          Back to Readings
        </button>
      </NextStep>
    );
  return (
    <>
      <NextStep
        title={`${recording.name ?? captureLabel(recording.at)}, ${clock(recording.durationS)}`}
        why={about(recording, recording.source === 'import' && series.channels.length === 0 ? null : gaps)}
      >
        <Press className="btn btn-lg" aria-expanded={reading} onClick={() => setReading(!reading)}>
          A reading of the part shown
        </Press>
        <ExportMenu jobId={job.id} captureId={captureId} onTheBus={recording.onTheBus} />
        <button type="button" className="btn btn-primary btn-lg" onClick={close}>
          Back to Readings
        </button>
      </NextStep>
      <Problem text={problem} />
      <Tabs label="Views of the recording" views={VIEWS} view={view} choose={setView} busy={loading}>
        {loading && <p className="m-0 text-soft">Loading channels…</p>}
        {view === 'Traces' && strips.length > 0 && (
          <TraceChart
            strips={strips}
            range={range}
            all={all}
            cursor={cursor}
            marks={marks}
            gaps={gaps}
            setRange={setRange}
            setCursor={setCursor}
          />
        )}
        {view === 'Trim against airflow' && <TrimAgainstAirflow job={job} series={series} range={range} />}
        {view === 'Trim map' && <TrimMapPlot job={job} series={series} range={range} />}
        {view === 'Airflow against expected' && <AirflowAgainstExpected job={job} series={series} range={range} />}
        {view === 'Drive' && !loading && (
          <DriveReview
            job={job}
            captureId={captureId}
            series={series}
            seek={(s) => {
              setView('Traces');
              setZoom(around(s, s, all));
              setCursor(s);
            }}
          />
        )}
        {view === 'Oxygen sensors' && <OxygenSensors series={series} range={range} />}
      </Tabs>
      {reading && !loading && (
        <IntoTheCase
          key={`${range.from} ${range.to}`}
          job={job}
          captureId={captureId}
          phase={recording.phase}
          series={series}
          range={range}
          at={(OPERATING_POINTS as readonly string[]).includes(markHere ?? '') ? (markHere as OperatingPoint) : null}
        />
      )}
      <div className="grid items-start gap-3 lg:grid-cols-[1.3fr_1fr]">
        <section className="card p-4">
          <div className="flex flex-wrap items-center gap-2">
            <h2 className="card-title mr-auto">
              Shown:{' '}
              <span className="figure">
                {clock(range.from)}–{clock(range.to)}
              </span>
            </h2>
            <IconButton name="Closer" press={() => setRange((r) => zoomed(r, 0.6, cursor ?? (r.from + r.to) / 2, all))}>
              <Plus size={20} aria-hidden />
            </IconButton>
            <IconButton
              name="Wider"
              press={() => setRange((r) => zoomed(r, 1 / 0.6, cursor ?? (r.from + r.to) / 2, all))}
            >
              <Minus size={20} aria-hidden />
            </IconButton>
            <button type="button" className="btn" onClick={() => setZoom(null)}>
              All
            </button>
          </div>
          <Figures strips={strips} range={range} />
        </section>
        <div className="grid gap-3">
          <Marks
            marks={marks}
            go={(m) => setZoom(around(m.from, m.to, all))}
            add={addMark}
            span={cursor === null ? range : { from: cursor, to: cursor }}
            at={cursor === null ? 'the part shown' : `the cursor, ${clock(cursor)}`}
          />
          <ChannelChoice available={available} chosen={ids} choose={setChosen} />
          {Object.keys(recording.setAside).length > 0 && (
            <section className="card p-4">
              <h2 className="card-title">Set aside while it was captured</h2>
              <ul className="m-0 pl-5">
                {Object.entries(recording.setAside)
                  .sort(([, a], [, b]) => b - a)
                  .map(([why, frames]) => (
                    <li key={why}>
                      {why} <span className="figure text-soft">{counted(frames, 'frame')}</span>
                    </li>
                  ))}
              </ul>
            </section>
          )}
          {recording.summary && (recording.summary.leftOut.length > 0 || recording.summary.problemCount > 0) && (
            <section className="card p-4">
              <h2 className="card-title">Left out when it was read</h2>
              {recording.summary.leftOut.length > 0 && (
                <p className="my-1">Columns: {recording.summary.leftOut.join(', ')}</p>
              )}
              <ul className="figure m-0 max-h-40 list-none overflow-y-auto p-0 text-[0.9rem]">
                {recording.summary.problems.map((p) => (
                  <li key={p}>{p}</li>
                ))}
              </ul>
            </section>
          )}
        </div>
      </div>
    </>
  );
}

/** Gaps that overlap as one. */
function joined(gaps: readonly Gap[]): Gap[] {
  const out: Gap[] = [];
  for (const g of [...gaps].sort((a, b) => a.from - b.from)) {
    const last = out.at(-1);
    if (last && g.from <= last.to) last.to = Math.max(last.to, g.to);
    else out.push({ ...g });
  }
  return out;
}

/** `gaps`: null while they are not known. */
function about(r: RecordingView, gaps: readonly Gap[] | null): string {
  const n = r.channels.reduce((s, c) => s + c.n, 0);
  const seconds = r.durationS - (gaps ?? []).reduce((s, g) => s + g.to - g.from, 0);
  const rate = seconds > 0 ? n / seconds : 0;
  const aside = Object.values(r.setAside).reduce((a, b) => a + b, 0);
  return [
    r.source === 'import' ? 'Imported' : `${r.seconds} s committed`,
    counted(r.channels.length, 'channel'),
    `${numberText(rate, 0)} values/s`,
    ...(aside > 0 ? [`${counted(aside, 'frame')} set aside`] : []),
    ...(gaps === null ? [] : [gapsInWords(gaps.length)]),
  ].join(' · ');
}

const gapsInWords = (n: number) => (n === 0 ? 'no gaps' : n === 1 ? 'one gap, marked' : `${n} gaps, marked`);
