import type { Case } from '../../case/index.ts';
import {
  CONDEMNS,
  FAULT_BY_ID,
  faultLabel,
  faultsSeen,
  NO_EVIDENCE,
  SIGN_TEST,
  testLabel,
} from '../../catalogue/index.ts';
import { chanceText, midSentence } from '../../units/index.ts';
import type { Evidence, TestEvidence } from '../evidence/types.ts';
import { resultProbability } from '../model/resultProbability.ts';
import type { Cause, Diagnosis, NextTest, Standing } from '../types.ts';
import type { Deciding } from './decides.ts';
import { worthDoing } from './rankTests.ts';
import { SURE } from './sure.ts';

/** A cause that one result lifts from below this rests on that result. [house] */
const CARRIED = 0.5;
/** Coolant under which a reading is of an engine that is still warming up, °C. */
const COLD_C = 70;

export interface Confirming {
  /** The test, of those not done, that would confirm a cause. */
  another: (cause: Cause) => NextTest | null;
  /** That test done once more; null where it says too little of the cause. */
  again: (cause: Cause, test: TestEvidence['row']) => NextTest | null;
  /** The cause's probability without one of the results. */
  without: (cause: Cause, t: TestEvidence) => number;
  /** What would still decide, with the tools of the shop, or else with any. */
  decides: (tools: 'of the shop' | 'any') => Deciding | null;
}

/** Where a judgement stands, with the test that it names. */
export function standingOf(
  c: Case,
  ev: Evidence,
  d: Pick<Diagnosis, 'causes' | 'nextTests' | 'cannotTellApart'>,
  confirms: Confirming,
): { standing: Standing; test: NextTest | null } {
  const only = (standing: Standing) => ({ standing, test: null });
  const [first] = d.causes;
  // What could not be done here, or told nothing, may be tried again; it is not what comes next.
  const next = d.nextTests.find((t) => !couldNot(c, t));
  if (!first) return only({ is: 'cannot-tell', why: 'Nothing was read yet.' });
  const chance = chanceText(first.probability);
  if (first.probability >= SURE) {
    // A figure of a reading that a test would give is a test done.
    const tested = ev.tests.length > 0 || ev.signs.some((s) => SIGN_TEST[s.id]);
    const test = tested || first.fault === 'balanced' ? null : worthDoing(next) ? next : confirms.another(first);
    if (!test) return secondLook(c, ev, first, confirms) ?? only({ is: 'sure', why: `${chance} of what fits.` });
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
  const stands = apart
    ? `No test left is worth its minutes, and these cannot be told apart here: ${apart.map((f) => midSentence(faultLabel(f))).join(', ')}.`
    : `No test left is worth its minutes. Most likely: ${midSentence(faultLabel(first.fault))}, ${chance}.`;
  const would = first.fault === 'balanced' ? null : decidingWords(confirms);
  return {
    standing: {
      is: 'cannot-tell',
      why: would ? `${stands} ${would.words}` : stands,
      ...(would?.tests ? { would: would.tests } : {}),
    },
    test: null,
  };
}

/** What would decide, be it slow or with a tool that is not there. */
function decidingWords({ decides }: Confirming): { words: string; tests: readonly string[] | null } | null {
  const here = decides('of the shop');
  const found = here ?? decides('any');
  if (!found) return null;
  const names = found.tests.map((t) => `“${midSentence(testLabel(t))}”`).join(' and ');
  const how = `${names} would decide in ${chanceText(found.chance)} of such cars, ${found.minutes} min`;
  return {
    words: here ? `${how}.` : `${how}: this shop has not all it takes.`,
    tests: here && found.tests,
  };
}

/**
 * A part is bought on more than one look: where one result alone carries the cause, that one is done again first. What
 * was seen to be broken needs none. Common practice, no source.
 */
function secondLook(c: Case, ev: Evidence, first: Cause, confirms: Confirming) {
  if (!FAULT_BY_ID.get(first.fault)?.bought) return null;
  const carries = ev.tests.filter(
    (t) =>
      resultProbability(t, first.fault, first.bank, ev.banks) > resultProbability(t, 'balanced', null, ev.banks) &&
      confirms.without(first, t) < CARRIED,
  );
  // Where each of two is needed, they bear each other out.
  const [only] = carries;
  if (!only || carries.length > 1 || seen(only, first.fault)) return null;
  // A look at the other bank is no second look at this one.
  const here = (bank: number | undefined) => bank === undefined || only.bank === null || bank === only.bank;
  if ((c.tests ?? []).filter((t) => t.id === only.row.id && here(t.bank)).length > 1) return null;
  const test = confirms.again(first, only.row);
  if (!test) return null;
  const why = `${chanceText(first.probability)}, and that rests on this result alone: look once more before a part is bought.`;
  return { standing: { is: 'confirm' as const, test: test.test, why }, test };
}

/** Whether the newest try at a test told nothing. */
const couldNot = (c: Case, { test, bank }: NextTest) =>
  noEvidence(c.tests?.findLast((t) => t.id === test && (bank === undefined || t.bank === bank)));

const noEvidence = (t: NonNullable<Case['tests']>[number] | undefined) =>
  [t?.outcome ?? []].flat().some((o) => (NO_EVIDENCE as readonly string[]).includes(o));

const seen = ({ row, outcome }: TestEvidence, fault: string) =>
  CONDEMNS.some((k) => k.test === row.id && k.outcome === outcome && k.fault === fault) ||
  faultsSeen([{ id: row.id, outcome }]).includes(fault);

/** Trims were read, and all of them of an engine that was not warm. */
function onlyCold(c: Case): boolean {
  const trims = (c.readings ?? []).filter((r) => r.trims && r.at !== 'full-load');
  return (
    trims.length > 0 &&
    trims.every((r) => !r.neverWarm && (r.at === 'cold-idle' || (r.ectC !== undefined && r.ectC < COLD_C)))
  );
}
