import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { LogbookController } from './logbook.controller.ts';
import { LogbookService } from './logbook.service.ts';

/** Every job there ever was. */
@Module({
  imports: [JobsModule],
  controllers: [LogbookController],
  providers: [LogbookService],
  exports: [LogbookService],
})
export class LogbookModule {}
