import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { CautionsController } from './cautions.controller.ts';
import { CautionsService } from './cautions.service.ts';

@Module({
  imports: [JobsModule],
  controllers: [CautionsController],
  providers: [CautionsService],
  exports: [CautionsService],
})
export class CautionsModule {}
