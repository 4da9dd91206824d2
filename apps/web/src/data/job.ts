import {
  JOB_RESOURCES,
  type JobResource,
  type JobRows,
  type JobSummary,
  type JobView,
  ROUTES,
  type Route,
  withFinds,
} from '@just-balance/contract';
import { useMemo } from 'react';
import { mutate } from 'swr';
import { mustFetch, olderThan, useRead } from './reads.ts';

/** The page shows what the newest result did to the judgement: two are enough. */
const JUDGEMENTS = 2;

/** The server's address of a job's head or of one of its resources, and its place in SWR's cache. */
export function jobKey(jobId: string, resource?: JobResource): string {
  if (resource === undefined) return ROUTES.job(jobId);
  return resource === 'diagnosis' ? ROUTES.newestDiagnoses(jobId, JUDGEMENTS) : ROUTES.jobRows(jobId, resource);
}

export const jobKeys = (jobId: string): string[] => [jobKey(jobId), ...JOB_RESOURCES.map((n) => jobKey(jobId, n))];

function useResource<N extends JobResource>(jobId: string, resource: N) {
  return useRead(jobKey(jobId, resource) as Route<JobRows[N][]>);
}

/** The job with all its resources, once every one of them is here; each is kept and looked at again by itself. */
export function useJob(jobId: string): { job: JobView | undefined; error: unknown } {
  const head = useRead(ROUTES.job(jobId));
  const records = useResource(jobId, 'records');
  const readings = useResource(jobId, 'readings');
  const tests = useResource(jobId, 'tests');
  const repairs = useResource(jobId, 'repairs');
  const captures = useResource(jobId, 'captures');
  const known = useResource(jobId, 'known');
  const cautions = useResource(jobId, 'cautions');
  const diagnoses = useResource(jobId, 'diagnosis');
  const damaged = useResource(jobId, 'damaged');
  const runs = useResource(jobId, 'runs');
  const entries = useResource(jobId, 'entries');
  const photos = useResource(jobId, 'photos');
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
  const resources = [records, readings, tests, repairs, captures, known, cautions, diagnoses, damaged];
  const all = [head, ...resources, runs, entries, photos];
  return { job, error: all.find((r) => r.error !== undefined)?.error };
}

type Resources = Omit<JobView, keyof JobSummary>;

function whole({
  head,
  ...resources
}: { head: JobSummary | undefined } & { [K in keyof Resources]: Resources[K] | undefined }): JobView | undefined {
  if (!head || Object.values(resources).some((rows) => rows === undefined)) return undefined;
  const all = resources as Resources;
  return { ...head, ...all, tests: withFinds(all.tests, all.runs, all.repairs) };
}

/** Look at these resources of a job again, at all where null; and at its head and judgement, which follow from them. */
export async function lookAgain(jobId: string, resources: readonly JobResource[] | null): Promise<void> {
  const what = new Set<JobResource | undefined>([undefined, 'diagnosis', ...(resources ?? JOB_RESOURCES)]);
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

/** Resources whose writes are answered with the row as it then stands. */
const ROWS: readonly string[] = [
  'records',
  'readings',
  'tests',
  'repairs',
  'runs',
  'entries',
  'photos',
] satisfies JobResource[];

/** Writes whose answer is a row of another resource than their address. */
const ELSEWHERE: Readonly<Record<string, readonly JobResource[]>> = { '/records/clear': ['records', 'entries'] };

/** What to look at after the other writes; after any that is not here: everything. */
const LOOKED_AT: Readonly<Record<string, readonly JobResource[]>> = {
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
  const [, resource = ''] = path.split('/');
  const row = answer !== null && typeof answer === 'object' ? (answer as { id?: unknown }) : {};
  if (ELSEWHERE[path]) await lookAgain(jobId, ELSEWHERE[path]);
  else if (path === '' && row.id === jobId) {
    await put(jobKey(jobId), () => answer);
    await mutate(jobKey(jobId, 'diagnosis'));
  } else if (ROWS.includes(resource) && typeof row.id === 'string') {
    await put<{ id: string }[]>(jobKey(jobId, resource as JobResource), (rows) => withRow(rows, row as { id: string }));
    await lookAgain(jobId, []);
  } else if (resource === 'cautions') {
    await put<unknown[]>(jobKey(jobId, 'cautions'), (rows) => [...rows, answer]);
  } else if (resource === 'imports') {
    // Its parts change nothing that is shown.
    if (path.endsWith('/finish')) await lookAgain(jobId, ['captures', 'readings']);
  } else await lookAgain(jobId, LOOKED_AT[resource] ?? null);
}
