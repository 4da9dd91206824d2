import type { VehicleView } from '@just-balance/contract';
import { Controller, Get } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { Vehicle } from '../database/models.ts';
import { vehicleView } from '../jobs/views.ts';

@ApiTags('vehicles')
@Controller('vehicles')
export class VehiclesController {
  /** The shop's vehicles, newest first. */
  @Get()
  async list(@Who() who: Actor): Promise<VehicleView[]> {
    return (await Vehicle.findAll({ where: { shopId: who.shopId }, order: [['createdAt', 'DESC']], limit: 200 })).map(
      vehicleView,
    );
  }
}
