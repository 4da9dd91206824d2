import 'reflect-metadata';
import { DOCUMENT_IDS, type DocumentId } from '@just-balance/core/handOver';
import {
  CAUTIONS,
  CLEANABLE,
  type CleanablePart,
  type CleaningState,
  type CleanOrReplaceTerms,
  DIRT_SOURCES,
  type Happened,
  type HappenedKind,
  ORDER_STATES,
  type OrderState,
  type Procedure,
  procedureProblems,
  type StepLimits,
} from '@just-balance/core/procedures';
import {
  ArrayMaxSize,
  ArrayMinSize,
  Equals,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsObject,
  IsString,
  IsUUID,
  Max,
  MaxLength,
  Min,
  MinLength,
  ValidateIf,
} from 'class-validator';
import { dtoProblems, type FieldError, Moment, Nested, Optional } from '../checks/index.ts';
import { DriveEntry, InspectionEntry, PlanEntry } from '../drives/dto.ts';
import { ProcedureDto } from '../procedures/dto.ts';
import { MOST_CHARACTERS } from '../procedures/yaml.ts';

/** `null` says that it is not known. */
function OrNull(): PropertyDecorator {
  return ValidateIf((_, value) => value !== null);
}

/** Begins a run: what is followed goes with it, as it was when it was begun. */
export class NewRunRequest {
  @IsUUID() id!: string;
  @Nested(() => ProcedureDto) procedure!: ProcedureDto;
}

/** Every fault of a procedure that came with a request or out of the database. */
export function storedProcedureProblems(json: unknown): FieldError[] {
  const shape = dtoProblems(ProcedureDto, json, { unknownKeys: 'refused' });
  return shape.length > 0 ? shape : procedureProblems(json as Procedure);
}

class TakenDto {
  @Optional() @IsString() @MinLength(1) @MaxLength(120) item?: string;
  @Optional() @IsInt() @Min(1) @Max(200) count?: number;
  @Optional() @IsString() @MaxLength(300) detail?: string;
  @Optional() @IsBoolean() hidden?: boolean;
  @Optional() @IsUUID() photo?: string;
}

/** What a measured value was held against. */
class StepLimitsDto implements StepLimits {
  @Optional() @IsNumber() @Min(-1e6) @Max(1e6) low?: number;
  @Optional() @IsNumber() @Min(-1e6) @Max(1e6) high?: number;
  @OrNull() @IsString() @MinLength(1) @MaxLength(420) whose!: string | null;
}

class LeftDto {
  @IsString() @MinLength(1) @MaxLength(60) item!: string;
  @IsString() @MinLength(1) @MaxLength(300) reason!: string;
}

const KINDS: readonly HappenedKind[] = [
  'done',
  'skipped',
  'reopened',
  'timer',
  'caution',
  'took-off',
  'refitted',
  'mishap',
  'mishap-out',
  'stop',
  'settled',
  'parked',
  'order',
  'took-over',
  'resumed',
  'source',
  'ended',
  'given-up',
];

/** What an event of each kind must say; it may say no more than the fields of `HappenedDto`. */
const NEEDS: Readonly<Record<HappenedKind, readonly (keyof HappenedDto)[]>> = {
  done: ['step', 'round'],
  skipped: ['step', 'round', 'reason'],
  reopened: ['step'],
  timer: ['step', 'round'],
  caution: ['caution', 'step'],
  'took-off': ['taken'],
  refitted: ['item'],
  mishap: ['step', 'what', 'where', 'out'],
  'mishap-out': ['mishap'],
  stop: ['rule'],
  settled: ['dispute', 'keep', 'reason'],
  parked: ['reason', 'toOrder'],
  order: ['part', 'is'],
  'took-over': [],
  resumed: [],
  source: ['source', 'repaired'],
  ended: ['left', 'counted'],
  'given-up': ['reason'],
};

