import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { VehiclesController } from './vehicles.controller.ts';

/** The shop's vehicles. */
@Module({ imports: [JobsModule], controllers: [VehiclesController] })
export class VehiclesModule {}
