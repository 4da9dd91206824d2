import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { ProceduresModule } from '../procedures/procedures.module.ts';
import { RecordingsModule } from '../recordings/recordings.module.ts';
import { ReportsModule } from '../reports/reports.module.ts';
import { ArchivesController } from './archives.controller.ts';
import { ArchivesService } from './archives.service.ts';

/** Jobs out and in again as files. */
@Module({
  imports: [JobsModule, ProceduresModule, RecordingsModule, ReportsModule],
  controllers: [ArchivesController],
  providers: [ArchivesService],
})
export class ArchivesModule {}
