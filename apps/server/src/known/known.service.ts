import type { KnownFigureRequest, KnownView, UndoRequest } from '@just-balance/contract';
import { familyOf, stationPressure } from '@just-balance/core/expected';
import { Injectable } from '@nestjs/common';
import type { Actor } from '../common/request.ts';
import { knownView, knownViews } from '../jobs/rowViews.ts';
import { readHead } from '../jobs/stored.ts';
import { JobWrites } from '../jobs/write.ts';
import { KnownFigureRow } from '../rows/known.ts';
import { Vehicle } from '../rows/vehicles.ts';

const KNOWN = { model: KnownFigureRow, view: knownView, resource: 'known', kind: 'known-figure' } as const;

/** Figures that beat physics, of a vehicle or of its engine family. */
@Injectable()
export class KnownService {
  constructor(private readonly jobs: JobWrites) {}

  async list(who: Actor, id: string): Promise<KnownView[]> {
    const job = await this.jobs.find(who, id);
    return knownViews((await Vehicle.findOne({ where: { id: job.vehicleId, shopId: who.shopId } }))!, []);
  }

  add(who: Actor, jobId: string, body: KnownFigureRequest): Promise<KnownView> {
    const { id, layer, ...figure } = body;
    return this.jobs.insertOnce(
      who,
      jobId,
      KNOWN,
      id,
      async (own, job, t) => {
        const vehicle = await this.jobs.vehicleOf(job, t);
        const data = { ...figure, baroKPa: stationPressure(readHead(job).ambient).baroKPa };
        const family = familyOf(vehicle.facts);
        return { ...own, rev: 1, undone: false, by: who.name, vehicleId: vehicle.id, family, layer, data };
      },
      { layer, ...figure },
    );
  }

  undo(who: Actor, jobId: string, id: string, body: UndoRequest): Promise<KnownView> {
    return this.jobs.undo(who, jobId, KNOWN, id, body);
  }
}
