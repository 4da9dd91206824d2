import { cut, type FinishImportRequest, type JobView, type NewImportRequest, type Phase } from '@just-balance/contract';
import type { RecordedEngine } from '@just-balance/core/capture';
import { pointLabel } from '@just-balance/core/case';
import { stationPressure } from '@just-balance/core/expected';
import { type Mapping, missingOf, type NumberStyle } from '@just-balance/core/recordingFiles';
import { counted, numberText } from '@just-balance/core/units';
import { proxy, type Remote, wrap } from 'comlink';
import { FileUp } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { ReadingLine, readingLines } from '../../capture/KeptReading.tsx';
import { newId, said } from '../../data/api.ts';
import { queue } from '../../data/queue.ts';
import { keyFigure } from '../../job/figures.ts';
import { Fold } from '../../ui/Fold.tsx';
import { clock } from '../../ui/figures.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say, useShown } from '../../ui/preferences.tsx';
import { channelLabel } from './channels.ts';
import { LayoutChoices, NumberQuestions } from './LayoutChoices.tsx';
import { MappingTable } from './MappingTable.tsx';
import { rememberedMapping, rememberMapping } from './mappings.ts';
import type { Importer, Look, ReadFile, Said } from './protocol.ts';

const LOOKING = 'Looking at the first lines';

type Step =
  | { at: 'choose' }
  | {
      at: 'looked';
      file: File;
      look: Look;
      mapping: Mapping | null;
      /** What was said of the layout, and of numbers that can be read two ways. */
      said: Said;
      answers: Readonly<Record<number, NumberStyle>>;
      remembered: boolean;
    }
  | { at: 'busy'; file: File; what: string; share: number }
  | { at: 'read'; file: File; read: ReadFile; chosen: ReadonlySet<string>; right: readonly string[] }
  | { at: 'kept'; name: string; captureId: string; sent: boolean };

