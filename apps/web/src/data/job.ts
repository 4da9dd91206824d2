import {
  JOB_NOUNS,
  type JobNoun,
  type JobRows,
  type JobSummary,
  type JobView,
  ROUTES,
  type Route,
} from '@just-balance/contract';
import { useMemo } from 'react';
import { mutate } from 'swr';
import { mustFetch, olderThan, useRead } from './reads.ts';

/** The page shows what the newest result did to the judgement: two are enough. */
const JUDGEMENTS = 2;

/** The server's address of a job's head or of one of its nouns, and its place in SWR's cache. */
export function jobKey(jobId: string, noun?: JobNoun): string {
  if (noun === undefined) return ROUTES.job(jobId);
  return noun === 'diagnosis' ? ROUTES.newestDiagnoses(jobId, JUDGEMENTS) : ROUTES.jobRows(jobId, noun);
}

export const jobKeys = (jobId: string): string[] => [jobKey(jobId), ...JOB_NOUNS.map((n) => jobKey(jobId, n))];

function useNoun<N extends JobNoun>(jobId: string, noun: N) {
  return useRead(jobKey(jobId, noun) as Route<JobRows[N][]>);
}

/** The job with all its nouns, once every one of them is here; each is kept and looked at again by itself. */
export function useJob(jobId: string): { job: JobView | undefined; error: unknown } {
  const head = useRead(ROUTES.job(jobId));
  const records = useNoun(jobId, 'records');
  const readings = useNoun(jobId, 'readings');
  const tests = useNoun(jobId, 'tests');
  const repairs = useNoun(jobId, 'repairs');
  const captures = useNoun(jobId, 'captures');
  const known = useNoun(jobId, 'known');
  const cautions = useNoun(jobId, 'cautions');
  const diagnoses = useNoun(jobId, 'diagnosis');
  const damaged = useNoun(jobId, 'damaged');
  const runs = useNoun(jobId, 'runs');
  const entries = useNoun(jobId, 'entries');
  const photos = useNoun(jobId, 'photos');
  const job = useMemo(
    () =>
      whole({
        head: head.data,
        records: records.data,
        readings: readings.data,
        tests: tests.data,
        repairs: repairs.data,
        captures: captures.data,
        known: known.data,
        cautions: cautions.data,
        diagnoses: diagnoses.data,
        damaged: damaged.data,
        runs: runs.data,
        entries: entries.data,
        photos: photos.data,
      }),
    [
      head.data,
      records.data,
      readings.data,
      tests.data,
      repairs.data,
      captures.data,
      known.data,
      cautions.data,
      diagnoses.data,
      damaged.data,
      runs.data,
      entries.data,
      photos.data,
    ],
  );
  const nouns = [records, readings, tests, repairs, captures, known, cautions, diagnoses, damaged];
  const all = [head, ...nouns, runs, entries, photos];
  return { job, error: all.find((r) => r.error !== undefined)?.error };
}

type Nouns = Omit<JobView, keyof JobSummary>;

function whole({
  head,
  ...nouns
}: { head: JobSummary | undefined } & { [K in keyof Nouns]: Nouns[K] | undefined }): JobView | undefined {
  if (!head || Object.values(nouns).some((rows) => rows === undefined)) return undefined;
  return { ...head, ...(nouns as Nouns) };
}

/** Look at these nouns of a job again, at all where null; and at its head and judgement, which follow from them. */
export async function lookAgain(jobId: string, nouns: readonly JobNoun[] | null): Promise<void> {
  const what = new Set<JobNoun | undefined>([undefined, 'diagnosis', ...(nouns ?? JOB_NOUNS)]);
  await Promise.all([...what].map((n) => mutate(jobKey(jobId, n))));
}

/** From a subscription on every change is told: look again at what was read before the job had seen so many. */
export async function catchUp(jobId: string, changes: number): Promise<void> {
  await Promise.all(
    jobKeys(jobId)
      .filter((key) => olderThan(key, changes))
      .map((key) => mutate(key)),
  );
}

/** Nouns whose writes are answered with the row as it then stands. */
const ROWS: readonly string[] = [
  'records',
  'readings',
  'tests',
  'repairs',
  'runs',
  'entries',
  'photos',
] satisfies JobNoun[];

/** Writes whose answer is a row of another noun than their address. */
const ELSEWHERE: Readonly<Record<string, readonly JobNoun[]>> = { '/records/clear': ['records', 'entries'] };

/** What to look at after the other writes; after any that is not here: everything. */
const LOOKED_AT: Readonly<Record<string, readonly JobNoun[]>> = {
  known: ['known'],
  captures: ['captures', 'readings'],
  vehicle: ['known', 'damaged'],
};

/** A row in its list: in its place where it was there, at the end where it is new. */
export function withRow<T extends { id: string }>(rows: readonly T[], row: T): T[] {
  return rows.some((r) => r.id === row.id) ? rows.map((r) => (r.id === row.id ? row : r)) : [...rows, row];
}

/** Change what stands under a key; where nothing stands, or a read was under way, it is fetched. */
async function put<T>(key: string, change: (now: T) => T): Promise<void> {
  await mutate<T>(key, (now) => (now === undefined ? undefined : change(now)), {
    revalidate: (kept: unknown) => mustFetch(kept, key),
  });
}

/**
 * What the server answered to a write, put where the page shows it; only what follows from it is fetched. `path`: below
 * the job's own, as in `/tests/ID`.
 */
export async function showAnswer(jobId: string, path: string, answer: unknown): Promise<void> {
  const [, noun = ''] = path.split('/');
  const row = answer !== null && typeof answer === 'object' ? (answer as { id?: unknown }) : {};
  if (ELSEWHERE[path]) await lookAgain(jobId, ELSEWHERE[path]);
  else if (path === '' && row.id === jobId) {
    await put(jobKey(jobId), () => answer);
    await mutate(jobKey(jobId, 'diagnosis'));
  } else if (ROWS.includes(noun) && typeof row.id === 'string') {
    await put<{ id: string }[]>(jobKey(jobId, noun as JobNoun), (rows) => withRow(rows, row as { id: string }));
    await lookAgain(jobId, []);
  } else if (noun === 'cautions') {
    await put<unknown[]>(jobKey(jobId, 'cautions'), (rows) => [...rows, answer]);
  } else if (noun === 'imports') {
    // Its parts change nothing that is shown.
    if (path.endsWith('/finish')) await lookAgain(jobId, ['captures', 'readings']);
  } else await lookAgain(jobId, LOOKED_AT[noun] ?? null);
}
