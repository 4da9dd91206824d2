import 'reflect-metadata';
import { TRAIL_KINDS } from '@just-balance/core/job';
import { type Said } from '@just-balance/core/units';
import { IsIn, IsString, IsUUID, MaxLength } from 'class-validator';
import { Moment, Optional } from '../checks/index.ts';

export class AuditQuery {
  @Optional() @IsUUID() job?: string;
  @Optional() @IsString() @MaxLength(120) person?: string;
  @Optional() @IsIn(TRAIL_KINDS.map((k) => k.id)) kind?: string;
  @Optional() @Moment() from?: string;
  @Optional() @Moment() to?: string;
  @Optional() @IsString() @MaxLength(60) before?: string;
}

/** One line of the history, of a job or of the shop. */
export interface AuditLine {
  id: string;
  at: string;
  by: string;
  kind: string;
  /** Who read it in from an archive, and when; null for what was done here. */
  imported: { by: string; at: string } | null;
  /** As a person reads it. */
  said: Said;
  job: { id: string; label: string } | null;
}

/** Of a customer what a person is known by goes; figures, findings and work stay. */
export class EraseRequest {
  @IsString() @MaxLength(300) reason!: string;
}
