import {
  type AcknowledgeRequest,
  type HandRecordRequest,
  type JobPatchRequest,
  type JobSummary,
  type JobView,
  type KnownFigureRequest,
  type NewJobRequest,
  type NewReadingRequest,
  type NewRepairRequest,
  type NewTestRequest,
  testProblems,
  type UndoRequest,
} from '@just-balance/contract';
import { familyOf, stationPressure } from '@just-balance/core/expected';
import { Inject, Injectable } from '@nestjs/common';
import { type Model, type ModelStatic, type Sequelize, type Transaction, UniqueConstraintError } from 'sequelize';
import { badFields, conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { SEQUELIZE } from '../database/connect.ts';
import { Job, KnownFigureRow, ReadingRow, Repair, TestRow, Vehicle, VehicleRecord } from '../database/models.ts';
import { Live } from '../live/live.service.ts';
import { appendEvent } from './events.ts';
import { jobSummary, jobView } from './views.ts';

const UNDOABLE = { test: TestRow, repair: Repair, 'known-figure': KnownFigureRow };

/** Jobs and what is written into them. Every write appends an event in the same transaction. */
@Injectable()
export class JobsService {
  constructor(
    @Inject(SEQUELIZE) private readonly db: Sequelize,
    @Inject(Live) private readonly live: Live,
  ) {}

  async list(who: Actor): Promise<JobSummary[]> {
    const jobs = await Job.findAll({ where: { shopId: who.shopId }, order: [['createdAt', 'DESC']], limit: 200 });
    return Promise.all(jobs.map(jobSummary));
  }

  /** A job of the asker's shop. Throws 404 otherwise. */
  async find(who: Pick<Actor, 'shopId'>, id: string): Promise<Job> {
    const job = await Job.findOne({ where: { id, shopId: who.shopId } });
    if (!job) throw notHere('job');
    return job;
  }

  async view(who: Actor, id: string): Promise<JobView> {
    return jobView(await this.find(who, id));
  }

  async create(who: Actor, body: NewJobRequest): Promise<JobView> {
    const known = () => Job.findOne({ where: { id: body.id, shopId: who.shopId } });
    const before = await known();
    if (before) return jobView(before);
    const write = this.db.transaction(async (transaction) => {
      const known = await Vehicle.findOne({ where: { id: body.vehicleId, shopId: who.shopId }, transaction });
      if (!known)
        await Vehicle.create({ id: body.vehicleId, shopId: who.shopId, rev: 1, data: body.vehicle }, { transaction });
      await Job.create(
        {
          id: body.id,
          shopId: who.shopId,
          rev: 1,
          vehicleId: body.vehicleId,
          status: 'open',
          complaint: body.complaint,
          ambient: body.ambient ?? {},
          adapter: body.adapter ?? null,
          openedBy: who.name,
        },
        { transaction },
      );
      await appendEvent(who, body.id, 'opened', { symptoms: body.complaint.symptoms }, transaction);
    });
    await write.catch(async (e) => {
      if (!(e instanceof UniqueConstraintError)) throw e;
      if (!(await known())) throw conflict('this id', null);
    });
    return this.view(who, body.id);
  }

  async patch(who: Actor, id: string, body: JobPatchRequest): Promise<JobView> {
    const { rev, ...changes } = body;
    const defined = Object.fromEntries(Object.entries(changes).filter(([, v]) => v !== undefined));
    await this.find(who, id);
    await this.db.transaction(async (transaction) => {
      const [n] = await Job.update(
        { ...defined, rev: rev + 1 },
        { where: { id, shopId: who.shopId, rev }, transaction },
      );
      if (n === 0) throw conflict('the job', await jobSummary(await this.find(who, id)));
      await appendEvent(who, id, 'changed', defined, transaction);
    });
    return this.changed(who, id);
  }

  /** Insert a row with the client's own id once; a repeat of the same id changes nothing. */
  private async insertOnce<T extends Model>(
    who: Actor,
    jobId: string,
    model: ModelStatic<T>,
    row: Record<string, unknown> & { id: string },
    kind: string,
    data: Record<string, unknown>,
  ): Promise<JobView> {
    await this.find(who, jobId);
    const known = async () => {
      const before = await model.findByPk(row.id);
      if (before && (before.get('shopId') !== who.shopId || before.get('jobId') !== jobId))
        throw conflict('this id', null);
      return before !== null;
    };
    if (await known()) return this.view(who, jobId);
    try {
      await this.db.transaction(async (transaction: Transaction) => {
        await model.create({ ...row, shopId: who.shopId, jobId } as never, { transaction });
        await appendEvent(who, jobId, kind, data, transaction);
      });
    } catch (e) {
      // Two tablets at once: the other one's row is this row.
      if (!(e instanceof UniqueConstraintError) || !(await known())) throw e;
      return this.view(who, jobId);
    }
    return this.changed(who, jobId);
  }

  async addReading(who: Actor, jobId: string, body: NewReadingRequest): Promise<JobView> {
    const job = await this.find(who, jobId);
    const vehicle = await Vehicle.findOne({ where: { id: job.vehicleId, shopId: who.shopId } });
    if (vehicle?.data.banks === 1 && body.reading.trims?.bank2) {
      throw badFields([{ field: 'reading.trims.bank2', message: 'this vehicle has one bank' }]);
    }
    return this.insertOnce(
      who,
      jobId,
      ReadingRow,
      { id: body.id, rev: 1, phase: body.phase, source: 'hand', captureId: null, doubtful: null, data: body.reading },
      'reading',
      { at: body.reading.at, phase: body.phase, source: 'hand' },
    );
  }

  async addTest(who: Actor, jobId: string, body: NewTestRequest): Promise<JobView> {
    const problems = testProblems(body.test, 'test');
    if (problems.length > 0) throw badFields(problems);
    return this.insertOnce(
      who,
      jobId,
      TestRow,
      { id: body.id, rev: 1, undone: false, by: who.name, data: body.test },
      'test',
      { test: body.test.id, outcome: body.test.outcome ?? body.test.values },
    );
  }

  async addKnown(who: Actor, jobId: string, body: KnownFigureRequest): Promise<JobView> {
    if (!(body.low < body.high)) throw badFields([{ field: 'high', message: 'must be above low' }]);
    const job = await this.find(who, jobId);
    const vehicle = (await Vehicle.findOne({ where: { id: job.vehicleId, shopId: who.shopId } }))!;
    const { id, layer, ...figure } = body;
    const data = { ...figure, baroKPa: stationPressure(job.ambient).baroKPa };
    return this.insertOnce(
      who,
      jobId,
      KnownFigureRow,
      { id, rev: 1, undone: false, by: who.name, vehicleId: vehicle.id, family: familyOf(vehicle.data), layer, data },
      'known-figure',
      { layer, ...figure },
    );
  }

  async addRepair(who: Actor, jobId: string, body: NewRepairRequest): Promise<JobView> {
    const data = { text: body.text, fault: body.fault ?? null, part: body.part ?? null, school: body.school };
    return this.insertOnce(
      who,
      jobId,
      Repair,
      { id: body.id, rev: 1, undone: false, by: who.name, data },
      'repair',
      data,
    );
  }

  async addHandRecord(who: Actor, jobId: string, body: HandRecordRequest): Promise<JobView> {
    const data = {
      phase: body.phase,
      source: 'hand',
      lampOn: body.lampOn,
      monitorBytes: null,
      freezeFrame: [],
      vin: null,
      warmupsSinceClear: null,
      distanceSinceClearKm: null,
      codes: [
        ...body.stored.map((code) => ({ code, state: 'stored' as const })),
        ...body.pending.map((code) => ({ code, state: 'pending' as const })),
        ...(body.permanent ?? []).map((code) => ({ code, state: 'permanent' as const })),
      ],
    };
    return this.insertOnce(who, jobId, VehicleRecord, { id: body.id, data }, 'record', {
      phase: body.phase,
      source: 'hand',
      codes: data.codes.length,
    });
  }

  async acknowledge(who: Actor, jobId: string, body: AcknowledgeRequest): Promise<JobView> {
    await this.find(who, jobId);
    await this.db.transaction((t) => appendEvent(who, jobId, 'caution', { caution: body.caution, step: body.step }, t));
    return this.changed(who, jobId);
  }

  /** Undo or redo a test, a repair or a known figure; `rev` guards against two people doing it. */
  async undo(who: Actor, jobId: string, kind: keyof typeof UNDOABLE, id: string, body: UndoRequest): Promise<JobView> {
    await this.find(who, jobId);
    const model: ModelStatic<Model> = UNDOABLE[kind];
    await this.db.transaction(async (transaction) => {
      const [n] = await model.update(
        { undone: body.undone, rev: body.rev + 1 },
        { where: { id, jobId, shopId: who.shopId, rev: body.rev }, transaction },
      );
      if (n === 0) {
        const current = await model.findOne({ where: { id, jobId, shopId: who.shopId } });
        throw current ? conflict(`the ${kind}`, current) : notHere(kind);
      }
      await appendEvent(who, jobId, body.undone ? `${kind}-undone` : `${kind}-redone`, { id }, transaction);
    });
    return this.changed(who, jobId);
  }

  private async changed(who: Actor, jobId: string): Promise<JobView> {
    this.live.publish(who.shopId, { type: 'changed', jobId });
    return this.view(who, jobId);
  }
}
