import {
  AcknowledgeRequest,
  HandRecordRequest,
  JobPatchRequest,
  type JobSummary,
  type JobView,
  KnownFigureRequest,
  NewJobRequest,
  NewReadingRequest,
  NewRepairRequest,
  NewTestRequest,
  UndoRequest,
} from '@just-balance/contract';
import { Body, Controller, Get, Inject, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { JobsService } from './jobs.service.ts';

@ApiTags('jobs')
@Controller('jobs')
export class JobsController {
  constructor(@Inject(JobsService) private readonly jobs: JobsService) {}

  @Get()
  list(@Who() who: Actor): Promise<JobSummary[]> {
    return this.jobs.list(who);
  }

  @Post()
  create(@Who() who: Actor, @Body() body: NewJobRequest): Promise<JobView> {
    return this.jobs.create(who, body);
  }

  @Get(':id')
  view(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<JobView> {
    return this.jobs.view(who, id);
  }

  @Patch(':id')
  patch(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string, @Body() body: JobPatchRequest): Promise<JobView> {
    return this.jobs.patch(who, id, body);
  }

  @Post(':id/readings')
  reading(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: NewReadingRequest,
  ): Promise<JobView> {
    return this.jobs.addReading(who, id, body);
  }

  @Post(':id/tests')
  test(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string, @Body() body: NewTestRequest): Promise<JobView> {
    return this.jobs.addTest(who, id, body);
  }

  @Patch(':id/tests/:testId')
  undoTest(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('testId', ParseUUIDPipe) testId: string,
    @Body() body: UndoRequest,
  ): Promise<JobView> {
    return this.jobs.undo(who, id, 'test', testId, body);
  }

  @Post(':id/known')
  known(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string, @Body() body: KnownFigureRequest): Promise<JobView> {
    return this.jobs.addKnown(who, id, body);
  }

  @Patch(':id/known/:knownId')
  undoKnown(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('knownId', ParseUUIDPipe) knownId: string,
    @Body() body: UndoRequest,
  ): Promise<JobView> {
    return this.jobs.undo(who, id, 'known-figure', knownId, body);
  }

  @Post(':id/repairs')
  repair(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string, @Body() body: NewRepairRequest): Promise<JobView> {
    return this.jobs.addRepair(who, id, body);
  }

  @Patch(':id/repairs/:repairId')
  undoRepair(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('repairId', ParseUUIDPipe) repairId: string,
    @Body() body: UndoRequest,
  ): Promise<JobView> {
    return this.jobs.undo(who, id, 'repair', repairId, body);
  }

  @Post(':id/cautions')
  caution(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: AcknowledgeRequest,
  ): Promise<JobView> {
    return this.jobs.acknowledge(who, id, body);
  }

  @Post(':id/records/by-hand')
  handRecord(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: HandRecordRequest,
  ): Promise<JobView> {
    return this.jobs.addHandRecord(who, id, body);
  }
}
