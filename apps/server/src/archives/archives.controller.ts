import { type ArchiveTaken, ShopArchiveQuery } from '@just-balance/contract';
import { Controller, Get, HttpCode, Param, ParseUUIDPipe, Post, Query, Req, Res } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { TakesFile } from '../common/body.ts';
import { Costly } from '../common/cost.ts';
import { type Actor, Who } from '../common/request.ts';
import { sendPieces } from '../recordings/exporting.ts';
import { ArchivesService } from './archives.service.ts';

@ApiTags('archives')
@Controller()
export class ArchivesController {
  constructor(private readonly archives: ArchivesService) {}

  /** The whole job as one file. */
  @Costly(120)
  @Get('jobs/:id/archive')
  async write(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string, @Res() res: Response): Promise<void> {
    const pieces = await this.archives.write(who, id);
    res.setHeader('content-type', 'application/zip');
    res.setHeader('content-disposition', `attachment; filename="job-${id}.jb.zip"`);
    await sendPieces(res, pieces);
  }

  /** Every job of the shop, or those of some days, as one file. */
  @Costly(6)
  @Get('archives')
  async writeShop(@Who() who: Actor, @Query() q: ShopArchiveQuery, @Res() res: Response): Promise<void> {
    const pieces = await this.archives.writeShop(who, q);
    res.setHeader('content-type', 'application/zip');
    res.setHeader('content-disposition', 'attachment; filename="shop.jb.zip"');
    await sendPieces(res, pieces);
  }

  /** The body is the archive of one job. The same again changes nothing. */
  @Costly(600)
  @TakesFile(160_000_000, 'application/zip')
  @Post('archives')
  @HttpCode(200)
  read(@Who() who: Actor, @Req() req: Request): Promise<ArchiveTaken> {
    return this.archives.read(who, req.body);
  }
}
