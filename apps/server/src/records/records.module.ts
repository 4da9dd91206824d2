import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { LinksModule } from '../links/links.module.ts';
import { ClearingService } from './clearing.service.ts';
import { RecordsController } from './records.controller.ts';

/** Codes, monitors and freeze frame, read before anything is cleared. */
@Module({
  imports: [JobsModule, LinksModule],
  controllers: [RecordsController],
  providers: [ClearingService],
})
export class RecordsModule {}
