import { TEST_BY_ID } from '@just-balance/core/catalogue';
import type { Settings } from '@just-balance/core/diagnosis';
import { afterJob, repairedFaults } from '@just-balance/core/handOver';
import { storyOf } from '@just-balance/core/proof';
import { format } from 'date-fns';
import { useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { CalculatorCard } from '../../calculators/CalculatorCard.tsx';
import { CameBack } from '../../job/compare/CameBack.tsx';
import type { StationProps } from '../../job/frame/station.ts';
import { ToStation } from '../../job/frame/ToStation.tsx';
import type { Judged as Judgement } from '../../job/judgement/diagnosis.worker.ts';
import { caseOf } from '../../job/judgement/figures.ts';
import { useJudgement, useSettings } from '../../job/judgement/useJudgement.ts';
import { Cautions } from '../../job/work/Cautions.tsx';
import { TestList } from '../../job/work/TestList.tsx';
import { useAttempt } from '../../practice/useAttempt.ts';
import { WithDock } from '../../ui/Dock.tsx';
import { May } from '../../ui/May.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say } from '../../ui/preferences.tsx';
import { DieselFigures } from './DieselFigures.tsx';
import { InDock } from './InDock.tsx';
import { MeasuredExpected } from './MeasuredExpected.tsx';
import { askedOf, firstWords, Next, type Opened } from './Next.tsx';
import { OutcomePanel } from './OutcomePanel.tsx';
import { startOf } from './outcomeFigures.tsx';
import { TestCatalogue } from './TestCatalogue.tsx';
import { TrimCard } from './TrimCard.tsx';
import { useSupposed } from './useSupposed.ts';
import { WhatFits } from './WhatFits.tsx';
import { WhatIf } from './WhatIf.tsx';

export function BalanceStation(props: StationProps) {
  const [search] = useSearchParams();
  const after = search.has('after') && storyOf(props.job).after.length > 0;
  const job = useMemo(() => (after ? afterJob(props.job) : props.job), [after, props.job]);
  const repaired = useMemo(() => (after ? repairedFaults(props.job) : []), [after, props.job]);
  const attempt = useAttempt(props.job);
  // Who learns without help has the readings and their own head.
  if (props.job.practice && (!attempt || (!attempt.hints && !attempt.answered))) return <WithoutHelp {...props} />;
  return <Judged {...props} job={job} whole={props.job} repaired={repaired} after={after} />;
}

function WithoutHelp({ job }: StationProps) {
  return (
    <>
      <NextStep
        title="Without help: weigh it yourself"
        why="Measured beside expected stands below; ask the car what you need, then name the cause."
      />
      <MeasuredExpected job={job} />
      {job.tests.length > 0 && <TestList job={job} />}
      <CameBack job={job} />
    </>
  );
}

/** What both states of the station are given. */
interface Common {
  job: StationProps['job'];
  after: boolean;
  settings: Settings;
  problem: string | null;
}

interface JudgedProps extends StationProps {
  /** The job itself, where `job` is what it was read as after the repair. */
  whole: StationProps['job'];
  repaired: readonly string[];
  after: boolean;
}

function Judged({ job, whole, repaired, after }: JudgedProps) {
  const { judgement, problem } = useJudgement(job, repaired);
  const settings = useSettings(job, repaired);
  return judgement ? (
    <Weighed {...{ job, whole, after, judgement, settings, problem }} />
  ) : (
    <NotYet {...{ job, after, settings, problem }} />
  );
}

/** Before anything was weighed: a look or a smell needs no reading first. */
function NotYet({ job, after, settings, problem }: Common) {
  const [test, setTest] = useState<string | null>(null);
  const waiting = job.readings.length + job.tests.length > 0;
  const picked = test === null ? undefined : TEST_BY_ID.get(test);
  return (
    <WithDock
      label="Next step"
      dock={
        picked ? (
          <InDock
            job={job}
            means={picked.id}
            first={firstWords(picked, undefined, true)}
            title={picked.label}
            why={<Say text={picked.how} />}
            caution={<Cautions job={job} step={`test:${picked.id}`} inDock />}
          >
            <May>
              <OutcomePanel
                key={picked.id}
                job={job}
                row={picked}
                likelyBank={1}
                after={after}
                recorded={() => setTest(null)}
              />
            </May>
          </InDock>
        ) : (
          <InDock
            job={job}
            means="readings"
            first={waiting ? undefined : 'Next'}
            title={waiting ? 'Weighing…' : 'Readings first'}
            why="Idle and a 2,500 rpm hold give the shape of the trims; everything here follows from it."
          >
            <div className="flex justify-end">
              <ToStation station="readings">To Readings</ToStation>
            </div>
          </InDock>
        )
      }
    >
      <Problem text={problem} />
      {!waiting && <TestCatalogue job={job} next={[]} settings={settings} choose={setTest} />}
      <CameBack job={job} />
    </WithDock>
  );
}

function Weighed({
  job,
  whole,
  after,
  judgement,
  settings,
  problem,
}: Common & { whole: StationProps['job']; judgement: Judgement }) {
  const { diagnosis, evidence } = judgement;
  const [chosen, setChosen] = useState<string | null>(null);
  const [test, setTest] = useState<string | null>(null);
  const [opened, open] = useState<Opened>(null);
  const [asking, setAsking] = useState(false);
  const c = useMemo(() => caseOf(job), [job]);
  const first = diagnosis.causes[0]!;
  const selected = chosen ?? first.fault;
  const supposed = useSupposed(
    c,
    settings,
    selected,
    diagnosis.causes.find((x) => x.fault === selected),
  );
  const diesel = job.vehicle.fuel === 'diesel';
  // The last judgement that was not this one: what moved is seen against it.
  const now = JSON.stringify(diagnosis.causes.map((x) => x.probability));
  const before =
    job.diagnoses.findLast((d) => JSON.stringify(d.output.causes.map((x) => x.probability)) !== now)?.output ?? null;
  // With entries that wait on this device, or under settings of today.
  const newest = after ? undefined : job.diagnoses.at(-1);
  const kept = newest && JSON.stringify(newest.output.causes.map((x) => x.probability)) !== now ? newest : null;
  const calculator = askedOf(diagnosis, test)?.calculator;
  return (
    <WithDock label="Next step" dock={<Next {...{ job, whole, diagnosis, after, test, setTest, opened, open }} />}>
      {after && (
        <p role="status" className="alert m-0 flex flex-wrap items-center gap-3 px-4 py-3">
          <span className="flex-1">
            <strong className="font-[650]">Judged: the readings after the repair.</strong> What was repaired counts for
            less; tests from before it are left out.
          </span>
          <Link className="btn btn-sm" to="?">
            The first readings
          </Link>
        </p>
      )}
      <Problem text={problem} />
      {opened === 'tests' && (
        <TestCatalogue
          job={job}
          next={diagnosis.nextTests}
          settings={settings}
          opened
          choose={(id) => {
            setTest(id);
            open(null);
          }}
        />
      )}
      {opened === 'calculator' && calculator && <CalculatorCard id={calculator} start={startOf(job)} />}
      <div className="grid items-start gap-3 lg:grid-cols-[minmax(0,1fr)_360px]">
        <div className="grid min-w-0 gap-3">
          {diesel ? <DieselFigures job={job} /> : <TrimCard job={job} judgement={judgement} supposed={supposed} />}
          <section className="card grid gap-2 p-4" aria-label="In words">
            <h2 className="card-title">In words</h2>
            <p className="m-0 max-w-[70ch]">
              <Say text={diagnosis.paragraph} />
            </p>
            {kept && (
              <p className="m-0 text-[0.93rem] text-soft">
                Weighed here just now; the judgement kept with the job is of {format(new Date(kept.at), 'd MMM, HH:mm')}
                .
              </p>
            )}
            <div className="flex flex-wrap gap-2">
              <button type="button" className="btn" aria-expanded={asking} onClick={() => setAsking(!asking)}>
                What if…
              </button>
              <Link to="/calculators" className="btn">
                Calculators
              </Link>
            </div>
          </section>
          {asking && <WhatIf {...{ c, settings, diagnosis, supposed }} banks={evidence.banks} />}
          {!diesel && <MeasuredExpected job={job} />}
          {job.tests.length > 0 && <TestList job={job} />}
        </div>
        <WhatFits diagnosis={diagnosis} before={before} selected={selected} select={setChosen} />
      </div>
      <CameBack job={whole} />
    </WithDock>
  );
}
