import { testLabel } from '@just-balance/core/catalogue';
import { answersFor, knownAnswer } from '@just-balance/core/procedures';
import { storyOf } from '@just-balance/core/proof';
import { May } from '../../ui/May.tsx';
import { Say } from '../../ui/preferences.tsx';
import { ACT, InDock } from './Dock.tsx';
import type { StepProps } from './stepProps.ts';

/** More answers than this stand in two columns. */
const MANY = 6;

/** What was seen, or decided: one of the step's answers. One that a test of the job gave already is not asked again. */
export function Answers({ job, handle, step, done }: StepProps) {
  const answers = answersFor(step, job.vehicle, job.vehicle.banks ?? 1);
  const { run } = handle;
  const { repairedAt } = storyOf(job);
  const asItIs = job.tests.filter((t) => t.found?.run !== run.id && (repairedAt === null || t.at >= repairedAt));
  const known = knownAnswer(run.procedure, step, asItIs);
  return (
    <>
      {!known && (
        <May>
          <InDock only>
            <span className="text-[1.1rem] text-soft">Say what it is, above.</span>
          </InDock>
        </May>
      )}
      {known && (
        <section aria-label="Seen already" className="flex flex-wrap items-center gap-4">
          <p className="m-0 min-w-56 flex-1">
            <strong className="font-[650]">{known.answer.text}</strong>
            <span className="block text-soft">
              {testLabel(known.test.test.id)}, {known.test.found ? `in “${known.test.found.work}”` : 'at Balance'},{' '}
              {known.test.by}, {new Date(known.test.at).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' })}
            </span>
          </p>
          <InDock>
            <button
              type="button"
              className={ACT}
              onClick={() => done({ answer: known.answer.text, from: known.test.id })}
            >
              It is still so
            </button>
          </InDock>
          {known.answer.stopRule && <span className="badge badge-warning">ends the work as planned</span>}
        </section>
      )}
      <fieldset className={`m-0 grid gap-2 border-0 p-0 ${answers.length > MANY ? 'sm:grid-cols-2' : ''}`}>
        <legend className={known ? 'mb-2 p-0 text-soft' : 'sr-only'}>
          {known ? 'It shows something else now:' : <Say text={step.text} />}
        </legend>
        {answers
          .filter((a) => a !== known?.answer)
          .map((a) => (
            <button
              key={a.text}
              type="button"
              className="btn btn-lg justify-start text-left text-[1.2rem] font-[650]"
              onClick={() => done({ answer: a.text })}
            >
              {a.text}
              {a.stopRule && <span className="badge badge-warning ml-auto">ends the work as planned</span>}
            </button>
          ))}
      </fieldset>
    </>
  );
}
