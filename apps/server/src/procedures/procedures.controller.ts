import { type OwnVersionView, type OwnView, UndoRequest } from '@just-balance/contract';
import {
  OWN_KINDS,
  type OwnKind,
  OwnProcedureRequest,
  ProcedureFileRequest,
  TakeBackRequest,
} from '@just-balance/contract/service';
import { Body, Controller, Get, Param, ParseUUIDPipe, Patch, Post, Put, Query, Res } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { badFields } from '../common/errors.ts';
import { type Actor, Who } from '../common/request.ts';
import type { OwnData } from './kinds.ts';
import { ProceduresService } from './procedures.service.ts';

@ApiTags('procedures')
@Controller('procedures')
export class ProceduresController {
  constructor(private readonly procedures: ProceduresService) {}

  /** The shop's own; ours ship with the program. */
  @Get()
  list(@Who() who: Actor, @Query('kind') kind?: string): Promise<OwnView<OwnData>[]> {
    return this.procedures.list(who, kindOf(kind));
  }

  @Put(':procedureId')
  put(
    @Who() who: Actor,
    @Param('procedureId', ParseUUIDPipe) id: string,
    @Body() body: OwnProcedureRequest,
  ): Promise<OwnView<OwnData>> {
    return this.procedures.put(who, id, body);
  }

  /** From a file; every fault comes back with its line and field. */
  @Post('file')
  fromFile(@Who() who: Actor, @Body() body: ProcedureFileRequest): Promise<OwnView<OwnData>> {
    return this.procedures.fromFile(who, body);
  }

  @Patch(':procedureId')
  undo(
    @Who() who: Actor,
    @Param('procedureId', ParseUUIDPipe) id: string,
    @Body() body: UndoRequest,
  ): Promise<OwnView<OwnData>> {
    return this.procedures.undo(who, id, body);
  }

  /** What it said so far, the newest first. */
  @Get(':procedureId/versions')
  versions(@Who() who: Actor, @Param('procedureId', ParseUUIDPipe) id: string): Promise<OwnVersionView[]> {
    return this.procedures.versions(who, id);
  }

  @Post(':procedureId/take-back')
  takeBack(
    @Who() who: Actor,
    @Param('procedureId', ParseUUIDPipe) id: string,
    @Body() body: TakeBackRequest,
  ): Promise<OwnView<OwnData>> {
    return this.procedures.takeBack(who, id, body);
  }

  /** As a YAML file. */
  @Get(':procedureId/file')
  async file(@Who() who: Actor, @Param('procedureId', ParseUUIDPipe) id: string, @Res() res: Response): Promise<void> {
    const { name, text } = await this.procedures.file(who, id);
    res.setHeader('content-type', 'application/yaml; charset=utf-8');
    res.setHeader('content-disposition', `attachment; filename="${name}.yaml"`);
    res.end(text);
  }

  /** One of ours, by its own id, as a YAML file. */
  @Get('ours/:slug')
  ours(@Param('slug') slug: string, @Res() res: Response, @Query('kind') kind?: string): void {
    const { name, text } = this.procedures.ours(kindOf(kind), slug);
    res.setHeader('content-type', 'application/yaml; charset=utf-8');
    res.setHeader('content-disposition', `attachment; filename="${name}.yaml"`);
    res.end(text);
  }
}

/** Service procedures unless another kind is asked for. */
function kindOf(asked: string | undefined): OwnKind {
  if (asked === undefined) return 'service';
  const kind = OWN_KINDS.find((k) => k === asked);
  if (!kind) throw badFields([{ field: 'kind', message: OWN_KINDS.join(', ') }]);
  return kind;
}
