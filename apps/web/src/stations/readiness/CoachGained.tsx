import { CONDITION_NAMES, reviewOf, stepWords } from '@just-balance/core/readiness';
import { midSentence } from '@just-balance/core/units';
import type { Drive } from '../../sessions/CoachSession.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { Say, useSay } from '../../ui/preferences.tsx';

/** What the drive brought, ended by itself or by hand. */
export function Gained({ drive, children }: { drive: Drive; children: React.ReactNode }) {
  const say = useSay();
  const { procedure } = drive.state;
  const review = reviewOf(drive.state, drive.car);
  const done = review.steps.filter((s) => s.state === 'done');
  // What had to be so before the start and nobody held against this car: driven as asked is more than its steps.
  const unchecked = review.conditions
    .filter((c) => c.state === 'unknown')
    .map((c) => midSentence(CONDITION_NAMES[c.id]));
  return (
    <NextStep
      title={
        review.result !== 'complete'
          ? 'The drive is over'
          : unchecked.length > 0
            ? 'Every step is driven: read the monitors'
            : 'Driven as asked: read the monitors'
      }
      why={
        <>
          {done.length > 0
            ? `Done: ${done.map((s) => say(stepWords(procedure, s.id))).join(', ')}. `
            : 'No step was finished. '}
          <Say text={review.nextAttempt} />
          {unchecked.length > 0 && (
            <span className="block">
              Not checked by the coach, and asked for before the start: {unchecked.join(', ')}.
            </span>
          )}
          {review.remains.map(say).map((r) => (
            <span key={r} className="block">
              {r}
            </span>
          ))}
        </>
      }
    >
      {children}
    </NextStep>
  );
}
