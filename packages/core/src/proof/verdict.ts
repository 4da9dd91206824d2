import { pointLabel, type Reading, type VehicleSpec } from '../case/index.ts';
import { faultLabel } from '../catalogue/index.ts';
import { chanceText, figure, joined, midSentence, type Said, said, signed } from '../units/index.ts';
import { type Change, compareTrims } from './compare.ts';
import { compareFigures, digitsOf, type FigureChange, insideLimit } from './figures.ts';
import { bankTotals } from './totals.ts';

/** Short-term trim this far against the long-term one: the memory still settles, percentage points. [house] */
const SETTLING_PCT = 3;
/** From this chance on, after the repair, another cause is named as the second fault. [house] */
const SECOND = 0.5;
/** A repaired cause starts with this share of its weight when the readings after are weighed. [house] */
const WEAKENED = 0.1;

/** What may be said of a repair. */
export type ProofVerdict =
  | 'nothing to compare'
  | 'settling'
  | 'proven'
  | 'points missing'
  | 'balanced, a part condemned'
  | 'better, still outside'
  | 'a second fault shows'
  | 'smaller than the readings can show'
  | 'worse'
  | 'maintained';

/** What it is judged from. */
export interface ProofInput {
  /** Newest reading of each point. */
  before: readonly Reading[];
  after: readonly Reading[];
  bandPct: number;
  /** What the readings after say, weighed with the repaired causes weakened; null while it is not weighed. */
  weighed: { mixture: string; causes: readonly { fault: string; probability: number }[] } | null;
  repaired: readonly string[];
  /** Parts condemned, as fault ids, and not replaced since. */
  condemned: readonly string[];
  /** Of the vehicle, what was entered for it included. */
  limits?: VehicleSpec['limits'];
}

/** The verdict on a repair, with its reasons and what is still missing. */
export interface ProofJudgement {
  verdict: ProofVerdict;
  title: string;
  why: Said;
  /** What comes next, in one sentence. */
  next: string;
  /** Causes that remain, likeliest first; only with a second fault. */
  remains: { fault: string; probability: number }[];
}

/** Settings for weighing what is read after a repair: what was repaired is not impossible, only less likely. */
export function weakened(
  priors: Readonly<Record<string, number>> | undefined,
  starting: (fault: string) => number,
  repaired: readonly string[],
): Record<string, number> {
  const out: Record<string, number> = { ...priors };
  for (const f of repaired) if (f !== 'balanced') out[f] = (priors?.[f] ?? starting(f)) * WEAKENED;
  return out;
}

