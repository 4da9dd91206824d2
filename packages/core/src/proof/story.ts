/** When something of a job happened, as far as the story of its repairs needs it. */
export interface Told {
  at: string;
}

/** The readings of a job before its repair and after it, oldest first. */
export interface Story<R extends Told, T extends Told> {
  /** Readings before any repair, all that were taken, oldest first. */
  before: R[];
  /** Taken after a repair that was not the last one. */
  between: R[];
  /** After the last repair that stands. */
  after: R[];
  /** Tests of the state that is judged after the last repair. */
  testsAfter: T[];
  repairedAt: string | null;
}

/**
 * Which readings belong before, between and after: by their phase, and with several repairs by when they were taken. A
 * repair that was undone, or written down late, moves nothing: with one repair standing, after is after.
 */
export function storyOf<
  R extends Told & { phase: 'before' | 'after' },
  T extends Told & { phase: 'before' | 'after' },
>(job: { readings: readonly R[]; tests: readonly T[]; repairs: readonly (Told & { undone: boolean })[] }): Story<R, T> {
  const standing = job.repairs.filter((r) => !r.undone).map((r) => r.at);
  const repairedAt = standing.reduce<string | null>((last, at) => (last === null || at > last ? at : last), null);
  const later = job.readings.filter((r) => r.phase === 'after');
  const several = standing.length > 1;
  const after = later.filter((r) => !several || r.at >= repairedAt!);
  return {
    before: job.readings.filter((r) => r.phase === 'before'),
    between: later.filter((r) => !after.includes(r)),
    after,
    testsAfter: job.tests.filter((t) => repairedAt !== null && t.phase === 'after' && (!several || t.at > repairedAt)),
    repairedAt,
  };
}

/** The newest of each point, in order of first appearance. */
export function newestOfEach<R extends { reading: { at: string } }>(readings: readonly R[]): R[] {
  const by = new Map<string, R>();
  for (const r of readings) by.set(r.reading.at, r);
  return [...by.values()];
}

/** Of which state of the car something is that is read now: as it came in, or after a repair. */
export function phaseNow(job: { repairs: readonly { undone: boolean }[] }): 'before' | 'after' {
  return job.repairs.some((r) => !r.undone) ? 'after' : 'before';
}
