import { HandRecordRequest, RecordChangeRequest, type RecordView } from '@just-balance/contract';
import { Body, Controller, Get, Param, ParseUUIDPipe, Post, Put } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { RecordsService } from './records.service.ts';

@ApiTags('records')
@Controller('jobs/:id/records')
export class RecordsController {
  constructor(private readonly records: RecordsService) {}

  @Get()
  list(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<RecordView[]> {
    return this.records.list(who, id);
  }

  @Post('by-hand')
  byHand(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: HandRecordRequest,
  ): Promise<RecordView> {
    return this.records.addByHand(who, id, body);
  }

  /** A record that was typed, put right; `rowId` is the record's. */
  @Put(':rowId')
  correct(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('rowId', ParseUUIDPipe) rowId: string,
    @Body() body: RecordChangeRequest,
  ): Promise<RecordView> {
    return this.records.correct(who, id, rowId, body);
  }
}
