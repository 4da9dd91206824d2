import type {
  AnswerRequest,
  AskRequest,
  AttemptLine,
  AttemptView,
  DriveAnswerRequest,
  NewAttemptRequest,
  ReadingDto,
  ScenarioView,
  TestResultDto,
} from '@just-balance/contract';
import type { Case } from '@just-balance/core/case';
import { FAULT_BY_ID } from '@just-balance/core/catalogue';
import { type Diagnosis, diagnose } from '@just-balance/core/diagnosis';
import {
  driveChoices,
  type PracticeMove,
  type PracticeScenario,
  scoreDrive,
  scorePractice,
} from '@just-balance/core/practice';
import { cautionsFor } from '@just-balance/core/procedures';
import { PRACTICE_SCENARIOS } from '@just-balance/core/scenarios';
import { ConflictException, Injectable } from '@nestjs/common';
import { v5 as uuidv5 } from 'uuid';
import { badFields } from '../common/errors.ts';
import { KeyedMutex } from '../common/mutex.ts';
import type { Actor } from '../common/request.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { JobWrites } from '../jobs/write.ts';
import { ReadingsService } from '../readings/readings.service.ts';
import { JobEvent } from '../rows/jobs.ts';
import { PracticeAttempt } from '../rows/practice.ts';
import { TestsService } from '../tests/tests.service.ts';
import { answered, attemptOf, attemptView, firstOf, ofExam, overOf, save } from './attempts.ts';
import { Beginning, practiceCar } from './beginning.service.ts';
import { Examiner } from './examiner.ts';

const BELIEVED = 6;

/** Practice cars: what is wrong is hidden, the physics answers, every question costs its minutes. */
@Injectable()
export class Trainer {
  private readonly turns = new KeyedMutex();

  constructor(
    private readonly beginning: Beginning,
    private readonly examiner: Examiner,
    private readonly jobs: JobsService,
    private readonly writes: JobWrites,
    private readonly readings: ReadingsService,
    private readonly testing: TestsService,
  ) {}

  async scenarios(who: Actor): Promise<ScenarioView[]> {
    const mine = await PracticeAttempt.findAll({ where: { shopId: who.shopId, accountId: who.accountId } });
    const first = firstOf(mine);
    return PRACTICE_SCENARIOS.map(({ id, title, level, complaint }) => {
      const points = mine.find((a) => a.data.scenario.id === id && first(a))?.data.score?.total ?? null;
      return { id, title, level, story: complaint.story, points };
    });
  }

  /** With what is wrong in it: for a lead who does not practise on it at the moment. */
  async fileFor(who: Actor, id: string): Promise<PracticeScenario> {
    const open = await PracticeAttempt.findAll({ where: { shopId: who.shopId, accountId: who.accountId } });
    if (open.some((a) => a.data.scenario.id === id && !answered(a)))
      throw new ConflictException({ statusCode: 409, message: 'you practise on this car: answer it first' });
    return practiceCar(id);
  }

  async list(who: Actor): Promise<AttemptLine[]> {
    const rows = await PracticeAttempt.findAll({
      where: { shopId: who.shopId, ...(who.role === 'lead' ? {} : { accountId: who.accountId }) },
      order: [['createdAt', 'DESC']],
      limit: 500,
    });
    const over = await overOf(who.shopId, rows);
    const first = firstOf(rows);
    return rows.map((a) => {
      const line = attemptView(a, over(a), null, []);
      const { id, job, by, at, title, level, scenario, hints, exam, minutes, gaveUp, signed: s } = line;
      return {
        ...{ id, job, by, at, title, level, scenario, hints, exam, minutes, gaveUp, signed: s },
        total: over(a) ? (a.data.score?.total ?? null) : null,
        answered: line.answered,
        counts: first(a),
      };
    });
  }

  /** One after the other for each person: pressed twice it is one car. */
  begin(who: Actor, body: NewAttemptRequest): Promise<AttemptView> {
    return this.turns.run(`begin ${who.accountId}`, async () => this.get(who, await this.beginning.begin(who, body)));
  }

  async get(who: Actor, id: string): Promise<AttemptView> {
    const a = await attemptOf(who, id, false);
    const over = (await overOf(who.shopId, [a]))(a);
    const { scenario } = a.data;
    const drive = scenario.drive ? await this.examiner.driveOf(scenario, over) : null;
    return attemptView(a, over, drive, await this.examiner.testsOf());
  }

  /** Ask the car: a reading or a test. What it shows goes into the job, and costs its minutes. */
  ask(who: Actor, id: string, body: AskRequest): Promise<AttemptView> {
    return this.turns.run(id, async () => {
      const a = await attemptOf(who, id, true);
      const { jobId } = a;
      if (jobId === null) throw new ConflictException({ statusCode: 409, message: 'a drive is looked at, not asked' });
      if (answered(a)) throw new ConflictException({ statusCode: 409, message: 'this try is over' });
      const examiner = { ...who, examiner: true as const };
      const known = await this.caseOf(who, a);
      const before = weighed(known);
      const { minutes, showed, row, test } = await this.examiner.shown(a.data, body, known);
      const first = before?.nextTests[0];
      if (row) await this.readings.add(examiner, jobId, { id: body.id, phase: 'before', reading: row as ReadingDto });
      if (test)
        for (const [i, t] of test.entries())
          await this.testing.add(examiner, jobId, {
            id: i === 0 ? body.id : uuidv5(String(i), body.id),
            test: t as TestResultDto,
          });
      const after = weighed(await this.caseOf(who, a));
      const truth = a.data.scenario.faults.map((f) => f.id);
      const move: PracticeMove = {
        kind: body.kind,
        what: body.what,
        bank: body.bank ?? null,
        minutes,
        atMs: Date.now(),
        showed,
        bits: before?.nextTests.find((t) => t.test === body.what)?.informationBits ?? 0,
        best: first ? { test: first.test, bits: first.informationBits, minutes: first.minutes } : null,
        belief: (after?.causes ?? []).slice(0, BELIEVED).map(({ fault, probability }) => ({ fault, probability })),
        truth: (after?.causes ?? [])
          .filter((c) => (truth.length === 0 ? c.fault === 'balanced' : truth.includes(c.fault)))
          .reduce((sum, c) => sum + c.probability, 0),
      };
      await save(a, { ...a.data, moves: [...a.data.moves, move] });
      return this.get(who, id);
    });
  }