/** What happened in a run, as it is sent; what each kind of it must say stands in `NEEDS`. */
export class HappenedDto {
  @IsIn(KINDS) kind!: HappenedKind;
  @Optional() @IsString() @MinLength(1) @MaxLength(60) step?: string;
  @Optional() @IsInt() @Min(0) @Max(1000) round?: number;
  @Optional() @IsString() @MaxLength(200) answer?: string;
  @Optional() @IsString() @MinLength(1) @MaxLength(120) from?: string;
  @Optional() @IsNumber() @Min(-1e6) @Max(1e6) value?: number;
  @Optional() @Nested(() => StepLimitsDto) limits?: StepLimitsDto;
  @Optional() @IsString() @MaxLength(1000) note?: string;
  @Optional() @IsUUID() photo?: string;
  @Optional() @IsNumber() @Min(0.01) @Max(2000) torqueNm?: number;
  @Optional() @IsString() @MaxLength(200) torqueSource?: string;
  @Optional() @IsString() @MinLength(1) @MaxLength(300) reason?: string;
  @Optional() @IsIn(CAUTIONS.map((c) => c.id)) caution?: string;
  @Optional() @Nested(() => TakenDto) taken?: TakenDto;
  @Optional() @IsString() @MinLength(1) @MaxLength(60) item?: string;
  @Optional() @IsInt() @Min(0) @Max(200) back?: number;
  @Optional() @IsString() @MinLength(1) @MaxLength(200) what?: string;
  @Optional() @IsString() @MinLength(1) @MaxLength(200) where?: string;
  @Optional() @IsBoolean() out?: boolean;
  @Optional() @IsString() @MaxLength(300) next?: string;
  @Optional() @IsString() @MinLength(1) @MaxLength(60) mishap?: string;
  @Optional() @IsString() @MinLength(1) @MaxLength(200) rule?: string;
  /** The event of the answer that does not stand. */
  @Optional() @IsUUID() dispute?: string;
  @Optional() @IsIn(['stands', 'other']) keep?: 'stands' | 'other';
  @Optional()
  @IsArray()
  @ArrayMaxSize(20)
  @IsString({ each: true })
  @MinLength(1, { each: true })
  @MaxLength(120, { each: true })
  toOrder?: string[];
  @Optional() @IsString() @MinLength(1) @MaxLength(120) part?: string;
  @Optional() @IsIn(ORDER_STATES) is?: OrderState;
  @Optional() @IsIn(DIRT_SOURCES.map((s) => s.id)) source?: string;
  @Optional() @IsBoolean() repaired?: boolean;
  @Optional() @IsArray() @ArrayMaxSize(60) @Nested(() => LeftDto, { each: true }) left?: LeftDto[];
  @Optional() @IsBoolean() counted?: boolean;
}

class RunEventDto {
  @IsUUID() id!: string;
  /** When it happened, ms since 1970, by the device's clock. */
  @IsInt() @Min(1_500_000_000_000) @Max(4_000_000_000_000) atMs!: number;
  @Nested(() => HappenedDto) what!: HappenedDto;
}

export class RunEventsRequest {
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(100) @Nested(() => RunEventDto, { each: true }) events!: RunEventDto[];
}

/** What the kind of an event asks for and does not find. */
export function happenedProblems(what: HappenedDto, field: string): FieldError[] {
  const out = NEEDS[what.kind]
    .filter((key) => what[key] === undefined)
    .map((key) => ({ field: `${field}.${key}`, message: `${what.kind} needs it` }));
  if (what.kind === 'took-off' && what.taken && !what.taken.item)
    out.push({ field: `${field}.taken.item`, message: 'say what came off' });
  return out;
}

/** After `happenedProblems` found nothing. */
export function happened(what: HappenedDto): Happened {
  return what as unknown as Happened;
}

/** A part that was fitted, or one that stays; CONTRACT has no format for it. */
export class PartEntry {
  @IsString() @MinLength(1) @MaxLength(120) name!: string;
  @Optional() @IsString() @MaxLength(60) number?: string;
  @Optional() @IsString() @MaxLength(60) supersededBy?: string;
  @IsIn(['original', 'copy', 'used', 'not known']) make!: 'original' | 'copy' | 'used' | 'not known';
  @Optional() @IsNumber() @Min(0) @Max(1_000_000) price?: number;
  @Optional() @IsString() @MaxLength(120) supplier?: string;
  @IsBoolean() oldKept!: boolean;
  @Optional() @IsString() @MaxLength(300) substitute?: string;
}

