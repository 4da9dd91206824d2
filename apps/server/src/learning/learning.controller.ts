import { LearnedQuery, type LearnedView, LeaveOutRequest } from '@just-balance/contract';
import type { Settings } from '@just-balance/core/diagnosis';
import { Body, Controller, Get, Param, ParseUUIDPipe, Put, Query } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { Costly } from '../common/cost.ts';
import { type Actor, Who } from '../common/request.ts';
import { Learning } from './learning.service.ts';

@ApiTags('learning')
@Controller('learned')
export class LearningController {
  constructor(private readonly learning: Learning) {}

  /** Everything the shop's jobs teach, each figure with its count, its interval and the jobs behind it. */
  @Costly(120)
  @Get()
  view(@Who() who: Actor): Promise<LearnedView> {
    return this.learning.view(who);
  }

  /** As settings for `jb diagnose --settings`. */
  @Costly(120)
  @Get('settings')
  settings(@Who() who: Actor, @Query() { use }: LearnedQuery): Promise<Settings> {
    const chosen = use?.split(',') ?? ['priors', 'tests'];
    return this.learning.exported(who, { priors: chosen.includes('priors'), tests: chosen.includes('tests') });
  }

  @Put('jobs/:jobId')
  leaveOut(
    @Who() who: Actor,
    @Param('jobId', ParseUUIDPipe) jobId: string,
    @Body() body: LeaveOutRequest,
  ): Promise<LearnedView> {
    return this.learning.leaveOut(who, jobId, body);
  }
}
