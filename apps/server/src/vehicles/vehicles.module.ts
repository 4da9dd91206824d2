import { Module } from '@nestjs/common';
import { VehiclesController } from './vehicles.controller.ts';

/** The shop's vehicles. */
@Module({
  controllers: [VehiclesController],
})
export class VehiclesModule {}
