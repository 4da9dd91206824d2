import type { JobView } from '@just-balance/contract';
import { Controller, Get, Header, Inject, Param, ParseUUIDPipe } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { CaptureRow } from '../database/models.ts';
import { JobsService } from '../jobs/jobs.service.ts';

interface JobExport {
  format: 'just-balance/job';
  version: 1;
  exportedAt: string;
  job: JobView;
  /** Committed seconds of every capture, in order. */
  seconds: Record<string, { epoch: number; seq: number; atMs: number; data: unknown }[]>;
}

@ApiTags('jobs')
@Controller('jobs/:id/export')
export class ExportController {
  constructor(@Inject(JobsService) private readonly jobs: JobsService) {}

  /** Everything the job holds, as JSON. */
  @Get()
  @Header('content-disposition', 'attachment; filename="job.json"')
  async export(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<JobExport> {
    const job = await this.jobs.view(who, id);
    const seconds: JobExport['seconds'] = {};
    for (const c of job.captures) {
      const rows = await CaptureRow.findAll({
        where: { captureId: c.id, shopId: who.shopId },
        order: [
          ['epoch', 'ASC'],
          ['seq', 'ASC'],
        ],
      });
      seconds[c.id] = rows.map((r) => ({ epoch: r.epoch, seq: r.seq, atMs: Number(r.atMs), data: r.data }));
    }
    return { format: 'just-balance/job', version: 1, exportedAt: new Date().toISOString(), job, seconds };
  }
}
