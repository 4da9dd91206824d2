import { Module } from '@nestjs/common';
import { LearningModule } from '../learning/learning.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { BoardService } from './board.service.ts';
import { JobsController } from './jobs.controller.ts';
import { JobsService } from './jobs.service.ts';
import { JobWrites } from './write.ts';

/** Jobs: the one way of writing into them, the job itself, and lists of them. */
@Module({
  imports: [LiveModule, LearningModule],
  controllers: [JobsController],
  providers: [JobWrites, BoardService, JobsService],
  exports: [JobWrites, BoardService, JobsService],
})
export class JobsModule {}