class TermsDto implements CleanOrReplaceTerms {
  @IsNumber() @Min(0) @Max(100_000) ratePerHour!: number;
  @IsNumber() @Min(0) @Max(100_000) solvent!: number;
  @IsNumber() @Min(0) @Max(10_000) cleanMinutes!: number;
  @IsNumber() @Min(0) @Max(10_000) waitingMinutes!: number;
  @IsNumber() @Min(0) @Max(1) waitingPaid!: number;
  @IsNumber() @Min(0) @Max(1_000_000) partPrice!: number;
  @IsNumber() @Min(0) @Max(10_000) replaceMinutes!: number;
  @IsNumber() @Min(0) @Max(1_000_000) comebackCost!: number;
  @IsNumber() @Min(0) @Max(1) chance!: number;
}

class CleaningStateDto implements CleaningState {
  @IsInt() @Min(0) @Max(50) cleanings!: number;
  @OrNull() @IsNumber() @Min(0) @Max(3_000_000) distanceKm!: number | null;
  @OrNull() @IsIn(DIRT_SOURCES.map((s) => s.id)) source!: string | null;
  @IsBoolean() sourceRepaired!: boolean;
}

/** What was decided for a part, with its sum. */
export class DecisionEntry {
  @IsIn(CLEANABLE.map((c) => c.id)) part!: CleanablePart;
  @IsIn(['clean', 'replace']) chosen!: 'clean' | 'replace';
  @Nested(() => TermsDto) terms!: TermsDto;
  @Nested(() => CleaningStateDto) state!: CleaningStateDto;
  @IsArray() @ArrayMaxSize(20) @IsString({ each: true }) @MaxLength(300, { each: true }) reasons!: string[];
  @Optional() @IsString() @MaxLength(300) note?: string;
}

/** Whether a cleaning has held, as it turned out: what the shop learns from. */
export class OutcomeEntry {
  @IsIn(CLEANABLE.map((c) => c.id)) part!: CleanablePart;
  @IsBoolean() held!: boolean;
}

/** A figure of the vehicle itself, with where it came from. */
export class ValueEntry {
  @IsString() @MinLength(1) @MaxLength(80) quantity!: string;
  @IsNumber() @Min(-1e6) @Max(1e6) value!: number;
  @IsString() @MinLength(1) @MaxLength(20) unit!: string;
  @IsString() @MinLength(1) @MaxLength(200) source!: string;
}

class PairDto {
  @IsString() @MinLength(1) @MaxLength(20) red!: string;
  @IsString() @MinLength(1) @MaxLength(20) black!: string;
  @IsNumber() @Min(-60) @Max(60) volts!: number;
  @IsBoolean() signed!: boolean;
}

/** Pair readings of a connector, as the meter showed them. */
export class PinsEntry {
  @IsString() @MaxLength(80) connector!: string;
  @IsArray()
  @ArrayMinSize(2)
  @ArrayMaxSize(24)
  @IsString({ each: true })
  @MaxLength(20, { each: true })
  pins!: string[];
  @IsNumber() @Min(0) @Max(60) batteryV!: number;
  @IsBoolean() running!: boolean;
  @IsArray() @ArrayMaxSize(200) @Nested(() => PairDto, { each: true }) readings!: PairDto[];
}

class BankLongDto {
  @IsIn([1, 2]) bank!: 1 | 2;
  @IsNumber() longPct!: number;
}

/** What clearing did: written by the server itself. */
export class ResetEntry {
  /** In words, where the vehicle refused. */
  @OrNull() @IsString() refused!: string | null;
  @IsInt() @Min(0) codesBefore!: number;
  @OrNull() @IsInt() @Min(0) codesAfter!: number | null;
  @IsArray() @IsString({ each: true }) openedMonitors!: string[];
  @IsArray() @Nested(() => BankLongDto, { each: true }) before!: BankLongDto[];
  @IsArray() @Nested(() => BankLongDto, { each: true }) after!: BankLongDto[];
  /** The long-term memory was not cleared with the codes; null where it stood near 0, so that it cannot be told. */
  @OrNull() @IsBoolean() adaptationKept!: boolean | null;
}

export class ClearRequest {
  @IsUUID() id!: string;
  /** The person has been told what is lost. */
  @Equals(true) understood!: true;
}

