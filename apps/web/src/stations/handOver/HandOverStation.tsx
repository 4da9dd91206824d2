import { clockOf, PAPERS, type PaperSize } from '@just-balance/contract';
import { beforeItGoesOut, handOverDocuments, UTC } from '@just-balance/core/handOver';
import { STATION_LABELS } from '@just-balance/core/standing';
import { type Said, said } from '@just-balance/core/units';
import { FileText, Package, Printer } from 'lucide-react';
import { useMemo, useState } from 'react';
import { changeHead } from '../../data/jobHead.ts';
import { useLimits } from '../../data/limits.ts';
import { useAccount, useMay } from '../../data/session.tsx';
import { useProof } from '../../job/compare/afterRepair.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { useStanding } from '../../job/frame/ToNext.tsx';
import { newestReadings } from '../../job/judgement/figures.ts';
import { Cautions, Precedence } from '../../job/work/Cautions.tsx';
import { WithDock } from '../../ui/Dock.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say, usePreferences } from '../../ui/preferences.tsx';
import { Tabs } from '../../ui/Tabs.tsx';
import { useAction } from '../../ui/useAction.ts';
import { CameBackButton, ComeBack } from './ComeBack.tsx';
import { LeaveOut } from './LeaveOut.tsx';
import { Outgoing } from './Outgoing.tsx';
import { Paper } from './Paper.tsx';
import { Send } from './Send.tsx';

const VIEWS = { 'For the customer': 'customer', 'For the next technician': 'technician' } as const;
type View = keyof typeof VIEWS;

/** What this tablet prints on. */
const PAPER = 'jb-paper';
const PAPER_NAMES: Readonly<Record<PaperSize, string>> = { A4: 'A4', LETTER: 'Letter' };

/** What was chosen here; without a choice what is usual where those units are. */
function paperOf(kept: string | null, units: string): PaperSize {
  return PAPERS.find((p) => p === kept) ?? (units === 'metric' ? 'A4' : 'LETTER');
}

/** Moments are told on the clock of who reads. */
const HERE = clockOf(Intl.DateTimeFormat().resolvedOptions().timeZone) ?? UTC;

/** Two documents from the same facts, and what comes after them. */
export function HandOverStation({ job }: StationProps) {
  const { busy, trouble, run } = useAction();
  const [view, setView] = useState<View>('For the customer');
  const { shop } = useAccount();
  const { units } = usePreferences();
  const [paper, setPaper] = useState<PaperSize>(() => paperOf(localStorage.getItem(PAPER), units));
  const choosePaper = (p: PaperSize) => {
    localStorage.setItem(PAPER, p);
    setPaper(p);
  };
  const limits = useLimits();
  const judged = useProof(job);
  const read = newestReadings(job, 'after').length > 0;
  const documents = useMemo(
    () =>
      handOverDocuments({
        job,
        shop: shop.name,
        ...(shop.settings.letterhead ? { letterhead: shop.settings.letterhead } : {}),
        proof: read ? judged : null,
        limits,
        units,
        clock: HERE,
        labour: shop.settings.labour,
        minutes: shop.settings.minutes,
      }),
    [job, shop, judged, read, limits, units],
  );
  const checks = useMemo(
    () => beforeItGoesOut(job, read ? judged : null, Object.values(documents)),
    [job, read, judged, documents],
  );
  const mayWork = useMay('work');
  const closed = job.status === 'closed';
  const { station, next } = useStanding(job);
  const notYet: Said =
    station === 'hand-over' || station === 'readiness'
      ? ''
      : said`It stands at ${STATION_LABELS[station]}: ${next.title}. `;
  const status = (s: 'open' | 'closed') => run(() => changeHead(job, { status: s }));
  const document = documents[VIEWS[view]];
  const path = `/jobs/${job.id}/hand-over/${VIEWS[view]}?units=${units}&zone=${encodeURIComponent(HERE.zone)}&paper=${paper}`;
  const title = [job.vehicle.plate, job.vehicle.label].filter(Boolean).join(' ');
  return (
    <WithDock
      label="Next step"
      dock={
        <>
          <div className="min-w-60 flex-1">
            <h1 className="m-0 text-[1.35rem] leading-tight font-bold" aria-live="polite">
              {closed ? 'Handed over' : 'Read it once as the customer will'}
            </h1>
            <p className="m-0 text-[0.95rem] text-soft">
              {closed ? (
                'It stays in the logbook with everything that was measured.'
              ) : (
                <Say text={said`${notYet}Press any words on the sheet to put them in yours.`} />
              )}
            </p>
            <Problem trouble={trouble} />
          </div>
          <div className="flex flex-wrap items-center justify-end gap-3 max-sm:w-full max-sm:*:flex-1 max-sm:*:px-3">
            <button type="button" className="btn btn-lg" onClick={() => window.print()}>
              <Printer size={19} aria-hidden /> Print
            </button>
            <a className="btn btn-lg" href={`/api${path}`} target="_blank" rel="noreferrer">
              <FileText size={19} aria-hidden /> PDF
            </a>
            <Send path={path} name={`${title}.pdf`} subject={`${document.title}: ${title}`} />
            {closed && mayWork && <CameBackButton job={job} />}
            {mayWork &&
              (closed ? (
                <button type="button" className="btn btn-lg" disabled={busy} onClick={() => status('open')}>
                  Open again
                </button>
              ) : (
                <button
                  type="button"
                  className="btn btn-primary btn-lg"
                  disabled={busy}
                  onClick={() => status('closed')}
                >
                  Close the job
                </button>
              ))}
          </div>
        </>
      }
    >
      <Cautions job={job} step="hand-over" />
      <div className="grid items-start gap-3 xl:grid-cols-[minmax(0,1fr)_300px]">
        <div className="grid min-w-0 gap-3">
          <Tabs label="Documents" views={Object.keys(VIEWS) as View[]} view={view} choose={setView}>
            <Paper key={view} job={job} document={document} mayEdit={mayWork && !closed} />
            <div className="mt-5">
              <Precedence />
            </div>
          </Tabs>
        </div>
        <Outgoing checks={checks} />
      </div>
      <ComeBack job={job} mayWork={mayWork} />
      <LeaveOut job={job} />
      <section className="card flex flex-row flex-wrap items-center justify-between gap-4 p-4 no-print">
        <p className="m-0">
          <strong className="font-[650]">Paper:</strong> what the PDF is laid out for.
        </p>
        <div className="flex gap-2" role="group" aria-label="Paper of the PDF">
          {PAPERS.map((p) => (
            <button
              key={p}
              type="button"
              aria-pressed={p === paper}
              className={`btn ${p === paper ? 'btn-neutral' : ''}`}
              onClick={() => choosePaper(p)}
            >
              {PAPER_NAMES[p]}
            </button>
          ))}
        </div>
      </section>
      <section className="card flex flex-row flex-wrap items-center justify-between gap-4 p-4 no-print">
        <p className="m-0">
          <strong className="font-[650]">Archive:</strong> the whole job in one file, with recordings and pictures; it
          can be read into another shop. Nothing is sent by itself.
        </p>
        <a className="btn" href={`/api/jobs/${job.id}/archive`} download={`job-${job.id}.jb.zip`}>
          <Package size={18} aria-hidden /> Archive
        </a>
      </section>
    </WithDock>
  );
}
