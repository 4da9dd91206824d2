import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { LogbookModule } from '../logbook/logbook.module.ts';
import { VehiclesController } from './vehicles.controller.ts';

/** The shop's vehicles. */
@Module({ imports: [JobsModule, LogbookModule], controllers: [VehiclesController] })
export class VehiclesModule {}
