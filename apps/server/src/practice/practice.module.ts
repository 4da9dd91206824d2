import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { BayHolds } from './bayHolds.ts';
import { BaysController } from './bays.controller.ts';
import { SimControl } from './simControl.ts';
import { TrainerController } from './trainer.controller.ts';
import { Trainer } from './trainer.service.ts';

/** The simulated bays. */
@Module({
  imports: [JobsModule],
  controllers: [BaysController, TrainerController],
  providers: [SimControl, BayHolds, Trainer],
  exports: [SimControl, BayHolds],
})
export class PracticeModule {}
