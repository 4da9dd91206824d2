import type { WholeJob } from '@just-balance/contract';
import { Controller, Get, Param, ParseUUIDPipe, Res } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { Costly } from '../common/cost.ts';
import { type Actor, Who } from '../common/request.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { JobWrites } from '../jobs/write.ts';
import { captureJson, sendPieces } from '../recordings/exporting.ts';
import { RecordingsService } from '../recordings/recordings.service.ts';
import { CaptureRow } from '../rows/captures.ts';
import { type Job } from '../rows/jobs.ts';

/** Rows of a running capture fetched at a time. */
const ROWS = 200;

@ApiTags('jobs')
@Controller('jobs/:id/export')
export class ExportController {
  constructor(
    private readonly jobs: JobWrites,
    private readonly job: JobsService,
    private readonly recordings: RecordingsService,
  ) {}

  /** Everything the job holds, as JSON, piece by piece: recordings in the capture format, seconds of running captures. */
  @Costly(30)
  @Get()
  async export(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string, @Res() res: Response): Promise<void> {
    const job = await this.jobs.find(who, id);
    const whole = await this.job.whole(who, id);
    res.setHeader('content-type', 'application/json; charset=utf-8');
    res.setHeader('content-disposition', 'attachment; filename="job.json"');
    await sendPieces(res, this.pieces(who, job, whole));
  }

  private async *pieces(who: Actor, job: Job, whole: WholeJob): AsyncGenerator<string> {
    const head = { format: 'just-balance/job', version: 1, exportedAt: new Date().toISOString(), job: whole };
    yield `${JSON.stringify(head).slice(0, -1)},"recordings":{`;
    let comma = '';
    for (const c of whole.captures.filter((x) => x.state !== 'running')) {
      yield `${comma}"${c.id}":`;
      yield* captureJson(await this.recordings.forExport(who, job, c.id));
      comma = ',';
    }
    yield '},"seconds":{';
    comma = '';
    for (const c of whole.captures.filter((x) => x.state === 'running')) {
      yield `${comma}"${c.id}":[`;
      yield* this.seconds(who, c.id);
      yield ']';
      comma = ',';
    }
    yield '}}';
  }

  private async *seconds(who: Actor, captureId: string): AsyncGenerator<string> {
    let comma = '';
    for (let offset = 0; ; offset += ROWS) {
      const rows = await CaptureRow.findAll({
        where: { captureId, shopId: who.shopId },
        order: [
          ['epoch', 'ASC'],
          ['seq', 'ASC'],
        ],
        limit: ROWS,
        offset,
      });
      for (const r of rows) {
        yield comma + JSON.stringify({ epoch: r.epoch, seq: r.seq, atMs: Number(r.atMs), data: r.data });
        comma = ',';
      }
      if (rows.length < ROWS) return;
    }
  }
}
