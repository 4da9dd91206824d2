import type { RunView } from '@just-balance/contract';
import { PRECEDENCE, type Proposal, waitingMinutes } from '@just-balance/core/procedures';
import { phaseNow } from '@just-balance/core/proof';
import { joined } from '@just-balance/core/units';
import { useSearchParams } from 'react-router';
import { useAt } from '../../data/live.tsx';
import type { StationProps } from '../../job/frame/station.ts';
import { ToStation } from '../../job/frame/ToStation.tsx';
import { Cautions } from '../../job/work/Cautions.tsx';
import { later } from '../../ui/later.tsx';
import { Press } from '../../ui/May.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Tabs } from '../../ui/Tabs.tsx';
import { LastWork } from './LastWork.tsx';
import { Plan, useBegin, useProcedures, useServicePlan } from './Plan.tsx';
import { runsOf, useRun } from './useRun.ts';

const wait = <p className="m-0 text-soft">Opening…</p>;
const RunScreen = later(async () => (await import('./RunScreen.tsx')).RunScreen, wait);
const AfterRepair = later(async () => (await import('./AfterRepair.tsx')).AfterRepair, wait);
const ByHand = later(async () => (await import('./ByHand.tsx')).ByHand, wait);
const CleanOrReplacePanel = later(async () => (await import('./CleanOrReplacePanel.tsx')).CleanOrReplacePanel, wait);
const PartsAndFigures = later(async () => (await import('./PartsAndFigures.tsx')).PartsAndFigures, wait);
const Pictures = later(async () => (await import('./Pictures.tsx')).Pictures, wait);
const PinFinder = later(async () => (await import('./PinFinder.tsx')).PinFinder, wait);
const Sensors = later(async () => (await import('./Sensors.tsx')).Sensors, wait);

const VIEWS = {
  Plan,
  'Clean or replace': CleanOrReplacePanel,
  Pins: PinFinder,
  'Which sensor': Sensors,
  Pictures,
  'Parts and figures': PartsAndFigures,
  'After the repair': AfterRepair,
  'By hand': ByHand,
} as const;
type View = keyof typeof VIEWS;
/** Beside a run: what a step may need. */
const BESIDE: readonly View[] = ['Pins', 'Which sensor', 'Pictures', 'Clean or replace', 'Parts and figures'];

const inAddress = (view: View) => view.toLowerCase().replaceAll(' ', '-');

/** What stands open, kept in the address: it is there again on the way back and after a reload. */
function useView(): [View | null, (view: View | null) => void] {
  const [asked, setAsked] = useSearchParams();
  const view = (Object.keys(VIEWS) as View[]).find((v) => inAddress(v) === asked.get('view')) ?? null;
  const choose = (next: View | null) =>
    setAsked(
      (before) => {
        if (next) before.set('view', inAddress(next));
        else before.delete('view');
        return before;
      },
      { replace: true, preventScrollReset: true },
    );
  return [view, choose];
}

export function ServiceStation(props: StationProps) {
  const { open } = runsOf(props.job);
  return open ? <UnderWay key={open.id} {...props} run={open} /> : <Between {...props} />;
}

function UnderWay({ run, ...props }: StationProps & { run: RunView }) {
  const handle = useRun(props.job.id, run);
  const [asked, setView] = useView();
  const view = asked && BESIDE.includes(asked) ? asked : null;
  const Shown = view && VIEWS[view];
  return (
    <RunScreen {...props} handle={handle} beside={<Beside view={view} setView={setView} />}>
      {Shown && (
        <section className="card p-4" aria-label={view}>
          <Shown {...props} />
        </section>
      )}
    </RunScreen>
  );
}

/** Ways to what a step may need. */
function Beside({ view, setView }: { view: View | null; setView: (v: View | null) => void }) {
  return (
    <div className="card flex flex-row flex-wrap gap-1 p-2 lg:flex-col" role="group" aria-label="Beside the steps">
      {BESIDE.map((v) => (
        <button
          key={v}
          type="button"
          aria-pressed={view === v}
          className={`btn ${view === v ? 'btn-neutral' : 'btn-ghost'} lg:justify-start`}
          onClick={() => setView(view === v ? null : v)}
        >
          {v}
        </button>
      ))}
    </div>
  );
}

function Between(props: StationProps) {
  const { job } = props;
  useAt('Service');
  const procedures = useProcedures();
  const plan = useServicePlan(job, procedures);
  const repaired = phaseNow(job) === 'after';
  const last = job.runs.at(-1);
  const [chosen, setView] = useView();
  const view = chosen ?? (repaired ? 'After the repair' : 'Plan');
  const Shown = VIEWS[view];
  return (
    <>
      <Head job={job} repaired={repaired} first={plan[0] ?? null} setView={setView} />
      {last && <LastWork key={last.id} jobId={job.id} run={last} />}
      <Cautions job={job} step="repair" />
      <Tabs label="Service" views={Object.keys(VIEWS) as View[]} view={view} choose={setView}>
        <Shown {...props} />
      </Tabs>
      <p className="m-0 text-[0.93rem] text-soft">{PRECEDENCE}</p>
    </>
  );
}

function Head({
  job,
  repaired,
  first,
  setView,
}: {
  job: StationProps['job'];
  repaired: boolean;
  first: Proposal | null;
  setView: (v: View) => void;
}) {
  const { busy, trouble, begin } = useBegin(job.id);
  if (repaired)
    return (
      <NextStep
        title="Reset or relearn, then take the same readings again"
        why="Nothing has been cleared: let the memory settle, or clear once everything is on record. The figures are judged at Prove."
      >
        <button type="button" className="btn btn-lg" onClick={() => setView('Plan')}>
          More work
        </button>
        <ToStation station="prove">To Prove</ToStation>
      </NextStep>
    );
  if (!first)
    return (
      <NextStep
        title="Choose a procedure, or write down what is done"
        why={
          job.diagnoses.length === 0
            ? 'No judgement yet: readings first is better.'
            : 'The judgement proposes no work of its own.'
        }
      />
    );
  return (
    <>
      <NextStep
        title={first.procedure.title}
        why={joined(
          [
            first.why,
            ...(first.open.length > 0 ? [`Still to be ruled out first: ${first.open.join(', ')}.`] : []),
            first.procedure.purpose,
            `About ${first.procedure.minutes + waitingMinutes(first.procedure)} min.`,
          ],
          ' ',
        )}
      >
        <Press className="btn btn-primary btn-lg" disabled={busy} onClick={() => begin(first.procedure)}>
          Begin
        </Press>
      </NextStep>
      <Problem trouble={trouble} />
    </>
  );
}
