import {
  type LogbookCounts,
  LogbookQuery,
  type LogbookRow,
  SavedViewRequest,
  type SavedViewView,
} from '@just-balance/contract';
import { Body, Controller, Delete, Get, Param, ParseUUIDPipe, Put, Query, Req, Res } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { Costly } from '../common/cost.ts';
import { type Actor, Who } from '../common/request.ts';
import { sendPieces } from '../recordings/exporting.ts';
import { LogbookService } from './logbook.service.ts';

@ApiTags('logbook')
@Controller('logbook')
export class LogbookController {
  constructor(private readonly logbook: LogbookService) {}

  /** A page of jobs, newest first; the next one is in the `Link` header. */
  @Get()
  async page(
    @Who() who: Actor,
    @Query() q: LogbookQuery,
    @Req() req: Request,
    @Res({ passthrough: true }) res: Response,
  ): Promise<LogbookRow[]> {
    const { rows, next } = await this.logbook.page(who, q);
    if (next) {
      const asked = new URLSearchParams(req.query as Record<string, string>);
      asked.set('before', next);
      res.setHeader('link', `</api/logbook?${asked}>; rel="next"`);
    }
    return rows;
  }

  @Get('counts')
  counts(@Who() who: Actor, @Query() q: LogbookQuery): Promise<LogbookCounts> {
    return this.logbook.counts(who, q);
  }

  @Costly(20)
  @Get('csv')
  async csv(@Who() who: Actor, @Query() q: LogbookQuery, @Res() res: Response): Promise<void> {
    res.setHeader('content-type', 'text/csv; charset=utf-8');
    res.setHeader('content-disposition', 'attachment; filename="logbook.csv"');
    await sendPieces(res, this.logbook.csv(who, q));
  }

  /** Searches that the asker has kept. */
  @Get('views')
  views(@Who() who: Actor): Promise<SavedViewView[]> {
    return this.logbook.views(who);
  }

  @Put('views/:viewId')
  keepView(
    @Who() who: Actor,
    @Param('viewId', ParseUUIDPipe) viewId: string,
    @Body() body: SavedViewRequest,
  ): Promise<SavedViewView[]> {
    return this.logbook.keepView(who, viewId, body);
  }

  @Delete('views/:viewId')
  dropView(@Who() who: Actor, @Param('viewId', ParseUUIDPipe) viewId: string): Promise<SavedViewView[]> {
    return this.logbook.dropView(who, viewId);
  }
}
