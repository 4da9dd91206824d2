import type { AcknowledgeRequest, CautionView } from '@just-balance/contract';
import { Injectable } from '@nestjs/common';
import type { Transaction } from 'sequelize';
import type { Actor } from '../common/request.ts';
import { appendEvent } from '../jobs/events.ts';
import { cautionViews } from '../jobs/rowViews.ts';
import { JobWrites } from '../jobs/write.ts';
import { type Job, JobEvent } from '../rows/jobs.ts';
import { OLDEST_FIRST } from '../rows/order.ts';

/** Cautions that were read, once each in a job. */
@Injectable()
export class CautionsService {
  constructor(private readonly jobs: JobWrites) {}

  async list(who: Actor, id: string): Promise<CautionView[]> {
    await this.jobs.find(who, id);
    const where = { shopId: who.shopId, jobId: id, kind: 'caution' };
    return cautionViews(await JobEvent.findAll({ where, order: OLDEST_FIRST }));
  }

  acknowledge(who: Actor, jobId: string, body: AcknowledgeRequest): Promise<CautionView> {
    const { caution, step } = body;
    const append = async (_: Job, t: Transaction) => {
      await appendEvent(who, jobId, 'caution', { caution, step }, t);
      return { caution, step, at: new Date().toISOString(), by: who.name };
    };
    return this.jobs.write(who, jobId, append, { resources: ['cautions'] });
  }
}
