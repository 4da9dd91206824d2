import { cut, type FinishImportRequest, type JobView, type NewImportRequest, type Phase } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { stationPressure } from '@just-balance/core/expected';
import type { Mapping } from '@just-balance/core/recordingFiles';
import { proxy, type Remote, wrap } from 'comlink';
import { FileUp } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { newId, said } from '../../data/api.ts';
import { queue } from '../../data/queue.ts';
import { keyFigure } from '../../job/figures.ts';
import { Fold } from '../../ui/Fold.tsx';
import { clock } from '../../ui/figures.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useShown } from '../../ui/preferences.tsx';
import { channelLabel } from './channels.ts';
import { MappingTable } from './MappingTable.tsx';
import { rememberedMapping, rememberMapping } from './mappings.ts';
import type { Importer, Look, ReadFile } from './protocol.ts';

const LOOKING = 'Looking at the first lines';

type Step =
  | { at: 'choose' }
  | { at: 'looked'; file: File; look: Look; mapping: Mapping | null; remembered: boolean }
  | { at: 'busy'; file: File; what: string; share: number }
  | { at: 'read'; file: File; read: ReadFile; chosen: ReadonlySet<string> }
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

  const open = async (file: File) => {
    setProblem(null);
    const mine = ++run.current;
    try {
      setStep({ at: 'busy', file, what: LOOKING, share: 0 });
      const look = await importer().look(file);
      if (mine !== run.current) return;
      const before = look.kind === 'csv' ? await rememberedMapping(look.mapping).catch(() => null) : null;
      setStep({
        at: 'looked',
        file,
        look,
        mapping: before ?? (look.kind === 'csv' ? look.mapping : null),
        remembered: before !== null,
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

  const read = async (s: Extract<Step, { at: 'looked' }>) => {
    setProblem(null);
    const mine = ++run.current;
    const { file } = s;
    try {
      setStep({ at: 'busy', file, what: 'reading', share: 0 });
      const result = await importer().read(
        file,
        s.look,
        s.mapping,
        {
          banks: job.vehicle.banks ?? 1,
          metered: job.vehicle.metering !== 'speed-density',
          fuel: job.vehicle.fuel,
          turbo: job.vehicle.induction === 'turbo',
          baroKPa: stationPressure(job.ambient).baroKPa,
        },
        proxy((what, share) => {
          if (mine === run.current) setStep({ at: 'busy', file, what, share });
        }),
      );
      if (mine !== run.current) return;
      if (s.mapping) await rememberMapping(s.mapping).catch(() => {});
      setStep({ at: 'read', file, read: result, chosen: new Set(result.found.map((f) => f.at)) });
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
          leftOut: r.leftOut.slice(0, 500).map((p) => cut(p, 300)),
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
      {step.at === 'choose' && <Choose open={open} />}
      {step.at === 'looked' && step.mapping && step.look.kind === 'csv' && (
        <section className="card p-4">
          <h2 className="card-title mb-2">
            {step.remembered ? 'Read as last time this header set came' : 'What each column is taken for'}
          </h2>
          <MappingTable
            mapping={step.mapping}
            rows={step.look.rows}
            change={(mapping) => setStep({ ...step, mapping })}
          />
        </section>
      )}
      {step.at === 'looked' && step.look.kind === 'unknown' && step.look.rows.length > 0 && (
        <section className="card p-4">
          <h2 className="card-title mb-2">Its first lines</h2>
          <pre className="figure m-0 overflow-x-auto text-[0.9rem]">
            {step.look.rows.map((r) => r.join('  |  ')).join('\n')}
          </pre>
        </section>
      )}
      {step.at === 'read' && (
        <ReadResult read={step.read} chosen={step.chosen} choose={(chosen) => setStep({ ...step, chosen })} />
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
    return (
      <NextStep
        title={
          look.kind === 'csv'
            ? `Look over the columns: ${named + names} are known`
            : look.kind === 'candump'
              ? 'A CAN log: what was answered in it is read'
              : 'A capture: it is read as it stands'
        }
        why={look.kind === 'csv' ? 'Correct what is wrong; the same headers are read the same way next time.' : ''}
      >
        <button type="button" className="btn btn-lg" onClick={cancel}>
          Another file
        </button>
        <button type="button" className="btn btn-primary btn-lg" onClick={() => read(step)}>
          Read it
        </button>
      </NextStep>
    );
  }
  if (step.at === 'read') {
    const points = step.chosen.size;
    const left = step.read.problemCount + step.read.leftOut.length;
    return (
      <NextStep
        title={points > 0 ? `Keep it, with ${points} reading${points === 1 ? '' : 's'}` : 'Keep it as a recording'}
        why={
          left > 0
            ? `${step.read.channels.length} channels. Left out: ${step.read.leftOut.length} columns, ${step.read.problemCount} cells or lines; listed below.`
            : `${step.read.channels.length} channels, nothing left out.`
        }
      >
        <button type="button" className="btn btn-lg" onClick={cancel}>
          Drop it
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
      <span className="text-[1.1rem] font-[650]">Drop a log here, or press to choose one</span>
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
  chosen,
  choose,
}: {
  read: ReadFile;
  chosen: ReadonlySet<string>;
  choose: (c: ReadonlySet<string>) => void;
}) {
  const show = useShown();
  const figure = (v: number, unit: string) => {
    const s = show(v, unit, Math.abs(v) >= 100 ? 0 : 2);
    return s.value.toFixed(s.digits);
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
                  {f.flags.map((t) => (
                    <span key={t} className="badge badge-warning ml-2 whitespace-normal">
                      {t}
                    </span>
                  ))}
                </span>
                <span className="figure font-[650]">{keyFigure(f.reading)}</span>
              </label>
            </li>
          ))}
        </ul>
        {(read.problemCount > 0 || read.leftOut.length > 0) && (
          <Fold open className="mt-3" title="What was left out">
            {read.leftOut.length > 0 && <p className="my-1">Columns or channels: {read.leftOut.join(', ')}</p>}
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
          {read.channels.length} channels, {clock(read.durationS)}
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
