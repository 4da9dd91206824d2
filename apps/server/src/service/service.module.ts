import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { ServiceController } from './service.controller.ts';
import { ServiceService } from './service.service.ts';

/** Runs of service procedures, and what is written down beside them. */
@Module({
  imports: [JobsModule],
  controllers: [ServiceController],
  providers: [ServiceService],
})
export class ServiceModule {}
