import { partLabel, pointLabel } from '@just-balance/core/case';
import { faultLabel, TEST_BY_ID, testLabel } from '@just-balance/core/catalogue';
import type { WouldRead } from '@just-balance/core/diagnosis';
import { afterJob, repairedFaults } from '@just-balance/core/handOver';
import { storyOf } from '@just-balance/core/proof';
import { chanceText, midSentence, said } from '@just-balance/core/units';
import { format } from 'date-fns';
import { useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { TrimChart } from '../../charts/TrimChart.tsx';
import { useLimits } from '../../data/limits.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { ToNext } from '../../job/frame/ToNext.tsx';
import { ToStation } from '../../job/frame/ToStation.tsx';
import { caseOf } from '../../job/judgement/figures.ts';
import { useJudgement, useSettings } from '../../job/judgement/useJudgement.ts';
import { TestList } from '../../job/work/TestList.tsx';
import { useAttempt } from '../../practice/useAttempt.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say } from '../../ui/preferences.tsx';
import { DieselFigures } from './DieselFigures.tsx';
import { MeasuredExpected } from './MeasuredExpected.tsx';
import { OutcomePanel } from './OutcomePanel.tsx';
import { TestCatalogue } from './TestCatalogue.tsx';
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
    </>
  );
}

interface JudgedProps extends StationProps {
  /** The job itself, where `job` is what it was read as after the repair. */
  whole: StationProps['job'];
  repaired: readonly string[];
  after: boolean;
}

