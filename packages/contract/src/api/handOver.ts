import 'reflect-metadata';
import { DOCUMENT_IDS, type DocumentId } from '@just-balance/core/handOver';
import { UNIT_SYSTEMS, type UnitSystem } from '@just-balance/core/units';
import { IsIn, IsUUID } from 'class-validator';
import { Optional } from '../checks/index.ts';

export class HandOverParams {
  @IsUUID() id!: string;
  @IsIn(DOCUMENT_IDS) document!: DocumentId;
}

export class HandOverQuery {
  @Optional() @IsIn(UNIT_SYSTEMS) units?: UnitSystem;
}
