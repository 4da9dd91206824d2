import {
  type DamageView,
  type JobPatchRequest,
  type JobSummary,
  type NewJobRequest,
  type StoredDiagnosis,
  type VehicleChangeRequest,
  type VehicleRequest,
  type VehicleView,
  type WholeJob,
} from '@just-balance/contract';
import type { ValueEntry } from '@just-balance/contract/service';
import type { Case } from '@just-balance/core/case';
import { ConflictException, Injectable } from '@nestjs/common';
import { type Transaction, UniqueConstraintError, type WhereOptions } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { badFields, conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { Work } from '../database/work.ts';
import { Job, StoredDiagnosisRow } from '../rows/jobs.ts';
import { NEWEST_FIRST } from '../rows/order.ts';
import { ReadingRow } from '../rows/readings.ts';
import { ServiceEntry } from '../rows/service.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { type Author, appendEvent } from './events.ts';
import { caseOfParts } from './judge.ts';
import { partsOf } from './parts.ts';
import { diagnosisView, knownViews, vehicleView } from './rowViews.ts';
import { readVehicle, STORED, type StoredResource, type StoredResourceName } from './stored.ts';
import { keptSummary, summaryView, summed } from './summaries.ts';
import { wholeJob } from './wholeJob.ts';
import { JobWrites } from './write.ts';

/** The job itself: opened, changed, weighed again, mended; and all of it at once. */
@Injectable()
export class JobsService {
  constructor(
    private readonly work: Work,
    private readonly jobs: JobWrites,
  ) {}

  /** The head of a job's page, from what the last write summed up. */
  async view(who: Actor, id: string): Promise<JobSummary> {
    const { shopId } = who;
    const job = await Job.findOne({ where: { id, shopId }, include: { association: 'vehicle', where: { shopId } } });
    if (!job) throw notHere('job');
    who.lookedAt = job.changes;
    return summaryView(job, job.vehicle!, await this.jobs.summaryOf(job, job.shopId));
  }

  /** The job as the diagnosis sees it, before any repair. */
  async caseOf(who: Actor, id: string): Promise<Case> {
    const job = await this.jobs.find(who, id);
    return caseOfParts(job, await partsOf(job));
  }

  async whole(who: Actor, id: string): Promise<WholeJob> {
    return this.work.read(async (t) => wholeJob(await this.jobs.find(who, id, t), t));
  }

  /** Rows of the job that cannot be read, and what is wrong with each. */
  async damaged(who: Actor, id: string): Promise<DamageView[]> {
    const { damage, vehicle } = await partsOf(await this.jobs.find(who, id));
    await knownViews(vehicle, damage);
    return damage;
  }

  /** The judgements that were kept, oldest first; of many only the newest where asked. */
  async diagnoses(who: Actor, id: string, newest?: number): Promise<StoredDiagnosis[]> {
    await this.jobs.find(who, id);
    const rows = await StoredDiagnosisRow.findAll({
      where: { shopId: who.shopId, jobId: id },
      order: NEWEST_FIRST,
      ...(newest === undefined ? {} : { limit: newest }),
    });
    return rows.reverse().map(diagnosisView);
  }

  /** `practice`: on a simulated car, to learn; `sealed`: without help. */
  async create(
    who: Actor,
    body: NewJobRequest,
    { practice = false, sealed = false }: { practice?: boolean; sealed?: boolean } = {},
  ): Promise<JobSummary> {
    const known = () => Job.findOne({ where: { id: body.id, shopId: who.shopId } });
    const view = (job: Job, t?: Transaction) => this.summary(job, t);
    const before = await known();
    if (before) return view(before);
    try {
      return await this.work.run(async (transaction) => {
        const vehicle = await Vehicle.findOne({ where: { id: body.vehicleId, shopId: who.shopId }, transaction });
        if (!vehicle)
          await Vehicle.create({ id: body.vehicleId, shopId: who.shopId, rev: 1, data: body.vehicle }, { transaction });
        const job = await Job.create(
          {
            id: body.id,
            shopId: who.shopId,
            rev: 1,
            vehicleId: body.vehicleId,
            status: 'open',
            complaint: body.complaint,
            ambient: body.ambient ?? {},
            adapter: body.adapter ?? null,
            practice,
            sealed,
            openedBy: who.name,
          },
          { transaction },
        );
        await appendEvent(who, body.id, 'opened', { symptoms: body.complaint.symptoms }, transaction);
        if (vehicle) {
          await this.changeCard(who, job.id, vehicle, body.vehicle, transaction);
          await this.takeOverValues(job, transaction);
        }
        await this.jobs.recompute(who, job, transaction);
        return view(job, transaction);
      });
    } catch (e) {
      if (!(e instanceof UniqueConstraintError)) throw e;
      // Two tablets at once: the other one's row is this row.
      const twin = await known();
      if (!twin) throw conflict('this id', null);
      return view(twin);
    }
  }

  /** What was entered for the vehicle in its earlier jobs stands in the new one too: of each quantity the newest. */
  private async takeOverValues(job: Job, transaction: Transaction): Promise<void> {
    const { shopId, vehicleId } = job;
    const jobs = await Job.findAll({ where: { shopId, vehicleId }, attributes: ['id'], transaction });
    const earlier = await ServiceEntry.findAll({
      where: { shopId, jobId: jobs.map((j) => j.id), kind: 'value', undone: false },
      order: [['createdAt', 'ASC']],
      transaction,
    });
    const newest = new Map(earlier.map((e) => [(e.data as ValueEntry).quantity, e]));
    await ServiceEntry.bulkCreate(
      [...newest.values()].map(({ by, kind, data }) => ({
        id: uuidv7(),
        shopId,
        jobId: job.id,
        rev: 1,
        by,
        kind,
        data,
      })),
      { transaction },
    );
  }

  async patch(who: Actor, id: string, body: JobPatchRequest): Promise<JobSummary> {
    const { rev, ...changes } = body;
    const defined = Object.fromEntries(Object.entries(changes).filter(([, v]) => v !== undefined));
    const reopens = Object.keys(defined).every((k) => k === 'status');
    await this.jobs.write(
      who,
      id,
      async (job, transaction) => {
        if (job.rev !== rev) throw conflict('the job', await this.summary(job, transaction));
        await job.update({ ...defined, rev: rev + 1 }, { transaction });
        await appendEvent(who, id, 'changed', defined, transaction);
        return { id, rev: rev + 1 };
      },
      { evenClosed: reopens, resources: [] },
    );
    return this.view(who, id);
  }

  /** Replace the card of the job's vehicle. Throws 409 where it has moved on, 400 where readings forbid it. */
  changeVehicle(who: Actor, jobId: string, { rev, vehicle }: VehicleChangeRequest): Promise<VehicleView> {
    return this.jobs.write(
      who,
      jobId,
      async (job, transaction) => {
        const row = (await Vehicle.findOne({
          where: { id: job.vehicleId, shopId: who.shopId },
          transaction,
          lock: transaction.LOCK.UPDATE,
        }))!;
        if (row.rev !== rev) throw conflict('the vehicle', vehicleView(row));
        if (vehicle.banks !== 2) {
          const readings = await ReadingRow.findAll({ where: { shopId: who.shopId, jobId }, transaction });
          if (readings.some((r) => r.data.trims?.bank2))
            throw badFields([{ field: 'vehicle.banks', message: 'readings of bank 2 are kept: this engine has two' }]);
        }
        await this.changeCard(who, jobId, row, vehicle, transaction);
        return vehicleView(row);
      },
      { resources: ['known', 'damaged'] },
    );
  }

  /** What is typed of a vehicle stands from now on; what stood before is in the history. */
  private async changeCard(who: Author, jobId: string, row: Vehicle, next: VehicleRequest, transaction: Transaction) {
    const before = readVehicle(row).value as unknown as Record<string, unknown>;
    const after = next as unknown as Record<string, unknown>;
    const changed = [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
      (k) => JSON.stringify(before[k]) !== JSON.stringify(after[k]),
    );
    if (changed.length === 0) return;
    const of = (v: Record<string, unknown>) => Object.fromEntries(changed.map((k) => [k, v[k] ?? null]));
    await row.update({ data: next, rev: row.rev + 1 }, { transaction });
    await appendEvent(who, jobId, 'vehicle', { before: of(before), after: of(after) }, transaction);
  }

  private async summary(job: Job, transaction?: Transaction): Promise<JobSummary> {
    const parts = await partsOf(job, transaction);
    return summaryView(job, parts.vehicle, keptSummary(job) ?? summed(job, parts));
  }

  /** Weigh again: the settings or the core may have moved on since the last write. */
  async weighAgain(who: Actor, jobId: string): Promise<StoredDiagnosis | null> {
    await this.jobs.write(who, jobId, async () => ({ id: jobId }), { evenClosed: true, resources: [] });
    const row = await StoredDiagnosisRow.findOne({
      where: { shopId: who.shopId, jobId },
      order: [
        ['createdAt', 'DESC'],
        ['id', 'DESC'],
      ],
    });
    return row && diagnosisView(row);
  }

  /** Replace a stored row that cannot be read by one that can. Refused for a row that is as it should be. */
  async mend(
    who: Actor,
    jobId: string,
    resource: StoredResourceName,
    id: string,
    data: unknown,
  ): Promise<{ id: string }> {
    const { model, column, problems }: StoredResource = STORED[resource];
    const wrong = problems(data);
    if (wrong.length > 0) throw badFields(wrong.map((p) => ({ ...p, field: p.field ? `data.${p.field}` : 'data' })));
    return this.jobs.write(
      who,
      jobId,
      async (job, transaction) => {
        const mine =
          resource === 'vehicle'
            ? id === job.vehicleId
            : resource === 'complaint' || resource === 'ambient'
              ? id === job.id
              : true;
        const where = { id, shopId: who.shopId, ...('jobId' in model.getAttributes() ? { jobId } : {}) };
        const row = mine ? await model.findOne({ where: where as WhereOptions, transaction }) : null;
        if (!row) throw notHere(resource);
        const stored: unknown = row.get(column);
        if (problems(stored).length === 0)
          throw new ConflictException({ statusCode: 409, message: `this ${resource} can be read: nothing to mend` });
        await row.update({ [column]: data }, { transaction });
        await appendEvent(who, jobId, 'mended', { noun: resource, id, before: stored, after: data }, transaction);
        return { id };
      },
      { evenClosed: true },
    );
  }
}
