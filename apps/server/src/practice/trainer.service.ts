import { randomInt } from 'node:crypto';
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
  VehicleRequest,
} from '@just-balance/contract';
import type { Case } from '@just-balance/core/case';
import { FAULT_BY_ID } from '@just-balance/core/catalogue';
import { type Diagnosis, diagnose } from '@just-balance/core/diagnosis';
import {
  driveChoices,
  type PracticeMove,
  type PracticeScenario,
  scenarioProblems,
  scoreDrive,
  scorePractice,
} from '@just-balance/core/practice';
import { cautionsFor } from '@just-balance/core/procedures';
import { EXAM_LENGTH, examCar, PRACTICE_SCENARIOS } from '@just-balance/core/scenarios';
import { ConflictException, Injectable } from '@nestjs/common';
import { Op, UniqueConstraintError } from 'sequelize';
import { v5 as uuidv5 } from 'uuid';
import { badFields, conflict, notHere } from '../common/errors.ts';
import { KeyedMutex } from '../common/mutex.ts';
import type { Actor } from '../common/request.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { JobWrites } from '../jobs/write.ts';
import { ReadingsService } from '../readings/readings.service.ts';
import { RecordsService } from '../records/records.service.ts';
import { JobEvent } from '../rows/jobs.ts';
import { type AttemptData, PracticeAttempt } from '../rows/practice.ts';
import { TestsService } from '../tests/tests.service.ts';
import { answered, attemptOf, attemptView, ofExam, overOf, save } from './attempts.ts';
import { Examiner } from './examiner.ts';
import { SimControl } from './simControl.ts';

const BELIEVED = 6;

/** Within this long the same start is one that was pressed twice, ms. [house] */
const AGAIN_MS = 10_000;

/** A car that is begun, and where it stands in an exam. */
interface Chosen {
  scenario: PracticeScenario;
  exam: { id: string; place: number; drawn: NonNullable<AttemptData['drawn']> } | null;
}

/** Practice cars: what is wrong is hidden, the physics answers, every question costs its minutes. */
@Injectable()
export class Trainer {
  private readonly turns = new KeyedMutex();

  constructor(
    private readonly sim: SimControl,
    private readonly examiner: Examiner,
    private readonly jobs: JobsService,
    private readonly writes: JobWrites,
    private readonly readings: ReadingsService,
    private readonly testing: TestsService,
    private readonly records: RecordsService,
  ) {}

  async scenarios(who: Actor): Promise<ScenarioView[]> {
    const mine = await PracticeAttempt.findAll({ where: { shopId: who.shopId, accountId: who.accountId } });
    return PRACTICE_SCENARIOS.map(({ id, title, level, complaint }) => {
      const totals = mine.filter((a) => a.data.scenario.id === id && a.data.score).map((a) => a.data.score!.total);
      return { id, title, level, story: complaint.story, best: totals.length > 0 ? Math.max(...totals) : null };
    });
  }

  /** With what is wrong in it: for a lead who does not practise on it at the moment. */
  async fileFor(who: Actor, id: string): Promise<PracticeScenario> {
    const open = await PracticeAttempt.findAll({ where: { shopId: who.shopId, accountId: who.accountId } });
    if (open.some((a) => a.data.scenario.id === id && !answered(a)))
      throw new ConflictException({ statusCode: 409, message: 'you practise on this car: answer it first' });
    return this.file(id);
  }

  private file(id: string): PracticeScenario {
    const s = PRACTICE_SCENARIOS.find((x) => x.id === id);
    if (!s) throw notHere('practice car');
    return s;
  }

  async list(who: Actor): Promise<AttemptLine[]> {
    const rows = await PracticeAttempt.findAll({
      where: { shopId: who.shopId, ...(who.role === 'lead' ? {} : { accountId: who.accountId }) },
      order: [['createdAt', 'DESC']],
      limit: 500,
    });
    const over = await overOf(who.shopId, rows);
    return rows.map((a) => {
      const {
        id,
        job,
        by,
        at,
        title,
        level,
        scenario,
        hints,
        exam,
        minutes,
        signed: s,
      } = attemptView(a, over(a), null, []);
      const total = over(a) ? (a.data.score?.total ?? null) : null;
      return {
        id,
        job,
        by,
        at,
        title,
        level,
        scenario,
        hints,
        exam,
        minutes,
        signed: s,
        total,
        answered: answered(a),
      };
    });
  }

  /** One after the other for each person: pressed twice it is one car. */
  begin(who: Actor, body: NewAttemptRequest): Promise<AttemptView> {
    return this.turns.run(`begin ${who.accountId}`, async () => {
      const there = await PracticeAttempt.findByPk(body.id);
      if (there) return this.get(who, body.id);
      const chosen = await this.chosen(who, body);
      const untouched = await this.untouched(who, body, chosen.scenario);
      if (untouched) return this.get(who, untouched.id);
      return this.get(who, await this.made(who, body, chosen));
    });
  }

