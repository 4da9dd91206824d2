import type { NewRepairRequest, RepairView, UndoRequest } from '@just-balance/contract';
import { Injectable } from '@nestjs/common';
import type { Actor } from '../common/request.ts';
import { repairView } from '../jobs/rowViews.ts';
import { JobWrites } from '../jobs/write.ts';
import { Repair } from '../rows/repairs.ts';

const REPAIRS = { model: Repair, view: repairView, resource: 'repairs', kind: 'repair' } as const;

/** Repairs of a job, written down by hand or by a guided work. */
@Injectable()
export class RepairsService {
  constructor(private readonly jobs: JobWrites) {}

  list(who: Actor, id: string): Promise<RepairView[]> {
    return this.jobs.rows(who, id, 'repair', Repair, repairView);
  }

  add(who: Actor, jobId: string, body: NewRepairRequest): Promise<RepairView> {
    const { text, fault = null, part = null, work, run, adaptation } = body;
    const data = { text, fault, part, ...(work ? { work } : {}), ...(run ? { run } : {}), adaptation };
    return this.jobs.insertOnce(
      who,
      jobId,
      REPAIRS,
      body.id,
      async (own) => ({ ...own, rev: 1, undone: false, by: who.name, data }),
      data,
    );
  }

  undo(who: Actor, jobId: string, id: string, body: UndoRequest): Promise<RepairView> {
    return this.jobs.undo(who, jobId, REPAIRS, id, body);
  }
}
