import type { StoredDiagnosis } from '@just-balance/contract';
import { CORE_VERSION, diagnose } from '@just-balance/core/diagnosis';
import { caseOfJob } from '@just-balance/core/job';
import { BadRequestException, Controller, Get, Inject, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Sequelize } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { type Actor, Who } from '../common/request.ts';
import { SEQUELIZE } from '../database/connect.ts';
import { Shop, StoredDiagnosisRow } from '../database/models.ts';
import { appendEvent } from '../jobs/events.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { Live } from '../live/live.service.ts';

@ApiTags('diagnosis')
@Controller('jobs/:id/diagnosis')
export class DiagnosisController {
  constructor(
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(SEQUELIZE) private readonly db: Sequelize,
    @Inject(Live) private readonly live: Live,
  ) {}

  /** Weigh the job as it stands with the same core as the screen, and keep input, settings, core version and output. */
  @Post()
  async compute(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<StoredDiagnosis> {
    const job = await this.jobs.view(who, id);
    const input = caseOfJob(job);
    if ((input.readings?.length ?? 0) + (input.tests?.length ?? 0) === 0) {
      throw new BadRequestException({ statusCode: 400, message: 'readings: take at least one reading first' });
    }
    const settings = (await Shop.findByPk(who.shopId))?.settings ?? {};
    const output = diagnose(input, settings);
    const last = job.diagnoses.at(-1);
    if (last && last.coreVersion === CORE_VERSION && JSON.stringify(last.output) === JSON.stringify(output))
      return last;
    const rowId = uuidv7();
    await this.db.transaction(async (transaction) => {
      await StoredDiagnosisRow.create(
        { id: rowId, shopId: who.shopId, jobId: id, coreVersion: CORE_VERSION, input, settings, output },
        { transaction },
      );
      const first = output.causes[0];
      await appendEvent(
        who,
        id,
        'diagnosis',
        { mixture: output.mixture, fault: first?.fault, probability: first?.probability },
        transaction,
      );
    });
    this.live.publish(who.shopId, { type: 'changed', jobId: id });
    const row = (await StoredDiagnosisRow.findOne({ where: { id: rowId, shopId: who.shopId } }))!;
    return {
      id: row.id,
      at: row.createdAt.toISOString(),
      coreVersion: row.coreVersion,
      input: row.input,
      output: row.output,
    };
  }

  @Get()
  async stored(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<StoredDiagnosis[]> {
    return (await this.jobs.view(who, id)).diagnoses;
  }
}
