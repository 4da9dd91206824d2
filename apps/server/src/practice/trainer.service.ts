import type {
  AnswerRequest,
  AskRequest,
  AttemptLine,
  AttemptView,
  DriveAnswerRequest,
  NewAttemptRequest,
  PracticeDrive,
  ReadingDto,
  ScenarioView,
  TestResultDto,
  VehicleRequest,
} from '@just-balance/contract';
import { PRACTICE_POINTS } from '@just-balance/contract';
import type { Case, OperatingPoint, Reading, TestResult } from '@just-balance/core/case';
import { pointLabel } from '@just-balance/core/case';
import { FAULT_BY_ID, TEST_BY_ID } from '@just-balance/core/catalogue';
import { type Diagnosis, diagnose } from '@just-balance/core/diagnosis';
import { resultInWords } from '@just-balance/core/job';
import type { MonitorId } from '@just-balance/core/obd';
import {
  driveChoices,
  PRACTICE_SCENARIOS,
  type PracticeMove,
  type PracticeScenario,
  scenarioProblems,
  scoreDrive,
  scorePractice,
} from '@just-balance/core/practice';
import { cautionsFor } from '@just-balance/core/procedures';
import { bankTotals } from '@just-balance/core/proof';
import { type CarState, driveProcedure, reviewDrive } from '@just-balance/core/readiness';
import { figure, joined, type Said, said, signed } from '@just-balance/core/units';
import { BadRequestException, ConflictException, ForbiddenException, Injectable } from '@nestjs/common';
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
import { SimControl } from './simControl.ts';

/** Minutes that a reading costs, hands on. [house] */
const READING_MINUTES: Readonly<Record<string, number>> = { idle: 3, 'hold-2500': 3, 'road-load': 12 };
/** The first cause this likely ends the best path. [house] */
const SURE = 0.85;
const MOST_TESTS = 8;
const BELIEVED = 6;
/** Played one after the other, without help. */
const EXAM: readonly string[] = ['one-side-of-the-six', 'breather', 'new-sensor-old-trouble'];

/** A drive is the same every time: worked out once for so many of them. [house] */
const MOST_DRIVES = 40;
/** Where the clock of a drive stands is nobody's: its soak is counted back from here. */
const KEY_ON = '2026-01-01T08:00:00Z';

/** Within this long the same start is one that was pressed twice, ms. [house] */
const AGAIN_MS = 10_000;

type Driven = Omit<PracticeDrive, 'procedure' | 'review'>;
type Answered = { outcome?: string; values?: Record<string, number | string>; bank?: 1 | 2 };

/** Practice cars: what is wrong is hidden, the physics answers, every question costs its minutes. */
@Injectable()
export class Trainer {
  private readonly turns = new KeyedMutex();

