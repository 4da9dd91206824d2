import {
  type AcknowledgeRequest,
  type CaptureView,
  type CautionView,
  type DamageView,
  type HandRecordRequest,
  type JobCounts,
  type JobListItem,
  type JobListQuery,
  type JobNoun,
  type JobPatchRequest,
  type JobSummary,
  type KnownFigureRequest,
  type KnownView,
  type NewJobRequest,
  type NewReadingRequest,
  type NewRepairRequest,
  type NewTestRequest,
  type PhotoView,
  type ReadingChangeRequest,
  type ReadingView,
  type RecordChangeRequest,
  type RecordView,
  type RepairView,
  RunningCapture,
  type RunView,
  type StoredDiagnosis,
  type StretchDto,
  type TestView,
  testProblems,
  type UndoRequest,
  type VehicleChangeRequest,
  type VehicleRequest,
  type VehicleView,
  type WholeJob,
} from '@just-balance/contract';
import type { ValueEntry } from '@just-balance/contract/service';
import { toHex } from '@just-balance/core/can';
import type { Case, Reading } from '@just-balance/core/case';
import { familyOf, stationPressure } from '@just-balance/core/expected';
import { encodeMonitors, type MonitorId, type MonitorState } from '@just-balance/core/obd';
import { ConflictException, Inject, Injectable } from '@nestjs/common';
import type { Logger } from 'pino';
import {
  type Attributes,
  type CreationAttributes,
  type Model,
  type ModelStatic,
  Op,
  type Transaction,
  UniqueConstraintError,
  type WhereOptions,
} from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { badFields, conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import {
  Capture,
  Job,
  JobEvent,
  KnownFigureRow,
  Photo,
  ReadingRow,
  type RecordData,
  Repair,
  ServiceEntry,
  ServiceRun,
  StoredDiagnosisRow,
  TestRow,
  Vehicle,
  VehicleRecord,
} from '../database/models.ts';
import { Work } from '../database/work.ts';
import { Learning, settingsOf } from '../learning/learning.service.ts';
import { Live } from '../live/live.service.ts';
import { LOGGER } from '../logger.ts';
import { type Author, appendEvent } from './events.ts';
import { fileJob } from './filing.ts';
import { caseOfParts, judge } from './judge.ts';
import { readable, readHead, readVehicle, STORED, type StoredNoun, type StoredNounName } from './stored.ts';
import {
  captureViews,
  cautionViews,
  diagnosisView,
  entryView,
  keptSummary,
  knownView,
  knownViews,
  LISTED,
  type ListedJob,
  listItem,
  NEWEST_FIRST,
  OLDEST_FIRST,
  partsOf,
  photoView,
  RUN_EVENTS,
  readingView,
  recordView,
  repairView,
  runView,
  summaryView,
  summed,
  testView,
  vehicleView,
  wholeJob,
} from './views.ts';

/** Rows of the board a page. [house] */
const PAGE = 50;
/** Reminders of the board: a day ahead, two months behind. [house] */
const DUE_AHEAD_MS = 86_400_000;
const DUE_BEHIND_MS = 60 * 86_400_000;
const MOST_DUE = 40;
/** Captures shown at once: one a bay. [house] */
const MOST_RUNNING = 50;

/** Rows of a job that people add: their model, how they are shown, and what the history calls one. */
export interface RowKind<T extends Model, V> {
  model: ModelStatic<T>;
  view: (row: T) => V;
  noun: JobNoun;
  kind: string;
}

/** Whose a row is. */
interface Own {
  id: string;
  shopId: string;
  jobId: string;
}

const RECORDS = { model: VehicleRecord, view: recordView, noun: 'records', kind: 'record' } as const;
const READINGS = { model: ReadingRow, view: readingView, noun: 'readings', kind: 'reading' } as const;
const TESTS = { model: TestRow, view: testView, noun: 'tests', kind: 'test' } as const;
const REPAIRS = { model: Repair, view: repairView, noun: 'repairs', kind: 'repair' } as const;
const KNOWN = { model: KnownFigureRow, view: knownView, noun: 'known', kind: 'known-figure' } as const;

/** Jobs and what is written into them. Every write goes through `write`: one transaction, judged, summed up, told. */
@Injectable()
export class JobsService {
  constructor(
    private readonly work: Work,
    private readonly live: Live,
    private readonly learning: Learning,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  /** A page of the board, newest first, and the address of the next page. One query. */
  async list(who: Actor, q: JobListQuery): Promise<{ jobs: JobListItem[]; next: string | null }> {
    const limit = q.limit ?? PAGE;
    const where: WhereOptions[] = [{ shopId: who.shopId, practice: false }];
    if (q.status === 'open') where.push({ status: ['open', 'parked'] });
    if (q.status === 'closed') where.push({ status: 'closed' });
    if (q.whose === 'mine') where.push({ openedBy: who.name });
    const before = q.before === undefined ? null : cursorOf(q.before);
    if (before)
      where.push({
        [Op.or]: [{ createdAt: { [Op.lt]: before.at } }, { createdAt: before.at, id: { [Op.lt]: before.id } }],
      });
    const rows = await Job.findAll({
      where: { [Op.and]: where },
      order: [
        ['createdAt', 'DESC'],
        ['id', 'DESC'],
      ],
      limit: limit + 1,
      attributes: [...LISTED],
      raw: true,
    });
    const shown = rows.slice(0, limit);
    const jobs = await this.listed(who, shown);
    const last = shown.at(-1);
    return { jobs, next: rows.length > limit && last ? `${last.createdAt.getTime()}_${last.id}` : null };
  }

  /** Jobs, handed over ones too, on which somebody should look by tomorrow; what was left for long is not repeated. */
  async due(who: Actor): Promise<JobListItem[]> {
    const now = Date.now();
    const rows = await Job.findAll({
      where: {
        shopId: who.shopId,
        practice: false,
        remindAt: { [Op.gte]: new Date(now - DUE_BEHIND_MS), [Op.lt]: new Date(now + DUE_AHEAD_MS) },
      },
      order: [['remindAt', 'ASC']],
      limit: MOST_DUE,
      attributes: [...LISTED],
      raw: true,
    });
    return this.listed(who, rows);
  }

  /** Rows of a list; a job whose summary was not kept yet is read whole, once. */
  async listed(who: Actor, rows: readonly ListedJob[]): Promise<JobListItem[]> {
    const out: JobListItem[] = [];
    for (const job of rows) out.push(listItem(job, keptSummary(job) ?? (await this.sumUp(job.id, who.shopId))));
    return out;
  }

  async running(who: Actor): Promise<RunningCapture[]> {
    const captures = await Capture.findAll({
      where: { shopId: who.shopId, state: 'running' },
      attributes: ['id', 'jobId', 'at', 'createdAt'],
      order: [['createdAt', 'ASC']],
      limit: MOST_RUNNING,
    });
    const jobs = await Job.findAll({
      where: { shopId: who.shopId, practice: false, id: captures.map((c) => c.jobId) },
      attributes: [...LISTED],
      raw: true,
    });
    const byId = new Map(jobs.map((j) => [j.id, j]));
    const out: RunningCapture[] = [];
    for (const c of captures) {
      const job = byId.get(c.jobId);
      if (!job) continue;
      const { label, note, hands } = listItem(job, keptSummary(job) ?? (await this.sumUp(job.id, who.shopId)));
      out.push({
        id: c.id,
        job: job.id,
        label,
        note,
        at: c.at,
        since: c.createdAt.toISOString(),
        hands,
      });
    }
    return out;
  }

  async counts(who: Actor): Promise<JobCounts> {
    const open = { shopId: who.shopId, practice: false, status: ['open', 'parked'] };
    const [everyone, mine, all] = await Promise.all([
      Job.count({ where: open }),
      Job.count({ where: { ...open, openedBy: who.name } }),
      Job.count({ where: { shopId: who.shopId, practice: false } }),
    ]);
    return { open: everyone, mine, all };
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
    const { summary, remindAt } = await fileJob(job, await partsOf(job, transaction), settings, transaction);
    await Job.update({ summary, remindAt, filed: true }, { where: { id, shopId }, transaction });
    this.learning.later(shopId);
  }

  /** A job of the asker's shop. Throws 404 otherwise. */
  async find(who: Pick<Actor, 'shopId' | 'lookedAt'>, id: string, transaction?: Transaction): Promise<Job> {
    const job = await Job.findOne({ where: { id, shopId: who.shopId }, ...(transaction ? { transaction } : {}) });
    if (!job) throw notHere('job');
    who.lookedAt = job.changes;
    return job;
  }

  /** The head of a job's page, from what the last write summed up. */
  async view(who: Actor, id: string): Promise<JobSummary> {
    const { shopId } = who;
    const job = await Job.findOne({ where: { id, shopId }, include: { association: 'vehicle', where: { shopId } } });
    if (!job) throw notHere('job');
    who.lookedAt = job.changes;
    return summaryView(job, job.vehicle!, keptSummary(job) ?? (await this.sumUp(job.id, job.shopId)));
  }

  /** The job as the diagnosis sees it, before any repair. */
  async caseOf(who: Actor, id: string): Promise<Case> {
    const job = await this.find(who, id);
    return caseOfParts(job, await partsOf(job));
  }

  async whole(who: Actor, id: string): Promise<WholeJob> {
    return this.work.read(async (t) => wholeJob(await this.find(who, id, t), t));
  }

  /** Captures of all kinds, oldest first. */
  async captures(who: Actor, id: string): Promise<CaptureView[]> {
    return this.work.read(async (t) => captureViews(who.shopId, (await this.find(who, id, t)).id, t));
  }

  /** The job's rows of one model, oldest first; those that cannot be read are left out, and named under `damaged`. */
  private async rows<T extends Model & { id: string; data: unknown }, V>(
    who: Actor,
    jobId: string,
    noun: StoredNounName,
    model: ModelStatic<T>,
    view: (row: T) => V,
  ): Promise<V[]> {
    await this.find(who, jobId);
    const where = { shopId: who.shopId, jobId } as WhereOptions;
    return readable(noun, await model.findAll({ where, order: OLDEST_FIRST }), []).map(view);
  }

  records = (who: Actor, id: string) => this.rows(who, id, 'record', VehicleRecord, recordView);
  /** Those that stand: what was taken back is in the history. */
  readings = async (who: Actor, id: string): Promise<ReadingView[]> => {
    await this.find(who, id);
    const where = { shopId: who.shopId, jobId: id, undone: false };
    return readable('reading', await ReadingRow.findAll({ where, order: OLDEST_FIRST }), []).map(readingView);
  };
  tests = (who: Actor, id: string) => this.rows(who, id, 'test', TestRow, testView);
  repairs = (who: Actor, id: string) => this.rows(who, id, 'repair', Repair, repairView);

  entries = (who: Actor, id: string) => this.rows(who, id, 'entry', ServiceEntry, entryView);

  /** Runs of service procedures with what happened in each. */
  async runs(who: Actor, id: string): Promise<RunView[]> {
    await this.find(who, id);
    const where = { shopId: who.shopId, jobId: id };
    const rows = await ServiceRun.findAll({ where, order: OLDEST_FIRST, include: [RUN_EVENTS] });
    return readable('run', rows, []).map(runView);
  }

  /** Pictures without their bytes. */
  async photos(who: Actor, id: string): Promise<PhotoView[]> {
    await this.find(who, id);
    const where = { shopId: who.shopId, jobId: id };
    const rows = await Photo.findAll({ where, order: OLDEST_FIRST, attributes: { exclude: ['image', 'small'] } });
    return rows.map(photoView);
  }

  async known(who: Actor, id: string): Promise<KnownView[]> {
    const job = await this.find(who, id);
    return knownViews((await Vehicle.findOne({ where: { id: job.vehicleId, shopId: who.shopId } }))!, []);
  }

  async cautions(who: Actor, id: string): Promise<CautionView[]> {
    await this.find(who, id);
    const where = { shopId: who.shopId, jobId: id, kind: 'caution' };
    return cautionViews(await JobEvent.findAll({ where, order: OLDEST_FIRST }));
  }

  /** Rows of the job that cannot be read, and what is wrong with each. */
  async damaged(who: Actor, id: string): Promise<DamageView[]> {
    const { damage, vehicle } = await partsOf(await this.find(who, id));
    await knownViews(vehicle, damage);
    return damage;
  }

  /** The judgements that were kept, oldest first; of many only the newest where asked. */
  async diagnoses(who: Actor, id: string, newest?: number): Promise<StoredDiagnosis[]> {
    await this.find(who, id);
    const rows = await StoredDiagnosisRow.findAll({
      where: { shopId: who.shopId, jobId: id },
      order: NEWEST_FIRST,
      ...(newest === undefined ? {} : { limit: newest }),
    });
    return rows.reverse().map(diagnosisView);
  }

  /**
   * Write into a job: the job's row is locked, so that writes into one job come one after the other; what `f` did is
   * judged and summed up in the same transaction; then the screens are told to look at `nouns` again, at everything
   * where it is null. Throws 409 when the job is closed.
   */
  async write<T>(
    who: Author,
    jobId: string,
    f: (job: Job, t: Transaction) => Promise<T>,
    { evenClosed = false, nouns = null }: { evenClosed?: boolean; nouns?: JobNoun[] | null } = {},
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
      await this.settle(who, job, transaction);
      changes = job.changes + 1;
      return out;
    });
    this.live.changed(who.shopId, jobId, { nouns, screen: who.screen ?? null, changes });
    return answer;
  }

  private async settle(who: Author, job: Job, transaction: Transaction): Promise<void> {
    await job.reload({ transaction });
    const parts = await partsOf(job, transaction);
    const settings = await settingsOf(job.shopId, transaction);
    parts.diagnosis = job.sealed ? null : await judge(who, job, parts, settings, transaction, this.log);
    const { summary, remindAt, taught } = await fileJob(job, parts, settings, transaction);
    await Job.update(
      { summary, remindAt, filed: true, changes: job.changes + 1 },
      { where: { id: job.id, shopId: job.shopId }, transaction },
    );
    if (taught) transaction.afterCommit(() => this.learning.later(job.shopId));
  }

  /** Practised without help, and answered now: it is weighed as any other. */
  async unseal(who: Actor, jobId: string): Promise<void> {
    const open = async (job: Job, transaction: Transaction) => {
      await job.update({ sealed: false }, { transaction });
    };
    await this.write(who, jobId, open, { nouns: null, evenClosed: true });
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
        await this.settle(who, job, transaction);
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
    await this.write(
      who,
      id,
      async (job, transaction) => {
        if (job.rev !== rev) throw conflict('the job', await this.summary(job, transaction));
        await job.update({ ...defined, rev: rev + 1 }, { transaction });
        await appendEvent(who, id, 'changed', defined, transaction);
        return { id, rev: rev + 1 };
      },
      { evenClosed: reopens, nouns: [] },
    );
    return this.view(who, id);
  }

  /** Replace the card of the job's vehicle. Throws 409 where it has moved on, 400 where readings forbid it. */
  changeVehicle(who: Actor, jobId: string, { rev, vehicle }: VehicleChangeRequest): Promise<VehicleView> {
    return this.write(
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
      { nouns: ['known', 'damaged'] },
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

  /** Insert a row with the client's own id once; a repeat of the same id changes nothing and gives the row that is there. */
  async insertOnce<T extends Model, V>(
    who: Actor,
    jobId: string,
    { model, view, noun, kind }: RowKind<T, V>,
    id: string,
    row: (own: Own, job: Job, t: Transaction) => Promise<CreationAttributes<T>>,
    data: Record<string, unknown>,
  ): Promise<V> {
    const insert = async (job: Job, transaction: Transaction) => {
      if (job.practice && !who.examiner && (noun === 'readings' || noun === 'tests' || noun === 'records'))
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
    return this.write(who, jobId, insert, { nouns: [noun] });
  }

  private async vehicleOf(job: Job, transaction: Transaction) {
    const row = (await Vehicle.findOne({ where: { id: job.vehicleId, shopId: job.shopId }, transaction }))!;
    return { id: row.id, facts: readVehicle(row).value };
  }

  addReading(who: Actor, jobId: string, body: NewReadingRequest): Promise<ReadingView> {
    const { id, phase, reading, stretch } = body;
    return this.insertOnce(
      who,
      jobId,
      READINGS,
      id,
      async (own, job, t) => {
        await this.mustFit(job, reading, t);
        const from = stretch && (await this.markStretch(who, jobId, reading.at, stretch, t));
        return {
          ...own,
          rev: 1,
          phase,
          source: from?.source ?? 'hand',
          captureId: stretch?.captureId ?? null,
          doubtful: stretch?.doubtful ?? null,
          undone: false,
          data: reading,
        };
      },
      { at: reading.at, phase, source: stretch ? 'recording' : 'hand', ...(stretch ? { stretch } : {}) },
    );
  }

  /** The part of a recording that a reading is taken from is marked in it. Throws where the recording is not this job's. */
  private async markStretch(who: Actor, jobId: string, at: string, stretch: StretchDto, transaction: Transaction) {
    const { captureId, fromS, toS } = stretch;
    const capture = await Capture.findOne({
      where: { id: captureId, jobId, shopId: who.shopId },
      transaction,
      lock: transaction.LOCK.UPDATE,
    });
    if (!capture || capture.state === 'running' || capture.state === 'receiving')
      throw badFields([{ field: 'stretch.captureId', message: 'no recording of this job that has ended' }]);
    const marks = capture.meta?.marks ?? [];
    if (!marks.some((m) => m.at === at && m.from === fromS && m.to === toS))
      await capture.update(
        { meta: { ...capture.meta, marks: [...marks, { at, from: fromS, to: toS }] } },
        { transaction },
      );
    return { source: capture.source === 'import' ? ('import' as const) : ('capture' as const) };
  }

  private async mustFit(job: Job, reading: Reading, transaction: Transaction): Promise<void> {
    if (Object.keys(reading).every((k) => k === 'at' || k === 'quantum' || k === 'sampleHz'))
      throw badFields([{ field: 'reading', message: 'no figure in it: enter at least one' }]);
    if (!reading.trims?.bank2) return;
    if ((await this.vehicleOf(job, transaction)).facts.banks === 1)
      throw badFields([{ field: 'reading.trims.bank2', message: 'this vehicle has one bank' }]);
  }

  /** Put right what was typed. What an adapter or a log gave is not typed over: it is taken back, or taken anew. */
  changeReading(who: Actor, jobId: string, id: string, { rev, reading }: ReadingChangeRequest): Promise<ReadingView> {
    return this.change(who, jobId, READINGS, id, rev, async (row, job, t) => {
      if (row.source !== 'hand')
        throw new ConflictException({
          statusCode: 409,
          message: 'this reading was not typed: take it back, or take it anew',
        });
      await this.mustFit(job, reading, t);
      return { data: reading };
    });
  }

  changeRecord(who: Actor, jobId: string, id: string, { rev, ...body }: RecordChangeRequest): Promise<RecordView> {
    return this.change(who, jobId, RECORDS, id, rev, async (row, job, t) => {
      if (row.data.source !== 'hand')
        throw new ConflictException({
          statusCode: 409,
          message: 'this record was read from the vehicle: it stands as it was read',
        });
      return { data: typedRecord(body, (await this.vehicleOf(job, t)).facts.fuel) };
    });
  }

  /** New content for a row; `rev` guards against two people doing it, and the history keeps what stood before. */
  private change<T extends Model & { rev: number; data: unknown }, V>(
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
    return this.write(who, jobId, set, { nouns: [what.noun] });
  }

  addTest(who: Actor, jobId: string, body: NewTestRequest): Promise<TestView> {
    const problems = testProblems(body.test, 'test');
    if (problems.length > 0) throw badFields(problems);
    return this.insertOnce(
      who,
      jobId,
      TESTS,
      body.id,
      async (own) => ({ ...own, rev: 1, undone: false, phase: body.phase ?? 'before', by: who.name, data: body.test }),
      { phase: body.phase ?? 'before', test: body.test.id, outcome: body.test.outcome ?? body.test.values },
    );
  }

  addKnown(who: Actor, jobId: string, body: KnownFigureRequest): Promise<KnownView> {
    const { id, layer, ...figure } = body;
    return this.insertOnce(
      who,
      jobId,
      KNOWN,
      id,
      async (own, job, t) => {
        const vehicle = await this.vehicleOf(job, t);
        const data = { ...figure, baroKPa: stationPressure(readHead(job).ambient).baroKPa };
        const family = familyOf(vehicle.facts);
        return { ...own, rev: 1, undone: false, by: who.name, vehicleId: vehicle.id, family, layer, data };
      },
      { layer, ...figure },
    );
  }

  addRepair(who: Actor, jobId: string, body: NewRepairRequest): Promise<RepairView> {
    const data = { text: body.text, fault: body.fault ?? null, part: body.part ?? null, adaptation: body.adaptation };
    return this.insertOnce(
      who,
      jobId,
      REPAIRS,
      body.id,
      async (own) => ({ ...own, rev: 1, undone: false, by: who.name, data }),
      data,
    );
  }

  /** A record as the vehicle gave it, or as a person read it off another tool. */
  addRecord(who: Actor, jobId: string, id: string, data: VehicleRecord['data']): Promise<RecordView> {
    const { phase, source } = data;
    const told = { phase, source, codes: data.codes.length };
    return this.insertOnce(who, jobId, RECORDS, id, async (own) => ({ ...own, rev: 1, data }), told);
  }

  async addHandRecord(who: Actor, jobId: string, { id, ...body }: HandRecordRequest): Promise<RecordView> {
    const job = await this.find(who, jobId);
    const vehicle = (await Vehicle.findOne({ where: { id: job.vehicleId, shopId: who.shopId } }))!;
    return this.addRecord(who, jobId, id, typedRecord(body, readVehicle(vehicle).value.fuel));
  }

  acknowledge(who: Actor, jobId: string, body: AcknowledgeRequest): Promise<CautionView> {
    const { caution, step } = body;
    const append = async (_: Job, t: Transaction) => {
      await appendEvent(who, jobId, 'caution', { caution, step }, t);
      return { caution, step, at: new Date().toISOString(), by: who.name };
    };
    return this.write(who, jobId, append, { nouns: ['cautions'] });
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
    return this.write(who, jobId, set, { nouns: [what.noun], evenClosed });
  }

  undoReading = (who: Actor, jobId: string, id: string, body: UndoRequest) => this.undo(who, jobId, READINGS, id, body);
  undoTest = (who: Actor, jobId: string, id: string, body: UndoRequest) => this.undo(who, jobId, TESTS, id, body);
  undoRepair = (who: Actor, jobId: string, id: string, body: UndoRequest) => this.undo(who, jobId, REPAIRS, id, body);
  undoKnown = (who: Actor, jobId: string, id: string, body: UndoRequest) => this.undo(who, jobId, KNOWN, id, body);

  /** Weigh again: the settings or the core may have moved on since the last write. */
  async weighAgain(who: Actor, jobId: string): Promise<StoredDiagnosis | null> {
    await this.write(who, jobId, async () => ({ id: jobId }), { evenClosed: true, nouns: [] });
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
  async mend(who: Actor, jobId: string, noun: StoredNounName, id: string, data: unknown): Promise<{ id: string }> {
    const { model, column, problems }: StoredNoun = STORED[noun];
    const wrong = problems(data);
    if (wrong.length > 0) throw badFields(wrong.map((p) => ({ ...p, field: p.field ? `data.${p.field}` : 'data' })));
    return this.write(
      who,
      jobId,
      async (job, transaction) => {
        const mine =
          noun === 'vehicle' ? id === job.vehicleId : noun === 'complaint' || noun === 'ambient' ? id === job.id : true;
        const where = { id, shopId: who.shopId, ...('jobId' in model.getAttributes() ? { jobId } : {}) };
        const row = mine ? await model.findOne({ where: where as WhereOptions, transaction }) : null;
        if (!row) throw notHere(noun);
        const stored: unknown = row.get(column);
        if (problems(stored).length === 0)
          throw new ConflictException({ statusCode: 409, message: `this ${noun} can be read: nothing to mend` });
        await row.update({ [column]: data }, { transaction });
        await appendEvent(who, jobId, 'mended', { noun, id, before: stored, after: data }, transaction);
        return { id };
      },
      { evenClosed: true },
    );
  }
}

/** A record typed off another tool, as one that was read from the vehicle stands. */
function typedRecord(body: Omit<HandRecordRequest, 'id'>, fuel: 'petrol' | 'diesel'): RecordData {
  const codes = (['stored', 'pending', 'permanent'] as const).flatMap((state) =>
    [...new Set((body[state] ?? []).map((c) => c.trim().toUpperCase()))].map((code) => ({ code, state })),
  );
  const monitors = Object.entries(body.monitors ?? {}) as [MonitorId, MonitorState][];
  return {
    phase: body.phase,
    source: 'hand',
    codes,
    lampOn: body.lampOn,
    monitorBytes:
      monitors.length === 0
        ? null
        : toHex(
            encodeMonitors({
              lampOn: body.lampOn,
              codeCount: Math.min(codes.filter((c) => c.state === 'stored').length, 127),
              ignition: fuel === 'diesel' ? 'compression' : 'spark',
              monitors: monitors.map(([id, state]) => ({ id, state })),
            }),
          ),
    freezeFrame: body.freezeFrame ?? [],
    vin: null,
    warmupsSinceClear: body.warmupsSinceClear ?? null,
    distanceSinceClearKm: body.distanceSinceClearKm ?? null,
    counters: {
      runTimeS: null,
      lampDistanceKm: body.lampDistanceKm ?? null,
      lampMinutes: null,
      minutesSinceClear: body.minutesSinceClear ?? null,
    },
  };
}

function cursorOf(text: string): { at: Date; id: string } {
  const m = /^(\d{1,13})_([0-9a-f-]{36})$/i.exec(text);
  if (!m) throw badFields([{ field: 'before', message: 'not a place in this list' }]);
  return { at: new Date(Number(m[1])), id: m[2]! };
}
