import type { JobResource, UndoRequest } from '@just-balance/contract';
import { ConflictException, Inject, Injectable } from '@nestjs/common';
import type { Logger } from 'pino';
import {
  type Attributes,
  type CreationAttributes,
  type Model,
  type ModelStatic,
  type Transaction,
  UniqueConstraintError,
  type WhereOptions,
} from 'sequelize';
import { conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { Work } from '../database/work.ts';
import { Learning, settingsOf } from '../learning/learning.service.ts';
import { Live } from '../live/live.service.ts';
import { LOGGER } from '../logger.ts';
import { Job, type StoredSummary } from '../rows/jobs.ts';
import { OLDEST_FIRST } from '../rows/order.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { type Author, appendEvent } from './events.ts';
import { indexJob } from './indexing.ts';
import { judge } from './judge.ts';
import { partsOf } from './parts.ts';
import { readable, readVehicle, type StoredResourceName } from './stored.ts';
import { keptSummary, type ListedJob, summed } from './summaries.ts';

/** Rows of a job that people add: their model, how they are shown, and what the history calls one. */
export interface RowKind<T extends Model, V> {
  model: ModelStatic<T>;
  view: (row: T) => V;
  resource: JobResource;
  kind: string;
}

/** Whose a row is. */
interface Own {
  id: string;
  shopId: string;
  jobId: string;
}

/** Resources from which nothing that is kept of a job is worked out: neither its judgement nor where it stands. */
const SAYS_NOTHING: ReadonlySet<JobResource> = new Set(['cautions', 'photos', 'captures']);

/** The one way into a job: every write is one transaction, judged, summed up and told; a resource's own module says what. */
@Injectable()
export class JobWrites {
  constructor(
    private readonly work: Work,
    private readonly live: Live,
    private readonly learning: Learning,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  /** A job of the asker's shop. Throws 404 otherwise. */
  async find(who: Pick<Actor, 'shopId' | 'lookedAt'>, id: string, transaction?: Transaction): Promise<Job> {
    const job = await Job.findOne({ where: { id, shopId: who.shopId }, ...(transaction ? { transaction } : {}) });
    if (!job) throw notHere('job');
    who.lookedAt = job.changes;
    return job;
  }

  /** The job's rows of one model, oldest first; those that cannot be read are left out, and named under `damaged`. */
  async rows<T extends Model & { id: string; data: unknown }, V>(
    who: Actor,
    jobId: string,
    resource: StoredResourceName,
    model: ModelStatic<T>,
    view: (row: T) => V,
  ): Promise<V[]> {
    await this.find(who, jobId);
    const where = { shopId: who.shopId, jobId } as WhereOptions;
    return readable(resource, await model.findAll({ where, order: OLDEST_FIRST }), []).map(view);
  }

  /** The job's summary: as the last write kept it, or worked out where an earlier version kept another one. */
  async summaryOf(job: Pick<ListedJob, 'id' | 'summary'>, shopId: string): Promise<StoredSummary> {
    return keptSummary(job) ?? (await this.sumUp(job.id, shopId));
  }

  /** Of a job from before summaries were kept. */
  private async sumUp(id: string, shopId: string) {
    const job = (await Job.findOne({ where: { id, shopId } }))!;
    const summary = summed(job, await partsOf(job));
    // A write in the meantime has kept a newer one.
    await Job.update({ summary }, { where: { id: job.id, shopId: job.shopId, changes: job.changes } });
    return summary;
  }

  /** The summary of a job whose rows were written beside this service, in the same transaction. */
  async sumUpNow(id: string, shopId: string, transaction: Transaction): Promise<void> {
    // Locked: a write under way sums up after us, never before us with what we do not see.
    const job = (await Job.findOne({ where: { id, shopId }, transaction, lock: true }))!;
    const settings = await settingsOf(shopId, transaction);
    const { summary, remindAt, orders } = await indexJob(job, await partsOf(job, transaction), settings, transaction);
    await Job.update({ summary, remindAt, orders, filed: true }, { where: { id, shopId }, transaction });
    this.learning.later(shopId);
  }

  /**
   * Write into a job: the job's row is locked, so that writes into one job come one after the other; what `f` did is
   * judged and summed up in the same transaction; then the screens are told to look at `resources` again, at everything
   * where it is null. Throws 409 when the job is closed.
   */
  async write<T>(
    who: Author,
    jobId: string,
    f: (job: Job, t: Transaction) => Promise<T>,
    { evenClosed = false, resources = null }: { evenClosed?: boolean; resources?: JobResource[] | null } = {},
  ): Promise<T> {
    let changes = 0;
    const answer = await this.work.run(async (transaction) => {
      const job = await Job.findOne({
        where: { id: jobId, shopId: who.shopId },
        transaction,
        lock: transaction.LOCK.UPDATE,
      });
      if (!job) throw notHere('job');
      if (job.status === 'closed' && !evenClosed)
        throw new ConflictException({
          statusCode: 409,
          message: 'this job is closed and takes nothing more: reopen it at Hand-over first',
        });
      const out = await f(job, transaction);
      await this.recompute(who, job, transaction, resources);
      changes = job.changes + 1;
      return out;
    });
    this.live.changed(who.shopId, jobId, { resources, screen: who.screen ?? null, changes });
    return answer;
  }

  /** What follows from a write: the judgement, where it stands, its place in the logbook; of `resources` that say nothing, none. */
  async recompute(
    who: Author,
    job: Job,
    transaction: Transaction,
    resources: readonly JobResource[] | null = null,
  ): Promise<void> {
    await job.reload({ transaction });
    const at = { where: { id: job.id, shopId: job.shopId }, transaction };
    if (resources && resources.length > 0 && resources.every((n) => SAYS_NOTHING.has(n))) {
      await Job.update({ changes: job.changes + 1 }, at);
      return;
    }
    const parts = await partsOf(job, transaction);
    const settings = await settingsOf(job.shopId, transaction);
    parts.diagnosis = job.sealed ? null : await judge(who, job, parts, settings, transaction, this.log);
    const { summary, remindAt, orders, taught } = await indexJob(job, parts, settings, transaction);
    await Job.update({ summary, remindAt, orders, filed: true, changes: job.changes + 1 }, at);
    if (taught) transaction.afterCommit(() => this.learning.later(job.shopId));
  }

  /** Practised without help, and answered now: it is weighed as any other. */
  async unseal(who: Actor, jobId: string): Promise<void> {
    const open = async (job: Job, transaction: Transaction) => {
      await job.update({ sealed: false }, { transaction });
    };
    await this.write(who, jobId, open, { resources: null, evenClosed: true });
  }

  /** Insert a row with the client's own id once; a repeat of the same id changes nothing and gives the row that is there. */
  async insertOnce<T extends Model, V>(
    who: Actor,
    jobId: string,
    { model, view, resource, kind }: RowKind<T, V>,
    id: string,
    row: (own: Own, job: Job, t: Transaction) => Promise<CreationAttributes<T>>,
    data: Record<string, unknown>,
  ): Promise<V> {
    const insert = async (job: Job, transaction: Transaction) => {
      if (job.practice && !who.examiner && (resource === 'readings' || resource === 'tests' || resource === 'records'))
        throw new ConflictException({
          statusCode: 409,
          message: 'this car is for practice: ask it, it answers by itself',
        });
      const fields = await row({ id, shopId: who.shopId, jobId }, job, transaction);
      const before = await model.findByPk(id, { transaction });
      if (before && (before.get('shopId') !== who.shopId || before.get('jobId') !== jobId))
        throw conflict('this id', null);
      if (before) return view(before);
      const made = await model.create(fields, { transaction }).catch((e: unknown) => {
        // In another job at the same moment: the lock on this job does not see it.
        throw e instanceof UniqueConstraintError ? conflict('this id', null) : e;
      });
      await appendEvent(who, jobId, kind, data, transaction);
      return view(made);
    };
    return this.write(who, jobId, insert, { resources: [resource] });
  }

  /** New content for a row; `rev` guards against two people doing it, and the history keeps what stood before. */
  change<T extends Model & { rev: number; data: unknown }, V>(
    who: Actor,
    jobId: string,
    what: RowKind<T, V>,
    id: string,
    rev: number,
    next: (row: T, job: Job, t: Transaction) => Promise<Pick<T, 'data'>>,
  ): Promise<V> {
    const set = async (job: Job, transaction: Transaction) => {
      const row = await what.model.findOne({ where: { id, jobId, shopId: who.shopId } as WhereOptions, transaction });
      if (!row) throw notHere(what.kind);
      if (row.rev !== rev) throw conflict(`the ${what.kind}`, what.view(row));
      const before = row.data;
      const fields = await next(row, job, transaction);
      await row.update({ ...fields, rev: rev + 1 } as Partial<Attributes<T>>, { transaction });
      await appendEvent(who, jobId, `${what.kind}-corrected`, { id, before, after: fields.data }, transaction);
      return what.view(row);
    };
    return this.write(who, jobId, set, { resources: [what.resource] });
  }

  /** Undo or redo a row that people add; `rev` guards against two people doing it. */
  undo<T extends Model & { rev: number }, V>(
    who: Actor,
    jobId: string,
    what: RowKind<T, V>,
    id: string,
    body: UndoRequest,
    evenClosed = false,
  ): Promise<V> {
    const set = async (_: Job, transaction: Transaction) => {
      const row = await what.model.findOne({ where: { id, jobId, shopId: who.shopId } as WhereOptions, transaction });
      if (!row) throw notHere(what.kind);
      if (row.rev !== body.rev) throw conflict(`the ${what.kind}`, what.view(row));
      await row.update({ undone: body.undone, rev: body.rev + 1 } as Attributes<T>, { transaction });
      await appendEvent(who, jobId, `${what.kind}-${body.undone ? 'undone' : 'redone'}`, { id }, transaction);
      return what.view(row);
    };
    return this.write(who, jobId, set, { resources: [what.resource], evenClosed });
  }

  /** The car of a job, by its card. */
  async vehicleOf(job: Job, transaction: Transaction) {
    const row = (await Vehicle.findOne({ where: { id: job.vehicleId, shopId: job.shopId }, transaction }))!;
    return { id: row.id, facts: readVehicle(row).value };
  }
}
