import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { LinksModule } from '../links/links.module.ts';
import { RecordsModule } from '../records/records.module.ts';
import { ClearingService } from './clearing.service.ts';
import { FromVehicleController } from './fromVehicle.controller.ts';

/** Codes, monitors and freeze frame read from the vehicle before anything is cleared, and the clearing itself. */
@Module({
  imports: [JobsModule, LinksModule, RecordsModule],
  controllers: [FromVehicleController],
  providers: [ClearingService],
})
export class FromVehicleModule {}
