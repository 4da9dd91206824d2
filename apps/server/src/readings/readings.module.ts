import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { ReadingsController } from './readings.controller.ts';
import { ReadingsService } from './readings.service.ts';

@Module({
  imports: [JobsModule],
  controllers: [ReadingsController],
  providers: [ReadingsService],
  exports: [ReadingsService],
})
export class ReadingsModule {}
