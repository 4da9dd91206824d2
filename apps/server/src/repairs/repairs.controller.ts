import { NewRepairRequest, type RepairView, UndoRequest } from '@just-balance/contract';
import { Body, Controller, Get, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { RepairsService } from './repairs.service.ts';

const JobId = () => Param('id', ParseUUIDPipe);
const RowId = () => Param('rowId', ParseUUIDPipe);

@ApiTags('repairs')
@Controller('jobs/:id/repairs')
export class RepairsController {
  constructor(private readonly repairs: RepairsService) {}

  @Get()
  list(@Who() who: Actor, @JobId() id: string): Promise<RepairView[]> {
    return this.repairs.list(who, id);
  }

  @Post()
  add(@Who() who: Actor, @JobId() id: string, @Body() body: NewRepairRequest): Promise<RepairView> {
    return this.repairs.add(who, id, body);
  }

  @Patch(':rowId')
  undo(@Who() who: Actor, @JobId() id: string, @RowId() rowId: string, @Body() body: UndoRequest): Promise<RepairView> {
    return this.repairs.undo(who, id, rowId, body);
  }
}
