import { Module } from '@nestjs/common';
import { ProceduresController } from './procedures.controller.ts';
import { ProceduresService } from './procedures.service.ts';

/** The shop's own service procedures. */
@Module({ controllers: [ProceduresController], providers: [ProceduresService], exports: [ProceduresService] })
export class ProceduresModule {}
