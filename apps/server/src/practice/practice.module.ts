import { Module } from '@nestjs/common';
import { BayHolds } from './bayHolds.ts';
import { BaysController } from './bays.controller.ts';
import { SimControl } from './simControl.ts';

/** The simulated bays. */
@Module({
  controllers: [BaysController],
  providers: [SimControl, BayHolds],
  exports: [SimControl, BayHolds],
})
export class PracticeModule {}
