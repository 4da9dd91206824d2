import { type AuditLine, AuditQuery } from '@just-balance/contract';
import { TRAIL_KINDS, trailSentence } from '@just-balance/core/job';
import { Controller, Get, Inject, Query, Req, Res } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { Op, type Sequelize, type WhereOptions } from 'sequelize';
import { rightsOf } from '../accounts/rights.ts';
import { endOf } from '../common/days.ts';
import { type Actor, Who } from '../common/request.ts';
import { SEQUELIZE } from '../database/connect.ts';
import { Job, JobEvent } from '../rows/jobs.ts';
import { ShopChange } from '../rows/shop.ts';

const SIGN_INS = TRAIL_KINDS.find((k) => k.id === 'sign-ins')!.kinds;
const PAGE = 60;

interface Line {
  id: string;
  createdAt: Date;
  by: string;
  kind: string;
  data: Record<string, unknown>;
  jobId: string | null;
  importedBy: string | null;
  importedAt: Date | null;
}

@ApiTags('shop')
@Controller('audit')
export class AuditController {
  constructor(@Inject(SEQUELIZE) readonly db: Sequelize) {}

  /** Who did what, newest first, as sentences; jobs and the shop itself in one list. */
  @Get()
  async lines(
    @Who() who: Actor,
    @Query() q: AuditQuery,
    @Req() req: Request,
    @Res({ passthrough: true }) res: Response,
  ): Promise<AuditLine[]> {
    const kinds = TRAIL_KINDS.find((k) => k.id === q.kind)?.kinds;
    const m = /^(\d{1,13})_([0-9a-f-]{36})$/i.exec(q.before ?? '');
    const last = m ? { at: new Date(Number(m[1])), id: m[2]! } : null;
    const where: WhereOptions[] = [
      { shopId: who.shopId },
      ...(kinds ? [{ kind: [...kinds] }] : []),
      ...(rightsOf(who.role).includes('lead') ? [] : [{ kind: { [Op.notIn]: [...SIGN_INS] } }]),
      ...(q.from ? [{ createdAt: { [Op.gte]: new Date(q.from) } }] : []),
      ...(q.to ? [{ createdAt: { [Op.lt]: endOf(q.to) } }] : []),
      ...(last
        ? [{ [Op.or]: [{ createdAt: { [Op.lt]: last.at } }, { createdAt: last.at, id: { [Op.lt]: last.id } }] }]
        : []),
    ];
    const options = {
      order: [
        ['createdAt', 'DESC'],
        ['id', 'DESC'],
      ] as [string, string][],
      limit: PAGE + 1,
    };
    const [events, changes] = await Promise.all([
      JobEvent.findAll({
        where: {
          [Op.and]: [
            ...where,
            // Names in what was brought in are the archive's words: nobody of this shop did it.
            ...(q.person ? [{ by: q.person, importedAt: null }] : []),
            ...(q.job ? [{ jobId: q.job }] : []),
          ],
        },
        ...options,
      }),
      q.job
        ? []
        : ShopChange.findAll({ where: { [Op.and]: [...where, ...(q.person ? [{ by: q.person }] : [])] }, ...options }),
    ]);
    const all: Line[] = [
      ...events,
      ...changes.map(({ id, createdAt, by, kind, data }) => ({
        ...{ id, createdAt, by, kind, data },
        ...{ jobId: null, importedBy: null, importedAt: null },
      })),
    ].sort((a, b) => b.createdAt.getTime() - a.createdAt.getTime() || (a.id < b.id ? 1 : -1));
    const shown = all.slice(0, PAGE);
    const end = shown.at(-1);
    if (all.length > PAGE && end) {
      const next = new URLSearchParams(req.query as Record<string, string>);
      next.set('before', `${end.createdAt.getTime()}_${end.id}`);
      res.setHeader('link', `</api/audit?${next}>; rel="next"`);
    }
    const ids = [...new Set(shown.flatMap((l) => l.jobId ?? []))];
    const jobs = await Job.findAll({ where: { id: ids, shopId: who.shopId }, attributes: ['id', 'summary'] });
    return shown.map((l) => ({
      id: l.id,
      at: l.createdAt.toISOString(),
      by: l.by,
      kind: l.kind,
      imported: l.importedAt && { by: l.importedBy ?? '', at: l.importedAt.toISOString() },
      said: trailSentence(l.by, l.kind, l.data),
      job: l.jobId ? { id: l.jobId, label: jobs.find((j) => j.id === l.jobId)?.summary?.label ?? 'a job' } : null,
    }));
  }
}
