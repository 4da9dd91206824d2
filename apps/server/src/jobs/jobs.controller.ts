import {
  type DamageView,
  DiagnosisQuery,
  type JobCounts,
  type JobListItem,
  JobListQuery,
  JobPatchRequest,
  type JobSummary,
  MendRequest,
  NewJobRequest,
  type PartOrderView,
  type RunningCapture,
  type StoredDiagnosis,
  VehicleChangeRequest,
  type VehicleView,
} from '@just-balance/contract';
import {
  BadRequestException,
  Body,
  Controller,
  Get,
  Param,
  ParseEnumPipe,
  ParseUUIDPipe,
  Patch,
  Post,
  Put,
  Query,
  Res,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { type Actor, Who } from '../common/request.ts';
import { BoardService } from './board.service.ts';
import { JobsService } from './jobs.service.ts';
import { STORED, type StoredResourceName } from './stored.ts';

const RESOURCES = Object.fromEntries(Object.keys(STORED).map((k) => [k, k])) as Record<
  StoredResourceName,
  StoredResourceName
>;
const Id = () => Param('id', ParseUUIDPipe);

@ApiTags('jobs')
@Controller('jobs')
export class JobsController {
  constructor(
    private readonly jobs: JobsService,
    private readonly board: BoardService,
  ) {}

  /** A page of jobs, newest first; a `Link` header with `rel="next"` leads on. */
  @Get()
  async list(
    @Who() who: Actor,
    @Query() query: JobListQuery,
    @Res({ passthrough: true }) res: Response,
  ): Promise<JobListItem[]> {
    const { jobs, next } = await this.board.list(who, query);
    if (next) {
      const q = new URLSearchParams({ ...(query as Record<string, string>), before: next });
      res.setHeader('link', `</api/jobs?${q}>; rel="next"`);
    }
    return jobs;
  }

  /** Reminders: a pending code to look for, open monitors, days that people have set. */
  @Get('due')
  due(@Who() who: Actor): Promise<JobListItem[]> {
    return this.board.due(who);
  }

  /** Parts that the works of all jobs ask for: to order, under way, or here and not fitted. */
  @Get('orders')
  orders(@Who() who: Actor): Promise<PartOrderView[]> {
    return this.board.orders(who);
  }

  /** Captures that run now, in every bay: each can be watched from here. */
  @Get('running')
  running(@Who() who: Actor): Promise<RunningCapture[]> {
    return this.board.running(who);
  }

  @Get('counts')
  counts(@Who() who: Actor): Promise<JobCounts> {
    return this.board.counts(who);
  }

  @Post()
  create(@Who() who: Actor, @Body() body: NewJobRequest): Promise<JobSummary> {
    return this.jobs.create(who, body);
  }

  @Get(':id')
  view(@Who() who: Actor, @Id() id: string): Promise<JobSummary> {
    return this.jobs.view(who, id);
  }

  /** Rows that cannot be read as they are stored. */
  @Get(':id/damaged')
  damaged(@Who() who: Actor, @Id() id: string): Promise<DamageView[]> {
    return this.jobs.damaged(who, id);
  }

  @Patch(':id')
  patch(@Who() who: Actor, @Id() id: string, @Body() body: JobPatchRequest): Promise<JobSummary> {
    return this.jobs.patch(who, id, body);
  }

  /** The card of the job's vehicle, whole: judged anew with what it says now. */
  @Put(':id/vehicle')
  vehicle(@Who() who: Actor, @Id() id: string, @Body() body: VehicleChangeRequest): Promise<VehicleView> {
    return this.jobs.changeVehicle(who, id, body);
  }

  /** Every judgement that was kept with the job, oldest first. */
  @Get(':id/diagnosis')
  diagnoses(@Who() who: Actor, @Id() id: string, @Query() query: DiagnosisQuery): Promise<StoredDiagnosis[]> {
    return this.jobs.diagnoses(who, id, query.newest);
  }

  /** Weigh again with the settings and the core of today; every write has done so already. */
  @Post(':id/diagnosis')
  async weighAgain(@Who() who: Actor, @Id() id: string): Promise<StoredDiagnosis> {
    const kept = await this.jobs.weighAgain(who, id);
    if (!kept) throw new BadRequestException({ statusCode: 400, message: 'readings: take at least one reading first' });
    return kept;
  }

  /** A stored row that cannot be read, replaced by one that can. */
  @Put(':id/damaged/:resource/:rowId')
  mend(
    @Who() who: Actor,
    @Id() id: string,
    @Param('resource', new ParseEnumPipe(RESOURCES)) resource: StoredResourceName,
    @Param('rowId', ParseUUIDPipe) rowId: string,
    @Body() body: MendRequest,
  ): Promise<{ id: string }> {
    return this.jobs.mend(who, id, resource, rowId, body.data);
  }
}
