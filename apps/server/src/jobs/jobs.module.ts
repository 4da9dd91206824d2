import { Module } from '@nestjs/common';
import { LearningModule } from '../learning/learning.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { JobsController } from './jobs.controller.ts';
import { JobsService } from './jobs.service.ts';

/** Jobs and what is written into them. */
@Module({
  imports: [LiveModule, LearningModule],
  controllers: [JobsController],
  providers: [JobsService],
  exports: [JobsService],
})
export class JobsModule {}
