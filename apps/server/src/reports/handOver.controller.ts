import { HandOverParams, HandOverQuery } from '@just-balance/contract';
import { Controller, Get, Param, Query, Res } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { Costly } from '../common/cost.ts';
import { type Actor, Who } from '../common/request.ts';
import { ReportsService } from './reports.service.ts';

@ApiTags('jobs')
@Controller('jobs/:id/hand-over')
export class HandOverController {
  constructor(private readonly reports: ReportsService) {}

  /** The hand-over for the customer or for the next technician, as a tagged PDF. */
  @Costly(60)
  @Get(':document')
  async pdf(
    @Who() who: Actor,
    @Param() { id, document }: HandOverParams,
    @Query() query: HandOverQuery,
    @Res() res: Response,
  ): Promise<void> {
    const bytes = await this.reports.pdf(who, id, document, query);
    res.setHeader('content-type', 'application/pdf');
    res.setHeader('content-disposition', `inline; filename="${document}-${id.slice(0, 8)}.pdf"`);
    res.end(bytes);
  }
}
