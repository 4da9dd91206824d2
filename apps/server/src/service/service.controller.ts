import { type CleaningOutcomes, type EntryView, type RunView, UndoRequest } from '@just-balance/contract';
import { NewEntryRequest, NewRunRequest, RunEventsRequest } from '@just-balance/contract/service';
import { Body, Controller, Get, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { ServiceService } from './service.service.ts';

@ApiTags('service')
@Controller()
export class ServiceController {
  constructor(private readonly service: ServiceService) {}

  @Get('jobs/:id/runs')
  runs(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<RunView[]> {
    return this.service.runs(who, id);
  }

  @Get('jobs/:id/entries')
  entries(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<EntryView[]> {
    return this.service.entries(who, id);
  }

  @Post('jobs/:id/runs')
  begin(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string, @Body() body: NewRunRequest): Promise<RunView> {
    return this.service.begin(who, id, body);
  }

  /** Appends events; those that are there already stay as they are. Answers with the whole run. */
  @Post('jobs/:id/runs/:runId/events')
  append(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('runId', ParseUUIDPipe) runId: string,
    @Body() body: RunEventsRequest,
  ): Promise<RunView> {
    return this.service.append(who, id, runId, body);
  }

  @Post('jobs/:id/entries')
  add(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string, @Body() body: NewEntryRequest): Promise<EntryView> {
    return this.service.addEntry(who, id, body);
  }

  @Patch('jobs/:id/entries/:rowId')
  undo(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('rowId', ParseUUIDPipe) rowId: string,
    @Body() body: UndoRequest,
  ): Promise<EntryView> {
    return this.service.undoEntry(who, id, rowId, body);
  }

  /** How this shop's cleanings have turned out, by part. */
  @Get('service/outcomes')
  outcomes(@Who() who: Actor): Promise<CleaningOutcomes[]> {
    return this.service.outcomes(who);
  }
}
