import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { PracticeModule } from '../practice/practice.module.ts';
import { Addresses } from './addresses.ts';
import { Leases } from './leases.ts';
import { LinksController } from './links.controller.ts';
import { LinksService } from './links.service.ts';

/** Live links to vehicles, each owned by one server. */
@Module({
  imports: [JobsModule, LiveModule, PracticeModule],
  controllers: [LinksController],
  providers: [Addresses, Leases, LinksService],
  exports: [LinksService, Leases],
})
export class LinksModule {}