/** The verdict: trims back in band at the points that were off, what the weighing says of the rest, and what comes next. */
export function judgeProof(input: ProofInput): ProofJudgement {
  const { before, after, bandPct, weighed, condemned } = input;
  const changes = compareTrims(before.flatMap(bankTotals), after.flatMap(bankTotals), bandPct);
  const say: Say = (verdict, title, why, next, remains = []) => ({
    verdict,
    title,
    why,
    next,
    remains,
  });
  const figures = compareFigures(before, after, input.limits);
  if (changes.length === 0) return byFigures(input, figures, say);
  if (after.some(settles))
    return say(
      'settling',
      'No verdict yet: the memory still settles',
      'Short term runs against long term: the total is on its way.',
      'Let it idle and cruise a few minutes, then take the points again.',
    );
  const wereOff = changes.filter((c) => Math.abs(c.beforePct) > bandPct);
  const outside = changes.filter((c) => !c.inBand);
  const worse = changes.filter((c) => c.verdict === 'worse');
  const better = changes.filter((c) => c.verdict === 'better');
  const size = (c: Change) => `${signed(c.beforePct)} → ${signed(c.afterPct)} % (±${c.uncertaintyPct.toFixed(1)})`;
  const sizes = better.map(size);
  // Points that were off and have not been taken again: what they read now is not known.
  const missing = before
    .flatMap(bankTotals)
    .filter((b) => Math.abs(b.totalPct) > bandPct && !changes.some((c) => c.at === b.at && c.bank === b.bank));
  if (outside.length === 0 && missing.length > 0) {
    const names = pointNames(missing, before);
    return say(
      'points missing',
      'Not proven yet: a point that was off is not taken again',
      `${better.length > 0 ? `Inside ±${bandPct} % again where it was taken: ${sizes.join('; ')}. ` : ''}Off before, and not read since: ${names}.`,
      `Take ${names} again, under the same conditions.`,
    );
  }
  if (outside.length === 0) {
    if (condemned.length > 0)
      return say(
        'balanced, a part condemned',
        'Balanced, but a part stays condemned',
        `The trims are back inside ±${bandPct} %; ${condemned.map((f) => midSentence(faultLabel(f))).join(', ')} was found by looking at it, and may read right today.`,
        'Replace it, or hand over with that said.',
      );
    // Where the mixture was off, sensors switched as it let them: only the plate is judged beside the trims.
    const parts = wereOff.length === 0 ? figures : figures.filter((f) => f.bank === null);
    const part = partVerdict(parts, say);
    if (part) return part;
    if (wereOff.length === 0)
      return say(
        'maintained',
        'In band before and after',
        better.length > 0
          ? `Nearer to zero: ${sizes.join('; ')}. Nothing was wrong, nothing is promised.`
          : 'Nothing was outside the band; any change is smaller than these readings can show.',
        'Write down the distance at which it is due again.',
      );
    return say(
      'proven',
      'Proven by the trims',
      `Back inside ±${bandPct} % at ${wereOff.length === 1 ? 'the point that was' : 'every point that was'} off: ${wereOff.map(size).join('; ')}.`,
      'No pending code after two trips is the other half.',
    );
  }
  if (better.length === 0 && worse.length > 0)
    return say(
      'worse',
      'Worse than before',
      worse.map(size).join('; '),
      'Check the refit first: arrow, ring, plugs, hoses, clamps. Then back to Balance.',
    );
  const remains = secondFaults(input);
  if (better.length > 0) {
    if (remains.length > 0)
      return say(
        'a second fault shows',
        'Better, and a second fault shows',
        `${sizes.join('; ')}. What is left fits ${midSentence(faultLabel(remains[0]!.fault))} (${chanceText(remains[0]!.probability)}).`,
        'Take what remains back to Balance.',
        remains,
      );
    return say(
      'better, still outside',
      'Better, still outside',
      `${sizes.join('; ')}.${weighed ? ' What is left fits no other cause well enough to name it.' : ''}`,
      'Read again once it has settled; then test what is left.',
    );
  }
  const least = Math.min(...changes.map((c) => c.uncertaintyPct));
  return say(
    'smaller than the readings can show',
    'No change that these readings can show',
    `Any change is smaller than ±${least.toFixed(1)} points: the repair did not reach what is wrong, or the readings are too rough.`,
    remains.length > 0
      ? 'Take it back to Balance: another cause is likelier now.'
      : 'Take steadier readings, or test again.',
    remains,
  );
}

/** Points in words, each once; with the bank where only one of two is meant. */
function pointNames(missing: readonly { at: Reading['at']; bank: 1 | 2 }[], before: readonly Reading[]): string {
  const names = missing.map(({ at, bank }) => {
    const banks = Object.keys(before.find((r) => r.at === at)?.trims ?? {}).length;
    const both = missing.filter((m) => m.at === at).length === banks;
    return `${midSentence(pointLabel(at) ?? at)}${banks > 1 && !both ? ` on bank ${bank}` : ''}`;
  });
  return [...new Set(names)].join(' and ');
}

type Say = (
  verdict: ProofVerdict,
  title: string,
  why: Said,
  next: string,
  remains?: ProofJudgement['remains'],
) => ProofJudgement;

const figureWords = (f: FigureChange) =>
  said`${f.quantity.toLowerCase()}${f.bank === null ? '' : ` of bank ${f.bank}`} ${figure([f.before, f.after], f.unit, digitsOf(f), { between: ' → ' })}`;

/** What is proven by a part's own figure, and what comes next. */
const BY_PART: Readonly<Partial<Record<FigureChange['quantity'], { by: string; next: string; again: string }>>> = {
  'Relative throttle': {
    by: 'the throttle',
    next: 'Teach the throttle if it has not been, and watch the idle over a few starts.',
    again: 'Was it taught again? Was the engine side cleaned? Read it again under the same conditions.',
  },
  'Slowest transition': {
    by: 'the sensor’s switching',
    next: 'No pending code after two trips is the other half.',
    again: 'Read this sensor alone, warm, at a steady hold. Slow still: replace it.',
  },
  'Crossings in 10 s': {
    by: 'the sensor’s switching',
    next: 'No pending code after two trips is the other half.',
    again: 'Read this sensor alone, warm, at a steady hold, before it is condemned.',
  },
  'Downstream crossings in 10 s': {
    by: 'the sensor behind the catalyst',
    next: 'The catalyst’s monitor has to run and pass: drive it at Readiness.',
    again: 'Warm the catalyst at a steady road load, then read both sensors again.',
  },
};

/**
 * The trims were right all along, or there are none: what was off is a part's own figure, against its limit. Null where
 * none was off.
 */
