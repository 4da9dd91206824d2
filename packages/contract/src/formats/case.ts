import 'reflect-metadata';
import {
  type BankKey,
  type Case,
  type CodeReading,
  type O2Reading,
  OPERATING_POINTS,
  PART_MAKES,
  type Reading,
  type RecentWork,
  type TestResult,
  type TrimReading,
  type VehicleSpec,
} from '@just-balance/core/case';
import {
  ArrayMaxSize,
  Equals,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsObject,
  IsPositive,
  IsString,
  Max,
  MaxLength,
  Min,
  Validate,
  type ValidationArguments,
  ValidatorConstraint,
  type ValidatorConstraintInterface,
} from 'class-validator';
import { Nested, Optional } from '../checks/index.ts';

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
  @Optional() @IsNumber() @Min(0) relativeThrottleIdle?: number;
  @Optional() @IsString() @MaxLength(20) relativeThrottleUnit?: string;
  @Optional() @IsNumber() @Min(0) relativeThrottleIdleDeg?: number;
  @Optional() @IsNumber() @Min(50) @Max(40_000) fuelPressureKPa?: number;
  @Optional() @IsIn(['fixed', 'manifold']) fuelPressureReference?: 'fixed' | 'manifold';
}

export class VehicleSpecDto implements VehicleSpec {
  @IsIn(['petrol', 'diesel']) fuel!: 'petrol' | 'diesel';
  @IsIn(['maf', 'speed-density', 'both']) metering!: 'maf' | 'speed-density' | 'both';
  @Optional() @IsIn(['na', 'turbo']) induction?: 'na' | 'turbo';
  @Optional() @IsIn(['port', 'direct']) injection?: 'port' | 'direct';
  @IsNumber() @Min(0.3) @Max(15) displacementL!: number;
  @IsInt() @Min(1) @Max(16) cylinders!: number;
  @Optional() @IsIn([1, 2]) banks?: 1 | 2;
  @Optional() @IsNumber() @Min(0) @Max(100) ethanolPctCalibrated?: number;
  @Optional() @Nested(() => LimitsDto) limits?: LimitsDto;
}

class AmbientDto {
  @Optional() @IsNumber() @Min(40) @Max(115) baroKPa?: number;
  @Optional() @IsNumber() @Min(-500) @Max(6000) altitudeM?: number;
  @Optional() @IsNumber() @Min(-60) @Max(70) airC?: number;
}

/** What a figure of a reading may be at all, metric; outside it is refused. */
export const READING_RANGES = {
  rpm: [0, 20_000],
  mafGps: [0, 2000],
  mafV: [0, 6],
  mapKPa: [0, 800],
  ectC: [-60, 250],
  iatC: [-60, 250],
  vssKmh: [0, 400],
  baroKPa: [50, 110],
  fuelPct: [0, 100],
  trim: [-100, 100],
  batteryV: [0, 60],
  relativeThrottleDeg: [0, 90],
  relativeThrottlePct: [0, 100],
  lambda: [0.001, 10],
  o2V: [-2, 8],
} as const satisfies Record<string, readonly [number, number]>;

/** A number within its range. */
function InRange([low, high]: readonly [number, number]): PropertyDecorator {
  const parts = [IsNumber(), Min(low), Max(high)];
  return (target, key) => {
    for (const p of parts) p(target, key as string);
  };
}

class TrimDto implements TrimReading {
  @Optional() @InRange(READING_RANGES.trim) stft?: number;
  @Optional() @InRange(READING_RANGES.trim) ltft?: number;
  @Optional() @IsNumber() @Min(0) @Max(100) sd?: number;
  @Optional() @IsInt() @Min(1) n?: number;
}

class PerBankTrimsDto implements Partial<Record<BankKey, TrimDto>> {
  @Optional() @Nested(() => TrimDto) bank1?: TrimDto;
  @Optional() @Nested(() => TrimDto) bank2?: TrimDto;
}

class PerBankLambdaDto {
  @Optional() @IsNumber() @IsPositive() @Max(10) bank1?: number;
  @Optional() @IsNumber() @IsPositive() @Max(10) bank2?: number;
}

class PerBankVoltsDto {
  @Optional() @InRange(READING_RANGES.o2V) bank1?: number;
  @Optional() @InRange(READING_RANGES.o2V) bank2?: number;
}

