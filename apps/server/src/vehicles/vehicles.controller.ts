import type { VehicleChangeView, VehicleView } from '@just-balance/contract';
import { type DriveEntry } from '@just-balance/contract/drives';
import { entryProblems } from '@just-balance/contract/service';
import { Controller, Get, Param, ParseUUIDPipe } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { Job, JobEvent, ServiceEntry, Vehicle } from '../database/models.ts';
import { vehicleView } from '../jobs/views.ts';

/** Drives of one vehicle that are shown. [house] */
const MOST_DRIVES = 500;
/** Changes of one card that are shown, the newest. [house] */
const MOST_CHANGES = 100;

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

  /** Drives for readiness in every job of a vehicle, oldest first. */
  @Get(':vehicleId/drives')
  async drives(
    @Who() who: Actor,
    @Param('vehicleId', ParseUUIDPipe) vehicleId: string,
  ): Promise<{ id: string; at: string; jobId: string; attempt: DriveEntry }[]> {
    const jobs = await Job.findAll({ where: { shopId: who.shopId, vehicleId }, attributes: ['id'] });
    const rows = await ServiceEntry.findAll({
      where: { shopId: who.shopId, kind: 'drive', undone: false, jobId: jobs.map((j) => j.id) },
      order: [['createdAt', 'ASC']],
      limit: MOST_DRIVES,
    });
    return rows.flatMap((r) =>
      entryProblems('drive', r.data).length > 0
        ? []
        : [{ id: r.id, at: r.createdAt.toISOString(), jobId: r.jobId, attempt: r.data as DriveEntry }],
    );
  }

  /** What was changed on a vehicle's card, in every job of it, newest first. */
  @Get(':vehicleId/changes')
  async changes(@Who() who: Actor, @Param('vehicleId', ParseUUIDPipe) vehicleId: string): Promise<VehicleChangeView[]> {
    const jobs = await Job.findAll({ where: { shopId: who.shopId, vehicleId }, attributes: ['id'] });
    const rows = await JobEvent.findAll({
      where: { shopId: who.shopId, kind: 'vehicle', jobId: jobs.map((j) => j.id) },
      order: [
        ['createdAt', 'DESC'],
        ['id', 'DESC'],
      ],
      limit: MOST_CHANGES,
    });
    return rows.map((r) => ({
      id: r.id,
      at: r.createdAt.toISOString(),
      by: r.by,
      before: fields(r.data.before),
      after: fields(r.data.after),
    }));
  }
}

function fields(v: unknown): Record<string, unknown> {
  return typeof v === 'object' && v !== null && !Array.isArray(v) ? (v as Record<string, unknown>) : {};
}
