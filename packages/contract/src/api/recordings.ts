import 'reflect-metadata';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  IsArray,
  IsIn,
  IsInt,
  IsNumber,
  IsString,
  IsUUID,
  Matches,
  Max,
  MaxLength,
  Min,
  MinLength,
} from 'class-validator';
import { ByKey, Moment, Nested, Optional } from '../checks/index.ts';
import { ReadingDto } from '../formats/index.ts';
import type { CaptureView } from './captures.ts';
import { PHASES, type Phase } from './phase.ts';

/** What reading a file gave: kept with the import, so that a partial one says what was left out. */
export class ImportSummary {
  @IsInt() @Min(0) rows!: number;
  @IsInt() @Min(0) problemCount!: number;
  @IsArray() @ArrayMaxSize(50) @IsString({ each: true }) @MaxLength(300, { each: true }) problems!: string[];
  @IsArray() @ArrayMaxSize(500) @IsString({ each: true }) @MaxLength(300, { each: true }) leftOut!: string[];
}

export class NewImportRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  @IsString() @MinLength(1) @MaxLength(200) name!: string;
  @Optional() @Moment() startedAt?: string;
  @Nested(() => ImportSummary) summary!: ImportSummary;
}

/** One channel's place in an import, in the address beside its bytes. */
export class ColumnQuery {
  @Type(() => Number) @IsInt() @Min(0) @Max(999) part!: number;
  @IsString() @MaxLength(20) unit!: string;
  @Optional() @Type(() => Number) @IsNumber() @Min(0) quantum?: number;
}

export class MarkDto {
  @IsString() @MinLength(1) @MaxLength(60) at!: string;
  @IsNumber() @Min(-1e9) @Max(1e9) from!: number;
  @IsNumber() @Min(-1e9) @Max(1e9) to!: number;
}

export class ImportedReadingDto {
  @IsUUID() id!: string;
  @Optional() @IsString() @MaxLength(200) doubtful?: string;
  @Nested(() => ReadingDto) reading!: ReadingDto;
}

const wholeParts = (_: string, n: unknown) =>
  Number.isInteger(n) && (n as number) >= 1 && (n as number) <= 1000 ? null : 'the number of its parts, 1 to 1,000';

/** Closes an import: the parts of every channel that must be there, marks, and the readings taken from it. */
export class FinishImportRequest {
  @ByKey(wholeParts) parts!: Record<string, number>;
  @IsArray() @ArrayMaxSize(200) @Nested(() => MarkDto, { each: true }) marks!: MarkDto[];
  @IsArray()
  @ArrayMaxSize(40)
  @Nested(() => ImportedReadingDto, { each: true })
  readings!: ImportedReadingDto[];
}

export interface ChannelView {
  id: string;
  unit: string;
  quantum: number | null;
  kind: 'number' | 'text';
  n: number;
  fromS: number;
  toS: number;
  /** Parts its bytes come in; `GET …/columns/ID?part=K`. */
  parts: number;
}

/** A capture as a recording: its channels, the gaps in it, its marks. Times in s from its start. */
export interface RecordingView extends CaptureView {
  durationS: number;
  channels: ChannelView[];
  gapSpans: { from: number; to: number }[];
  /** Frames that did not count while it was captured, by “unit: reason”. */
  setAside: Record<string, number>;
  marks: { at: string; from: number; to: number }[];
  summary: ImportSummary | null;
  /** Frames of the bus that are kept beside its values, and those that were more than is kept; null where none are. */
  onTheBus: { frames: number; lost: number } | null;
}

/** The most columns of a header set that are remembered as something. [house] */
const MOST_REMEMBERED = 3000;
const ROLE_KINDS = ['time', 'channel', 'loop', 'name', 'value', 'unit'] as const;

/** One column, or one channel name of the long layout, with what it is read as; all others are left out. */
export class ColumnRoleDto {
  @Optional() @IsInt() @Min(0) @Max(100_000) column?: number;
  @Optional() @IsString() @MaxLength(300) name?: string;
  @IsIn(ROLE_KINDS) kind!: (typeof ROLE_KINDS)[number];
  @Optional() @IsString() @MaxLength(60) id?: string;
  @Optional() @IsString() @MaxLength(20) unit?: string;
  @Optional() @IsString() @MaxLength(20) from?: string;
}

/** Which tool's table: its headers, joined by the unit separator (U+001F). */
export class LayoutQuery {
  @IsString() @MinLength(1) @MaxLength(900_000) headers!: string;
}

/** How tables with these headers are read in this shop from now on. */
export class LayoutRequest {
  /** The headers as in `LayoutQuery`; of a layout that comes from another shop their SHA-256, hex, stands in their place. */
  @Optional() @IsString() @MinLength(1) @MaxLength(900_000) headers?: string;
  @Optional() @Matches(/^[0-9a-f]{64}$/, { message: 'a SHA-256, 64 hex digits' }) hash?: string;
  @IsIn(['wide', 'long']) layout!: 'wide' | 'long';
  @IsArray() @ArrayMaxSize(MOST_REMEMBERED) @Nested(() => ColumnRoleDto, { each: true }) roles!: ColumnRoleDto[];
}

/** A layout as it is kept, and goes from shop to shop: by the SHA-256 of its headers. */
export interface KeptLayoutView extends LayoutView {
  hash: string;
}

export interface LayoutView {
  layout: 'wide' | 'long';
  roles: ColumnRoleDto[];
  by: string;
}
