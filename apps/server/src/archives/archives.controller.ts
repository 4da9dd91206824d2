import { type ArchiveTaken, ShopArchiveQuery } from '@just-balance/contract';
import {
  BadRequestException,
  Controller,
  Get,
  HttpCode,
  Param,
  ParseUUIDPipe,
  PayloadTooLargeException,
  Post,
  Query,
  Req,
  Res,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Request, type Response, raw } from 'express';
import { Costly } from '../common/cost.ts';
import { type Actor, Who } from '../common/request.ts';
import { sendPieces } from '../recordings/exporting.ts';
import { ArchivesService } from './archives.service.ts';

const refused = (e: unknown) =>
  (e as { status?: number }).status === 413
    ? new PayloadTooLargeException({ statusCode: 413, message: 'too large: an archive of one job is at most 160 MB' })
    : new BadRequestException({ statusCode: 400, message: 'the archive did not come up whole: send it again' });

/** Read only once it is known who sends it: it is large. */
const body = raw({ type: ['application/zip', 'application/octet-stream'], limit: '160mb' });

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
  @Post('archives')
  @HttpCode(200)
  async read(@Who() who: Actor, @Req() req: Request, @Res({ passthrough: true }) res: Response): Promise<ArchiveTaken> {
    await new Promise<void>((done, fail) => body(req, res, (e?: unknown) => (e ? fail(refused(e)) : done())));
    return this.archives.read(who, req.body);
  }
}
