import { FAULT_BY_ID } from '../catalogue/index.ts';
import { DRIVE_PROCEDURES } from '../readiness/index.ts';

/** How hard a practice car is, easiest first. */
export const PRACTICE_LEVELS = ['plain', 'harder', 'pair', 'misleading', 'drive'] as const;
/** One of them. */
export type PracticeLevel = (typeof PRACTICE_LEVELS)[number];

/** The levels in words. */
export const LEVEL_LABELS: Readonly<Record<PracticeLevel, string>> = {
  plain: 'Plain faults',
  harder: 'Harder to tell apart',
  pair: 'Two at once',
  misleading: 'Misleading histories',
  drive: 'Drives that came back open',
};

/** `just-balance/practice`, version 1: a simulated car with something wrong and what its driver says. */
export interface PracticeScenario {
  format: 'just-balance/practice';
  version: 1;
  id: string;
  title: string;
  level: PracticeLevel;
  /** A car of the simulated fleet. */
  vehicle: string;
  faults: { id: string; severity: number; bank?: 1 | 2 }[];
  baroKPa: number;
  airC: number;
  seed: number;
  complaint: { story: string; symptoms: string[]; recentWork?: { part: string; days?: number }[] };
  /** Of the level `drive`: the road script that was driven, and the procedure that it was meant to follow. */
  drive?: { script: string; procedure: string };
  /** What is right to do about it. */
  remedy: 'clean' | 'replace' | 'repair' | 'nothing';
  source: string;
}

const OURS = 'own scenario [house]';
const scenario = (
  s: Omit<PracticeScenario, 'format' | 'version' | 'source'> & { source?: string },
): PracticeScenario => ({ format: 'just-balance/practice', version: 1, source: OURS, ...s });

/** A drive after a repair: the car is sound, one thing about the drive was not. */
const driven = (
  id: string,
  title: string,
  vehicle: string,
  drive: { script: string; procedure: string },
  seed: number,
  story: string,
) =>
  scenario({
    id,
    title,
    level: 'drive',
    vehicle,
    faults: [],
    baroKPa: 99.1,
    airC: 16,
    seed,
    complaint: { story, symptoms: ['lamp-only'] },
    drive,
    remedy: 'nothing',
  });

