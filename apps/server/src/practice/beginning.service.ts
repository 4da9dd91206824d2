import { randomInt } from 'node:crypto';
import type { NewAttemptRequest, VehicleRequest } from '@just-balance/contract';
import { type PracticeScenario, scenarioProblems } from '@just-balance/core/practice';
import { EXAM_LENGTH, examCar, PRACTICE_SCENARIOS } from '@just-balance/core/scenarios';
import { ConflictException, Injectable } from '@nestjs/common';
import { UniqueConstraintError } from 'sequelize';
import { v5 as uuidv5 } from 'uuid';
import { badFields, conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { RecordsService } from '../records/records.service.ts';
import { type AttemptData, PracticeAttempt } from '../rows/practice.ts';
import { answered, ofExam } from './attempts.ts';
import { Examiner } from './examiner.ts';
import { SimControl } from './simControl.ts';

/** Exams that one person may begin within a day: drawn until an easy one comes, an exam says nothing. [house] */
const EXAMS_A_DAY = 2;
const DAY_MS = 24 * 3_600_000;

/** A car that is begun, and where it stands in an exam. */
interface Chosen {
  scenario: PracticeScenario;
  exam: { id: string; place: number; drawn: NonNullable<AttemptData['drawn']> } | null;
}

const helped = (body: NewAttemptRequest) => !body.exam && body.hints;
const refusal = (message: string) => new ConflictException({ statusCode: 409, message });

/** One of ours, with what is wrong in it. */
export function practiceCar(id: string): PracticeScenario {
  const s = PRACTICE_SCENARIOS.find((x) => x.id === id);
  if (!s) throw notHere('practice car');
  return s;
}

/** How a try begins: which car, whether it may, and what stands in its job before anything is asked. */
@Injectable()
export class Beginning {
  constructor(
    private readonly sim: SimControl,
    private readonly examiner: Examiner,
    private readonly jobs: JobsService,
    private readonly records: RecordsService,
  ) {}

  /** The id of the try: a new one, the one that was sent before, or the same car begun and not touched yet. */
  async begin(who: Actor, body: NewAttemptRequest): Promise<string> {
    if (await PracticeAttempt.findByPk(body.id)) return body.id;
    const mine = await PracticeAttempt.findAll({
      where: { shopId: who.shopId, accountId: who.accountId },
      order: [['createdAt', 'ASC']],
    });
    const open = mine.find((a) => !answered(a));
    if (open && untouched(open, body)) return open.id;
    const chosen = await this.chosen(who, body);
    if (open) throw refusal('one at a time: answer the car in front of you first, or give it up');
    if (chosen.exam?.place === 1) refuseMoreExams(mine);
    return this.made(who, body, chosen);
  }

  private async made(who: Actor, body: NewAttemptRequest, chosen: Chosen): Promise<string> {
    const { scenario } = chosen;
    if (scenario.drive) {
      // Not kept before it can be driven.
      await this.examiner.driven(scenario);
      return keepNew(who, body, chosen, null);
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
    return keepNew(who, body, chosen, jobId);
  }

  private async chosen(who: Actor, body: NewAttemptRequest): Promise<Chosen> {
    if (body.exam) {
      const mine = await ofExam(who.shopId, body.exam);
      if (mine.some((a) => a.accountId !== who.accountId)) throw conflict('this exam', null);
      const drawn = mine[0]?.data.drawn ?? { seed: randomInt(2 ** 32 - 1), of: EXAM_LENGTH };
      const place = mine.length + 1;
      if (place > drawn.of || (mine[0] && !mine[0].data.drawn)) throw refusal('this exam is over');
      return { scenario: examCar(drawn.seed, place), exam: { id: body.exam, place, drawn } };
    }
    if (body.file) {
      const fleet = (await this.sim.bays())[0]?.fleet.map((f) => f.id) ?? [];
      const problems = scenarioProblems(body.file, fleet);
      if (problems.length > 0) throw badFields(problems.map((p) => ({ ...p, field: `file.${p.field}` })));
      return { scenario: body.file as unknown as PracticeScenario, exam: null };
    }
    if (!body.scenario) throw badFields([{ field: 'scenario', message: 'one of the practice cars, or a file' }]);
    return { scenario: practiceCar(body.scenario), exam: null };
  }
}

/** The same car that was begun and not asked anything yet: pressed twice. */
function untouched({ data }: PracticeAttempt, body: NewAttemptRequest): boolean {
  return (
    !body.exam &&
    !body.file &&
    data.scenario.id === body.scenario &&
    data.hints === body.hints &&
    data.exam === null &&
    data.moves.length === 0
  );
}

function refuseMoreExams(mine: readonly PracticeAttempt[]): void {
  const begun = new Map<string, number>();
  for (const { data, createdAt } of mine)
    if (data.exam && !begun.has(data.exam)) begun.set(data.exam, createdAt.getTime());
  const lately = [...begun.values()].filter((t) => Date.now() - t < DAY_MS).sort((a, b) => a - b);
  if (lately.length < EXAMS_A_DAY) return;
  const hours = Math.ceil((lately.at(-EXAMS_A_DAY)! + DAY_MS - Date.now()) / 3_600_000);
  throw refusal(
    `${EXAMS_A_DAY} exams a day: the next one ${hours === 1 ? 'within the hour' : `in ${hours} hours`}. Practice cars are open.`,
  );
}

async function keepNew(
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