export const O2_FIELDS: Readonly<Record<string, readonly [number, number]>> = {
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

/** Channels a reading may state the step of. */
const MAX_STEPS = 64;

@ValidatorConstraint({ name: 'numbers' })
class NumberRecord implements ValidatorConstraintInterface {
  validate(value: unknown) {
    const steps = Object.values((value ?? {}) as object);
    return steps.length <= MAX_STEPS && steps.every((v) => typeof v === 'number' && v >= 0);
  }
  defaultMessage() {
    return `every step is a number, 0 or more; at most ${MAX_STEPS} of them`;
  }
}

export class ReadingDto implements Reading {
  @IsIn(OPERATING_POINTS) at!: (typeof OPERATING_POINTS)[number];
  @Optional() @InRange(READING_RANGES.rpm) rpm?: number;
  @Optional() @InRange(READING_RANGES.mafGps) mafGps?: number;
  @Optional() @InRange(READING_RANGES.mafV) mafV?: number;
  @Optional() @InRange(READING_RANGES.mapKPa) mapKPa?: number;
  @Optional() @InRange(READING_RANGES.ectC) ectC?: number;
  @Optional() @InRange(READING_RANGES.iatC) iatC?: number;
  @Optional() @InRange(READING_RANGES.vssKmh) vssKmh?: number;
  @Optional() @InRange(READING_RANGES.baroKPa) baroKPa?: number;
  @Optional() @InRange(READING_RANGES.fuelPct) fuelPct?: number;
  @Optional() @IsBoolean() airCon?: boolean;
  @Optional() @IsIn(['open', 'shut']) recirculation?: 'open' | 'shut';
  @Optional() @IsIn(['closed', 'open']) loop?: 'closed' | 'open';
  @Optional() @Nested(() => PerBankTrimsDto) trims?: PerBankTrimsDto;
  @Optional() @Nested(() => PerBankLambdaDto) lambda?: PerBankLambdaDto;
  @Optional() @Nested(() => PerBankVoltsDto) o2V?: PerBankVoltsDto;
  @Optional() @InRange(READING_RANGES.relativeThrottleDeg) relativeThrottleDeg?: number;
  @Optional() @InRange(READING_RANGES.relativeThrottlePct) relativeThrottlePct?: number;
  @Optional() @IsObject() @Validate(SensorRecord) o2?: Record<string, O2Reading>;
  @Optional() @InRange(READING_RANGES.batteryV) batteryV?: number;
  @Optional() @IsBoolean() neverWarm?: boolean;
  @Optional() @IsBoolean() pressureFollows?: boolean;
  @Optional() @IsNumber() @Min(0) sampleHz?: number;
  @Optional() @IsObject() @Validate(NumberRecord) quantum?: Record<string, number>;
}

class CodeDto implements CodeReading {
  @IsString() @MaxLength(40) code!: string;
  @IsIn(['stored', 'pending', 'permanent']) state!: 'stored' | 'pending' | 'permanent';
}

export class RecentWorkDto implements RecentWork {
  @IsString() @MaxLength(80) part!: string;
  @Optional() @IsNumber() @Min(0) days?: number;
  @Optional() @IsIn(PART_MAKES) make?: RecentWork['make'];
}

export class TestResultDto implements TestResult {
  @IsString() @MaxLength(60) id!: string;
  @Optional() outcome?: string | string[];
  @Optional() @IsObject() values?: Record<string, number | string>;
  @Optional() @IsIn([1, 2]) bank?: 1 | 2;
  @Optional() @IsString() @MaxLength(200) part?: string;
  @Optional() @IsArray() @ArrayMaxSize(16) @IsInt({ each: true }) cylinders?: number[];
}

export class CaseDto implements Case {
  @Equals('just-balance/case') format!: 'just-balance/case';
  @Equals(1) version!: 1;
  @IsString() @MaxLength(200) id!: string;
  @Nested(() => VehicleSpecDto) vehicle!: VehicleSpecDto;
  @Optional() @Nested(() => AmbientDto) ambient?: AmbientDto;
  @Optional()
  @IsArray()
  @ArrayMaxSize(200)
  @Nested(() => RecentWorkDto, { each: true })
  recentWork?: RecentWorkDto[];
  @Optional()
  @IsArray()
  @ArrayMaxSize(200)
  @Nested(() => ReadingDto, { each: true })
  readings?: ReadingDto[];
  @Optional() @IsArray() @ArrayMaxSize(200) @Nested(() => CodeDto, { each: true }) codes?: CodeDto[];
  @Optional() @IsArray() @ArrayMaxSize(200) @IsIn(COMPLAINTS, { each: true }) complaints?: string[];
  @Optional()
  @IsArray()
  @ArrayMaxSize(200)
  @Nested(() => TestResultDto, { each: true })
  tests?: TestResultDto[];
}
