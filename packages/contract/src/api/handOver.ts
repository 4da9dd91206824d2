import 'reflect-metadata';
import { DOCUMENT_IDS, type DocumentId } from '@just-balance/core/handOver';
import { UNIT_SYSTEMS, type UnitSystem } from '@just-balance/core/units';
import { IsIn, IsUUID } from 'class-validator';
import { Optional } from '../checks/index.ts';
import { TimeZone } from '../time/index.ts';

export class HandOverParams {
  @IsUUID() id!: string;
  @IsIn(DOCUMENT_IDS) document!: DocumentId;
}

/** Sheets that a hand-over is printed on. */
export const PAPERS = ['A4', 'LETTER'] as const;
export type PaperSize = (typeof PAPERS)[number];

export class HandOverQuery {
  @Optional() @IsIn(UNIT_SYSTEMS) units?: UnitSystem;
  /** On whose clock moments are told; absent: UTC. */
  @Optional() @TimeZone() zone?: string;
  @Optional() @IsIn(PAPERS) paper?: PaperSize;
}
