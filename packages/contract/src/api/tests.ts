import 'reflect-metadata';
import type { TestResult } from '@just-balance/core/case';
import { foundIn } from '@just-balance/core/procedures';
import { IsIn, IsUUID } from 'class-validator';
import { Nested, Optional } from '../checks/index.ts';
import { TestResultDto } from '../formats/index.ts';
import { PHASES, type Phase } from './phase.ts';
import type { RepairView } from './repairs.ts';
import type { RunView } from './service.ts';

export class NewTestRequest {
  @IsUUID() id!: string;
  /** Of the car as it came in, or after a repair; where it is not said, as it came in. */
  @Optional() @IsIn(PHASES) phase?: Phase;
  @Nested(() => TestResultDto) test!: TestResultDto;
}

export interface TestView {
  id: string;
  rev: number;
  at: string;
  undone: boolean;
  by: string;
  phase: Phase;
  test: TestResult;
  /** Found in a run of a procedure: it is undone there, with its answer. */
  found?: { run: string; work: string; step: string | null };
}

/**
 * Tests of a job, oldest first: those that were entered, and what was found in its runs, each from the run itself. What
 * was found after a repair is of the car after it.
 */
export function withFinds(
  tests: readonly TestView[],
  runs: readonly RunView[],
  repairs: readonly Pick<RepairView, 'at' | 'undone'>[],
): TestView[] {
  const repairedMs = Math.min(...repairs.filter((r) => !r.undone).map((r) => Date.parse(r.at)));
  const found = runs.flatMap(foundIn).map(
    ({ run, work, step, atMs, by, test }): TestView => ({
      id: `${run}:${step ?? 'stopped'}`,
      rev: 0,
      at: new Date(atMs).toISOString(),
      undone: false,
      by,
      phase: atMs > repairedMs ? 'after' : 'before',
      test,
      found: { run, work, step },
    }),
  );
  if (found.length === 0 && tests.every((t) => !t.found)) return [...tests];
  return [...tests.filter((t) => !t.found), ...found].sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0));
}