/** Other words for a section of the hand-over; empty ones bring the product's own back. */
export class WordingEntry {
  @IsIn(DOCUMENT_IDS) document!: DocumentId;
  @IsString() @MinLength(1) @MaxLength(30) section!: string;
  @IsString() @MaxLength(4000) text!: string;
  /** What stood there when it was written. */
  @IsString() @MaxLength(20_000) was!: string;
  /** Which wordings were seen by whoever wrote it, by their ids; absent: all there were. */
  @Optional() @IsArray() @ArrayMaxSize(50) @IsUUID('all', { each: true }) over?: string[];
}

/** A day on which somebody looks at the car again. */
export class RecheckEntry {
  @Moment() dueAt!: string;
  @IsString() @MinLength(1) @MaxLength(300) what!: string;
}

/** The car is back with the same trouble: the job before, and what was said of it. */
export class CameBackEntry {
  @IsUUID() job!: string;
  @Optional() @IsString() @MaxLength(500) note?: string;
}

/** Kinds of entries beside the runs, and what each holds. */
export const ENTRY_KINDS = {
  part: PartEntry,
  decision: DecisionEntry,
  outcome: OutcomeEntry,
  value: ValueEntry,
  pins: PinsEntry,
  reset: ResetEntry,
  plan: PlanEntry,
  drive: DriveEntry,
  inspection: InspectionEntry,
  wording: WordingEntry,
  recheck: RecheckEntry,
  cameBack: CameBackEntry,
} as const;
export type EntryKind = keyof typeof ENTRY_KINDS;
export interface EntryData {
  part: PartEntry;
  decision: DecisionEntry;
  outcome: OutcomeEntry;
  value: ValueEntry;
  pins: PinsEntry;
  reset: ResetEntry;
  plan: PlanEntry;
  drive: DriveEntry;
  inspection: InspectionEntry;
  wording: WordingEntry;
  recheck: RecheckEntry;
  cameBack: CameBackEntry;
}

export class NewEntryRequest {
  @IsUUID() id!: string;
  @IsIn(Object.keys(ENTRY_KINDS).filter((k) => k !== 'reset')) kind!: EntryKind;
  @IsObject() data!: Record<string, unknown>;
}

export function entryProblems(kind: EntryKind, data: unknown): FieldError[] {
  return dtoProblems(ENTRY_KINDS[kind] as new () => object, data, { unknownKeys: 'refused' });
}

/** Where a picture belongs, as the query of its upload. */
export class PhotoQuery {
  @Optional() @IsUUID() run?: string;
  @Optional() @IsString() @MaxLength(60) step?: string;
  @Optional() @IsString() @MaxLength(120) label?: string;
}

/** A picture of a good part, kept for the shop beside those of later jobs. */
export class PhotoPatch {
  @IsInt() @Min(1) rev!: number;
  @Optional() @IsString() @MaxLength(120) label?: string;
  @Optional() @IsBoolean() good?: boolean;
  @Optional() @IsBoolean() undone?: boolean;
}

/** What a shop keeps as text of its own: service procedures, drive procedures, inspection rules. */
export const OWN_KINDS = ['service', 'drive', 'rule'] as const;
export type OwnKind = (typeof OWN_KINDS)[number];

/** A procedure of the shop's own. */
export class OwnProcedureRequest {
  @Optional() @IsInt() @Min(1) rev?: number;
  @Nested(() => ProcedureDto) procedure!: ProcedureDto;
  @Optional() @IsString() @MaxLength(60) copiedFrom?: string;
}

/** The same from a file, YAML or JSON. */
export class ProcedureFileRequest {
  @IsUUID() id!: string;
  /** `service` unless said. */
  @Optional() @IsIn(OWN_KINDS) kind?: OwnKind;
  @IsString() @MaxLength(MOST_CHARACTERS) text!: string;
  /** Of the one it changes, by its `id`; absent: it is a new one. */
  @Optional() @IsInt() @Min(1) rev?: number;
  @Optional() @IsString() @MaxLength(60) copiedFrom?: string;
}

/** An earlier version is to hold again: it becomes the newest. */
export class TakeBackRequest {
  @IsInt() @Min(1) rev!: number;
  @IsInt() @Min(1) version!: number;
}
