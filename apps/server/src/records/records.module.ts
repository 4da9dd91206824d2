import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { LinksModule } from '../links/links.module.ts';
import { RecordsController } from './records.controller.ts';

/** Codes, monitors and freeze frame, read before anything is cleared. */
@Module({
  imports: [JobsModule, LinksModule],
  controllers: [RecordsController],
})
export class RecordsModule {}