  constructor(
    private readonly sim: SimControl,
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
    const over = await this.overOf(who.shopId, rows);
    return rows.map((a) => {
      const { id, job, by, at, title, level, scenario, hints, exam, minutes, signed: s } = this.view(a, over(a), null);
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
      const scenario = await this.chosen(who, body);
      const untouched = await this.untouched(who, body, scenario);
      if (untouched) return this.get(who, untouched.id);
      return this.get(who, await this.made(who, body, scenario));
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

  private async made(who: Actor, body: NewAttemptRequest, scenario: PracticeScenario): Promise<string> {
    if (scenario.drive) {
      // Not kept before it can be driven.
      await this.driven(scenario);
      return this.keepNew(who, body, scenario, null);
    }
    const card = (await this.examine(scenario, { card: true })) as VehicleRequest;
    const record = (await this.examine(scenario, { record: true })) as { stored: string[]; pending: string[] };
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
    return this.keepNew(who, body, scenario, jobId);
  }

  private async keepNew(
    who: Actor,
    body: NewAttemptRequest,
    scenario: PracticeScenario,
    jobId: string | null,
  ): Promise<string> {
    const data: AttemptData = {
      scenario,
      hints: helped(body),
      exam: body.exam ?? null,
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
      place: body.exam ? `${body.exam} ${EXAM.indexOf(scenario.id) + 1}` : null,
    }).catch((e: unknown) => {
      // Begun through another server at the same moment.
      throw e instanceof UniqueConstraintError ? conflict('this exam', null) : e;
    });
    return body.id;
  }

  private async chosen(who: Actor, body: NewAttemptRequest): Promise<PracticeScenario> {
    if (body.exam) {
      const mine = await this.ofExam(who.shopId, body.exam);
      if (mine.some((a) => a.accountId !== who.accountId)) throw conflict('this exam', null);
      if (mine.some((a) => !answered(a)))
        throw new ConflictException({ statusCode: 409, message: 'answer the car in front of you first' });
      const next = EXAM[mine.length];
      if (!next) throw new ConflictException({ statusCode: 409, message: 'this exam is over' });
      return this.file(next);
    }
    if (body.file) {
      const fleet = (await this.sim.bays())[0]?.fleet.map((f) => f.id) ?? [];
      const problems = scenarioProblems(body.file, fleet);
      if (problems.length > 0) throw badFields(problems.map((p) => ({ ...p, field: `file.${p.field}` })));
      return body.file as unknown as PracticeScenario;
    }
    if (!body.scenario) throw badFields([{ field: 'scenario', message: 'one of the practice cars, or a file' }]);
    return this.file(body.scenario);
  }

  private ofExam(shopId: string, exam: string): Promise<PracticeAttempt[]> {
    return PracticeAttempt.findAll({ where: { shopId }, order: [['createdAt', 'ASC']] }).then((all) =>
      all.filter((a) => a.data.exam === exam),
    );
  }

  /** Whether what is wrong may be told: a try once answered, one of an exam once all of it is. */
  private async overOf(shopId: string, rows: readonly PracticeAttempt[]): Promise<(a: PracticeAttempt) => boolean> {
    const exams = new Set(rows.flatMap((a) => a.data.exam ?? []));
    const over = new Set<string>();
    for (const exam of exams) {
      const all = await this.ofExam(shopId, exam);
      if (all.filter(answered).length >= EXAM.length) over.add(exam);
    }
    return (a) => answered(a) && (a.data.exam === null || over.has(a.data.exam));
  }

  private async find(who: Actor, id: string, own: boolean): Promise<PracticeAttempt> {
    const a = await PracticeAttempt.findOne({ where: { id, shopId: who.shopId } });
    if (!a || (a.accountId !== who.accountId && who.role !== 'lead')) throw notHere('try');
    if (own && a.accountId !== who.accountId)
      throw new ForbiddenException({ statusCode: 403, message: `this is ${a.by}’s try` });
    return a;
  }

  async get(who: Actor, id: string): Promise<AttemptView> {
    const a = await this.find(who, id, false);
    const over = (await this.overOf(who.shopId, [a]))(a);
    return this.view(a, over, a.data.scenario.drive ? await this.driveOf(a.data.scenario, over) : null);
  }

  /** Ask the car: a reading or a test. What it shows goes into the job, and costs its minutes. */
  ask(who: Actor, id: string, body: AskRequest): Promise<AttemptView> {
    return this.turns.run(id, async () => {
      const a = await this.find(who, id, true);
      const { jobId } = a;
      if (jobId === null) throw new ConflictException({ statusCode: 409, message: 'a drive is looked at, not asked' });
      if (a.data.answer)
        throw new ConflictException({ statusCode: 409, message: 'the cause is named: this try is over' });
      const examiner = { ...who, examiner: true as const };
      const known = await this.caseOf(who, a);
      const before = weighed(known);
      const { minutes, showed, row, test } = await this.shown(a, body, known);
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
      await this.save(a, { ...a.data, moves: [...a.data.moves, move] });
      return this.get(who, id);
    });
  }

  /** What the car shows, with its minutes; the same question again is another look. */
  private async shown(a: PracticeAttempt, body: AskRequest, known: Case) {
    const { scenario } = a.data;
    if (body.kind === 'reading') {
      if (!(PRACTICE_POINTS as readonly string[]).includes(body.what))
        throw badFields([{ field: 'what', message: `one of ${PRACTICE_POINTS.join(', ')}` }]);
      const row = (await this.examine(scenario, { reading: body.what })) as Reading;
      return { minutes: READING_MINUTES[body.what]!, showed: readingWords(row), row, test: null };
    }
    const t = TEST_BY_ID.get(body.what);
    const fit = t && !t.reading && (await this.testsOf()).includes(t.id);
    if (!t || !fit) throw badFields([{ field: 'what', message: 'a test that this car can be asked' }]);
    const turn = a.data.moves.filter((m) => m.what === body.what).length;
    const banks = t.perBank && known.vehicle.banks === 2 ? (body.bank ? [body.bank] : ([1, 2] as const)) : [1 as const];
    const test: TestResult[] = [];
    for (const bank of banks) {
      const r = (await this.examine(scenario, { test: body.what, turn, bank })) as Answered;
      test.push({
        id: body.what,
        ...(r.outcome ? { outcome: r.outcome } : {}),
        ...(r.values ? { values: r.values } : {}),
        ...(r.bank ? { bank: r.bank } : {}),
      });
    }
    const showed = joined(test.map(resultInWords), '; ');
    return { minutes: t.minutes, showed, row: null, test };
  }

  /** Name the cause: scored against the car and against the path that always takes the best next test. */
  answer(who: Actor, id: string, body: AnswerRequest): Promise<AttemptView> {
    return this.turns.run(id, async () => {
      const a = await this.find(who, id, true);
      if (a.jobId === null)
        throw new ConflictException({ statusCode: 409, message: 'of a drive it is named what broke it' });
      if (a.data.answer) throw new ConflictException({ statusCode: 409, message: 'the cause is named already' });
      for (const key of ['fault', 'second'] as const)
        if (body[key] !== undefined && !FAULT_BY_ID.has(body[key]!))
          throw badFields([{ field: key, message: 'a fault of the catalogue' }]);
      const known = await this.caseOf(who, a);
      const path = await this.bestPath(a.data.scenario, known);
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
      await this.save(a, { ...a.data, answer, score, bestPath: path.steps });
      await this.unseal(who, a);
      return this.get(who, id);
    });
  }

  /** What is over may be weighed by everybody: the try, or the whole exam. */
  private async unseal(who: Actor, a: PracticeAttempt): Promise<void> {
    const { exam } = a.data;
    const rows = exam ? await this.ofExam(who.shopId, exam) : [a];
    const over = await this.overOf(who.shopId, rows);
    for (const row of rows)
      if (row.jobId && over(row)) await this.writes.unseal({ ...who, examiner: true as const }, row.jobId);
  }

  /** Name what kept a drive from finishing: scored against its review. */
  answerDrive(who: Actor, id: string, body: DriveAnswerRequest): Promise<AttemptView> {
    return this.turns.run(id, async () => {
      const a = await this.find(who, id, true);
      const { scenario } = a.data;
      if (!scenario.drive) throw new ConflictException({ statusCode: 409, message: 'this try is no drive' });
      if (answered(a)) throw new ConflictException({ statusCode: 409, message: 'it is named already' });
      const { procedure, review } = await this.driveOf(scenario, true);
      const choices = driveChoices(procedure).map((c) => c.id);
      if (!choices.includes(body.what)) throw badFields([{ field: 'what', message: `one of ${choices.join(', ')}` }]);
      const driveAnswer = { what: body.what, second: body.second ?? null, next: body.next, atMs: Date.now() };
      await this.save(a, { ...a.data, driveAnswer, score: scoreDrive(procedure, review!, driveAnswer) });
      return this.get(who, id);
    });
  }

  private readonly drives = new Map<string, Promise<Driven>>();
  private driven(scenario: PracticeScenario): Promise<Driven> {
    const { vehicle, drive, seed } = scenario;
    const key = `${vehicle} ${drive!.script} ${seed}`;
    const known = this.drives.get(key);
    if (known) return known;
    const log = this.asked(scenario, 'drive', { script: drive!.script }) as Promise<Driven>;
    if (this.drives.size >= MOST_DRIVES) this.drives.clear();
    this.drives.set(key, log);
    log.catch(() => this.drives.delete(key));
    return log;
  }

  /** A drive with its procedure; what broke it only where that may be told. */
  private async driveOf(scenario: PracticeScenario, over: boolean): Promise<PracticeDrive> {
    const procedure = driveProcedure(scenario.drive!.procedure)!;
    const log = await this.driven(scenario);
    if (!over) return { ...log, procedure, review: null };
    const { soakHours, fuelPct, airC, altitudeM } = log.before;
    const first = (id: string) => log.channels.find((c) => c.id === id)?.values[0];
    const [coolantC, intakeC] = [first('ect'), first('iat')];
    const car: CarState = {
      startedAt: KEY_ON,
      lamp: 'off',
      codes: [],
      incomplete: log.open.before,
      ...(soakHours === null
        ? {}
        : { engineOffSince: new Date(Date.parse(KEY_ON) - soakHours * 3_600_000).toISOString() }),
      ...(fuelPct === null ? {} : { fuelPct }),
      ...(airC === null ? {} : { ambientC: airC }),
      ...(altitudeM === null ? {} : { altitudeM }),
      ...(coolantC === undefined ? {} : { coolantC }),
      ...(intakeC === undefined ? {} : { intakeC }),
    };
    const time = Float64Array.from(log.time);
    const channels = log.channels.map((c) => ({
      id: c.id,
      unit: c.unit,
      time,
      value: Float64Array.from(c.values),
    }));
    const review = reviewDrive(procedure, { startedAt: KEY_ON, channels, marks: [] }, car);
    // What the log does not carry stands beside it here: the monitors are read.
    const monitors = { before: review.monitors.before, after: log.open.after as MonitorId[] };
    return { ...log, procedure, review: { ...review, monitors, warnings: [] } };
  }

  /** Idle and the hold, then always the best next test, answered by the same car. */
  private async bestPath(scenario: PracticeScenario, known: Case) {
    const c: Case = { ...known, readings: [], tests: [] };
    const steps: NonNullable<AttemptView['bestPath']> = [];
    let minutes = 0;
    const read = async (at: string) => {
      const r = (await this.examine(scenario, { reading: at })) as Reading;
      c.readings = [...(c.readings ?? []), r];
      minutes += READING_MINUTES[at]!;
      steps.push({ what: pointLabel(at as OperatingPoint), minutes: READING_MINUTES[at]!, showed: readingWords(r) });
    };
    await read('idle');
    await read('hold-2500');
    const possible = new Set(await this.testsOf());
    const right = (d: Diagnosis) => {
      const truth = scenario.faults.map((f) => f.id);
      return truth.length === 0 ? d.causes[0]!.fault === 'balanced' : truth.includes(d.causes[0]!.fault);
    };
    for (let i = 0; ; i++) {
      const d = diagnose(c);
      if (d.causes[0]!.probability >= SURE || i === MOST_TESTS) return { steps, minutes, arrived: right(d) };
      const next = d.nextTests.find((t) => possible.has(t.test) || t.test === 'road-load');
      if (!next) return { steps, minutes, arrived: right(d) };
      if (next.test === 'road-load') {
        await read('road-load');
        continue;
      }
      const r = (await this.examine(scenario, { test: next.test, turn: 0, bank: next.bank ?? 1 })) as Answered;
      const t: TestResult = {
        id: next.test,
        ...(r.outcome ? { outcome: r.outcome } : {}),
        ...(r.values ? { values: r.values } : {}),
        ...(r.bank ? { bank: r.bank } : {}),
      };
      c.tests = [...(c.tests ?? []), t];
      minutes += next.minutes;
      steps.push({
        what: TEST_BY_ID.get(next.test)!.label,
        minutes: next.minutes,
        showed: resultInWords(t),
      });
    }
  }

  async sign(who: Actor, id: string): Promise<AttemptView> {
    const a = await this.find(who, id, false);
    if (!(await this.overOf(who.shopId, [a]))(a))
      throw new ConflictException({ statusCode: 409, message: 'it is not over: nothing to sign yet' });
    if (!a.data.signed) await this.save(a, { ...a.data, signed: { by: who.name, at: new Date().toISOString() } });
    return this.get(who, id);
  }

  private async save(a: PracticeAttempt, data: AttemptData): Promise<void> {
    const [n] = await PracticeAttempt.update({ data, rev: a.rev + 1 }, { where: { id: a.id, rev: a.rev } });
    if (n === 0) throw conflict('this try', null);
  }

  private async caseOf(who: Actor, a: PracticeAttempt): Promise<Case> {
    return this.jobs.caseOf(who, a.jobId!);
  }

  private tests: string[] | null = null;
  private async testsOf(): Promise<string[]> {
    this.tests ??= (await this.sim.bays())[0]?.tests ?? [];
    return this.tests;
  }

  private examine(s: PracticeScenario, ask: object): Promise<unknown> {
    return this.asked(s, 'examine', { ask });
  }

  /** Ask the simulated vehicle about a car of its own. */
  private async asked(s: PracticeScenario, command: 'examine' | 'drive', more: object): Promise<unknown> {
    const { vehicle, faults, baroKPa, airC, seed } = s;
    try {
      return (await this.sim.send({ do: command, car: { vehicle, faults, baroKPa, airC, seed }, ...more })).result;
    } catch (e) {
      if (e instanceof Error && e.constructor.name === 'BayRefusal')
        throw new BadRequestException({ statusCode: 400, message: e.message });
      throw e;
    }
  }

  private view(a: PracticeAttempt, over: boolean, drive: PracticeDrive | null): AttemptView {
    const { scenario, hints, exam, moves, answer, score, signed: s } = a.data;
    const done = new Set(moves.map((m) => m.what));
    const tests = (this.tests ?? []).map((t) => TEST_BY_ID.get(t)).filter((t) => t !== undefined && !t.reading);
    return {
      id: a.id,
      job: a.jobId,
      by: a.by,
      at: a.createdAt.toISOString(),
      // The name of a car says much of it: one of an exam has none before the exam is over.
      title: exam && !over ? `Car ${EXAM.indexOf(scenario.id) + 1} of the exam` : scenario.title,
      level: scenario.level,
      scenario: exam && !over ? '' : scenario.id,
      hints,
      exam: exam ? { id: exam, place: EXAM.indexOf(scenario.id) + 1, of: EXAM.length, over } : null,
      minutes: moves.reduce((sum, m) => sum + m.minutes, 0),
      asks: scenario.drive
        ? []
        : [
            ...PRACTICE_POINTS.map((p) => ({
              kind: 'reading' as const,
              what: p,
              label: pointLabel(p),
              minutes: READING_MINUTES[p]!,
              perBank: false,
              done: done.has(p),
            })),
            ...tests.map((t) => ({
              kind: 'test' as const,
              what: t!.id,
              label: t!.label,
              minutes: t!.minutes,
              perBank: t!.perBank === true,
              done: done.has(t!.id),
            })),
          ],
      moves: over
        ? moves
        : moves.map(({ kind, what, bank, minutes, showed }) => ({ kind, what, bank, minutes, showed })),
      answer,
      score: over ? score : null,
      faults: over ? scenario.faults : null,
      bestPath: over ? (a.data.bestPath ?? null) : null,
      drive,
      driveAnswer: a.data.driveAnswer ?? null,
      signed: s,
    };
  }

  /** Which tests there are is asked of the simulated vehicle once. */
  async ready(): Promise<void> {
    await this.testsOf();
  }
}

const helped = (body: NewAttemptRequest) => !body.exam && body.hints;
const answered = (a: PracticeAttempt) => a.data.answer !== null || (a.data.driveAnswer ?? null) !== null;

function weighed(c: Case): Diagnosis | null {
  return (c.readings?.length ?? 0) + (c.tests?.length ?? 0) === 0 ? null : diagnose(c);
}

function readingWords(r: Reading): Said {
  const totals = bankTotals(r).map((t) => `${signed(t.totalPct)} %`);
  return joined(
    [
      ...totals,
      ...(r.mafGps === undefined ? [] : [said`${figure(r.mafGps, 'g/s', 2)}`]),
      ...(r.mapKPa === undefined ? [] : [said`${figure(r.mapKPa, 'kPa', 1)}`]),
    ],
    ', ',
  );
}
