import { type NewTestRequest, type TestView, testProblems, type UndoRequest } from '@just-balance/contract';
import { Injectable } from '@nestjs/common';
import { badFields } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { testView } from '../jobs/rowViews.ts';
import { JobWrites } from '../jobs/write.ts';
import { TestRow } from '../rows/tests.ts';

const TESTS = { model: TestRow, view: testView, resource: 'tests', kind: 'test' } as const;

/** Tests of a job with what they showed. */
@Injectable()
export class TestsService {
  constructor(private readonly jobs: JobWrites) {}

  list(who: Actor, id: string): Promise<TestView[]> {
    return this.jobs.rows(who, id, 'test', TestRow, testView);
  }

  add(who: Actor, jobId: string, body: NewTestRequest): Promise<TestView> {
    const problems = testProblems(body.test, 'test');
    if (problems.length > 0) throw badFields(problems);
    return this.jobs.insertOnce(
      who,
      jobId,
      TESTS,
      body.id,
      async (own) => ({ ...own, rev: 1, undone: false, phase: body.phase ?? 'before', by: who.name, data: body.test }),
      { phase: body.phase ?? 'before', test: body.test.id, outcome: body.test.outcome ?? body.test.values },
    );
  }

  undo(who: Actor, jobId: string, id: string, body: UndoRequest): Promise<TestView> {
    return this.jobs.undo(who, jobId, TESTS, id, body);
  }
}
