import { CONDITION_NAMES, reviewOf, stepWords } from '@just-balance/core/readiness';
import { midSentence } from '@just-balance/core/units';
import type { Drive } from '../../sessions/CoachSession.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { Say, useSay } from '../../ui/preferences.tsx';

/** What the drive brought, ended by itself or by hand. */
export function Gained({
  drive,
  number,
  children,
}: {
  drive: Drive;
  /** Which of the drives in a row it was, from 1. */
  number: number;
  children: React.ReactNode;
}) {
  const say = useSay();
  const { procedure } = drive.state;
  const review = reviewOf(drive.state, drive.car);
  const done = review.steps.filter((s) => s.state === 'done');
  // What had to be so before the start and nobody held against this car: driven as asked is more than its steps.
  const unchecked = review.conditions
    .filter((c) => c.state === 'unknown')
    .map((c) => midSentence(CONDITION_NAMES[c.id]));
  const inARow = review.result === 'complete' && number < (procedure.drives ?? 1);
  return (
    <NextStep
      title={
        inARow
          ? `Drive ${number} of ${procedure.drives} is done`
          : review.result !== 'complete'
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
          {inARow ? (
            `Drive ${number} of ${procedure.drives} counts. Switch it off, let it stand as the procedure says, then drive it once more.`
          ) : (
            <Say text={review.nextAttempt} />
          )}
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
