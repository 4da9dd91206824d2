import 'reflect-metadata';
import type {
  BankKey,
  Case,
  CodeReading,
  O2Reading,
  Reading,
  RecentWork,
  TestResult,
  TrimReading,
  VehicleSpec,
} from '@just-balance/core/diagnosis';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  Equals,
  IsArray,
  IsIn,
  IsInt,
  IsNumber,
  IsObject,
  IsOptional,
  IsPositive,
  IsString,
  Max,
  MaxLength,
  Min,
  Validate,
  ValidateNested,
  type ValidationArguments,
  ValidatorConstraint,
  type ValidatorConstraintInterface,
} from 'class-validator';

/** Operating points a reading may be taken at. */
export const POINTS = [
  'koeo',
  'cold-idle',
  'idle',
  'idle-ac',
  'hold-2500',
  'road-load',
  'full-load',
  'snap',
  'boost',
  'decel',
] as const;
export const COMPLAINTS = [
  'rough-idle',
  'misfire-felt',
  'stall',
  'stall-after-start',
  'hard-start-cold',
  'hard-start-hot',
  'high-idle',
  'hesitation',
  'low-power',
  'limp-mode',
  'surge',
  'high-consumption',
  'smoke',
  'fuel-smell',
  'noise',
  'lamp-only',
  'failed-inspection',
  'none',
] as const;

class LimitsDto {
  @IsOptional() @IsNumber() @Min(0) relativeThrottleIdle?: number;
  @IsOptional() @IsString() relativeThrottleUnit?: string;
  @IsOptional() @IsNumber() @Min(0) relativeThrottleIdleDeg?: number;
  @IsOptional() @IsNumber() @Min(50) @Max(40_000) fuelPressureKPa?: number;
  @IsOptional() @IsIn(['fixed', 'manifold']) fuelPressureReference?: 'fixed' | 'manifold';
}

export class VehicleSpecDto implements VehicleSpec {
  @IsIn(['petrol', 'diesel']) fuel!: 'petrol' | 'diesel';
  @IsIn(['maf', 'speed-density', 'both']) metering!: 'maf' | 'speed-density' | 'both';
  @IsOptional() @IsIn(['na', 'turbo']) induction?: 'na' | 'turbo';
  @IsOptional() @IsIn(['port', 'direct']) injection?: 'port' | 'direct';
  @IsNumber() @Min(0.3) @Max(15) displacementL!: number;
  @IsInt() @Min(1) @Max(16) cylinders!: number;
  @IsOptional() @IsIn([1, 2]) banks?: 1 | 2;
  @IsOptional() @IsNumber() @Min(0) @Max(100) ethanolPctCalibrated?: number;
  @IsOptional() @ValidateNested() @Type(() => LimitsDto) limits?: LimitsDto;
}

class AmbientDto {
  @IsOptional() @IsNumber() @Min(40) @Max(115) baroKPa?: number;
  @IsOptional() @IsNumber() @Min(-500) @Max(6000) altitudeM?: number;
  @IsOptional() @IsNumber() @Min(-60) @Max(70) airC?: number;
}

class TrimDto implements TrimReading {
  @IsOptional() @IsNumber() @Min(-100) @Max(100) stft?: number;
  @IsOptional() @IsNumber() @Min(-100) @Max(100) ltft?: number;
  @IsOptional() @IsNumber() @Min(0) @Max(100) sd?: number;
  @IsOptional() @IsInt() @Min(1) n?: number;
}

class PerBankTrimsDto implements Partial<Record<BankKey, TrimDto>> {
  @IsOptional() @ValidateNested() @Type(() => TrimDto) bank1?: TrimDto;
  @IsOptional() @ValidateNested() @Type(() => TrimDto) bank2?: TrimDto;
}

class PerBankLambdaDto {
  @IsOptional() @IsNumber() @IsPositive() @Max(10) bank1?: number;
  @IsOptional() @IsNumber() @IsPositive() @Max(10) bank2?: number;
}

class PerBankVoltsDto {
  @IsOptional() @IsNumber() @Min(-2) @Max(8) bank1?: number;
  @IsOptional() @IsNumber() @Min(-2) @Max(8) bank2?: number;
}

const O2_FIELDS: Readonly<Record<string, readonly [number, number]>> = {
  crossingsPer10s: [0, 1000],
  leanToRichMs: [0, 60_000],
  richToLeanMs: [0, 60_000],
  minV: [-2, 8],
  maxV: [-2, 8],
};