/** A log from elsewhere: dropped, understood, corrected, read off the interface's thread, kept whole or not at all. */
export function ImportPanel({
  job,
  phase,
  file: dropped,
  close,
  look: lookAt,
}: {
  job: JobView;
  phase: Phase;
  file: File | null;
  close: () => void;
  look: (captureId: string) => void;
}) {
  const [step, setStep] = useState<Step>({ at: 'choose' });
  const [problem, setProblem] = useState<string | null>(null);
  const worker = useRef<{ thread: Worker; importer: Remote<Importer> } | null>(null);
  const run = useRef(0);

  const importer = () => {
    if (!worker.current) {
      const thread = new Worker(new URL('./import.worker.ts', import.meta.url), { type: 'module' });
      worker.current = { thread, importer: wrap<Importer>(thread) };
    }
    return worker.current.importer;
  };
  const end = () => {
    worker.current?.thread.terminate();
    worker.current = null;
  };
  useEffect(() => end, []);

  const open = async (file: File, layout: Said = {}, before: Mapping | null = null) => {
    setProblem(null);
    const mine = ++run.current;
    try {
      if (Object.keys(layout).length === 0) setStep({ at: 'busy', file, what: LOOKING, share: 0 });
      const look = await importer().look(file, layout);
      if (mine !== run.current) return;
      const known = look.kind === 'csv' ? await rememberedMapping(look.mapping).catch(() => null) : null;
      if (mine !== run.current) return;
      const proposed = known ?? (look.kind === 'csv' ? look.mapping : null);
      // What was said of the columns stands while they are the same ones.
      const same =
        before !== null &&
        proposed !== null &&
        before.units === proposed.units &&
        before.headers.join('\u001f') === proposed.headers.join('\u001f');
      setStep({
        at: 'looked',
        file,
        look,
        mapping: same
          ? { ...proposed, roles: before.roles, ...(before.names ? { names: before.names } : {}) }
          : proposed,
        said: layout,
        answers: {},
        remembered: known !== null,
      });
    } catch (e) {
      setStep({ at: 'choose' });
      setProblem(`${file.name}: ${said(e)}`);
    }
  };
  useEffect(() => {
    if (dropped) void open(dropped);
  }, [dropped]);

  const cancel = () => {
    run.current++;
    end();
    setStep({ at: 'choose' });
  };

  const engine = (): RecordedEngine => ({
    banks: job.vehicle.banks ?? 1,
    metered: job.vehicle.metering !== 'speed-density',
    fuel: job.vehicle.fuel,
    turbo: job.vehicle.induction === 'turbo',
    baroKPa: stationPressure(job.ambient).baroKPa,
  });

  /** A doubtful channel is right after all, or not: the points are looked for again. */
  const judge = async (s: Extract<Step, { at: 'read' }>, right: readonly string[]) => {
    const mine = ++run.current;
    try {
      const found = await importer().findAgain(
        engine(),
        [...right],
        proxy(() => {}),
      );
      if (mine === run.current)
        setStep({ ...s, right, read: { ...s.read, found }, chosen: new Set(found.map((f) => f.at)) });
    } catch (e) {
      if (mine === run.current) setProblem(`${s.file.name}: ${said(e)}`);
    }
  };

  const read = async (s: Extract<Step, { at: 'looked' }>) => {
    setProblem(null);
    const mine = ++run.current;
    const { file } = s;
    try {
      setStep({ at: 'busy', file, what: 'reading', share: 0 });
      const result = await importer().read(
        file,
        s.look,
        s.mapping && { ...s.mapping, numbers: { ...s.mapping.numbers, ...s.answers } },
        engine(),
        proxy((what, share) => {
          if (mine === run.current) setStep({ at: 'busy', file, what, share });
        }),
      );
      if (mine !== run.current) return;
      if (s.mapping) await rememberMapping(s.mapping).catch(() => {});
      setStep({ at: 'read', file, read: result, chosen: new Set(result.found.map((f) => f.at)), right: [] });
    } catch (e) {
      if (mine !== run.current) return;
      setStep(s);
      setProblem(`${file.name}: ${said(e)}`);
    }
  };

  const keep = async (s: Extract<Step, { at: 'read' }>) => {
    setProblem(null);
    const mine = ++run.current;
    const { file, read: r } = s;
    try {
      const parts = await importer().parts(
        proxy((what, share) => {
          if (mine === run.current) setStep({ at: 'busy', file, what, share });
        }),
      );
      if (mine !== run.current) return;
      setStep({ at: 'busy', file, what: 'keeping', share: 1 });
      const captureId = newId();
      const taken = r.found.filter((f) => s.chosen.has(f.at));
      const begin: NewImportRequest = {
        id: captureId,
        phase,
        name: cut(file.name, 200),
        ...(r.startedAt ? { startedAt: r.startedAt } : {}),
        summary: {
          rows: r.rows,
          problemCount: r.problemCount,
          problems: r.problems.map((p) => cut(p, 300)),
          leftOut: r.leftOut.slice(0, 500).map((l) => cut(`${l.name}: ${l.why}`, 300)),
        },
      };
      const counts: Record<string, number> = {};
      for (const p of parts) counts[p.channel] = (counts[p.channel] ?? 0) + 1;
      const finish: FinishImportRequest = {
        parts: counts,
        marks: r.found.map((f) => ({ at: f.at, from: f.fromS, to: f.toS })),
        readings: taken.map((f) => ({
          id: newId(),
          ...(f.flags.length > 0 ? { doubtful: cut(f.flags.join('; '), 200) } : {}),
          reading: f.reading,
        })),
      };
      const at = `/jobs/${job.id}/imports`;
      const label = `Import of ${file.name}`;
      const { sent, refused } = await queue([
        { jobId: job.id, label, method: 'POST', path: at, body: JSON.stringify(begin) },
        ...parts.map((p) => {
          const q = new URLSearchParams({ part: String(p.part), unit: p.unit });
          if (p.quantum !== null) q.set('quantum', String(p.quantum));
          const path = `${at}/${captureId}/columns/${encodeURIComponent(p.channel)}?${q}`;
          return { jobId: job.id, label, method: 'PUT' as const, path, body: p.bytes };
        }),
        { jobId: job.id, label, method: 'POST', path: `${at}/${captureId}/finish`, body: JSON.stringify(finish) },
      ]);
      if (refused) throw new Error(refused);
      end();
      setStep({ at: 'kept', name: file.name, captureId, sent });
    } catch (e) {
      if (mine !== run.current) return;
      setStep(s);
      setProblem(`${file.name}: ${said(e)}`);
    }
  };

  return (
    <>
      <ImportStep step={step} cancel={cancel} read={read} keep={keep} close={close} lookAt={lookAt} />
      <Problem text={problem} />
      <Stages at={step} />
      {step.at === 'choose' && <Choose open={(f) => void open(f)} />}
      {step.at === 'looked' && step.look.kind === 'csv' && (
        <NumberQuestions
          look={step.look}
          answers={step.answers}
          answer={({ column }, style) => setStep({ ...step, answers: { ...step.answers, [column]: style } })}
        />
      )}
      {step.at === 'looked' && step.mapping && step.look.kind === 'csv' && (
        <section className="card p-4">
          <h2 className="card-title mb-2">
            {step.remembered ? 'Read as last time this header set came' : 'What each column is taken for'}
          </h2>
          <LayoutChoices
            look={step.look}
            said={step.said}
            change={(layout) => void open(step.file, layout, step.mapping)}
          />
          <MappingTable
            mapping={step.mapping}
            rows={step.look.rows}
            change={(mapping) => setStep({ ...step, mapping })}
          />
        </section>
      )}
      {step.at === 'read' && (
        <>
          <Doubts read={step.read} right={step.right} judge={(right) => void judge(step, right)} />
          <ReadResult
            read={step.read}
            banks={job.vehicle.banks ?? 1}
            chosen={step.chosen}
            choose={(chosen) => setStep({ ...step, chosen })}
          />
        </>
      )}
    </>
  );
}

