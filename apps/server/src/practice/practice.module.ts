import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { ReadingsModule } from '../readings/readings.module.ts';
import { RecordsModule } from '../records/records.module.ts';
import { TestsModule } from '../tests/tests.module.ts';
import { BayHolds } from './bayHolds.ts';
import { BaysController } from './bays.controller.ts';
import { Beginning } from './beginning.service.ts';
import { Examiner } from './examiner.ts';
import { SimControl } from './simControl.ts';
import { TrainerController } from './trainer.controller.ts';
import { Trainer } from './trainer.service.ts';

/** The simulated bays. */
@Module({
  imports: [JobsModule, ReadingsModule, TestsModule, RecordsModule],
  controllers: [BaysController, TrainerController],
  providers: [SimControl, BayHolds, Examiner, Beginning, Trainer],
  exports: [SimControl, BayHolds],
})
export class PracticeModule {}