/** Oxygen-sensor figures by sensor, `bank1s1` and so on: what is wrong first, or null. */
function sensorProblem(o2: unknown): string | null {
  for (const [key, o] of Object.entries((o2 ?? {}) as Record<string, unknown>)) {
    if (!/^bank[12]s[1-4]$/.test(key)) return `${key} is not a sensor: bank1s1, bank1s2, bank2s1 …`;
    if (o === null || typeof o !== 'object') return `${key} is not an object`;
    for (const [field, [low, high]] of Object.entries(O2_FIELDS)) {
      const v = (o as Record<string, unknown>)[field];
      if (v !== undefined && !(typeof v === 'number' && v >= low && v <= high))
        return `${key}.${field} must be a number, ${low} to ${high}`;
    }
  }
  return null;
}

@ValidatorConstraint({ name: 'sensors' })
class SensorRecord implements ValidatorConstraintInterface {
  validate(value: unknown) {
    return sensorProblem(value) === null;
  }
  defaultMessage(args?: ValidationArguments) {
    return sensorProblem(args?.value) ?? 'not oxygen-sensor figures';
  }
}

@ValidatorConstraint({ name: 'numbers' })
class NumberRecord implements ValidatorConstraintInterface {
  validate(value: unknown) {
    return Object.values((value ?? {}) as object).every((v) => typeof v === 'number' && v >= 0);
  }
  defaultMessage() {
    return 'every step is a number, 0 or more';
  }
}

export class ReadingDto implements Reading {
  @IsIn(POINTS) at!: (typeof POINTS)[number];
  @IsOptional() @IsNumber() @Min(0) @Max(20_000) rpm?: number;
  @IsOptional() @IsNumber() @Min(0) @Max(2000) mafGps?: number;
  @IsOptional() @IsNumber() @Min(0) @Max(800) mapKPa?: number;
  @IsOptional() @IsNumber() @Min(-60) @Max(250) ectC?: number;
  @IsOptional() @IsNumber() @Min(-60) @Max(250) iatC?: number;
  @IsOptional() @IsIn(['closed', 'open']) loop?: 'closed' | 'open';
  @IsOptional() @ValidateNested() @Type(() => PerBankTrimsDto) trims?: PerBankTrimsDto;
  @IsOptional() @ValidateNested() @Type(() => PerBankLambdaDto) lambda?: PerBankLambdaDto;
  @IsOptional() @ValidateNested() @Type(() => PerBankVoltsDto) o2V?: PerBankVoltsDto;
  @IsOptional() @IsNumber() @Min(0) @Max(90) relativeThrottleDeg?: number;
  @IsOptional() @IsNumber() @Min(0) @Max(100) relativeThrottlePct?: number;
  @IsOptional() @IsObject() @Validate(SensorRecord) o2?: Record<string, O2Reading>;
  @IsOptional() @IsNumber() @Min(0) @Max(60) batteryV?: number;
  @IsOptional() @IsNumber() @Min(0) sampleHz?: number;
  @IsOptional() @IsObject() @Validate(NumberRecord) quantum?: Record<string, number>;
}

class CodeDto implements CodeReading {
  @IsString() @MaxLength(40) code!: string;
  @IsIn(['stored', 'pending', 'permanent']) state!: 'stored' | 'pending' | 'permanent';
}

export class RecentWorkDto implements RecentWork {
  @IsString() @MaxLength(80) part!: string;
  @IsOptional() @IsNumber() @Min(0) days?: number;
}

export class TestResultDto implements TestResult {
  @IsString() id!: string;
  @IsOptional() outcome?: string | string[];
  @IsOptional() @IsObject() values?: Record<string, number | string>;
  @IsOptional() @IsIn([1, 2]) bank?: 1 | 2;
  @IsOptional() @IsString() part?: string;
  @IsOptional() @IsArray() cylinders?: number[];
}

export class CaseDto implements Case {
  @Equals('just-balance/case') format!: 'just-balance/case';
  @Equals(1) version!: 1;
  @IsString() @MaxLength(200) id!: string;
  @ValidateNested() @Type(() => VehicleSpecDto) vehicle!: VehicleSpecDto;
  @IsOptional() @ValidateNested() @Type(() => AmbientDto) ambient?: AmbientDto;
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(200)
  @ValidateNested({ each: true })
  @Type(() => RecentWorkDto)
  recentWork?: RecentWorkDto[];
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(200)
  @ValidateNested({ each: true })
  @Type(() => ReadingDto)
  readings?: ReadingDto[];
  @IsOptional() @IsArray() @ArrayMaxSize(200) @ValidateNested({ each: true }) @Type(() => CodeDto) codes?: CodeDto[];
  @IsOptional() @IsArray() @IsIn(COMPLAINTS, { each: true }) complaints?: string[];
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(200)
  @ValidateNested({ each: true })
  @Type(() => TestResultDto)
  tests?: TestResultDto[];
}
