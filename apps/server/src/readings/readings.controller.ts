import { NewReadingRequest, ReadingChangeRequest, type ReadingView, UndoRequest } from '@just-balance/contract';
import { Body, Controller, Get, Param, ParseUUIDPipe, Patch, Post, Put } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { ReadingsService } from './readings.service.ts';

const JobId = () => Param('id', ParseUUIDPipe);
const RowId = () => Param('rowId', ParseUUIDPipe);

@ApiTags('readings')
@Controller('jobs/:id/readings')
export class ReadingsController {
  constructor(private readonly readings: ReadingsService) {}

  @Get()
  list(@Who() who: Actor, @JobId() id: string): Promise<ReadingView[]> {
    return this.readings.list(who, id);
  }

  @Post()
  add(@Who() who: Actor, @JobId() id: string, @Body() body: NewReadingRequest): Promise<ReadingView> {
    return this.readings.add(who, id, body);
  }

  @Put(':rowId')
  correct(
    @Who() who: Actor,
    @JobId() id: string,
    @RowId() rowId: string,
    @Body() body: ReadingChangeRequest,
  ): Promise<ReadingView> {
    return this.readings.correct(who, id, rowId, body);
  }

  @Patch(':rowId')
  undo(
    @Who() who: Actor,
    @JobId() id: string,
    @RowId() rowId: string,
    @Body() body: UndoRequest,
  ): Promise<ReadingView> {
    return this.readings.undo(who, id, rowId, body);
  }
}
