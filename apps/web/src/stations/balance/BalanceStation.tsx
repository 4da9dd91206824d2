import { partLabel, pointLabel } from '@just-balance/core/case';
import { faultLabel, TEST_BY_ID } from '@just-balance/core/catalogue';
import { confirmingTest, gatherEvidence, type WouldRead, worthDoing } from '@just-balance/core/diagnosis';
import { afterJob, repairedFaults } from '@just-balance/core/handOver';
import { storyOf } from '@just-balance/core/proof';
import { chanceText, midSentence, said } from '@just-balance/core/units';
import { useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { Beam } from '../../charts/Beam.tsx';
import { useLimits } from '../../data/limits.ts';
import { caseOf } from '../../job/figures.ts';
import type { StationProps } from '../../job/station.ts';
import { TestList } from '../../job/TestList.tsx';
import { ToStation } from '../../job/ToStation.tsx';
import { useJudgement, useSettings } from '../../job/useJudgement.ts';
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

/** A cause this likely stands: the work goes on to the repair. [house] */
const STANDS = 0.85;

export function BalanceStation(props: StationProps) {
  const [search] = useSearchParams();
  const after = search.has('after') && storyOf(props.job).after.length > 0;
  const job = useMemo(() => (after ? afterJob(props.job) : props.job), [after, props.job]);
  const repaired = useMemo(() => (after ? repairedFaults(props.job) : []), [after, props.job]);
  const attempt = useAttempt(props.job);
  // Who learns without help has the readings and their own head.
  if (props.job.practice && (!attempt || (!attempt.hints && !attempt.answer))) return <WithoutHelp {...props} />;
  return <Judged {...props} job={job} repaired={repaired} after={after} />;
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

function Judged({ job, repaired, after }: StationProps & { repaired: readonly string[]; after: boolean }) {
  const { judgement, problem } = useJudgement(job, repaired);
  const limits = useLimits();
  const settings = useSettings(job, repaired);
  const [chosen, setChosen] = useState<string | null>(null);
  const [test, setTest] = useState<string | null>(null);
  const [others, setOthers] = useState(false);
  const [asking, setAsking] = useState(false);
  const [supposed, setSupposed] = useState<WouldRead[] | null>(null);
  const c = useMemo(() => caseOf(job), [job]);
  const evidence = useMemo(() => gatherEvidence(c), [c]);
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
  const { diagnosis, shapes } = judgement;
  const first = diagnosis.causes[0]!;
  const best = diagnosis.nextTests[0];
  const worth = worthDoing(best);
  const stands = first.probability >= STANDS;
  const diesel = job.vehicle.fuel === 'diesel';
  // Readings alone condemn nothing while a test is left that decides.
  const tested = job.tests.some(
    (t) => !t.undone && t.test.outcome !== 'inconclusive' && t.test.outcome !== 'not-accessible',
  );
  const confirming =
    stands && !tested && first.fault !== 'balanced'
      ? worth
        ? best.test
        : (confirmingTest(c, first, settings)?.id ?? null)
      : null;
  const selected = chosen ?? first.fault;
  const shape = shapes.find((s) => s.fault === selected);
  const predicted = supposed ?? shape?.points ?? [];
  // The last judgement that was not this one: what moved is seen against it.
  const now = JSON.stringify(diagnosis.causes.map((x) => x.probability));
  const before =
    job.diagnoses.findLast((d) => JSON.stringify(d.output.causes.map((x) => x.probability)) !== now)?.output ?? null;
  const asked = test ?? confirming ?? best?.test ?? null;
  const row = asked ? TEST_BY_ID.get(asked) : undefined;
  const offer = diagnosis.nextTests.find((t) => t.test === asked);

  const step =
    test === null && stands && !confirming ? (
      <NextStep
        title={first.fault === 'balanced' ? 'Call it balanced' : `It is: ${midSentence(faultLabel(first.fault))}`}
        why={said`${chanceText(first.probability)} of what fits. ${first.because[0] ?? ''}`}
      >
        <button type="button" className="btn btn-ghost underline" onClick={() => setOthers(!others)}>
          All tests
        </button>
        <ToStation station="service">To Service</ToStation>
      </NextStep>
    ) : test === null && !worth && !confirming ? (
      <NextStep
        tone="wait"
        title="No test left is worth its minutes here"
        why={
          diagnosis.cannotTellApart[0]
            ? `These cannot be told apart here: ${diagnosis.cannotTellApart[0].map((f) => midSentence(faultLabel(f))).join(', ')}.`
            : `Most likely: ${midSentence(faultLabel(first.fault))}, ${chanceText(first.probability)}.`
        }
      >
        <button type="button" className="btn btn-ghost underline" onClick={() => setOthers(!others)}>
          All tests
        </button>
        <ToStation station="service">To Service</ToStation>
      </NextStep>
    ) : (
      row && (
        <NextStep
          title={row.label}
          why={
            <>
              {`${offer?.minutes ?? row.minutes} min · `}
              {test === null && confirming
                ? `${faultLabel(first.fault)}: ${chanceText(first.probability)} by the readings alone. One test before a part is touched. `
                : ''}
              {offer?.why ?? row.how}
              {offer?.bank && ` On bank ${offer.bank}.`}
              {test === null && !confirming && ' Gains most for the minutes.'}
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
          {test === null && confirming && (
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
      {row && !row.reading && (test !== null || (!stands && worth) || confirming) && (
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
                <Beam
                  caption={`Total trim at each airflow, with the shape predicted by: ${faultLabel(selected)}`}
                  banks={evidence.banks}
                  limits={limits}
                  rungs={evidence.points.map((p) => ({
                    at: p.at,
                    label: pointLabel(p.at),
                    airflowGps: p.airflowGps,
                    airflow: p.estimated ? 'estimated' : 'read',
                    marks: p.trims.map((t) => ({
                      bank: t.bank,
                      totalPct: t.totalPct,
                      sdPct: spread(job, p.at, t.bank),
                      pegged: t.pegged,
                    })),
                    predicted: predicted.find((s) => s.at === p.at)?.trimPct ?? null,
                  }))}
                  ghosts={
                    supposed
                      ? [{ points: supposed, strong: true }]
                      : shapes
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

/** Spread of a total within its window, for the whiskers; read by eye: 1.5. */
function spread(job: StationProps['job'], at: string, bank: 1 | 2): number {
  const r = job.readings.filter((x) => x.phase === 'before' && x.reading.at === at).at(-1);
  return r?.reading.trims?.[`bank${bank}`]?.sd ?? 1.5;
}