function Judged({ job, whole, repaired, after }: JudgedProps) {
  const { judgement, problem } = useJudgement(job, repaired);
  const limits = useLimits();
  const settings = useSettings(job, repaired);
  const [chosen, setChosen] = useState<string | null>(null);
  const [test, setTest] = useState<string | null>(null);
  const [others, setOthers] = useState(false);
  const [asking, setAsking] = useState(false);
  const [supposed, setSupposed] = useState<WouldRead[] | null>(null);
  const c = useMemo(() => caseOf(job), [job]);
  if (!judgement) {
    const waiting = job.readings.length + job.tests.length > 0;
    const picked = test === null ? undefined : TEST_BY_ID.get(test);
    return (
      <>
        <NextStep
          tone={waiting ? 'wait' : 'act'}
          title={waiting ? 'Weighing…' : 'Readings first'}
          why="Idle and a 2,500 rpm hold give the shape of the trims; everything here follows from it."
        >
          <ToStation station="readings">To Readings</ToStation>
        </NextStep>
        <Problem text={problem} />
        {picked && (
          <>
            <h2 className="m-0 text-xl font-bold">
              {picked.label} <span className="figure text-base text-soft">{picked.minutes} min</span>
            </h2>
            <p className="m-0 max-w-[70ch] text-soft">
              <Say text={picked.how} />
            </p>
            <OutcomePanel
              key={picked.id}
              job={job}
              row={picked}
              likelyBank={1}
              after={after}
              recorded={() => setTest(null)}
            />
          </>
        )}
        {/* A look or a smell needs no reading first. */}
        {!waiting && <TestCatalogue job={job} next={[]} settings={settings} choose={setTest} />}
      </>
    );
  }
  const { diagnosis, lines, evidence } = judgement;
  const { standing } = diagnosis;
  const first = diagnosis.causes[0]!;
  const best = diagnosis.nextTests[0];
  const diesel = job.vehicle.fuel === 'diesel';
  const selected = chosen ?? first.fault;
  const line = lines.find((s) => s.fault === selected);
  const predicted = supposed ?? line?.points ?? [];
  // The last judgement that was not this one: what moved is seen against it.
  const now = JSON.stringify(diagnosis.causes.map((x) => x.probability));
  const before =
    job.diagnoses.findLast((d) => JSON.stringify(d.output.causes.map((x) => x.probability)) !== now)?.output ?? null;
  // With entries that wait on this device, or under settings of today.
  const newest = after ? undefined : job.diagnoses.at(-1);
  const kept = newest && JSON.stringify(newest.output.causes.map((x) => x.probability)) !== now ? newest : null;
  const asked = test ?? ('test' in standing ? standing.test : best?.test) ?? null;
  const confirming = test === null && standing.is === 'confirm';
  const row = asked ? TEST_BY_ID.get(asked) : undefined;
  const offer = diagnosis.nextTests.find((t) => t.test === asked);

  const step =
    test === null && standing.is === 'sure' ? (
      <NextStep
        title={first.fault === 'balanced' ? 'Call it balanced' : `It is: ${midSentence(faultLabel(first.fault))}`}
        why={said`${chanceText(first.probability)} of what fits. ${first.because[0] ?? ''}`}
      >
        <button type="button" className="btn btn-ghost underline" onClick={() => setOthers(!others)}>
          All tests
        </button>
        <ToNext job={whole} here="balance" then="service" />
      </NextStep>
    ) : test === null && standing.is === 'warm-up' ? (
      <NextStep tone="wait" title="Warm it up, and read again" why={standing.why}>
        <ToStation station="readings">To Readings</ToStation>
      </NextStep>
    ) : test === null && standing.is === 'cannot-tell' ? (
      <NextStep tone="wait" title="No test left is worth its minutes here" why={standing.why}>
        {standing.would?.map((t) => (
          <button key={t} type="button" className="btn" onClick={() => setTest(t)}>
            {testLabel(t)}
          </button>
        ))}
        <button type="button" className="btn btn-ghost underline" onClick={() => setOthers(!others)}>
          All tests
        </button>
        <ToNext job={whole} here="balance" then="service" />
      </NextStep>
    ) : (
      row && (
        <NextStep
          title={row.label}
          why={
            <>
              {`${offer?.minutes ?? row.minutes} min · `}
              {confirming ? `${faultLabel(first.fault)}: ${standing.why} ` : ''}
              <Say text={offer?.why ?? row.how} />
              {offer?.bank && ` On bank ${offer.bank}.`}
              {test === null && !confirming && ` ${standing.why}`}
              {offer?.part && ` Part: ${partLabel(offer.part)}.`}
              {offer?.together &&
                ` While you have the ${offer.access}: ${offer.together.map((t) => TEST_BY_ID.get(t)?.label.toLowerCase()).join(', ')}.`}
            </>
          }
        >
          <button
            type="button"
            className="btn btn-ghost underline"
            aria-expanded={others}
            onClick={() => setOthers(!others)}
          >
            All tests
          </button>
          {confirming && (
            <Link className="btn btn-ghost underline" to={`/jobs/${job.id}/service`}>
              To Service without a test
            </Link>
          )}
          {row.reading && <ToStation station="readings">Take the reading</ToStation>}
        </NextStep>
      )
    );

  return (
    <>
      {step}
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
      {others && (
        <TestCatalogue
          job={job}
          next={diagnosis.nextTests}
          settings={settings}
          choose={(id) => {
            setTest(id);
            setOthers(false);
          }}
        />
      )}
      {row && !row.reading && (test !== null || 'test' in standing) && (
        <OutcomePanel
          key={row.id}
          job={job}
          row={row}
          part={offer?.part}
          after={after}
          likelyBank={offer?.bank ?? first.bank ?? diagnosis.banks[0] ?? 1}
          recorded={() => setTest(null)}
        />
      )}
      <div className="grid items-start gap-3 lg:grid-cols-[minmax(0,1fr)_360px]">
        <div className="grid min-w-0 gap-3">
          {diesel ? (
            <DieselFigures job={job} />
          ) : (
            <section className="card p-4">
              <div className="flex flex-wrap items-baseline justify-between gap-x-4">
                <h2 className="card-title">Trim at each airflow</h2>
                <span className="text-[0.93rem] text-soft">
                  {evidence.banks === 2 ? '● bank 1   ◇ bank 2' : '● bank 1'} · dotted:{' '}
                  {midSentence(faultLabel(selected))}
                </span>
              </div>
              {evidence.points.some((p) => p.trims.length > 0) ? (
                <TrimChart
                  caption={`Total trim at each airflow, with the shape predicted by: ${faultLabel(selected)}`}
                  banks={evidence.banks}
                  limits={limits}
                  rows={evidence.points.map((p) => ({
                    at: p.at,
                    label: pointLabel(p.at),
                    airflowGps: p.airflowGps,
                    airflow: p.estimated ? 'estimated' : 'read',
                    marks: p.trims.map((t) => ({
                      bank: t.bank,
                      totalPct: t.totalPct,
                      sdPct: t.wanderedPct,
                      pegged: t.pegged,
                    })),
                    predicted: predicted.find((s) => s.at === p.at)?.trimPct ?? null,
                  }))}
                  predictedLines={
                    supposed
                      ? [{ points: supposed, strong: true }]
                      : lines
                          .filter((s) => s.fault === selected || (s.probability > 0.1 && s.fault !== 'balanced'))
                          .map((s) => ({ points: s.points, strong: s.fault === selected }))
                  }
                />
              ) : (
                <p className="m-0 py-6 text-soft">No closed-loop trims among the readings: nothing to draw.</p>
              )}
            </section>
          )}
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
          {asking && (
            <WhatIf
              c={c}
              settings={settings}
              diagnosis={diagnosis}
              fault={selected}
              banks={evidence.banks}
              drawn={setSupposed}
            />
          )}
          {!diesel && <MeasuredExpected job={job} />}
          {job.tests.length > 0 && <TestList job={job} />}
        </div>
        <WhatFits diagnosis={diagnosis} before={before} selected={selected} select={setChosen} />
      </div>
    </>
  );
}
