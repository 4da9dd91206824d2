import { readFile } from 'node:fs/promises';
import type { ArchiveTaken, ShopArchiveQuery, WholeJob } from '@just-balance/contract';
import { OWN_KINDS } from '@just-balance/contract/service';
import {
  BadRequestException,
  ConflictException,
  HttpException,
  Injectable,
  type OnModuleDestroy,
} from '@nestjs/common';
import { type Model, type ModelStatic, Op, type Transaction } from 'sequelize';
import { Aside, AsideEnded } from '../common/aside.ts';
import { SentFile } from '../common/body.ts';
import type { Actor } from '../common/request.ts';
import { Work } from '../database/work.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { JobWrites } from '../jobs/write.ts';
import { ProceduresService } from '../procedures/procedures.service.ts';
import { captureJson, csvProblem, exported, fitsLog } from '../recordings/exporting.ts';
import { RecordingsService } from '../recordings/recordings.service.ts';
import { ReportsService } from '../reports/reports.service.ts';
import { CaptureColumn, CaptureFrames } from '../rows/captures.ts';
import { Job } from '../rows/jobs.ts';
import { Photo } from '../rows/photos.ts';
import { TableLayout } from '../rows/recordings.ts';
import { Shop } from '../rows/shop.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { type ArchiveRow, type ArchiveRows, rowOut, TABLE_NAMES, TABLES, type TableName } from './rows.ts';
import type { Unpacked, Unpacking } from './unpack.ts';
import { type ArchiveFile, zipped } from './zip.ts';

const FORMAT = 'just-balance/archive';
const SHOP_FORMAT = 'just-balance/shop-archive';
const AT_ONCE = 500;
/** Jobs of one archive of a shop; more go into several, by the days they were opened. [house] */
const MOST_JOBS = 5000;
/** A zip without its 64 bit fields ends at 4 GiB (PKWARE APPNOTE 4.4.1.4). */
const MOST_SHOP_BYTES = 4_000_000_000;
const DAY_MS = 86_400_000;
/** 160 MB of pictures take a minute and a half. [house] */
const UNPACKING = { ms: 180_000, megabytes: 160, waiting: 20, last: true };

/** Whole jobs out and in again, each as one file (CONTRACT, job archive). */
@Injectable()
export class ArchivesService implements OnModuleDestroy {
  private readonly unpacking = new Aside<{ path: string; dir: string; format: string }, Unpacking>(
    new URL('./unpack.thread.js', import.meta.url),
    UNPACKING,
  );

  constructor(
    private readonly work: Work,
    private readonly jobs: JobWrites,
    private readonly job: JobsService,
    private readonly recordings: RecordingsService,
    private readonly reports: ReportsService,
    private readonly procedures: ProceduresService,
  ) {}

  onModuleDestroy(): Promise<void> {
    return this.unpacking.close();
  }

  /** The archive of a job, piece by piece. Throws 409 while a capture runs: what is still written has no end. */
  async write(who: Actor, jobId: string, reports = true): Promise<AsyncGenerator<Uint8Array>> {
    const { job, rows, whole } = await this.work.read(async (t) => {
      const job = await this.jobs.find(who, jobId, t);
      return { job, rows: await this.rowsOf(job, t), whole: await this.job.whole(who, jobId) };
    });
    if (whole.captures.some((c) => c.state === 'running'))
      throw new ConflictException({ statusCode: 409, message: 'a capture of this job still runs: end it first' });
    const head = { format: FORMAT, version: 1, job: jobId };
    return zipped(this.files(who, job, rows, whole, reports), head, job.createdAt);
  }

  /**
   * The archive of a shop: the settings, its own procedures, drives and rules, how it reads tables, and the archive of each job under `jobs/`. The reports are left out: they are
   * made from the rows again. A job that cannot go out is named in the manifest, under `leftOut`, with the reason.
   */
  async writeShop(who: Actor, { from, to }: ShopArchiveQuery): Promise<AsyncGenerator<Uint8Array>> {
    const shop = (await Shop.findByPk(who.shopId))!;
    const found = await Job.findAll({
      where: {
        shopId: who.shopId,
        practice: false,
        createdAt: {
          [Op.gte]: from ? new Date(from) : new Date(0),
          ...(to ? { [Op.lt]: new Date(new Date(to).getTime() + DAY_MS) } : {}),
        },
      },
      attributes: ['id', 'createdAt'],
      order: [
        ['createdAt', 'ASC'],
        ['id', 'ASC'],
      ],
      limit: MOST_JOBS + 1,
    });
    if (found.length > MOST_JOBS)
      throw new BadRequestException({
        statusCode: 400,
        message: `more than ${MOST_JOBS} jobs: take them in several files, each from one day to another`,
      });
    const leftOut: { job: string; why: string }[] = [];
    const head = { format: SHOP_FORMAT, version: 1, shop: shop.name, jobs: found.length, leftOut };
    const ids = found.map((j) => j.id);
    return within(
      MOST_SHOP_BYTES,
      zipped(
        this.shopFiles(who, shop, ids, leftOut),
        head,
        found.length > 0 ? found[0]!.createdAt : new Date('2000-01-01T00:00:00Z'),
      ),
    );
  }

