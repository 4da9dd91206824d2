import { FAULT_BY_ID, sizeFigure } from '../catalogue/index.ts';
import { type Said, said } from '../units/index.ts';
import type { PracticeScenario } from './scenario.ts';

/** One thing that was asked of the car, and what was believed before and after it. */
export interface PracticeMove {
  kind: 'reading' | 'test';
  what: string;
  bank: 1 | 2 | null;
  minutes: number;
  atMs: number;
  /** In words, as it stands in the job. */
  showed: Said;
  /** What it could have told, bit, and the best that could have been done instead. */
  bits: number;
  best: { test: string; bits: number; minutes: number } | null;
  /** The likeliest causes after it. */
  belief: { fault: string; probability: number }[];
  /** Of what is really wrong, after it. */
  truth: number;
}

/** What a person named: cause, a second one, its size, what to do. */
export interface PracticeAnswer {
  fault: string;
  /** A second one; null where there is none. */
  second: string | null;
  /** In the fault's own unit; null where it was not given. */
  size: number | null;
  remedy: PracticeScenario['remedy'];
  atMs: number;
}

/** Points by what they are for, and their sum, 0–100. */
export interface PracticeScore {
  /** 0 to 100. */
  total: number;
  parts: {
    id: 'cause' | 'size' | 'remedy' | 'minutes' | 'parts' | 'cautions' | 'broke' | 'second' | 'next';
    points: number;
    of: number;
    why: Said;
  }[];
  minutes: number;
  /** Of the path that always takes the best next test; null where it did not get there. */
  bestMinutes: number | null;
}

/** [house] */
const POINTS = { cause: 45, size: 10, remedy: 10, minutes: 20, parts: 10, cautions: 5 } as const;
/** A size is right within this factor. [house] */
const SIZE_FACTOR = 1.5;
/** What is really wrong must be this likely by what was asked, for its name to be no guess. [house] */
const DECIDED = 0.4;
/** A leak at one bank's runner and a leak without a bank. */
const sameGroup = (a: string, b: string) => {
  const group = FAULT_BY_ID.get(a)?.group;
  return group !== undefined && group === FAULT_BY_ID.get(b)?.group;
};

/**
 * A try at a practice car in points: cause, size, remedy, minutes against the best path, parts condemned, cautions
 * read.
 */
export function scorePractice(
  scenario: PracticeScenario,
  moves: readonly PracticeMove[],
  answer: PracticeAnswer,
  {
    bestMinutes,
    cautionsSkipped,
    banks,
  }: { bestMinutes: number | null; cautionsSkipped: readonly string[]; banks: 1 | 2 },
): PracticeScore {
  const real = scenario.faults.map((f) => f.id);
  const named = [answer.fault, ...(answer.second ? [answer.second] : [])];
  const truth = real.length === 0 ? ['balanced'] : real;
  const exact = (f: string) => truth.some((t) => t === f || (banks === 1 && sameGroup(t, f)));
  const near = (f: string) => truth.some((t) => sameGroup(t, f));
  const found = truth.filter((t) => named.some((n) => n === t || (banks === 1 && sameGroup(t, n))));
  const cause =
    (found.length / truth.length) * POINTS.cause + (found.length === 0 && named.some(near) ? POINTS.cause / 2 : 0);
  // Named right while nothing that was read or tested spoke for it: a guess, be it a good one.
  const guessed = found.length > 0 && (moves.at(-1)?.truth ?? 0) < DECIDED;
  const earned = guessed ? cause / 2 : cause;
  const minutes = moves.reduce((sum, m) => sum + m.minutes, 0);
  const first = scenario.faults.find((f) => f.id === answer.fault) ?? scenario.faults[0];
  const unit = first && FAULT_BY_ID.get(first.id)?.severity?.unit;
  const sized = answer.size !== null && unit !== undefined;
  const ratio = sized ? Math.abs(answer.size!) / Math.abs(first!.severity) : 0;
  const sizeRight = sized && ratio <= SIZE_FACTOR && ratio >= 1 / SIZE_FACTOR;
  const wrongParts = named.filter((f) => FAULT_BY_ID.get(f)?.bought && !exact(f));
  const right = cause >= POINTS.cause - 0.5;
  const quick =
    bestMinutes === null || minutes === 0 ? (right ? 1 : 0) : right ? Math.min(1, bestMinutes / minutes) : 0;
  const label = (f: string) => FAULT_BY_ID.get(f)?.label ?? f;
  const parts: PracticeScore['parts'] = [
    {
      id: 'cause',
      points: Math.round(earned),
      of: POINTS.cause,
      why: right
        ? guessed
          ? 'Right, and a guess: nothing that was read or tested had decided it.'
          : 'Right.'
        : `It was: ${truth.map(label).join(' and ')}.${found.length > 0 ? ' One of the two was found.' : near(answer.fault) && found.length === 0 ? ' The right kind of leak at another place.' : ''}`,
    },
    {
      id: 'size',
      points: sizeRight ? POINTS.size : 0,
      of: POINTS.size,
      why:
        first && unit
          ? said`${sizeFigure(first.id, unit, first.severity)}${answer.size === null ? '; no size was named' : said`; named ${sizeFigure(first.id, unit, answer.size)}`}.`
          : 'This fault has no size.',
    },
    {
      id: 'remedy',
      points: answer.remedy === scenario.remedy ? POINTS.remedy : 0,
      of: POINTS.remedy,
      why: `Right: ${scenario.remedy}.`,
    },
    {
      id: 'minutes',
      points: Math.round(POINTS.minutes * quick),
      of: POINTS.minutes,
      why:
        bestMinutes === null
          ? `${minutes} min; the best next test alone did not get there.`
          : `${minutes} min; always the best next test: ${bestMinutes} min.${right ? '' : ' Counts once the cause is right.'}`,
    },
    {
      id: 'parts',
      points: wrongParts.length === 0 ? POINTS.parts : 0,
      of: POINTS.parts,
      why:
        wrongParts.length === 0
          ? 'Nothing was condemned without need.'
          : `Condemned though sound: ${wrongParts.map(label).join(', ')}.`,
    },
    {
      id: 'cautions',
      points: cautionsSkipped.length === 0 ? POINTS.cautions : 0,
      of: POINTS.cautions,
      why: cautionsSkipped.length === 0 ? 'Every caution was read.' : `Not acknowledged: ${cautionsSkipped.join('; ')}`,
    },
  ];
  // A fault without a size cannot earn its points: the rest counts for the whole.
  const counted = parts.filter((p) => p.id !== 'size' || unit !== undefined);
  const of = counted.reduce((sum, p) => sum + p.of, 0);
  return {
    total: Math.round((100 * counted.reduce((sum, p) => sum + p.points, 0)) / of),
    parts: counted,
    minutes,
    bestMinutes,
  };
}
