import type {
  CaptureView,
  ColumnQuery,
  FinishImportRequest,
  MarkDto,
  NewImportRequest,
  RecordingView,
} from '@just-balance/contract';
import { PIDS, QUANTUM } from '@just-balance/core/obd';
import { ColumnError, decodeColumn } from '@just-balance/core/series';
import {
  BadRequestException,
  ConflictException,
  Inject,
  Injectable,
  type OnApplicationBootstrap,
  PayloadTooLargeException,
} from '@nestjs/common';
import type { Logger } from 'pino';
import { Op, type Transaction } from 'sequelize';
import { badFields, notHere } from '../common/errors.ts';
import { KeyedMutex } from '../common/mutex.ts';
import type { Actor } from '../common/request.ts';
import { Work } from '../database/work.ts';
import { appendEvent } from '../jobs/events.ts';
import { captureView } from '../jobs/rowViews.ts';
import { readVehicle } from '../jobs/stored.ts';
import { JobWrites } from '../jobs/write.ts';
import { LOGGER } from '../logger.ts';
import { Capture, CaptureColumn, CaptureRow } from '../rows/captures.ts';
import { type Job } from '../rows/jobs.ts';
import { ReadingRow } from '../rows/readings.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { channelsOfRows, inflateColumn, partsOf, storedPart } from './columns.ts';
import type { ExportChannel } from './exporting.ts';
import { busLog, onTheBus } from './onTheBus.ts';

const UNITS = new Map(
  PIDS.flatMap((p) => p.elements.map((e) => [e.id, { unit: e.unit, quantum: QUANTUM.get(e.id) }] as const)),
);
/** An import nobody has finished for this long is swept away, ms. [house] */
const ABANDONED_MS = 7 * 86_400_000;
/** What one import may hold in all: three hours of thirty channels at seventy a second fit. [house] */
const IMPORT_BOUNDS = {
  receivedSamples: { most: 24_000_000, words: '24 million samples' },
  receivedBytes: { most: 96 * 1024 * 1024, words: '96 MB packed' },
  receivedParts: { most: 10_000, words: '10,000 columns' },
};
const UNPACK_AT_ONCE = 4;
const MAX_MARKS = 500;
const CHANNEL_NAME = /^[\p{L}\p{N} ._:()/%-]{1,60}$/u;

