import {
  type CaptureView,
  ColumnQuery,
  FinishImportRequest,
  MarkDto,
  NewImportRequest,
  type RecordingView,
} from '@just-balance/contract';
import {
  BadRequestException,
  Body,
  Controller,
  Get,
  HttpCode,
  Param,
  ParseEnumPipe,
  ParseIntPipe,
  ParseUUIDPipe,
  Post,
  Put,
  Query,
  Req,
  Res,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { TakesBytes } from '../common/body.ts';
import { Costly } from '../common/cost.ts';
import { type Actor, Who } from '../common/request.ts';
import { JobWrites } from '../jobs/write.ts';
import { csvProblem, exported, sendPieces } from './exporting.ts';
import { RecordingsService } from './recordings.service.ts';

const FORMS = { csv: 'csv', candump: 'candump', json: 'json' } as const;
type Form = keyof typeof FORMS;
const TYPES: Readonly<Record<Form, string>> = {
  csv: 'text/csv; charset=utf-8',
  candump: 'text/plain; charset=utf-8',
  json: 'application/json',
};

/** Recordings: looked at, marked, taken away, and brought in from files. */
@ApiTags('captures')
@Controller('jobs/:id')
export class RecordingsController {
  constructor(
    private readonly recordings: RecordingsService,
    private readonly jobs: JobWrites,
  ) {}

  @Get('captures/:captureId/recording')
  async view(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('captureId', ParseUUIDPipe) captureId: string,
  ): Promise<RecordingView> {
    return this.recordings.view(who, await this.jobs.find(who, id), captureId);
  }

  /** One part of a channel: the bytes of docs/formats/column.md, deflated. */
  @Get('captures/:captureId/columns/:channel')
  async column(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('captureId', ParseUUIDPipe) captureId: string,
    @Param('channel') channel: string,
    @Query('part', new ParseIntPipe({ optional: true })) part: number | undefined,
    @Res() res: Response,
  ): Promise<void> {
    const data = await this.recordings.column(who, await this.jobs.find(who, id), captureId, channel, part ?? 0);
    res.setHeader('content-type', 'application/octet-stream');
    res.setHeader('content-encoding', 'deflate');
    res.setHeader('cache-control', 'private, no-cache');
    res.end(data);
  }

  /** As a file: `as` csv, candump or json; `safe=1` escapes what a spreadsheet would take for a formula. */
  @Costly(30)
  @Get('captures/:captureId/export')
  async export(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('captureId', ParseUUIDPipe) captureId: string,
    @Query('as', new ParseEnumPipe(FORMS)) as: Form,
    @Query('safe') safe: string | undefined,
    @Res() res: Response,
  ): Promise<void> {
    const { name, ...source } = await this.recordings.forExport(who, await this.jobs.find(who, id), captureId);
    const problem = as === 'csv' ? csvProblem(source) : null;
    if (problem) throw new BadRequestException({ statusCode: 400, message: problem });
    res.setHeader('content-type', TYPES[as]);
    res.setHeader('content-disposition', `attachment; filename="${name}${safe === '1' ? '-spreadsheet' : ''}.${as}"`);
    await sendPieces(res, exported(source, as, safe === '1'));
  }

  @Post('captures/:captureId/marks')
  async mark(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('captureId', ParseUUIDPipe) captureId: string,
    @Body() body: MarkDto,
  ): Promise<RecordingView> {
    return this.recordings.mark(who, await this.jobs.find(who, id), captureId, body);
  }

  @Costly(60)
  @Post('imports')
  async begin(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: NewImportRequest,
  ): Promise<{ id: string; received: Record<string, number> }> {
    return this.recordings.begin(who, await this.jobs.find(who, id), body);
  }

  @TakesBytes(8 * 1024 * 1024)
  @Put('imports/:captureId/columns/:channel')
  @HttpCode(204)
  async take(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('captureId', ParseUUIDPipe) captureId: string,
    @Param('channel') channel: string,
    @Query() query: ColumnQuery,
    @Req() req: Request,
  ): Promise<void> {
    await this.recordings.take(who, await this.jobs.find(who, id), captureId, channel, query, req.body);
  }

  @Post('imports/:captureId/finish')
  async finish(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('captureId', ParseUUIDPipe) captureId: string,
    @Body() body: FinishImportRequest,
  ): Promise<CaptureView> {
    return this.recordings.finish(who, await this.jobs.find(who, id), captureId, body);
  }
}
