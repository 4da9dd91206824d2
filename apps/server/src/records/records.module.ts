import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { RecordsController } from './records.controller.ts';
import { RecordsService } from './records.service.ts';

/** Codes, monitors and freeze frame as they are kept. */
@Module({
  imports: [JobsModule],
  controllers: [RecordsController],
  providers: [RecordsService],
  exports: [RecordsService],
})
export class RecordsModule {}
