import type { JobView } from '@just-balance/contract';
import { writeCapture } from '@just-balance/core/series';
import { Controller, Get, Header, Inject, Param, ParseUUIDPipe } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { RecordingsService } from '../captures/recordings.service.ts';
import { type Actor, Who } from '../common/request.ts';
import { CaptureRow } from '../database/models.ts';
import { JobsService } from '../jobs/jobs.service.ts';

interface JobExport {
  format: 'just-balance/job';
  version: 1;
  exportedAt: string;
  job: JobView;
  /** Every ended capture and import, in the capture format. */
  recordings: Record<string, ReturnType<typeof writeCapture>>;
  /** Committed seconds of captures that still run, in order. */
  seconds: Record<string, { epoch: number; seq: number; atMs: number; data: unknown }[]>;
}

@ApiTags('jobs')
@Controller('jobs/:id/export')
export class ExportController {
  constructor(
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(RecordingsService) private readonly recordings: RecordingsService,
  ) {}

  /** Everything the job holds, as JSON. */
  @Get()
  @Header('content-disposition', 'attachment; filename="job.json"')
  async export(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<JobExport> {
    const job = await this.jobs.view(who, id);
    const seconds: JobExport['seconds'] = {};
    const recordings: JobExport['recordings'] = {};
    const row = await this.jobs.find(who, id);
    for (const c of job.captures) {
      if (c.state !== 'running') {
        recordings[c.id] = writeCapture((await this.recordings.series(who, row, c.id)).series);
        continue;
      }
      const rows = await CaptureRow.findAll({
        where: { captureId: c.id, shopId: who.shopId },
        order: [
          ['epoch', 'ASC'],
          ['seq', 'ASC'],
        ],
      });
      seconds[c.id] = rows.map((r) => ({ epoch: r.epoch, seq: r.seq, atMs: Number(r.atMs), data: r.data }));
    }
    return { format: 'just-balance/job', version: 1, exportedAt: new Date().toISOString(), job, recordings, seconds };
  }
}
