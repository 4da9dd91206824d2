import type { PracticeScenario } from '../practice/index.ts';
import { PRACTICE_SCENARIOS } from './shipped.ts';

/** Cars of an exam, and the drive at its end. */
export const EXAM_CARS = 3;
/** All of an exam. */
export const EXAM_LENGTH = EXAM_CARS + 1;

type Family = 'air' | 'metering' | 'fuel' | 'exhaust';

/** A fault with its sizes, the simulated cars that can have it, and what is right to do about it. Sizes [house]. */
interface Row {
  family: Family;
  fault: string;
  cars: readonly string[];
  /** In the fault's own unit. */
  size: readonly [low: number, high: number];
  remedy: PracticeScenario['remedy'];
  symptoms: readonly (readonly string[])[];
}

const ROWS: readonly Row[] = [
  {
    ...{ family: 'air', fault: 'vac-leak', cars: ['quillon-18', 'fallow-25f'], size: [0.32, 0.62], remedy: 'repair' },
    symptoms: [['rough-idle'], ['rough-idle', 'lamp-only'], ['high-idle']],
  },
  {
    ...{ family: 'air', fault: 'vac-leak-bank1', cars: ['aldwin-30'], size: [0.36, 0.6], remedy: 'repair' },
    symptoms: [['rough-idle'], ['lamp-only']],
  },
  {
    ...{ family: 'air', fault: 'vac-leak-bank2', cars: ['aldwin-30'], size: [0.36, 0.6], remedy: 'repair' },
    symptoms: [['rough-idle'], ['misfire-felt']],
  },
  {
    ...{
      family: 'air',
      fault: 'crankcase-leak',
      cars: ['quillon-18', 'aldwin-30'],
      size: [0.36, 0.6],
      remedy: 'repair',
    },
    symptoms: [['rough-idle', 'noise'], ['rough-idle']],
  },
  {
    ...{
      family: 'metering',
      fault: 'maf-dirty',
      cars: ['quillon-18', 'aldwin-30', 'fallow-25f'],
      size: [15, 24],
      remedy: 'clean',
    },
    symptoms: [['hesitation'], ['high-consumption', 'hesitation']],
  },
  {
    ...{
      family: 'metering',
      fault: 'maf-under',
      cars: ['elmstone-20t', 'quillon-18'],
      size: [11, 17],
      remedy: 'replace',
    },
    symptoms: [['lamp-only'], ['hesitation']],
  },
  {
    ...{ family: 'metering', fault: 'duct-leak', cars: ['quillon-18', 'fallow-25f'], size: [13, 20], remedy: 'repair' },
    symptoms: [['hesitation'], ['hesitation', 'low-power']],
  },
  {
    ...{ family: 'fuel', fault: 'fuel-low', cars: ['quillon-18'], size: [95, 130], remedy: 'replace' },
    symptoms: [['low-power', 'hesitation'], ['low-power']],
  },
  {
    ...{ family: 'fuel', fault: 'fuel-high', cars: ['quillon-18'], size: [60, 85], remedy: 'replace' },
    symptoms: [
      ['high-consumption', 'fuel-smell'],
      ['high-consumption', 'smoke'],
    ],
  },
  {
    ...{ family: 'fuel', fault: 'purge-open', cars: ['quillon-18'], size: [0.38, 0.6], remedy: 'replace' },
    symptoms: [
      ['stall-after-start', 'rough-idle'],
      ['fuel-smell', 'rough-idle'],
    ],
  },
  {
    ...{ family: 'exhaust', fault: 'exhaust-leak', cars: ['quillon-18'], size: [11, 16], remedy: 'repair' },
    symptoms: [['noise', 'lamp-only'], ['lamp-only']],
  },
];

/** What its driver says, by what is felt first. */
const SAYS: Readonly<Record<string, readonly string[]>> = {
  'rough-idle': ['It trembles when it stands, and is better once it moves.', 'At the lights the wheel shakes.'],
  'high-idle': ['It turns faster than it used to when I stop.', 'Standing still it sounds as if I held the pedal.'],
  'misfire-felt': ['There is a stumble in it, most of all when it stands.', 'It runs as if one were missing.'],
  hesitation: ['Pulling away it thinks about it first.', 'I press, and it takes a moment.'],
  'high-consumption': ['I fill it more often than I did.', 'It drinks, and nobody drives it harder.'],
  'low-power': ['Uphill it runs out of breath.', 'At speed there is nothing left in it.'],
  'stall-after-start': ['After filling up it starts and dies.', 'It starts, then goes off again.'],
  'fuel-smell': ['It smells of fuel round the back.', 'There is a smell of fuel in the yard.'],
  noise: ['There is a noise that was not there in spring.', 'Something hisses or ticks, I cannot say where.'],
  'lamp-only': ['The lamp came on. I notice nothing else.', 'Only the lamp: it drives as ever.'],
};

/** What was done to it before, which may have to do with it or not. */
const HISTORIES: readonly (PracticeScenario['complaint']['recentWork'] | undefined)[] = [
  undefined,
  undefined,
  [{ part: 'oil-change', days: 25 }],
  [{ part: 'air-filter', days: 40 }],
  [{ part: 'maf-sensor', days: 18 }],
  [{ part: 'timing-belt', days: 12 }],
];

/** Chance from a whole number: the same number, the same car (a linear congruence, Numerical Recipes, from memory). */
function chance(seed: number): () => number {
  let state = seed >>> 0;
  const next = () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
  // The first few of near seeds are near each other.
  for (let i = 0; i < 8; i++) next();
  return next;
}

/**
 * One car of an exam, drawn and on no list: fault, size, car, story, history and weather; of each family at most one. The
 * last of an exam is a drive that came back open.
 *
 * @param seed A whole number from 0; who knows it knows the exam.
 * @param place From 1 to `EXAM_LENGTH`.
 * @throws RangeError for another place.
 */
export function examCar(seed: number, place: number): PracticeScenario {
  if (!(Number.isInteger(place) && place >= 1 && place <= EXAM_LENGTH))
    throw new RangeError(`place ${place}: an exam has 1 to ${EXAM_LENGTH}`);
  const r = chance(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(r() * list.length)]!;
  const families = [...new Set(ROWS.map((x) => x.family))];
  const round = (v: number, digits: number) => Math.round(v * 10 ** digits) / 10 ** digits;
  const drawn = Array.from({ length: EXAM_CARS }, (_, i): PracticeScenario => {
    const family = pick(families);
    families.splice(families.indexOf(family), 1);
    const row = pick(ROWS.filter((x) => x.family === family));
    const [low, high] = row.size;
    const symptoms = pick(row.symptoms);
    const recentWork = pick(HISTORIES);
    return {
      format: 'just-balance/practice',
      version: 1,
      source: 'drawn for an exam [house]',
      id: `exam-${i + 1}`,
      title: `Car ${i + 1} of the exam`,
      level: 'harder',
      vehicle: pick(row.cars),
      faults: [{ id: row.fault, severity: round(low + (high - low) * r(), high < 2 ? 2 : 0) }],
      baroKPa: round(96 + 5 * r(), 1),
      airC: round(4 + 22 * r(), 0),
      seed: Math.floor(r() * 1e6),
      complaint: {
        story: pick(SAYS[symptoms[0]!]!),
        symptoms: [...symptoms],
        ...(recentWork ? { recentWork: [...recentWork] } : {}),
      },
      remedy: row.remedy,
    };
  });
  const drive = pick(PRACTICE_SCENARIOS.filter((s) => s.drive));
  return drawn[place - 1] ?? { ...drive, id: `exam-${place}`, title: 'The drive of the exam' };
}
