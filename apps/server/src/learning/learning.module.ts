import { Module } from '@nestjs/common';
import { LearningController } from './learning.controller.ts';
import { Learning } from './learning.service.ts';

/** What the shop has learned from its jobs. */
@Module({
  controllers: [LearningController],
  providers: [Learning],
  exports: [Learning],
})
export class LearningModule {}