  /** Name the cause: scored against the car and against the path that always takes the best next test. */
  answer(who: Actor, id: string, body: AnswerRequest): Promise<AttemptView> {
    return this.turns.run(id, async () => {
      const a = await attemptOf(who, id, true);
      if (a.jobId === null)
        throw new ConflictException({ statusCode: 409, message: 'of a drive it is named what broke it' });
      if (answered(a)) throw new ConflictException({ statusCode: 409, message: 'this try is over' });
      for (const key of ['fault', 'second'] as const)
        if (body[key] !== undefined && !FAULT_BY_ID.has(body[key]!))
          throw badFields([{ field: key, message: 'a fault of the catalogue' }]);
      const known = await this.caseOf(who, a);
      const path = await this.examiner.bestPath(a.data.scenario, known);
      const events = await JobEvent.findAll({ where: { shopId: who.shopId, jobId: a.jobId, kind: 'caution' } });
      const read = new Set(events.map((e) => String(e.data.caution)));
      const due = new Map(
        a.data.moves
          .flatMap((m) => cautionsFor(m.kind === 'test' ? `test:${m.what}` : `reading:${m.what}`))
          .map((c) => [c.id, c.text]),
      );
      const answer = {
        fault: body.fault,
        second: body.second ?? null,
        size: body.size ?? null,
        remedy: body.remedy,
        atMs: Date.now(),
      };
      const score = scorePractice(a.data.scenario, a.data.moves, answer, {
        bestMinutes: path.arrived ? path.minutes : null,
        cautionsSkipped: [...due].filter(([c]) => !read.has(c)).map(([, text]) => text.split(':')[0]!),
        banks: known.vehicle.banks === 2 ? 2 : 1,
      });
      await save(a, { ...a.data, answer, score, bestPath: path.steps });
      await this.unseal(who, a);
      return this.get(who, id);
    });
  }

  /** What is over may be weighed by everybody: the try, or the whole exam. */
  private async unseal(who: Actor, a: PracticeAttempt): Promise<void> {
    const { exam } = a.data;
    const rows = exam ? await ofExam(who.shopId, exam) : [a];
    const over = await overOf(who.shopId, rows);
    for (const row of rows)
      if (row.jobId && over(row)) await this.writes.unseal({ ...who, examiner: true as const }, row.jobId);
  }

  /** Name what kept a drive from finishing: scored against its review. */
  answerDrive(who: Actor, id: string, body: DriveAnswerRequest): Promise<AttemptView> {
    return this.turns.run(id, async () => {
      const a = await attemptOf(who, id, true);
      const { scenario } = a.data;
      if (!scenario.drive) throw new ConflictException({ statusCode: 409, message: 'this try is no drive' });
      if (answered(a)) throw new ConflictException({ statusCode: 409, message: 'this try is over' });
      const { procedure, review } = await this.examiner.driveOf(scenario, true);
      const choices = driveChoices(procedure).map((c) => c.id);
      if (!choices.includes(body.what)) throw badFields([{ field: 'what', message: `one of ${choices.join(', ')}` }]);
      const driveAnswer = { what: body.what, second: body.second ?? null, next: body.next, atMs: Date.now() };
      await save(a, { ...a.data, driveAnswer, score: scoreDrive(procedure, review!, driveAnswer) });
      return this.get(who, id);
    });
  }

  /** Given up it is over, for no points: what was wrong is told. */
  giveUp(who: Actor, id: string): Promise<AttemptView> {
    return this.turns.run(id, async () => {
      const a = await attemptOf(who, id, true);
      if (answered(a)) throw new ConflictException({ statusCode: 409, message: 'it is over already' });
      const { scenario, moves } = a.data;
      const path = a.jobId === null ? null : await this.examiner.bestPath(scenario, await this.caseOf(who, a));
      const minutes = moves.reduce((sum, m) => sum + m.minutes, 0);
      const score = { total: 0, parts: [], minutes, bestMinutes: path?.arrived ? path.minutes : null };
      await save(a, { ...a.data, gaveUp: true, score, ...(path ? { bestPath: path.steps } : {}) });
      await this.unseal(who, a);
      return this.get(who, id);
    });
  }

  async sign(who: Actor, id: string): Promise<AttemptView> {
    const a = await attemptOf(who, id, false);
    if (!(await overOf(who.shopId, [a]))(a))
      throw new ConflictException({ statusCode: 409, message: 'it is not over: nothing to sign yet' });
    if (a.accountId === who.accountId)
      throw new ConflictException({ statusCode: 409, message: 'it is your own: another lead signs it' });
    if (!a.data.signed) await save(a, { ...a.data, signed: { by: who.name, at: new Date().toISOString() } });
    return this.get(who, id);
  }

  private async caseOf(who: Actor, a: PracticeAttempt): Promise<Case> {
    return this.jobs.caseOf(who, a.jobId!);
  }
}

function weighed(c: Case): Diagnosis | null {
  return (c.readings?.length ?? 0) + (c.tests?.length ?? 0) === 0 ? null : diagnose(c);
}