function ImportStep({
  step,
  cancel,
  read,
  keep,
  close,
  lookAt,
}: {
  step: Step;
  cancel: () => void;
  read: (s: Extract<Step, { at: 'looked' }>) => void;
  keep: (s: Extract<Step, { at: 'read' }>) => void;
  close: () => void;
  lookAt: (captureId: string) => void;
}) {
  const leave = (
    <button type="button" className="btn btn-lg" onClick={close}>
      Back to Readings
    </button>
  );
  if (step.at === 'choose')
    return (
      <NextStep
        title="Bring a log"
        why="CSV of any tool, a CAN log (candump), or a capture of this program. It is read on this device; nothing is kept before you say so."
      >
        {leave}
      </NextStep>
    );
  if (step.at === 'busy')
    return (
      <NextStep
        tone="wait"
        title={`${step.file.name}: ${step.what}, ${Math.round(step.share * 100)} %`}
        spoken={`${step.file.name}: ${step.what}`}
        why={`${(step.file.size / 1e6).toFixed(step.file.size > 1e7 ? 0 : 1)} MB. Nothing is kept yet.`}
      >
        <progress className="progress progress-primary h-3 w-40" value={step.share} max={1} aria-label="Progress" />
        <button type="button" className="btn btn-lg" onClick={cancel}>
          Cancel
        </button>
      </NextStep>
    );
  if (step.at === 'looked') {
    const { look, mapping } = step;
    if (look.kind === 'unknown')
      return (
        <NextStep tone="trouble" title={`${step.file.name} cannot be read yet`} why={`${look.message}.`}>
          <button type="button" className="btn btn-primary btn-lg" onClick={cancel}>
            Another file
          </button>
        </NextStep>
      );
    const named = mapping?.roles.filter((r) => r.kind === 'channel' || r.kind === 'loop').length ?? 0;
    const names = Object.values(mapping?.names ?? {}).filter((r) => r.kind === 'channel' || r.kind === 'loop').length;
    const missing = mapping && missingOf(mapping, look.kind === 'csv' && look.missing ? timeOf(look) : undefined);
    const open = look.kind === 'csv' ? look.asks.filter((a) => !step.answers[a.column]).length : 0;
    return (
      <NextStep
        tone={missing ? 'trouble' : 'act'}
        title={
          missing
            ? `${step.file.name} cannot be read yet`
            : open > 0
              ? `Say what ${counted(open, 'column')} of numbers ${open === 1 ? 'means' : 'mean'}`
              : look.kind === 'csv'
                ? `Look over the columns: ${named + names} are known`
                : look.kind === 'candump'
                  ? 'A CAN log: what was answered in it is read'
                  : 'A capture: it is read as it stands'
        }
        why={
          missing
            ? `${missing.charAt(0).toUpperCase()}${missing.slice(1)}.`
            : look.kind === 'csv'
              ? 'Correct what is wrong; the same headers are read the same way next time, by everybody here.'
              : ''
        }
      >
        <button type="button" className="btn btn-lg" onClick={cancel}>
          Another file
        </button>
        <button
          type="button"
          className="btn btn-primary btn-lg"
          disabled={missing !== null && missing !== undefined ? true : open > 0}
          onClick={() => read(step)}
        >
          Read it
        </button>
      </NextStep>
    );
  }
  if (step.at === 'read') {
    const points = step.chosen.size;
    return (
      <NextStep
        title={points > 0 ? `Keep it, with ${counted(points, 'reading')}` : 'Keep it as a recording'}
        why={leftOutInWords(step.read)}
      >
        <button type="button" className="btn btn-lg" onClick={cancel}>
          Do not keep it
        </button>
        <button type="button" className="btn btn-primary btn-lg" onClick={() => keep(step)}>
          Keep
        </button>
      </NextStep>
    );
  }
  return (
    <NextStep
      title={step.sent ? `${step.name} is kept` : `${step.name} is kept on this device`}
      why={
        step.sent
          ? 'Its readings stand with the others.'
          : 'The server does not answer: it goes up by itself as soon as it does.'
      }
    >
      {leave}
      {step.sent && (
        <button type="button" className="btn btn-primary btn-lg" onClick={() => lookAt(step.captureId)}>
          Look at it
        </button>
      )}
    </NextStep>
  );
}

