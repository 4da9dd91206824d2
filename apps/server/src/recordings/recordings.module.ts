import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { LayoutsController } from './layouts.controller.ts';
import { RecordingsController } from './recordings.controller.ts';
import { RecordingsService } from './recordings.service.ts';

/** Ended captures and imports as columns; in and out of files. */
@Module({
  imports: [JobsModule],
  controllers: [RecordingsController, LayoutsController],
  providers: [RecordingsService],
  exports: [RecordingsService],
})
export class RecordingsModule {}
