import type { StationId } from '@just-balance/core/standing';
import 'reflect-metadata';
import { Type } from 'class-transformer';
import { IsIn, IsInt, IsString, IsUUID, Matches, Max, MaxLength, Min, MinLength } from 'class-validator';
import { Moment, Optional } from '../checks/index.ts';
import type { JobListItem } from './jobs.ts';

/** What jobs can be filtered by, each at most once. */
export const LOGBOOK_FILTERS = ['vehicle', 'family', 'code', 'cause', 'part', 'person', 'verdict', 'status'] as const;
export type LogbookFilter = (typeof LOGBOOK_FILTERS)[number];

export class LogbookQuery {
  /** Words that all stand in the job; the last one may be a beginning. */
  @Optional() @IsString() @MaxLength(200) q?: string;
  @Optional() @IsUUID() vehicle?: string;
  @Optional() @IsString() @MaxLength(120) family?: string;
  @Optional() @IsString() @MaxLength(40) code?: string;
  @Optional() @IsString() @MaxLength(60) cause?: string;
  @Optional() @IsString() @MaxLength(120) part?: string;
  @Optional() @IsString() @MaxLength(120) person?: string;
  @Optional() @IsString() @MaxLength(60) verdict?: string;
  @Optional() @IsIn(['open', 'parked', 'closed']) status?: 'open' | 'parked' | 'closed';
  /** Only these jobs, by their ids with commas between. */
  @Optional()
  @Matches(/^[0-9a-f-]{36}(,[0-9a-f-]{36}){0,199}$/i, { message: 'up to 200 ids with commas between' })
  ids?: string;
  /** Opened on or after this day, and before the day after that one. */
  @Optional() @Moment() from?: string;
  @Optional() @Moment() to?: string;
  /** What the last page's `Link` header said. */
  @Optional() @IsString() @MaxLength(60) before?: string;
  @Optional() @IsIn(['newest', 'oldest']) order?: 'newest' | 'oldest';
  @Optional() @Type(() => Number) @IsInt() @Min(1) @Max(200) limit?: number;
}

/** A row of the logbook: that of the board, and what was found. */
export interface LogbookRow extends JobListItem {
  vehicleId: string;
  cause: string | null;
  codes: string[];
}

export interface LogbookCounts {
  /** How many jobs match; of very many only so many are counted. */
  total: number;
  /** There are more than were counted. */
  more: boolean;
  by: Partial<Record<LogbookFilter, { value: string; count: number }[]>>;
}

export class SavedViewRequest {
  @IsString() @MinLength(1) @MaxLength(80) name!: string;
  @IsString() @MaxLength(1000) query!: string;
}

export interface SavedViewView {
  id: string;
  name: string;
  query: string;
}

/** One visit of a vehicle: what its figures were and what became of it. */
export interface VehicleVisit {
  job: string;
  at: string;
  status: 'open' | 'parked' | 'closed';
  /** Where it stands, as board and logbook say it; null: of before that was kept. */
  station: StationId | null;
  causes: string[];
  proven: boolean;
  verdict: string | null;
  cameBackOf: string | null;
  repairs: string[];
  points: { at: string; phase: 'before' | 'after'; totals: { bank: 1 | 2; totalPct: number }[] }[];
}