/** The form the clock was found to have; null where it has none that is known. */
function timeOf(look: Extract<Look, { kind: 'csv' }>) {
  return look.missing?.includes('not a time') ? null : look.mapping.timeFormat;
}

/** Columns named in the headline; the rest is counted and stands below. */
const NAMED = 5;

/** Every column that was left out with its reason, as one sentence. */
function leftOutInWords(r: ReadFile): string {
  const cells =
    r.problemCount > 0 ? ` ${counted(r.problemCount, 'cell or line', 'cells or lines')} could not be read.` : '';
  const channels = counted(r.channels.length, 'channel');
  if (r.leftOut.length === 0) return `${channels}, no column left out.${cells}`;
  const named = r.leftOut.slice(0, NAMED).map((l) => `${cut(l.name, 40)} (${l.why})`);
  const more = r.leftOut.length - named.length;
  return `${channels}. Left out: ${named.join(', ')}${more > 0 ? ` and ${more.toLocaleString('en-US')} more, listed below` : ''}.${cells}`;
}

/** Channels that cannot be what they are taken for: asked, and not used until they are said to be right. */
function Doubts({
  read,
  right,
  judge,
}: {
  read: ReadFile;
  right: readonly string[];
  judge: (right: readonly string[]) => void;
}) {
  if (read.doubts.length === 0) return null;
  return (
    <section className="card grid gap-3 p-4" aria-label="Channels that are doubted">
      <h2 className="card-title">Not used unless you say so</h2>
      {read.doubts.map((d) => {
        const is = right.includes(d.channel);
        return (
          <div key={d.channel} className="flex flex-wrap items-center gap-3">
            <p className="m-0 flex-1">
              <strong>{channelLabel(d.channel)}</strong>: <Say text={d.text} />
            </p>
            <button
              type="button"
              aria-pressed={is}
              className={`btn ${is ? 'btn-neutral' : ''}`}
              onClick={() => judge(is ? right.filter((c) => c !== d.channel) : [...right, d.channel])}
            >
              It is right
            </button>
          </div>
        );
      })}
    </section>
  );
}

const STAGES = ['Choose a log', 'Look it over', 'See what is in it', 'Kept'] as const;

function stageOf(s: Step): number {
  if (s.at === 'busy') return s.what === LOOKING ? 1 : 2;
  return { choose: 0, looked: 1, read: 2, kept: 3 }[s.at];
}

/** How far the import has come. */
function Stages({ at }: { at: Step }) {
  const now = stageOf(at);
  return (
    <ol className="steps m-0 w-full p-0" aria-label="Import">
      {STAGES.map((label, i) => (
        <li
          key={label}
          className={`step ${i <= now ? 'step-primary' : ''}`}
          data-content={i < now || now === 3 ? '✓' : String(i + 1)}
          aria-current={i === now ? 'step' : undefined}
        >
          {label}
        </li>
      ))}
    </ol>
  );
}

