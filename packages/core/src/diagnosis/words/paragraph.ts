import { faultLabel, TEST_BY_ID } from '../../catalogue/index.ts';
import { type ShapeWord, shapeWord } from '../../trims/index.ts';
import { chanceText, isSaid, joined, midSentence, type Said, said } from '../../units/index.ts';
import type { Evidence } from '../evidence/types.ts';
import { worthDoing } from '../next/rankTests.ts';
import type { Cause, Diagnosis, NextTest } from '../types.ts';

/** The rule of thumb that goes with a shape. Common practice, no source; the arithmetic decides. */
const RULES: Readonly<Record<ShapeWord, string>> = {
  fades: 'fades with airflow: something of constant size, air or fuel beside the meter',
  grows: 'grows with airflow: delivery, or a sensor that loses reach at high flow',
  flat: 'the same share at every airflow: a sensor, a duct, pressure or the fuel itself',
  crosses: 'crosses from one side to the other: a sensor skewed over its range',
  turns: 'turns round between low and high airflow: no single shape, two causes at once or one reading that is off',
  'one point': 'one point only: no shape yet',
};

/** The shape of the trims of each bank that is off, in one word of the rules of thumb; a bank in balance has none. */
export function shapesOf(ev: Evidence, off: readonly (1 | 2)[]): Diagnosis['shape'] {
  const out: Diagnosis['shape'] = [];
  for (const bank of off) {
    const points = ev.trims
      .filter((t) => t.bank === bank)
      .map((t) => ({ airflowGps: ev.points[t.point]!.airflowGps, totalPct: t.totalPct }));
    if (points.length > 0) out.push({ bank, word: shapeWord(points) });
  }
  return out;
}

/** From this chance on two at once are said before any single cause. [house] */
const PAIR_SAID = 0.2;

/** The rule that goes with a shape's word. */
export function ruleOf(word: string): string {
  return RULES[word as ShapeWord] ?? word;
}

/** What the mixture is called at the head of a picture. */
const HEADS: Readonly<Record<Diagnosis['mixture'], string>> = {
  lean: 'Lean',
  rich: 'Rich',
  crossing: 'Rich and lean',
  split: 'One bank lean, one rich',
  balanced: 'In balance',
  'not-applicable': 'No trims',
  undetermined: 'No closed-loop trims',
};

/** How a shape goes on after that word. */
const GOES_ON: Readonly<Record<ShapeWord, string>> = {
  fades: 'most at low airflow',
  grows: 'more so with airflow',
  flat: 'by the same share at every airflow',
  crosses: 'from one end of its range to the other',
  turns: 'with no single shape',
  'one point': 'at the one point read',
};

/**
 * The trims in one line: what the mixture is called, on which bank, and how it goes with airflow. `word` alone is what a
 * colour or an arrow stands beside.
 */
export function headOf(diagnosis: Pick<Diagnosis, 'mixture' | 'banks' | 'shape'>, banks: 1 | 2): HeadLine {
  const { mixture } = diagnosis;
  const word = HEADS[mixture];
  if (mixture !== 'lean' && mixture !== 'rich') return { word, rest: mixture === 'crossing' ? ' over its range' : '' };
  const where = banks === 1 ? '' : diagnosis.banks.length === 2 ? ' on both banks' : ` on bank ${diagnosis.banks[0]}`;
  const words = [...new Set(diagnosis.shape.map((s) => s.word))];
  const goes = words.length === 1 ? `, ${GOES_ON[words[0] as ShapeWord]}` : '';
  return { word, rest: `${where}${goes}` };
}

/** The trims in one line, in two parts to be set one after the other. */
export interface HeadLine {
  word: string;
  rest: string;
}

/** The judgement in plain sentences, made of the same figures as the rest. */
export function paragraphOf(
  banks: 1 | 2,
  mixture: { mixture: Diagnosis['mixture']; banks: (1 | 2)[] },
  shape: Diagnosis['shape'],
  causes: readonly Cause[],
  pairs: Diagnosis['pairs'],
  tests: readonly NextTest[],
  apart: readonly string[][],
): Said {
  const [first, second] = causes;
  if (!first) return '';
  const out: Said[] = [];
  const where = banks === 2 && mixture.banks.length === 1 ? ` on bank ${mixture.banks[0]}` : '';
  const says: Record<Diagnosis['mixture'], string> = {
    lean: `The engine runs lean${where}`,
    rich: `The engine runs rich${where}`,
    crossing: 'The mixture crosses from rich to lean over its range',
    split: 'The banks lean in opposite directions',
    balanced: 'The mixture is in balance',
    'not-applicable': 'A diesel has no fuel trims to read',
    undetermined: 'Without closed-loop trims the mixture is not determined',
  };
  const words = [...new Set(shape.map((s) => s.word))];
  out.push(
    `${says[mixture.mixture]}${words.length === 1 && words[0] !== 'one point' ? `: ${ruleOf(words[0]!)}` : ''}.`,
  );
  const [pair] = pairs;
  if (pair && pair.probability >= PAIR_SAID) {
    const [a, b] = pair.faults.map((f) => midSentence(faultLabel(f)));
    out.push(`Two at once fit: ${a} and ${b} (${chanceText(pair.probability)}).`);
  }
  const named =
    banks === 2 && first.bank
      ? `${midSentence(faultLabel(first.fault))}, bank ${first.bank}`
      : midSentence(faultLabel(first.fault));
  out.push(`Likeliest is ${named} (${chanceText(first.probability)}).`, ...first.because.slice(0, 2));
  if (second && second.probability >= 0.1)
    out.push(`Next comes ${midSentence(faultLabel(second.fault))} (${chanceText(second.probability)}).`);
  const [against] = first.against;
  if (isSaid(against)) out.push(said`Against it: ${against}`);
  const test = tests[0];
  if (worthDoing(test) && first.probability < 0.95)
    out.push(
      `${TEST_BY_ID.get(test.test)?.label ?? test.test} tells most for its ${test.minutes} min${apart[0] ? `, where the readings alone cannot tell ${apart[0].length} causes apart` : ''}.`,
    );
  return joined(out, ' ');
}