  private async *shopFiles(
    who: Actor,
    shop: Shop,
    ids: readonly string[],
    leftOut: { job: string; why: string }[],
  ): AsyncGenerator<ArchiveFile> {
    yield { name: 'settings.json', pieces: [JSON.stringify(shop.settings, null, 1)] };
    for (const kind of OWN_KINDS)
      for (const own of await this.procedures.list(who, kind))
        if (!own.undone)
          yield {
            name: `own/${kind}/${own.procedure.id}.yaml`,
            pieces: [(await this.procedures.file(who, own.id)).text],
          };
    const layouts = await TableLayout.findAll({ where: { shopId: who.shopId }, order: [['headersHash', 'ASC']] });
    yield {
      name: 'layouts.json',
      pieces: [
        JSON.stringify(
          layouts.map((l) => ({ hash: l.headersHash, ...l.data })),
          null,
          1,
        ),
      ],
    };
    for (const id of ids) {
      const pieces = await this.write(who, id, false).catch((e: unknown) => {
        if (!(e instanceof HttpException)) throw e;
        leftOut.push({ job: id, why: e.message });
        return null;
      });
      if (pieces) yield { name: `jobs/${id}.jb.zip`, packed: true, pieces };
    }
  }

  private async *files(
    who: Actor,
    job: Job,
    rows: ArchiveRows,
    whole: WholeJob,
    reports: boolean,
  ): AsyncGenerator<ArchiveFile> {
    yield {
      name: 'job.json',
      pieces: [JSON.stringify({ format: 'just-balance/job', version: 1, job: whole, rows })],
    };
    for (const { id } of rows.captures) {
      const source = await this.recordings.forExport(who, job, id);
      yield { name: `captures/${id}.json`, pieces: captureJson(source) };
      if (!csvProblem(source)) yield { name: `captures/${id}.csv`, pieces: exported(source, 'csv', false) };
      // What was on the bus is read again; what an engine would have answered follows from the figures.
      const log = source.bus ? `captures/${id}.bus.log` : `captures/${id}.log`;
      if (await fitsLog(source)) yield { name: log, pieces: exported(source, 'candump', false) };
    }
    for (const { id } of rows.photos) {
      const photo = await Photo.findOne({ where: { id, shopId: who.shopId }, attributes: ['image'] });
      if (photo) yield { name: `photos/${id}.jpg`, packed: true, pieces: [photo.image] };
    }
    if (!reports) return;
    for (const id of ['customer', 'technician'] as const)
      yield {
        name: `reports/${id}.pdf`,
        packed: true,
        pieces: [await this.reports.pdf(who, job.id, id, { units: 'metric' })],
      };
  }

  private async rowsOf(job: Job, transaction: Transaction): Promise<ArchiveRows> {
    const { shopId, id: jobId } = job;
    const out = {} as ArchiveRows;
    for (const name of TABLE_NAMES) {
      const { model, columns } = TABLES[name];
      const where =
        name === 'vehicle' ? { shopId, id: job.vehicleId } : name === 'job' ? { shopId, id: jobId } : { shopId, jobId };
      const found = await (model as ModelStatic<Model>).findAll({
        where,
        attributes: Object.keys(columns),
        order: [
          ['createdAt', 'ASC'],
          ['id', 'ASC'],
        ],
        transaction,
      });
      out[name] = found.map((r) => rowOut(name, r));
    }
    // An import that is still on its way up is not there yet.
    out.captures = out.captures.filter((c) => (c.state as string) !== 'receiving');
    return out;
  }

