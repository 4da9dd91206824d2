import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { RepairsController } from './repairs.controller.ts';
import { RepairsService } from './repairs.service.ts';

@Module({
  imports: [JobsModule],
  controllers: [RepairsController],
  providers: [RepairsService],
  exports: [RepairsService],
})
export class RepairsModule {}
