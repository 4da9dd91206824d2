import { Module } from '@nestjs/common';
import { LiveModule } from '../live/live.module.ts';
import { JobsController } from './jobs.controller.ts';
import { JobsService } from './jobs.service.ts';

/** Jobs and what is written into them. */
@Module({
  imports: [LiveModule],
  controllers: [JobsController],
  providers: [JobsService],
  exports: [JobsService],
})
export class JobsModule {}
