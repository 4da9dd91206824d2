import type {
  NewReadingRequest,
  ReadingChangeRequest,
  ReadingView,
  StretchDto,
  UndoRequest,
} from '@just-balance/contract';
import type { Reading } from '@just-balance/core/case';
import { ConflictException, Injectable } from '@nestjs/common';
import type { Transaction } from 'sequelize';
import { badFields } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { readingView } from '../jobs/rowViews.ts';
import { readable } from '../jobs/stored.ts';
import { JobWrites } from '../jobs/write.ts';
import { Capture } from '../rows/captures.ts';
import { type Job } from '../rows/jobs.ts';
import { OLDEST_FIRST } from '../rows/order.ts';
import { ReadingRow } from '../rows/readings.ts';

const READINGS = { model: ReadingRow, view: readingView, resource: 'readings', kind: 'reading' } as const;

/** Readings of a job: what was measured at a point, before and after the repair. */
@Injectable()
export class ReadingsService {
  constructor(private readonly jobs: JobWrites) {}

  async list(who: Actor, id: string): Promise<ReadingView[]> {
    await this.jobs.find(who, id);
    const where = { shopId: who.shopId, jobId: id, undone: false };
    return readable('reading', await ReadingRow.findAll({ where, order: OLDEST_FIRST }), []).map(readingView);
  }

  add(who: Actor, jobId: string, body: NewReadingRequest): Promise<ReadingView> {
    const { id, phase, reading, stretch } = body;
    return this.jobs.insertOnce(
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
    if ((await this.jobs.vehicleOf(job, transaction)).facts.banks === 1)
      throw badFields([{ field: 'reading.trims.bank2', message: 'this vehicle has one bank' }]);
  }

  /** Put right what was typed. What an adapter or a log gave is not typed over: it is taken back, or taken anew. */
  correct(who: Actor, jobId: string, id: string, { rev, reading }: ReadingChangeRequest): Promise<ReadingView> {
    return this.jobs.change(who, jobId, READINGS, id, rev, async (row, job, t) => {
      if (row.source !== 'hand')
        throw new ConflictException({
          statusCode: 409,
          message: 'this reading was not typed: take it back, or take it anew',
        });
      await this.mustFit(job, reading, t);
      return { data: reading };
    });
  }

  undo(who: Actor, jobId: string, id: string, body: UndoRequest): Promise<ReadingView> {
    return this.jobs.undo(who, jobId, READINGS, id, body);
  }
}
