import {
  AcknowledgeRequest,
  type CautionView,
  type DamageView,
  DiagnosisQuery,
  type EntryView,
  HandRecordRequest,
  type JobCounts,
  type JobListItem,
  JobListQuery,
  JobPatchRequest,
  type JobSummary,
  KnownFigureRequest,
  type KnownView,
  MendRequest,
  NewJobRequest,
  NewReadingRequest,
  NewRepairRequest,
  NewTestRequest,
  type PhotoView,
  ReadingChangeRequest,
  type ReadingView,
  RecordChangeRequest,
  type RecordView,
  type RepairView,
  RunningCapture,
  type RunView,
  type StoredDiagnosis,
  type TestView,
  UndoRequest,
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
import { JobsService } from './jobs.service.ts';
import { STORED, type StoredNounName } from './stored.ts';

const NOUNS = Object.fromEntries(Object.keys(STORED).map((k) => [k, k])) as Record<StoredNounName, StoredNounName>;
const Id = () => Param('id', ParseUUIDPipe);

@ApiTags('jobs')
@Controller('jobs')
export class JobsController {
  constructor(private readonly jobs: JobsService) {}

  /** A page of jobs, newest first; a `Link` header with `rel="next"` leads on. */
  @Get()
  async list(
    @Who() who: Actor,
    @Query() query: JobListQuery,
    @Res({ passthrough: true }) res: Response,
  ): Promise<JobListItem[]> {
    const { jobs, next } = await this.jobs.list(who, query);
    if (next) {
      const q = new URLSearchParams({ ...(query as Record<string, string>), before: next });
      res.setHeader('link', `</api/jobs?${q}>; rel="next"`);
    }
    return jobs;
  }

  /** Reminders: a pending code to look for, open monitors, days that people have set. */
  @Get('due')
  due(@Who() who: Actor): Promise<JobListItem[]> {
    return this.jobs.due(who);
  }

  /** Captures that run now, in every bay: each can be watched from here. */
  @Get('running')
  running(@Who() who: Actor): Promise<RunningCapture[]> {
    return this.jobs.running(who);
  }

  @Get('counts')
  counts(@Who() who: Actor): Promise<JobCounts> {
    return this.jobs.counts(who);
  }

  @Post()
  create(@Who() who: Actor, @Body() body: NewJobRequest): Promise<JobSummary> {
    return this.jobs.create(who, body);
  }

  @Get(':id')
  view(@Who() who: Actor, @Id() id: string): Promise<JobSummary> {
    return this.jobs.view(who, id);
  }

  @Get(':id/records')
  records(@Who() who: Actor, @Id() id: string): Promise<RecordView[]> {
    return this.jobs.records(who, id);
  }

  @Get(':id/readings')
  readings(@Who() who: Actor, @Id() id: string): Promise<ReadingView[]> {
    return this.jobs.readings(who, id);
  }

  @Get(':id/tests')
  tests(@Who() who: Actor, @Id() id: string): Promise<TestView[]> {
    return this.jobs.tests(who, id);
  }

  @Get(':id/repairs')
  repairs(@Who() who: Actor, @Id() id: string): Promise<RepairView[]> {
    return this.jobs.repairs(who, id);
  }

  @Get(':id/runs')
  runs(@Who() who: Actor, @Id() id: string): Promise<RunView[]> {
    return this.jobs.runs(who, id);
  }

  /** Parts, decisions, outcomes, figures of the vehicle, pair readings. */
  @Get(':id/entries')
  entries(@Who() who: Actor, @Id() id: string): Promise<EntryView[]> {
    return this.jobs.entries(who, id);
  }

  @Get(':id/photos')
  photos(@Who() who: Actor, @Id() id: string): Promise<PhotoView[]> {
    return this.jobs.photos(who, id);
  }

  /** Figures that beat physics for this vehicle and its engine family. */
  @Get(':id/known')
  knownFigures(@Who() who: Actor, @Id() id: string): Promise<KnownView[]> {
    return this.jobs.known(who, id);
  }

  @Get(':id/cautions')
  cautions(@Who() who: Actor, @Id() id: string): Promise<CautionView[]> {
    return this.jobs.cautions(who, id);
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

  @Post(':id/readings')
  reading(@Who() who: Actor, @Id() id: string, @Body() body: NewReadingRequest): Promise<ReadingView> {
    return this.jobs.addReading(who, id, body);
  }

  @Put(':id/readings/:rowId')
  changeReading(
    @Who() who: Actor,
    @Id() id: string,
    @Param('rowId', ParseUUIDPipe) rowId: string,
    @Body() body: ReadingChangeRequest,
  ): Promise<ReadingView> {
    return this.jobs.changeReading(who, id, rowId, body);
  }

  @Patch(':id/readings/:rowId')
  undoReading(
    @Who() who: Actor,
    @Id() id: string,
    @Param('rowId', ParseUUIDPipe) rowId: string,
    @Body() body: UndoRequest,
  ): Promise<ReadingView> {
    return this.jobs.undoReading(who, id, rowId, body);
  }

  /** A record that was typed, put right; `rowId` is the record's. */
  @Put(':id/records/:rowId')
  changeRecord(
    @Who() who: Actor,
    @Id() id: string,
    @Param('rowId', ParseUUIDPipe) rowId: string,
    @Body() body: RecordChangeRequest,
  ): Promise<RecordView> {
    return this.jobs.changeRecord(who, id, rowId, body);
  }

  @Post(':id/tests')
  test(@Who() who: Actor, @Id() id: string, @Body() body: NewTestRequest): Promise<TestView> {
    return this.jobs.addTest(who, id, body);
  }

  @Patch(':id/tests/:rowId')
  undoTest(
    @Who() who: Actor,
    @Id() id: string,
    @Param('rowId', ParseUUIDPipe) rowId: string,
    @Body() body: UndoRequest,
  ): Promise<TestView> {
    return this.jobs.undoTest(who, id, rowId, body);
  }

  @Post(':id/known')
  known(@Who() who: Actor, @Id() id: string, @Body() body: KnownFigureRequest): Promise<KnownView> {
    return this.jobs.addKnown(who, id, body);
  }

  @Patch(':id/known/:rowId')
  undoKnown(
    @Who() who: Actor,
    @Id() id: string,
    @Param('rowId', ParseUUIDPipe) rowId: string,
    @Body() body: UndoRequest,
  ): Promise<KnownView> {
    return this.jobs.undoKnown(who, id, rowId, body);
  }

  @Post(':id/repairs')
  repair(@Who() who: Actor, @Id() id: string, @Body() body: NewRepairRequest): Promise<RepairView> {
    return this.jobs.addRepair(who, id, body);
  }

  @Patch(':id/repairs/:rowId')
  undoRepair(
    @Who() who: Actor,
    @Id() id: string,
    @Param('rowId', ParseUUIDPipe) rowId: string,
    @Body() body: UndoRequest,
  ): Promise<RepairView> {
    return this.jobs.undoRepair(who, id, rowId, body);
  }

  @Post(':id/cautions')
  caution(@Who() who: Actor, @Id() id: string, @Body() body: AcknowledgeRequest): Promise<CautionView> {
    return this.jobs.acknowledge(who, id, body);
  }

  @Post(':id/records/by-hand')
  handRecord(@Who() who: Actor, @Id() id: string, @Body() body: HandRecordRequest): Promise<RecordView> {
    return this.jobs.addHandRecord(who, id, body);
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
  @Put(':id/damaged/:noun/:rowId')
  mend(
    @Who() who: Actor,
    @Id() id: string,
    @Param('noun', new ParseEnumPipe(NOUNS)) noun: StoredNounName,
    @Param('rowId', ParseUUIDPipe) rowId: string,
    @Body() body: MendRequest,
  ): Promise<{ id: string }> {
    return this.jobs.mend(who, id, noun, rowId, body.data);
  }
}
