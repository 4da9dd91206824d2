import { TEST_BY_ID } from '../catalogue/index.ts';
import { resultInWords } from '../job/index.ts';
import { inOrder } from '../procedures/index.ts';
import { midSentence, type Said, said, wordsOf } from '../units/index.ts';
import { dayOf } from './days.ts';
import type { HandOverInput } from './input.ts';

type Job = HandOverInput['job'];

/** “Picture of the spot.” asks for one; what it shows is the spot. */
const ASKED = /^(?:Magnified picture|Picture|Photograph)(?: of)? /;

/** What a picture shows: the part of its step with what was found there, the result of its test, else when it was taken. */
export function pictureTitle(
  job: Pick<Job, 'runs' | 'tests'>,
  photo: Job['photos'][number],
  clock: HandOverInput['clock'],
): Said {
  const test = job.tests.find((t) => t.id !== undefined && photo.step === `test:${t.id}`);
  if (test) return said`${TEST_BY_ID.get(test.test.id)?.label ?? test.test.id}: ${resultInWords(test.test)}`;
  const run = job.runs.find((r) => r.id !== undefined && r.id === photo.run);
  const step = run?.procedure.steps.find((s) => s.id === photo.step);
  if (run && step) {
    const shows = wordsOf(step.text, 'own').split('. ')[0]!.replace(ASKED, '').replace(/\.$/, '');
    // What was answered there last, whatever became of the work.
    const said = inOrder(run.events).flatMap(({ what }) =>
      what.kind === 'done' && what.step === step.id ? (what.answer ?? []) : [],
    );
    const answer = said.at(-1);
    return `${shows.charAt(0).toUpperCase()}${shows.slice(1)}${answer ? `: ${midSentence(answer)}` : ''}`;
  }
  // Its own words, where they are more than the name of the button.
  const own = photo.label.trim();
  const what = own === '' || own === 'Picture' ? 'Taken' : `${own}, taken`;
  return `${what} ${dayOf(photo.at, clock)} by ${photo.by}`;
}
