import type { JobView, RecordView } from '@just-balance/contract';
import { allComplete, askRule, type RuleAnswer } from '@just-balance/core/readiness';
import { Link } from 'react-router';
import { useRuleHere, useRules } from '../../job/work/rules.ts';
import { Say } from '../../ui/preferences.tsx';

/** What the rules say, ours and the shop's own; whether everything is complete stands apart. */
export function useRuleAnswers(job: JobView, record: RecordView | undefined): RuleAnswer[] {
  const rules = useRules();
  if (!record?.monitors) return [];
  const { monitors } = record;
  return rules.map((rule) =>
    askRule(rule, {
      monitors,
      stored: record.codes.filter((c) => c.state === 'stored').length,
      permanent: record.codes.filter((c) => c.state === 'permanent').length,
      year: job.vehicle.year,
      fuel: job.vehicle.fuel,
    }),
  );
}

/** Two answers, always apart: would the rule take it, and is everything complete? */
export function WouldPass({ job, record }: { job: JobView; record: RecordView | undefined }) {
  const answers = useRuleAnswers(job, record);
  const here = useRuleHere();
  const complete = record?.monitors ? allComplete(record.monitors) : null;
  return (
    <section className="card grid gap-3 p-4" aria-label="Inspection">
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="card-title">Everything complete?</h2>
        <span
          className={`badge ${complete === null ? 'badge-outline border-dashed' : complete ? 'badge-success' : 'badge-warning'}`}
        >
          {complete === null ? 'not read' : complete ? '✓ yes' : 'no'}
        </span>
      </div>
      <h2 className="card-title">Would a rule take it?</h2>
      {answers.map((a) => (
        <div key={a.rule.id}>
          <div className="flex items-center justify-between gap-2">
            <span className="font-[650]">
              {a.rule.title}
              {a.rule.id === here && <span className="badge badge-outline ml-2">holds here</span>}
            </span>
            <span
              className={`badge ${a.accepts === null ? 'badge-outline border-dashed' : a.accepts ? 'badge-success' : 'badge-warning'}`}
            >
              {a.accepts === null ? 'says nothing' : a.accepts ? '✓ takes it' : 'refuses it'}
            </span>
          </div>
          <p className="m-0 text-[0.93rem]">{a.reasons.join('; ') || 'nothing against it'}.</p>
          {a.extras.map((e) => (
            <p key={e.test} className="m-0 text-[0.93rem]">
              Also tested: <Say text={e.says} />.
            </p>
          ))}
          <p className="m-0 text-[0.87rem] text-soft">
            {a.rule.place}, as of {a.rule.asOf}. Source: {a.rule.source}.
          </p>
        </div>
      ))}
      {answers.length === 0 && <p className="m-0 text-soft">After the monitors are read.</p>}
      <p className="m-0 text-[0.93rem] text-soft">
        Our advice: all complete. Ask your local programme. A station may refuse what the rule allows, and a failure may
        stay on the vehicle’s history.
      </p>
      <Link className="btn justify-self-start" to={`/jobs/${job.id}/readiness?inspection`}>
        Sheet before the inspection
      </Link>
    </section>
  );
}
