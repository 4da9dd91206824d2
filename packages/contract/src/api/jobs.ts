import 'reflect-metadata';
import type { Ambient } from '@just-balance/core/case';
import type { OrderState } from '@just-balance/core/procedures';
import type { ProofVerdict } from '@just-balance/core/proof';
import type { Wait } from '@just-balance/core/shop';
import type { JobStanding } from '@just-balance/core/standing';
import { Type } from 'class-transformer';
import { IsBoolean, IsIn, IsInt, IsNumber, IsObject, IsString, IsUUID, Max, MaxLength, Min } from 'class-validator';
import { Nested, Optional } from '../checks/index.ts';
import { ComplaintDto } from './complaints.ts';
import { VehicleRequest, type VehicleView } from './vehicles.ts';

export class AmbientRequest {
  @Optional() @IsNumber() @Min(40) @Max(115) baroKPa?: number;
  @Optional() @IsNumber() @Min(-500) @Max(6000) altitudeM?: number;
  @Optional() @IsNumber() @Min(-60) @Max(70) airC?: number;
}

export class NewJobRequest {
  @IsUUID() id!: string;
  @IsUUID() vehicleId!: string;
  @Nested(() => VehicleRequest) vehicle!: VehicleRequest;
  @Nested(() => ComplaintDto) complaint!: ComplaintDto;
  @Optional() @Nested(() => AmbientRequest) ambient?: AmbientRequest;
  @Optional() @IsString() @MaxLength(120) adapter?: string;
}

export class JobPatchRequest {
  @IsInt() @Min(1) rev!: number;
  @Optional() @Nested(() => ComplaintDto) complaint?: ComplaintDto;
  @Optional() @Nested(() => AmbientRequest) ambient?: AmbientRequest;
  @Optional() @IsString() @MaxLength(120) adapter?: string;
  @Optional() @IsIn(['open', 'parked', 'closed']) status?: 'open' | 'parked' | 'closed';
}

/** Which jobs, and from where on: `before` is what the last page's `Link` header said. */
export class JobListQuery {
  @Optional() @IsIn(['open', 'closed', 'all']) status?: 'open' | 'closed' | 'all';
  @Optional() @IsIn(['mine', 'everyone']) whose?: 'mine' | 'everyone';
  @Optional() @IsString() @MaxLength(60) before?: string;
  @Optional() @Type(() => Number) @IsInt() @Min(1) @Max(200) limit?: number;
}

/** What a stored row that cannot be read should have held. */
export class MendRequest {
  @IsObject() data!: Record<string, unknown>;
}

export class UndoRequest {
  @IsInt() @Min(1) rev!: number;
  @IsBoolean() undone!: boolean;
}

export interface EventView {
  id: string;
  at: string;
  by: string;
  kind: string;
  data: Record<string, unknown>;
}

/** A row of the board. */
export interface JobListItem {
  id: string;
  rev: number;
  status: 'open' | 'parked' | 'closed';
  label: string;
  note: string | null;
  /** Number plate; null where none is known. */
  plate: string | null;
  /** The first symptom. */
  symptom: string | null;
  openedAt: string;
  openedBy: string;
  /** The job's head cannot be read as it is stored: open it to mend it. */
  damaged: boolean;
  worst: JobSummary['worst'];
  counts: JobSummary['counts'];
  leading: JobSummary['leading'];
  work: JobSummary['work'];
  verdict: JobSummary['verdict'];
  standing: JobSummary['standing'];
  waits: JobSummary['waits'];
  hands: JobSummary['hands'];
  practice: boolean;
}

/** A part that a work of some job asks for. */
export interface PartOrderView {
  job: string;
  label: string;
  note: string | null;
  /** The run that asks for it. */
  run: string;
  part: string;
  is: OrderState;
  /** Who said so last, and when. */
  by: string;
  at: string;
}

/** A capture that runs now, on whichever job of the shop. */
export interface RunningCapture {
  id: string;
  job: string;
  label: string;
  note: string | null;
  /** The operating point that it is for, or what is recorded freely. */
  at: string;
  since: string;
  /** Whose hands are on the job; null: nobody yet. */
  hands: string | null;
}

/** Open jobs, those of the asker, and all there ever were. */
export interface JobCounts {
  open: number;
  mine: number;
  all: number;
}

/** A stored row that cannot be read: it is neither shown nor judged until it is mended. */
export interface DamageView {
  resource: string;
  id: string;
  problems: { field: string; message: string }[];
  stored: unknown;
}

export interface JobSummary {
  id: string;
  rev: number;
  status: 'open' | 'parked' | 'closed';
  vehicle: VehicleView;
  complaint: ComplaintDto;
  ambient: Ambient;
  adapter: string | null;
  openedAt: string;
  openedBy: string;
  /** Read in from an archive: by whom and when; names up to then are the archive's words. */
  imported: { by: string; at: string } | null;
  /** Worst displayed total of the newest readings, for the board. */
  worst: JobStanding['worst'];
  counts: { records: number; before: number; after: number; tests: number; repairs: number; recordsAfter: number };
  leading: { fault: string; probability: number } | null;
  /** Where it stands, and what comes next. */
  standing: JobStanding;
  work: JobStanding['work'];
  /** Of the repair, once it was read after one. */
  verdict: ProofVerdict | null;
  /** What it waits for, the nearest first. */
  waits: Wait[];
  /** Who worked on it last. */
  hands: string | null;
  /** On a simulated car, to learn. */
  practice: boolean;
}