  /** Read an archive into the asker's shop. All of it is checked before any of it is written. */
  async read(who: Actor, sent: unknown): Promise<ArchiveTaken> {
    if (!(sent instanceof SentFile))
      throw new BadRequestException({ statusCode: 400, message: 'the body is an archive: application/zip' });
    const input = { path: sent.path, dir: sent.dir, format: FORMAT };
    const read = await this.unpacking.run(who.shopId, input).catch((e: unknown): Unpacking => {
      if (e instanceof AsideEnded) return { ok: false, message: e.message };
      throw e;
    });
    if (!read.ok)
      throw new BadRequestException({ statusCode: 400, message: `the archive was not taken: ${read.message}` });
    return this.take(who, read.value);
  }

  private take(who: Actor, unpacked: Unpacked): Promise<ArchiveTaken> {
    const { rows } = unpacked;
    const job = rows.job[0]!;
    return this.work.run(async (t) => {
      const there = await Job.findOne({ where: { id: job.id }, transaction: t, lock: true });
      if (there && there.shopId !== who.shopId) throw elsewhere();
      if (there) {
        const now = await this.rowsOf(there, t);
        const differs = TABLE_NAMES.filter(
          (n) => JSON.stringify(inIdOrder(now[n])) !== JSON.stringify(inIdOrder(rows[n])),
        );
        return { job: job.id, taken: false, differs };
      }
      await this.insert(who, unpacked, t);
      await this.jobs.sumUpNow(job.id, who.shopId, t);
      return { job: job.id, taken: true, differs: [] };
    });
  }

  private async insert(
    who: Actor,
    { rows, columns, frames, photos }: Unpacked,
    transaction: Transaction,
  ): Promise<void> {
    const { shopId } = who;
    const jobId = rows.job[0]!.id;
    const vehicle = rows.vehicle[0]!;
    const known = await Vehicle.findOne({ where: { id: vehicle.id }, transaction });
    if (known && known.shopId !== shopId) throw elsewhere();
    for (const name of TABLE_NAMES) {
      // A vehicle that is here already stands as it is here.
      if (name === 'vehicle' && known) continue;
      const whose = name === 'vehicle' || name === 'job' ? { shopId } : { shopId, jobId };
      const form = name === 'captures' ? { form: 'columns' } : {};
      const brought = name === 'job' || name === 'events' ? { importedBy: who.name, importedAt: new Date() } : {};
      const { model } = TABLES[name] as { model: ModelStatic<Model> };
      const pictures = name === 'photos' ? new Map(photos.map((p) => [p.id, p])) : null;
      const full = async (r: ArchiveRow) => ({
        ...pick(name, r),
        ...whose,
        ...brought,
        ...form,
        ...(pictures ? await picture(pictures.get(r.id)!) : {}),
      });
      // Pictures come in one by one: all of them together are more than is held.
      const atOnce = pictures ? 1 : AT_ONCE;
      for (let at = 0; at < rows[name].length; at += atOnce)
        await model
          .bulkCreate(await Promise.all(rows[name].slice(at, at + atOnce).map(full)), { transaction })
          .catch((e: Error) => {
            throw e.name === 'SequelizeUniqueConstraintError' ? elsewhere() : e;
          });
    }
    for (const { captureId, seq, file, ...row } of frames)
      await CaptureFrames.create(
        { ...row, captureId, shopId, seq, epoch: 0, lost: 0, data: await readFile(file) },
        { transaction },
      );
    for (const { captureId, column, file } of columns)
      await CaptureColumn.create({ ...column, data: await readFile(file), captureId, shopId }, { transaction });
  }
}

const picture = async ({ image, small }: Unpacked['photos'][number]) => ({
  image: await readFile(image),
  small: await readFile(small),
});

/** So many bytes and no more: what is cut off there is no whole zip, and nobody takes it for one. */
async function* within(most: number, pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let total = 0;
  for await (const piece of pieces) {
    total += piece.length;
    if (total > most) throw new Error(`the archive of a shop grew over ${most} bytes: take it in several files`);
    yield piece;
  }
}

const inIdOrder = (rows: readonly ArchiveRow[]) => [...rows].sort((a, b) => (a.id < b.id ? -1 : 1));

/** Only the columns that travel: what else a row holds is ignored. */
function pick(table: TableName, row: ArchiveRow): Record<string, unknown> {
  return Object.fromEntries(Object.keys(TABLES[table].columns).map((c) => [c, row[c]]));
}

const elsewhere = () =>
  new ConflictException({ statusCode: 409, message: 'rows of this archive belong to another shop of this server' });