/** Captures as recordings: rows become columns once a capture has ended; files become captures. */
@Injectable()
export class RecordingsService implements OnApplicationBootstrap {
  constructor(
    private readonly work: Work,
    private readonly jobs: JobWrites,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  /** What a crash left as rows is compacted now; abandoned imports go. */
  async onApplicationBootstrap(): Promise<void> {
    const left = await Capture.findAll({
      where: {
        state: { [Op.in]: ['done', 'stopped', 'failed'] },
        source: 'link',
        form: 'rows',
      },
    });
    for (const c of left) void this.compact(c.shopId, c.id);
    const old = await Capture.findAll({
      where: { state: 'receiving', source: 'import', createdAt: { [Op.lt]: new Date(Date.now() - ABANDONED_MS) } },
    });
    // What a browser sent and never ended stays as far as it came: acknowledged seconds are never lost.
    const halfUp = await Capture.findAll({
      where: {
        state: 'receiving',
        source: 'link',
        createdAt: { [Op.lt]: new Date(Date.now() - ABANDONED_MS) },
      },
    });
    for (const c of halfUp) {
      await Capture.update(
        { state: 'stopped', endedAt: new Date() },
        { where: { id: c.id, shopId: c.shopId, state: 'receiving' } },
      );
      void this.compact(c.shopId, c.id);
    }
    for (const c of old)
      await this.work.run(async (transaction) => {
        await CaptureColumn.destroy({ where: { captureId: c.id, shopId: c.shopId }, transaction });
        await Capture.destroy({ where: { id: c.id, shopId: c.shopId, state: 'receiving' }, transaction });
        return undefined;
      });
  }

  /** Rows of an ended capture → columns, in one transaction; rows go only when the columns are in. */
  async compact(shopId: string, captureId: string): Promise<void> {
    try {
      await this.work.run(async (transaction) => {
        const capture = await Capture.findOne({ where: { id: captureId, shopId }, transaction, lock: true });
        if (!capture || capture.state === 'running' || capture.state === 'receiving' || capture.form === 'columns')
          return undefined;
        const rows = await rowsOf(shopId, captureId, transaction);
        if (rows.length === 0) return undefined;
        const c = channelsOfRows(rows, UNITS);
        for (const channel of [...c.numbers, ...c.texts])
          for (const part of await partsOf(channel))
            await CaptureColumn.create({ ...part, captureId, shopId }, { transaction });
        await Capture.update(
          { form: 'columns', meta: metaOf(capture, rows.length, c) },
          { where: { id: captureId, shopId }, transaction },
        );
        await CaptureRow.destroy({ where: { captureId, shopId }, transaction });
        return undefined;
      });
    } catch (e) {
      // The rows are still there: the next start tries again.
      this.log.warn({ captureId, reason: (e as Error).name }, 'capture not compacted');
    }
  }

  private async find(who: Actor, job: Job, captureId: string, transaction?: Transaction): Promise<Capture> {
    const c = await Capture.findOne({
      where: { id: captureId, jobId: job.id, shopId: who.shopId },
      ...(transaction ? { transaction } : {}),
    });
    if (!c || c.state === 'receiving') throw notHere('recording');
    return c;
  }

  /**
   * A capture and its columns, without their bytes: stored ones, or made from the rows while it runs. Both of one
   * moment: a capture that is compacted in between would have neither.
   */
  private async columns(who: Actor, job: Job, captureId: string): Promise<Columns> {
    return this.work.read((t) => this.columnsAt(who, job, captureId, t));
  }

  private async columnsAt(who: Actor, job: Job, captureId: string, transaction: Transaction): Promise<Columns> {
    const c = await this.find(who, job, captureId, transaction);
    if (c.form === 'columns') {
      const parts = await CaptureColumn.findAll({
        where: { captureId: c.id, shopId: c.shopId },
        attributes: { exclude: ['data'] },
        order: [
          ['channel', 'ASC'],
          ['part', 'ASC'],
        ],
        transaction,
      });
      const load = async (channel: string, part: number) =>
        (await CaptureColumn.findOne({ where: { captureId: c.id, channel, part, shopId: c.shopId } }))?.data ?? null;
      return { capture: c, rows: 0, parts, meta: c.meta ?? {}, load };
    }
    const rows = await rowsOf(c.shopId, c.id, transaction);
    const made = channelsOfRows(rows, UNITS);
    const parts = (await Promise.all([...made.numbers, ...made.texts].map(partsOf))).flat();
    const load = async (channel: string, part: number) =>
      parts.find((p) => p.channel === channel && p.part === part)?.data ?? null;
    return { capture: c, rows: rows.length, parts, meta: metaOf(c, rows.length, made), load };
  }

  async view(who: Actor, job: Job, captureId: string): Promise<RecordingView> {
    const { capture: c, rows, parts, meta } = await this.columns(who, job, captureId);
    const channels = new Map<string, RecordingView['channels'][number]>();
    for (const p of parts) {
      const known = channels.get(p.channel);
      if (known) Object.assign(known, { n: known.n + p.n, toS: p.toS, parts: known.parts + 1 });
      else
        channels.set(p.channel, {
          id: p.channel,
          unit: p.unit,
          quantum: p.quantum,
          kind: p.kind,
          n: p.n,
          fromS: p.fromS,
          toS: p.toS,
          parts: 1,
        });
    }
    return {
      ...captureView(c, rows),
      startedAt: meta.startedAtMs ? new Date(meta.startedAtMs).toISOString() : c.createdAt.toISOString(),
      durationS: Math.max(0, ...[...channels.values()].map((x) => x.toS)),
      channels: [...channels.values()].sort((a, b) => (a.id < b.id ? -1 : 1)),
      gapSpans: meta.gaps ?? [],
      setAside: meta.setAside ?? {},
      marks: meta.marks ?? [],
      summary: meta.summary ?? null,
      onTheBus: await onTheBus(c.shopId, c.id),
    };
  }

  /** Deflated bytes of one part of a channel. */
  async column(who: Actor, job: Job, captureId: string, channel: string, part: number): Promise<Buffer> {
    const data = await (await this.columns(who, job, captureId)).load(channel, part);
    if (!data) throw notHere('channel of the recording');
    return data;
  }

  /** The whole recording for a file: its channels, whose bytes are fetched part by part. */
  async forExport(who: Actor, job: Job, captureId: string) {
    const { capture: c, parts, meta, load } = await this.columns(who, job, captureId);
    const bus = await onTheBus(c.shopId, c.id);
    const channels: ExportChannel[] = [];
    for (const id of new Set(parts.map((p) => p.channel))) {
      const mine = parts.filter((p) => p.channel === id);
      const { unit, quantum, kind } = mine[0]!;
      channels.push({
        id,
        unit,
        quantum,
        kind,
        n: mine.reduce((n, p) => n + p.n, 0),
        parts: mine.length,
        load: async (part) => {
          const data = await load(id, part);
          if (!data) throw notHere('channel of the recording');
          return inflateColumn(data);
        },
      });
    }
    // Numbers first, as in the capture format.
    channels.sort((a, b) => Number(a.kind === 'text') - Number(b.kind === 'text'));
    return {
      startedAt: meta.startedAtMs ? new Date(meta.startedAtMs).toISOString() : null,
      marks: meta.marks ?? [],
      channels,
      bus: bus && { frames: bus.frames, log: () => busLog(c.shopId, c.id) },
      name: (c.name ?? c.at).replace(/\.[a-z0-9]+$/i, '').replace(/[^\w-]+/g, '-') || 'recording',
    };
  }

  async mark(who: Actor, job: Job, captureId: string, mark: MarkDto): Promise<RecordingView> {
    await this.find(who, job, captureId);
    if (!(mark.to >= mark.from)) throw badFields([{ field: 'to', message: 'not before from' }]);
    await this.jobs.write(who, job.id, async (_, transaction) => {
      const c = (await Capture.findOne({
        where: { id: captureId, shopId: who.shopId },
        transaction,
        lock: true,
      }))!;
      if (c.state === 'running')
        throw new ConflictException({ statusCode: 409, message: 'the capture still runs: mark it once it has ended' });
      const marks = [...(c.meta?.marks ?? []), { at: mark.at, from: mark.from, to: mark.to }];
      if (marks.length > MAX_MARKS)
        throw new ConflictException({ statusCode: 409, message: `a recording takes at most ${MAX_MARKS} marks` });
      await Capture.update(
        { meta: { ...c.meta, marks } },
        { where: { id: captureId, shopId: who.shopId }, transaction },
      );
      await appendEvent(who, job.id, 'mark', { captureId, ...mark }, transaction);
      return { captureId };
    });
    return this.view(who, job, captureId);
  }

  /** An import begins; a repeat with the same id goes on with it. */
  async begin(who: Actor, job: Job, body: NewImportRequest): Promise<{ id: string; received: Record<string, number> }> {
    const before = () => Capture.findOne({ where: { id: body.id } });
    const known = await before();
    if (known && (known.shopId !== who.shopId || known.jobId !== job.id || known.source !== 'import'))
      throw new ConflictException({ statusCode: 409, message: 'this id was used for another import' });
    if (!known)
      await this.jobs.write(who, job.id, async (_, transaction) => {
        if (await Capture.findOne({ where: { id: body.id }, transaction })) return { id: body.id, received: {} };
        await Capture.create(
          {
            id: body.id,
            shopId: who.shopId,
            jobId: job.id,
            at: 'log',
            phase: body.phase,
            state: 'receiving',
            source: 'import',
            form: 'columns',
            name: body.name,
            gaps: 0,
            endedAt: null,
            meta: {
              summary: body.summary,
              ...(body.startedAt ? { startedAtMs: Date.parse(body.startedAt) } : {}),
            },
          },
          { transaction },
        );
        return { id: body.id, received: {} };
      });
    return { id: body.id, received: await this.received(who, body.id) };
  }

  private async received(who: Actor, captureId: string): Promise<Record<string, number>> {
    const parts = await CaptureColumn.findAll({
      where: { captureId, shopId: who.shopId },
      attributes: ['channel', 'part'],
    });
    const out: Record<string, number> = {};
    for (const p of parts) out[p.channel] = (out[p.channel] ?? 0) + 1;
    return out;
  }

  private async receiving(who: Actor, job: Job, captureId: string): Promise<Capture> {
    const c = await Capture.findOne({
      where: { id: captureId, jobId: job.id, shopId: who.shopId, source: 'import' },
    });
    if (!c) throw notHere('import');
    return c;
  }

  /** One part of one channel; the same part again replaces itself. Refused unless it decodes whole. */
  async take(who: Actor, job: Job, captureId: string, channel: string, q: ColumnQuery, body: unknown): Promise<void> {
    const c = await this.receiving(who, job, captureId);
    if (c.state !== 'receiving') return;
    if (!CHANNEL_NAME.test(channel)) throw badFields([{ field: 'channel', message: 'at most 60 letters and digits' }]);
    if (!Buffer.isBuffer(body) || body.length === 0)
      throw new BadRequestException({ statusCode: 400, message: 'the body is a column, application/octet-stream' });
    let row: ReturnType<typeof storedPart>;
    try {
      // A part unpacks to megabytes: a few at a time, however many come at once.
      row = await this.unpacking.run(String(this.turn++ % UNPACK_AT_ONCE), async () => {
        const column = decodeColumn(await inflateColumn(body));
        return storedPart({ channel, part: q.part, unit: q.unit, quantum: q.quantum ?? null }, column, body);
      });
    } catch (e) {
      const why = e instanceof ColumnError ? e.message : 'it does not inflate, or to too much';
      throw new BadRequestException({ statusCode: 400, message: `channel ${channel}, part ${q.part}: ${why}` });
    }
    await this.work.run(async (transaction) => {
      const capture = (await Capture.findOne({
        where: { id: captureId, shopId: who.shopId },
        transaction,
        lock: true,
      }))!;
      if (capture.state !== 'receiving') return undefined;
      const before = await CaptureColumn.findOne({
        where: { captureId, channel, part: q.part, shopId: who.shopId },
        transaction,
      });
      const received = {
        receivedSamples: Number(capture.receivedSamples) + row.n - (before?.n ?? 0),
        receivedBytes: Number(capture.receivedBytes) + row.data.length - (before?.data.length ?? 0),
        receivedParts: Number(capture.receivedParts) + (before ? 0 : 1),
      };
      const over = Object.entries(IMPORT_BOUNDS).find(([k, b]) => received[k as keyof typeof received] > b.most);
      if (over)
        throw new PayloadTooLargeException({
          statusCode: 413,
          message: `this import is larger than the server takes (at most ${over[1].words}): leave channels out, or cut it into pieces`,
        });
      await CaptureColumn.upsert({ ...row, captureId, shopId: who.shopId }, { transaction });
      await capture.update(received, { transaction });
      return undefined;
    });
  }

  private readonly unpacking = new KeyedMutex();
  private turn = 0;

  /** Close an import: everything is there, or nothing is kept of it yet. */
  async finish(who: Actor, job: Job, captureId: string, body: FinishImportRequest): Promise<CaptureView> {
    const c = await this.receiving(who, job, captureId);
    if (c.state === 'receiving') {
      const received = await this.received(who, captureId);
      const missing = Object.entries(body.parts).filter(([id, n]) => received[id] !== n);
      if (missing.length > 0 || Object.keys(body.parts).length === 0)
        throw badFields(
          missing.length === 0
            ? [{ field: 'parts', message: 'no channel at all' }]
            : missing.map(([id, n]) => ({
                field: `parts.${id}`,
                message: `${received[id] ?? 0} of ${n} parts are here`,
              })),
        );
      const vehicle = await Vehicle.findOne({ where: { id: job.vehicleId, shopId: who.shopId } });
      if (vehicle && readVehicle(vehicle).value.banks === 1 && body.readings.some((r) => r.reading.trims?.bank2))
        throw badFields([{ field: 'readings', message: 'trims of bank 2: this vehicle has one bank' }]);
      await this.jobs.write(who, job.id, async (_, transaction) => {
        const [n] = await Capture.update(
          {
            state: 'done',
            endedAt: new Date(),
            meta: { ...c.meta, startedAtMs: c.meta?.startedAtMs ?? 0, marks: body.marks },
          },
          { where: { id: captureId, shopId: who.shopId, state: 'receiving' }, transaction },
        );
        if (n === 0) return captureView(c, 0);
        // Left over from a first try with other channels.
        await CaptureColumn.destroy({
          where: { captureId, shopId: who.shopId, channel: { [Op.notIn]: Object.keys(body.parts) } },
          transaction,
        });
        for (const r of body.readings)
          await ReadingRow.create(
            {
              id: r.id,
              shopId: who.shopId,
              jobId: job.id,
              rev: 1,
              phase: c.phase,
              source: 'import',
              captureId,
              doubtful: r.doubtful ?? null,
              data: r.reading,
            },
            { transaction },
          );
        await appendEvent(
          who,
          job.id,
          'import',
          {
            captureId,
            name: c.name,
            channels: Object.keys(body.parts).length,
            readings: body.readings.map((r) => r.reading.at),
            leftOut: c.meta?.summary?.leftOut.length ?? 0,
            problems: c.meta?.summary?.problemCount ?? 0,
          },
          transaction,
        );
        return { id: captureId };
      });
    }
    return captureView(await this.receiving(who, job, captureId), 0);
  }
}

interface Columns {
  capture: Capture;
  /** Seconds still kept as rows. */
  rows: number;
  parts: Pick<CaptureColumn, 'channel' | 'part' | 'unit' | 'quantum' | 'kind' | 'n' | 'fromS' | 'toS'>[];
  meta: NonNullable<Capture['meta']>;
  /** Deflated bytes of one part; null when there is none. */
  load(channel: string, part: number): Promise<Buffer | null>;
}

function rowsOf(shopId: string, captureId: string, transaction: Transaction) {
  return CaptureRow.findAll({
    where: { captureId, shopId },
    order: [
      ['epoch', 'ASC'],
      ['seq', 'ASC'],
    ],
    transaction,
  });
}

function metaOf(c: Capture, seconds: number, made: ReturnType<typeof channelsOfRows>): NonNullable<Capture['meta']> {
  const w = c.meta?.window;
  const mark = w
    ? [{ at: c.at, from: (w.fromMs - made.startedAtMs) / 1000, to: (w.toMs - made.startedAtMs) / 1000 }]
    : [];
  return {
    ...c.meta,
    startedAtMs: made.startedAtMs,
    seconds,
    gaps: made.gaps,
    marks: [...mark, ...(c.meta?.marks ?? [])],
  };
}