/** Graded: single plain faults first, then those that read alike, pairs, and histories that point elsewhere. */
export const PRACTICE_SCENARIOS: readonly PracticeScenario[] = [
  scenario({
    id: 'shaking-hatch',
    title: 'The shaking hatch',
    level: 'plain',
    vehicle: 'quillon-18',
    faults: [{ id: 'vac-leak', severity: 0.52 }],
    baroKPa: 98.2,
    airC: 14,
    seed: 101,
    complaint: {
      story: 'The steering wheel trembles at every red light. Fine once it rolls.',
      symptoms: ['rough-idle'],
    },
    remedy: 'repair',
  }),
  scenario({
    id: 'tired-at-speed',
    title: 'Tired at speed',
    level: 'plain',
    vehicle: 'quillon-18',
    faults: [{ id: 'fuel-low', severity: 118 }],
    baroKPa: 99.6,
    airC: 9,
    seed: 102,
    complaint: {
      story: 'Nothing left above ninety, worse uphill. Starts at once.',
      symptoms: ['low-power', 'hesitation'],
    },
    remedy: 'replace',
  }),
  scenario({
    id: 'dusty-road-estate',
    title: 'The estate from the quarry',
    level: 'plain',
    vehicle: 'aldwin-30',
    faults: [{ id: 'maf-dirty', severity: 21 }],
    baroKPa: 95.7,
    airC: 22,
    seed: 103,
    complaint: {
      story: 'Drinks more than it did and pulls badly. Drives to the quarry every day.',
      symptoms: ['high-consumption', 'hesitation'],
    },
    remedy: 'clean',
  }),
  scenario({
    id: 'split-duct',
    title: 'After the belt was done',
    level: 'plain',
    vehicle: 'quillon-18',
    faults: [{ id: 'duct-leak', severity: 17 }],
    baroKPa: 100.4,
    airC: 11,
    seed: 104,
    complaint: {
      story: 'Since the timing belt it hesitates whenever I pull away.',
      symptoms: ['hesitation'],
      recentWork: [{ part: 'timing-belt', days: 9 }],
    },
    remedy: 'repair',
  }),
  scenario({
    id: 'smells-of-fuel',
    title: 'Smells after filling up',
    level: 'plain',
    vehicle: 'quillon-18',
    faults: [{ id: 'purge-open', severity: 0.45 }],
    baroKPa: 97.3,
    airC: 19,
    seed: 105,
    complaint: {
      story: 'Stalls at the pump exit after a full tank, then hunts for a mile.',
      symptoms: ['stall-after-start', 'rough-idle', 'fuel-smell'],
    },
    remedy: 'replace',
  }),
  scenario({
    id: 'one-side-of-the-six',
    title: 'One side of the six',
    level: 'harder',
    vehicle: 'aldwin-30',
    faults: [{ id: 'vac-leak-bank2', severity: 0.44 }],
    baroKPa: 99.1,
    airC: 6,
    seed: 106,
    complaint: { story: 'A tremble at idle and the lamp, now and then.', symptoms: ['rough-idle', 'lamp-only'] },
    remedy: 'repair',
  }),
  scenario({
    id: 'low-everywhere',
    title: 'Low everywhere',
    level: 'harder',
    vehicle: 'elmstone-20t',
    faults: [{ id: 'maf-under', severity: 13 }],
    baroKPa: 96.8,
    airC: 17,
    seed: 107,
    complaint: { story: 'The lamp came on twice. It drives as always, I think.', symptoms: ['lamp-only'] },
    remedy: 'replace',
  }),
  scenario({
    id: 'breather',
    title: 'Whistle with the cap on',
    level: 'harder',
    vehicle: 'quillon-18',
    faults: [{ id: 'crankcase-leak', severity: 0.46 }],
    baroKPa: 98.9,
    airC: 12,
    seed: 108,
    complaint: {
      story: 'Whistles at idle and trembles. Oil was changed somewhere else.',
      symptoms: ['rough-idle', 'noise'],
      recentWork: [{ part: 'oil-change', days: 20 }],
    },
    remedy: 'repair',
  }),
  scenario({
    id: 'rich-and-thirsty',
    title: 'Rich and thirsty',
    level: 'harder',
    vehicle: 'quillon-18',
    faults: [{ id: 'fuel-high', severity: 70 }],
    baroKPa: 99.9,
    airC: 15,
    seed: 109,
    complaint: {
      story: 'Smells of fuel, soot at the tailpipe, half a tank gone by Wednesday.',
      symptoms: ['high-consumption', 'fuel-smell', 'smoke'],
    },
    remedy: 'replace',
  }),
  scenario({
    id: 'two-at-once',
    title: 'Mended, and still not right',
    level: 'pair',
    vehicle: 'quillon-18',
    faults: [
      { id: 'vac-leak', severity: 0.4 },
      { id: 'fuel-low', severity: 105 },
    ],
    baroKPa: 98.1,
    airC: 8,
    seed: 110,
    complaint: {
      story: 'Shakes at idle and has no power on the hill. One garage gave up.',
      symptoms: ['rough-idle', 'low-power'],
    },
    remedy: 'repair',
  }),
  scenario({
    id: 'dirt-and-air',
    title: 'Dirt and air',
    level: 'pair',
    vehicle: 'aldwin-30',
    faults: [
      { id: 'maf-dirty', severity: 17 },
      { id: 'crankcase-leak', severity: 0.5 },
    ],
    baroKPa: 97.5,
    airC: 20,
    seed: 111,
    complaint: { story: 'Idle trembles, pulling away is a guess.', symptoms: ['rough-idle', 'hesitation'] },
    remedy: 'clean',
  }),
  scenario({
    id: 'new-sensor-old-trouble',
    title: 'New sensor, old trouble',
    level: 'misleading',
    vehicle: 'quillon-18',
    faults: [{ id: 'vac-leak', severity: 0.34 }],
    baroKPa: 99.3,
    airC: 13,
    seed: 112,
    complaint: {
      story: 'They fitted a new airflow sensor last month because of a code. It still shakes.',
      symptoms: ['rough-idle', 'lamp-only'],
      recentWork: [{ part: 'maf-sensor', days: 26 }],
    },
    remedy: 'repair',
  }),
  scenario({
    id: 'blamed-sensor',
    title: 'The oxygen sensor is to blame, they said',
    level: 'misleading',
    vehicle: 'quillon-18',
    faults: [{ id: 'exhaust-leak', severity: 13 }],
    baroKPa: 98.6,
    airC: 10,
    seed: 113,
    complaint: {
      story: 'Reads lean, so they want to replace the oxygen sensor. It ticks when cold.',
      symptoms: ['noise', 'lamp-only'],
    },
    remedy: 'repair',
  }),
  driven(
    'left-for-the-afternoon',
    'Left for the afternoon',
    'quillon-18',
    { script: 'cruise-without-soak', procedure: 'steady-cruise' },
    121,
    'Parked it at lunch, drove it at five exactly as the sheet says. One monitor would not close.',
  ),
  driven(
    'filled-on-the-way',
    'Filled up for the long drive',
    'quillon-18',
    { script: 'cruise-without-fuel-level', procedure: 'steady-cruise' },
    122,
    'Filled it first so that it would not run out. Drove every minute of it.',
  ),
  driven(
    'behind-the-tractor',
    'Something slow in front',
    'quillon-18',
    { script: 'cruise-without-steady', procedure: 'steady-cruise' },
    123,
    'A good night’s rest, half a tank, a quiet road but for one tractor. Seven minutes of cruise, all in all.',
  ),
  driven(
    'all-but-one',
    'All but one',
    'jessop-28',
    { script: 'stations-without-speed', procedure: 'seven-stations' },
    124,
    'More than an hour of it, station by station. Everything closed but one.',
  ),
  driven(
    'moved-in-the-morning',
    'Moved out of the way first',
    'jessop-28',
    { script: 'stations-without-coolant-start', procedure: 'seven-stations' },
    125,
    'It stood in front of the gate, so I moved it, had a coffee, and began.',
  ),
  driven(
    'straight-out-of-the-gate',
    'Straight out of the gate',
    'larkin-14t',
    { script: 'general-without-idle', procedure: 'general' },
    126,
    'Fifteen minutes, town and road, no hurry. The count of drives has not moved.',
  ),
  driven(
    'market-day',
    'Market day',
    'larkin-14t',
    { script: 'general-without-cruise', procedure: 'general' },
    127,
    'Ten minutes and more of driving, a proper idle at both ends.',
  ),
];

