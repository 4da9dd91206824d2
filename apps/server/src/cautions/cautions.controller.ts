import { AcknowledgeRequest, type CautionView } from '@just-balance/contract';
import { Body, Controller, Get, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { CautionsService } from './cautions.service.ts';

const JobId = () => Param('id', ParseUUIDPipe);
const _RowId = () => Param('rowId', ParseUUIDPipe);

@ApiTags('cautions')
@Controller('jobs/:id/cautions')
export class CautionsController {
  constructor(private readonly cautions: CautionsService) {}

  @Get()
  list(@Who() who: Actor, @JobId() id: string): Promise<CautionView[]> {
    return this.cautions.list(who, id);
  }

  @Post()
  add(@Who() who: Actor, @JobId() id: string, @Body() body: AcknowledgeRequest): Promise<CautionView> {
    return this.cautions.acknowledge(who, id, body);
  }
}
