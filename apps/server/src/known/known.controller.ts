import { KnownFigureRequest, type KnownView, UndoRequest } from '@just-balance/contract';
import { Body, Controller, Get, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { KnownService } from './known.service.ts';

const JobId = () => Param('id', ParseUUIDPipe);
const RowId = () => Param('rowId', ParseUUIDPipe);

@ApiTags('known')
@Controller('jobs/:id/known')
export class KnownController {
  constructor(private readonly known: KnownService) {}

  /** Figures that beat physics for this vehicle and its engine family. */
  @Get()
  list(@Who() who: Actor, @JobId() id: string): Promise<KnownView[]> {
    return this.known.list(who, id);
  }

  @Post()
  add(@Who() who: Actor, @JobId() id: string, @Body() body: KnownFigureRequest): Promise<KnownView> {
    return this.known.add(who, id, body);
  }

  @Patch(':rowId')
  undo(@Who() who: Actor, @JobId() id: string, @RowId() rowId: string, @Body() body: UndoRequest): Promise<KnownView> {
    return this.known.undo(who, id, rowId, body);
  }
}