  /** The same car that was begun and not asked anything yet. */
  private async untouched(who: Actor, body: NewAttemptRequest, scenario: PracticeScenario) {
    if (body.exam || body.file) return undefined;
    const mine = await PracticeAttempt.findAll({
      where: { shopId: who.shopId, accountId: who.accountId, createdAt: { [Op.gte]: new Date(Date.now() - AGAIN_MS) } },
    });
    return mine.find(
      (a) =>
        a.data.scenario.id === scenario.id &&
        a.data.hints === body.hints &&
        a.data.exam === null &&
        a.data.moves.length === 0 &&
        !answered(a),
    );
  }

  private async made(who: Actor, body: NewAttemptRequest, chosen: Chosen): Promise<string> {
    const { scenario } = chosen;
    if (scenario.drive) {
      // Not kept before it can be driven.
      await this.examiner.driven(scenario);
      return this.keepNew(who, body, chosen, null);
    }
    const card = (await this.examiner.examine(scenario, { card: true })) as VehicleRequest;
    const record = (await this.examiner.examine(scenario, { record: true })) as { stored: string[]; pending: string[] };
    // Of the try's own id: begun again after a break it is the same job.
    const jobId = uuidv5('job', body.id);
    const { vin: _, ...vehicle } = card;
    const examiner = { ...who, examiner: true as const };
    await this.jobs.create(
      examiner,
      {
        id: jobId,
        vehicleId: uuidv5('vehicle', body.id),
        vehicle,
        complaint: { ...scenario.complaint, recentWork: scenario.complaint.recentWork ?? [] },
        ambient: { baroKPa: scenario.baroKPa, airC: scenario.airC },
      },
      { practice: true, sealed: !helped(body) },
    );
    await this.records.addByHand(examiner, jobId, {
      id: uuidv5('record', body.id),
      phase: 'before',
      stored: record.stored,
      pending: record.pending,
      lampOn: record.stored.length > 0,
    });
    return this.keepNew(who, body, chosen, jobId);
  }

  private async keepNew(
    who: Actor,
    body: NewAttemptRequest,
    { scenario, exam }: Chosen,
    jobId: string | null,
  ): Promise<string> {
    const data: AttemptData = {
      scenario,
      hints: helped(body),
      exam: exam?.id ?? null,
      ...(exam ? { drawn: exam.drawn } : {}),
      moves: [],
      answer: null,
      score: null,
      signed: null,
    };
    await PracticeAttempt.create({
      id: body.id,
      shopId: who.shopId,
      accountId: who.accountId,
      by: who.name,
      jobId,
      data,
      place: exam ? `${exam.id} ${exam.place}` : null,
    }).catch((e: unknown) => {
      // Begun through another server at the same moment.
      throw e instanceof UniqueConstraintError ? conflict('this exam', null) : e;
    });
    return body.id;
  }

  private async chosen(who: Actor, body: NewAttemptRequest): Promise<Chosen> {
    if (body.exam) {
      const mine = await ofExam(who.shopId, body.exam);
      if (mine.some((a) => a.accountId !== who.accountId)) throw conflict('this exam', null);
      if (mine.some((a) => !answered(a)))
        throw new ConflictException({ statusCode: 409, message: 'answer the car in front of you first' });
      const drawn = mine[0]?.data.drawn ?? { seed: randomInt(2 ** 32 - 1), of: EXAM_LENGTH };
      const place = mine.length + 1;
      if (place > drawn.of || (mine[0] && !mine[0].data.drawn))
        throw new ConflictException({ statusCode: 409, message: 'this exam is over' });
      return { scenario: examCar(drawn.seed, place), exam: { id: body.exam, place, drawn } };
    }
    if (body.file) {
      const fleet = (await this.sim.bays())[0]?.fleet.map((f) => f.id) ?? [];
      const problems = scenarioProblems(body.file, fleet);
      if (problems.length > 0) throw badFields(problems.map((p) => ({ ...p, field: `file.${p.field}` })));
      return { scenario: body.file as unknown as PracticeScenario, exam: null };
    }
    if (!body.scenario) throw badFields([{ field: 'scenario', message: 'one of the practice cars, or a file' }]);
    return { scenario: this.file(body.scenario), exam: null };
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
      if (a.data.answer)
        throw new ConflictException({ statusCode: 409, message: 'the cause is named: this try is over' });
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
      if (a.data.answer) throw new ConflictException({ statusCode: 409, message: 'the cause is named already' });
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
      if (answered(a)) throw new ConflictException({ statusCode: 409, message: 'it is named already' });
      const { procedure, review } = await this.examiner.driveOf(scenario, true);
      const choices = driveChoices(procedure).map((c) => c.id);
      if (!choices.includes(body.what)) throw badFields([{ field: 'what', message: `one of ${choices.join(', ')}` }]);
      const driveAnswer = { what: body.what, second: body.second ?? null, next: body.next, atMs: Date.now() };
      await save(a, { ...a.data, driveAnswer, score: scoreDrive(procedure, review!, driveAnswer) });
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

const helped = (body: NewAttemptRequest) => !body.exam && body.hints;

function weighed(c: Case): Diagnosis | null {
  return (c.readings?.length ?? 0) + (c.tests?.length ?? 0) === 0 ? null : diagnose(c);
}
