import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { RecordingsModule } from '../recordings/recordings.module.ts';
import { ExportController } from './export.controller.ts';

/** What leaves the house. */
@Module({
  imports: [JobsModule, RecordingsModule],
  controllers: [ExportController],
})
export class ReportsModule {}