/** What is wrong with a scenario from a file; empty where it can be played. `cars`: the simulated fleet. */
export function scenarioProblems(json: unknown, cars: readonly string[]): { field: string; message: string }[] {
  const out: { field: string; message: string }[] = [];
  const bad = (field: string, message: string) => out.push({ field, message });
  if (json === null || typeof json !== 'object' || Array.isArray(json)) return [{ field: '', message: 'an object' }];
  const s = json as Partial<Record<keyof PracticeScenario, unknown>>;
  if (s.format !== 'just-balance/practice') bad('format', 'must be "just-balance/practice"');
  if (s.version !== 1) bad('version', `must be 1${Number(s.version) > 1 ? ': update this program' : ''}`);
  const text = (field: 'id' | 'title' | 'source', most: number) => {
    const v = s[field];
    if (typeof v !== 'string' || v.trim() === '' || v.length > most) bad(field, `a text of 1 to ${most} characters`);
  };
  text('id', 60);
  text('title', 120);
  text('source', 200);
  if (!(PRACTICE_LEVELS as readonly unknown[]).includes(s.level)) bad('level', `one of ${PRACTICE_LEVELS.join(', ')}`);
  if (!cars.includes(s.vehicle as string)) bad('vehicle', `one of ${cars.join(', ')}`);
  const number = (field: 'baroKPa' | 'airC' | 'seed', low: number, high: number) => {
    const v = s[field];
    if (typeof v !== 'number' || !(v >= low && v <= high)) bad(field, `a number, ${low} to ${high}`);
  };
  number('baroKPa', 60, 110);
  number('airC', -40, 50);
  number('seed', 0, 1e9);
  const faults = s.faults;
  if (!Array.isArray(faults) || faults.length > 2) bad('faults', 'a list of at most two');
  else
    for (const [i, f] of (faults as unknown[]).entries()) {
      const { id, severity, bank } = (f ?? {}) as { id?: unknown; severity?: unknown; bank?: unknown };
      if (typeof id !== 'string' || !FAULT_BY_ID.has(id)) bad(`faults[${i}].id`, 'a fault of the catalogue');
      if (typeof severity !== 'number' || !Number.isFinite(severity)) bad(`faults[${i}].severity`, 'a number');
      if (bank !== undefined && bank !== 1 && bank !== 2) bad(`faults[${i}].bank`, '1 or 2');
    }
  const c = s.complaint as Partial<PracticeScenario['complaint']> | undefined;
  if (typeof c?.story !== 'string' || c.story.length > 2000)
    bad('complaint.story', 'a text of at most 2,000 characters');
  if (!Array.isArray(c?.symptoms) || c.symptoms.length > 20) bad('complaint.symptoms', 'a list');
  const drive = s.drive as Partial<Record<'script' | 'procedure', unknown>> | null | undefined;
  if (s.level === 'drive') {
    if (typeof drive?.script !== 'string' || !/^[a-z0-9-]{1,60}$/.test(drive.script))
      bad('drive.script', 'the road script that was driven');
    if (!DRIVE_PROCEDURES.some((p) => p.id === drive?.procedure))
      bad('drive.procedure', `one of ${DRIVE_PROCEDURES.map((p) => p.id).join(', ')}`);
  } else if (drive !== undefined) bad('drive', 'only of the level "drive"');
  if (!['clean', 'replace', 'repair', 'nothing'].includes(s.remedy as string))
    bad('remedy', 'clean, replace, repair or nothing');
  return out;
}
