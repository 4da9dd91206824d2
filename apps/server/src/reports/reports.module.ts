import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { RecordingsModule } from '../recordings/recordings.module.ts';
import { ExportController } from './export.controller.ts';
import { HandOverController } from './handOver.controller.ts';
import { ReportsService } from './reports.service.ts';

/** What leaves the house. */
@Module({
  imports: [JobsModule, RecordingsModule],
  controllers: [ExportController, HandOverController],
  providers: [ReportsService],
  exports: [ReportsService],
})
export class ReportsModule {}
