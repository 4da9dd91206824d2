import { clockOf, type HandOverQuery, type WholeJob } from '@just-balance/contract';
import { type Clock, type DocumentId, handOverDocuments, momentOf, provenHere, UTC } from '@just-balance/core/handOver';
import { DEFAULT_LIMITS } from '@just-balance/core/trims';
import type { UnitSystem } from '@just-balance/core/units';
import { Injectable } from '@nestjs/common';
import type { Actor } from '../common/request.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { Photo } from '../rows/photos.ts';
import { Shop } from '../rows/shop.ts';
import type { Picture } from './pdf/render.ts';

/** Pictures of one PDF; the rest are named and stand in the archive. [house] */
const MOST_PICTURES = 24;

const PRECEDENCE =
  'Local codes, the vehicle’s service information and licensed practice come before anything that is written here.';

@Injectable()
export class ReportsService {
  constructor(private readonly jobs: JobsService) {}

  /** The documents of a job as they stand, from one moment of it. */
  async documents(who: Actor, job: WholeJob, units: UnitSystem, clock?: Clock) {
    const shop = (await Shop.findByPk(who.shopId))!;
    return handOverDocuments({
      job,
      shop: shop.name,
      ...(shop.settings.letterhead ? { letterhead: shop.settings.letterhead } : {}),
      proof: provenHere(job, { ...shop.settings, ...shop.learned?.settings }),
      limits: { ...DEFAULT_LIMITS, ...shop.settings.limits },
      units,
      ...(clock ? { clock } : {}),
      labour: shop.settings.labour,
      minutes: shop.settings.minutes,
    });
  }

  async pdf(who: Actor, jobId: string, id: DocumentId, query: HandOverQuery): Promise<Buffer> {
    const { units = 'metric', zone = 'UTC', paper = 'A4' } = query;
    const clock = clockOf(zone) ?? UTC;
    const job = await this.jobs.whole(who, jobId);
    const document = (await this.documents(who, job, units, clock))[id];
    const wanted = document.sections
      .flatMap((s) => s.blocks)
      .flatMap((b) => (b.kind === 'photos' ? b.photos.map((p) => p.id) : []))
      .slice(0, MOST_PICTURES);
    const rows = await Photo.findAll({
      where: { id: wanted, shopId: who.shopId, jobId, undone: false },
      attributes: ['id', 'small'],
    });
    const pictures = new Map<string, Picture>(rows.map((r) => [r.id, { id: r.id, image: r.small }]));
    const printedAt = `${momentOf(new Date().toISOString(), clock)} (${clock.zone})`;
    // Read when it is needed: fonts and layout are a tenth of what a start reads.
    const { renderPdf } = await import('./pdf/render.ts');
    return renderPdf(document, pictures, { precedence: PRECEDENCE, printedAt, paper });
  }
}
