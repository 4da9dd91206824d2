import { NewTestRequest, type TestView, UndoRequest } from '@just-balance/contract';
import { Body, Controller, Get, Param, ParseUUIDPipe, Patch, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { TestsService } from './tests.service.ts';

const JobId = () => Param('id', ParseUUIDPipe);
const RowId = () => Param('rowId', ParseUUIDPipe);

@ApiTags('tests')
@Controller('jobs/:id/tests')
export class TestsController {
  constructor(private readonly tests: TestsService) {}

  @Get()
  list(@Who() who: Actor, @JobId() id: string): Promise<TestView[]> {
    return this.tests.list(who, id);
  }

  @Post()
  add(@Who() who: Actor, @JobId() id: string, @Body() body: NewTestRequest): Promise<TestView> {
    return this.tests.add(who, id, body);
  }

  @Patch(':rowId')
  undo(@Who() who: Actor, @JobId() id: string, @RowId() rowId: string, @Body() body: UndoRequest): Promise<TestView> {
    return this.tests.undo(who, id, rowId, body);
  }
}
