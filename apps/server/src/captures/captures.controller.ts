import { CaptureCommand, type CaptureStatus, type CaptureView, NewCaptureRequest } from '@just-balance/contract';
import { Body, Controller, Get, HttpCode, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { CapturesService } from './captures.service.ts';

@ApiTags('captures')
@Controller('jobs/:id/captures')
export class CapturesController {
  constructor(
    private readonly captures: CapturesService,
    private readonly jobs: JobsService,
  ) {}

  /** All of the job, imports too, oldest first. */
  @Get()
  async list(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<CaptureView[]> {
    return this.jobs.captures(who, id);
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
