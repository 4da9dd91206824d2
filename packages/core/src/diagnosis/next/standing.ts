import type { Case } from '../../case/index.ts';
import { faultLabel, SIGN_TEST } from '../../catalogue/index.ts';
import { chanceText, midSentence } from '../../units/index.ts';
import type { Evidence } from '../evidence/types.ts';
import type { Cause, Diagnosis, NextTest, Standing } from '../types.ts';
import { worthDoing } from './rankTests.ts';

/** From this chance on a cause is sure enough to work on. [house] */
export const SURE = 0.85;
/** Coolant under which a reading is of an engine that is still warming up, °C. */
const COLD_C = 70;

/** Where a judgement stands, with the test that it names. `confirms`: the test that would confirm a cause, where there is one. */
export function standingOf(
  c: Case,
  ev: Evidence,
  d: Pick<Diagnosis, 'causes' | 'nextTests' | 'cannotTellApart'>,
  confirms: (cause: Cause) => NextTest | null,
): { standing: Standing; test: NextTest | null } {
  const only = (standing: Standing) => ({ standing, test: null });
  const [first] = d.causes;
  const [next] = d.nextTests;
  if (!first) return only({ is: 'cannot-tell', why: 'Nothing was read yet.' });
  const chance = chanceText(first.probability);
  if (first.probability >= SURE) {
    // A figure of a reading that a test would give is a test done.
    const tested = ev.tests.length > 0 || ev.signs.some((s) => SIGN_TEST[s.id]);
    const test = tested || first.fault === 'balanced' ? null : worthDoing(next) ? next : confirms(first);
    if (!test) return only({ is: 'sure', why: `${chance} of what fits.` });
    const why = `${chance} by the readings alone: one test before a part is touched.`;
    return { standing: { is: 'confirm', test: test.test, why }, test };
  }
  if (onlyCold(c))
    return only({
      is: 'warm-up',
      why: 'Every reading is of an engine that was not warm: warm it up and read again.',
    });
  if (worthDoing(next))
    return { standing: { is: 'test', test: next.test, why: 'It gains most for its minutes.' }, test: next };
  const apart = d.cannotTellApart[0];
  return only({
    is: 'cannot-tell',
    why: apart
      ? `No test left is worth its minutes, and these cannot be told apart here: ${apart.map((f) => midSentence(faultLabel(f))).join(', ')}.`
      : `No test left is worth its minutes. Most likely: ${midSentence(faultLabel(first.fault))}, ${chance}.`,
  });
}

/** Trims were read, and all of them of an engine that was not warm. */
function onlyCold(c: Case): boolean {
  const trims = (c.readings ?? []).filter((r) => r.trims && r.at !== 'full-load');
  return (
    trims.length > 0 &&
    trims.every((r) => !r.neverWarm && (r.at === 'cold-idle' || (r.ectC !== undefined && r.ectC < COLD_C)))
  );
}
