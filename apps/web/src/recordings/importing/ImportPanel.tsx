import type { JobView, Phase } from '@just-balance/contract';
import { stationPressure } from '@just-balance/core/expected';
import { proxy, type Remote, wrap } from 'comlink';
import { FileUp } from 'lucide-react';
import { useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react';
import { newId, said } from '../../data/api.ts';
import { queue } from '../../data/queue.ts';
import { ImportSession, type ImportState, LOOKING } from '../../sessions/ImportSession.ts';
import type { Importer } from '../../sessions/importProtocol.ts';
import { Problem } from '../../ui/Problem.tsx';
import { ImportHead } from './ImportHead.tsx';
import { LayoutChoices, NumberQuestions } from './LayoutChoices.tsx';
import { MappingTable } from './MappingTable.tsx';
import { rememberedMapping, rememberMapping } from './mappings.ts';
import { ClockSteps, Doubts, ReadResult } from './ReadResult.tsx';

/** The reader in a worker of its own, begun when it is first asked and ended with `end`. */
function reader() {
  let running: { thread: Worker; importer: Remote<Importer> } | null = null;
  const importer = () => {
    if (!running) {
      const thread = new Worker(new URL('./import.worker.ts', import.meta.url), { type: 'module' });
      running = { thread, importer: wrap<Importer>(thread) };
    }
    return running.importer;
  };
  const asked: Importer = {
    look: (file, layout) => importer().look(file, layout),
    read: (file, look, mapping, engine, progress) => importer().read(file, look, mapping, engine, proxy(progress)),
    findAgain: (engine, right, progress) => importer().findAgain(engine, right, proxy(progress)),
    parts: (progress) => importer().parts(proxy(progress)),
  };
  return {
    importer: () => asked,
    end() {
      running?.thread.terminate();
      running = null;
    },
  };
}

function useImport(job: JobView, phase: Phase): ImportSession {
  const now = useRef(job);
  now.current = job;
  const { id } = job;
  const [session, end] = useMemo(() => {
    const { importer, end } = reader();
    const engine = () => {
      const { vehicle, ambient } = now.current;
      return {
        banks: vehicle.banks ?? 1,
        metered: vehicle.metering !== 'speed-density',
        fuel: vehicle.fuel,
        turbo: vehicle.induction === 'turbo',
        baroKPa: stationPressure(ambient).baroKPa,
      };
    };
    const remembered = rememberedMapping;
    const remember = rememberMapping;
    const parts = { jobId: id, phase, engine, importer, end, remembered, remember, queue, newId, said };
    return [new ImportSession(parts), end] as const;
  }, [id, phase]);
  useEffect(() => end, [end]);
  return session;
}

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
  const session = useImport(job, phase);
  const step = useSyncExternalStore(session.subscribe, session.state);
  useEffect(() => {
    if (dropped) void session.open(dropped);
  }, [dropped, session]);
  return (
    <>
      <ImportHead step={step} session={session} close={close} lookAt={lookAt} />
      <Problem text={step.problem} />
      <Stages at={step} />
      {step.at === 'choose' && <Choose open={(f) => void session.open(f)} />}
      {step.at === 'looked' && step.look.kind === 'csv' && (
        <NumberQuestions
          look={step.look}
          answers={step.answers}
          answer={({ column }, style) => session.answer(column, style)}
        />
      )}
      {step.at === 'looked' && step.mapping && step.look.kind === 'csv' && (
        <section className="card p-4">
          <h2 className="card-title mb-2">
            {step.remembered ? 'Read as last time this header set came' : 'What each column is taken for'}
          </h2>
          <LayoutChoices look={step.look} said={step.said} change={(layout) => void session.layOut(layout)} />
          <MappingTable mapping={step.mapping} rows={step.look.rows} change={(mapping) => session.take(mapping)} />
        </section>
      )}
      {step.at === 'read' && (
        <>
          <ClockSteps read={step.read} back={step.back} say={(back) => void session.clock(back)} />
          <Doubts read={step.read} right={step.right} judge={(right) => void session.judge(right)} />
          <ReadResult
            read={step.read}
            banks={job.vehicle.banks ?? 1}
            chosen={step.chosen}
            choose={(chosen) => session.choose(chosen)}
          />
        </>
      )}
    </>
  );
}

const STAGES = ['Choose a log', 'Look it over', 'See what is in it', 'Kept'] as const;

function stageOf(s: ImportState): number {
  if (s.at === 'busy') return s.what === LOOKING ? 1 : 2;
  return { choose: 0, looked: 1, read: 2, kept: 3 }[s.at];
}

/** How far the import has come. */
function Stages({ at }: { at: ImportState }) {
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