function partVerdict(figures: readonly FigureChange[], say: Say): ProofJudgement | null {
  const off = figures.filter((f) => !insideLimit(f.before, f.limit));
  const [worst] = [...off.filter((f) => !insideLimit(f.after, f.limit)), ...off];
  if (!worst) return null;
  const { by, next, again } = BY_PART[worst.quantity]!;
  const { value, side } = worst.limit!;
  const limit = said`${side === 'most' ? 'at most' : 'at least'} ${figure(value, worst.unit)}`;
  const words = said`${figureWords(worst)}, ${limit}`;
  if (insideLimit(worst.after, worst.limit))
    return say('proven', `Proven by ${by}`, said`Back where it belongs: ${words}.`, next);
  const nearer = side === 'most' ? worst.after < worst.before : worst.after > worst.before;
  return worst.changed && nearer
    ? say('better, still outside', 'Better, still outside', said`${words}.`, again)
    : say(
        'smaller than the readings can show',
        'No change that these readings can show',
        said`${words}; two readings of it differ by ±${figure(worst.uncertainty, worst.unit, digitsOf(worst) || 0)} anyway.`,
        again,
      );
}

/** No trims to compare, as on a diesel: airflow and pressure, and what their weighing says. */
function byFigures(input: ProofInput, figures: readonly FigureChange[], say: Say): ProofJudgement {
  if (figures.length === 0)
    return say(
      'nothing to compare',
      'Nothing to compare yet',
      'A proof is the same readings before and after.',
      'Take the points that were off again.',
    );
  const part = partVerdict(figures, say);
  if (part) return part;
  const changed = figures.filter((f) => f.changed).map(figureWords);
  const balanced = input.weighed?.causes.find((c) => c.fault === 'balanced')?.probability ?? 0;
  if (changed.length > 0 && balanced >= SECOND)
    return say(
      'proven',
      'Proven by the figures',
      said`${joined(changed, '; ')}. What is read now fits an engine in order (${chanceText(balanced)}).`,
      'No pending code after two trips is the other half.',
    );
  const remains = secondFaults(input);
  if (changed.length === 0)
    return say(
      'smaller than the readings can show',
      'No change that these readings can show',
      figures.every((f) => f.unit === 'V')
        ? 'The sensor’s signal reads as before, as far as two readings agree.'
        : 'Airflow and pressure read as before, as far as two readings agree.',
      remains.length > 0 ? 'Take it back to Balance.' : 'Take the readings under the load that set the code.',
      remains,
    );
  if (remains.length > 0)
    return say(
      'a second fault shows',
      'Changed, and something is left',
      said`${joined(changed, '; ')}.`,
      'Take what remains back to Balance.',
      remains,
    );
  if (figures.every((f) => f.unit === 'V')) return byVolts(figures, changed, say);
  return say(
    'better, still outside',
    'Changed, not proven yet',
    said`${joined(changed, '; ')}.`,
    'Compare with the target under load, then read again.',
  );
}

/** Only volts of the airflow sensor, and no curve: which way they went is known, not where they should be. */
function byVolts(figures: readonly FigureChange[], changed: readonly Said[], say: Say): ProofJudgement {
  const moved = figures.filter((f) => f.changed);
  const up = moved.every((f) => f.after > f.before);
  const down = moved.every((f) => f.after < f.before);
  const way = up ? 'More' : down ? 'Less' : 'Not one way: less at one point, more at another:';
  return say(
    'better, still outside',
    'The sensor’s signal has changed, not proven yet',
    said`${joined(changed, '; ')}. ${up || down ? `${way} signal at the same point; without the sensor’s curve nothing says where it should be.` : `${way} no change of the sensor alone does that.`}`,
    'Read the fuel trims or λ beside it, or enter the sensor’s curve on the vehicle’s card.',
  );
}

function secondFaults({ weighed, repaired }: ProofInput): ProofJudgement['remains'] {
  if (!weighed || weighed.mixture === 'balanced' || weighed.mixture === 'undetermined') return [];
  const others = weighed.causes.filter((c) => c.fault !== 'balanced' && !repaired.includes(c.fault));
  const all = others.reduce((sum, c) => sum + c.probability, 0);
  return all >= SECOND ? others.slice(0, 5).map(({ fault, probability }) => ({ fault, probability })) : [];
}

function settles(r: Reading): boolean {
  return Object.values(r.trims ?? {}).some(
    (t) => t && Math.abs(t.stft ?? 0) >= SETTLING_PCT && (t.stft ?? 0) * (t.ltft ?? 0) < 0,
  );
}

/** A change as a person reads it. */
export function changeWords(c: Change): string {
  return c.verdict === 'no change' ? `smaller than ±${c.uncertaintyPct.toFixed(1)}` : c.verdict;
}