function Choose({ open }: { open: (f: File) => void }) {
  const [over, setOver] = useState(false);
  return (
    <label
      className={`grid min-h-52 cursor-pointer place-items-center content-center gap-3 rounded-xl border-2 border-dashed p-6 text-center focus-within:outline-3 focus-within:outline-act ${over ? 'border-act bg-sheet' : 'border-soft'}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const file = e.dataTransfer.files[0];
        if (file) open(file);
      }}
    >
      <FileUp size={34} aria-hidden />
      <span className="text-[1.1rem] font-[650]">Drag a log here, or press to choose one</span>
      <span className="text-soft">.csv .txt .candump .log .json</span>
      <input
        type="file"
        className="sr-only"
        accept=".csv,.txt,.tsv,.candump,.log,.json"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) open(file);
          e.target.value = '';
        }}
      />
    </label>
  );
}

function ReadResult({
  read,
  banks,
  chosen,
  choose,
}: {
  read: ReadFile;
  banks: number;
  chosen: ReadonlySet<string>;
  choose: (c: ReadonlySet<string>) => void;
}) {
  const show = useShown();
  const figure = (v: number, unit: string) => {
    const s = show(v, unit, Math.abs(v) >= 100 ? 0 : 2);
    return numberText(s.value, s.digits);
  };
  const toggle = (at: string) => {
    const next = new Set(chosen);
    if (!next.delete(at)) next.add(at);
    choose(next);
  };
  return (
    <div className="grid items-start gap-3 lg:grid-cols-[1.1fr_1fr]">
      <section className="card p-4">
        <h2 className="card-title">Operating points found</h2>
        {read.found.length === 0 && (
          <p className="mb-0 text-soft">
            None that meets its conditions: warm, closed loop, steady for ten seconds. The recording can still be kept
            and looked at.
          </p>
        )}
        <ul className="m-0 mt-2 list-none p-0">
          {read.found.map((f) => (
            <li key={f.at} className="border-t border-rule">
              <label className="flex min-h-14 cursor-pointer items-center gap-3 py-1">
                <input type="checkbox" className="checkbox" checked={chosen.has(f.at)} onChange={() => toggle(f.at)} />
                <span className="flex-1">
                  <span className="font-[650]">{pointLabel(f.at)}</span>{' '}
                  <span className="figure text-soft">
                    {clock(f.fromS)}–{clock(f.toS)}
                    {f.windows > 1 && `, the steadiest of ${f.windows}`}
                  </span>
                  <span className="block text-[0.9rem] text-soft">
                    <ReadingLine lines={readingLines(f.reading, banks, show).slice(0, 8)} />
                  </span>
                  {f.flags.map((t) => (
                    <span key={t} className="badge badge-warning ml-2 whitespace-normal">
                      <Say text={t} />
                    </span>
                  ))}
                </span>
                <span className="figure font-[650]">
                  <Say text={keyFigure(f.reading)} />
                </span>
              </label>
            </li>
          ))}
        </ul>
        {(read.problemCount > 0 || read.leftOut.length > 0) && (
          <Fold open className="mt-3" title="What was left out">
            {read.leftOut.length > 0 && (
              <ul className="my-1 max-h-48 list-none overflow-y-auto p-0">
                {read.leftOut.map((l) => (
                  <li key={l.name}>
                    <span className="font-[550]">{l.name}</span>: {l.why}
                  </li>
                ))}
              </ul>
            )}
            <ul className="figure m-0 max-h-48 list-none overflow-y-auto p-0 text-[0.9rem]">
              {read.problems.map((p) => (
                <li key={p}>{p}</li>
              ))}
              {read.problemCount > read.problems.length && (
                <li>and {(read.problemCount - read.problems.length).toLocaleString('en-US')} more</li>
              )}
            </ul>
          </Fold>
        )}
      </section>
      <section className="card p-4">
        <h2 className="card-title">
          {counted(read.channels.length, 'channel')}, {clock(read.durationS)}
        </h2>
        <div className="mt-2 max-h-[420px] overflow-y-auto">
          <table className="table">
            <thead>
              <tr>
                <th scope="col">Channel</th>
                <th scope="col" className="right">
                  Least
                </th>
                <th scope="col" className="right">
                  Greatest
                </th>
                <th scope="col" className="right">
                  Samples
                </th>
              </tr>
            </thead>
            <tbody>
              {read.channels.map((c) => (
                <tr key={c.id}>
                  <td>{channelLabel(c.id)}</td>
                  <td className="figure right">{figure(c.min, c.unit)}</td>
                  <td className="figure right whitespace-nowrap">
                    {figure(c.max, c.unit)} <span className="text-soft">{show(0, c.unit, 0).unit}</span>
                  </td>
                  <td className="figure right text-soft">{c.n.toLocaleString('en-US')}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
    </div>
  );
}
