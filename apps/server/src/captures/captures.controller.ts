import {
  CaptureCommand,
  type CaptureStatus,
  type CaptureView,
  NewCaptureRequest,
  type OfflineAnswer,
  OfflineCaptureRequest,
  OfflineEndRequest,
  OfflineSecondsRequest,
} from '@just-balance/contract';
import { Body, Controller, Get, HttpCode, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { JobWrites } from '../jobs/write.ts';
import { CapturesService } from './captures.service.ts';
import { OfflineRecordingsService } from './offlineRecordings.service.ts';

@ApiTags('captures')
@Controller('jobs/:id/captures')
export class CapturesController {
  constructor(
    private readonly captures: CapturesService,
    private readonly jobs: JobWrites,
    private readonly offline: OfflineRecordingsService,
  ) {}

  /** All of the job, imports too, oldest first. */
  @Get()
  async list(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<CaptureView[]> {
    return this.captures.list(who, id);
  }

  @Post()
  async start(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: NewCaptureRequest,
  ): Promise<CaptureStatus> {
    return this.captures.start(told(who), await this.jobs.find(who, id), body);
  }

  /** The running capture, or null. */
  @Get('running')
  async running(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<{ status: CaptureStatus | null }> {
    await this.jobs.find(who, id);
    return { status: await this.captures.statusOf(who.shopId, id) };
  }

  /** A capture that a browser's own link recorded comes up: begun, then in numbered chunks, then ended. */
  @Post('spooled')
  async recording(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: OfflineCaptureRequest,
  ): Promise<OfflineAnswer> {
    return this.offline.begin(who, await this.jobs.find(who, id), body);
  }

  @Post(':captureId/seconds')
  @HttpCode(200)
  async seconds(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('captureId', ParseUUIDPipe) captureId: string,
    @Body() body: OfflineSecondsRequest,
  ): Promise<OfflineAnswer> {
    return this.offline.take(who, await this.jobs.find(who, id), captureId, body);
  }

  @Post(':captureId/end')
  @HttpCode(200)
  async end(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('captureId', ParseUUIDPipe) captureId: string,
    @Body() body: OfflineEndRequest,
  ): Promise<OfflineAnswer> {
    return this.offline.end(told(who), await this.jobs.find(who, id), captureId, body);
  }

  @Post(':captureId/command')
  @HttpCode(200)
  async command(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('captureId', ParseUUIDPipe) captureId: string,
    @Body() body: CaptureCommand,
  ): Promise<CaptureStatus> {
    return this.captures.command(told(who), await this.jobs.find(who, id), captureId, body.command);
  }
}

/** A capture goes on by itself: whoever started it is told what it wrote, too. */
const told = (who: Actor): Actor => ({ ...who, screen: null });
