import 'reflect-metadata';
import { IsBoolean, IsIn, IsNumber, IsString, Max, MaxLength, Min } from 'class-validator';
import { Nested, Optional } from '../checks/index.ts';
import { VehicleRequest } from './vehicles.ts';

export const BAY_COMMANDS = [
  'key',
  'koeo',
  'idle',
  'hold',
  'speed',
  'full-load',
  'snap',
  'coast',
  'fault',
  'repair',
  'work',
  'warm',
  'cold',
  'soak',
  'settle',
  'vehicle',
  'ambient',
  'rate',
  'step',
  'script',
  'degrade',
  'test',
  'pins',
] as const;

/** How bad the simulated link is. */
export class DegradationDto {
  @Optional() @IsNumber() @Min(0) @Max(0.5) dropShare?: number;
  @Optional() @IsNumber() @Min(0) @Max(0.5) corruptShare?: number;
  @Optional() @IsNumber() @Min(0) @Max(500) delayMs?: number;
  @Optional() @IsBoolean() brownOut?: boolean;
}

/** What the bay panel may do to a simulated vehicle. */
export class BayCommand {
  @IsIn(BAY_COMMANDS) command!: (typeof BAY_COMMANDS)[number];
  @Optional() @IsString() @MaxLength(40) fault?: string;
  @Optional() @IsNumber() @Min(-100) @Max(50_000) severity?: number;
  @Optional() @IsIn([1, 2]) faultBank?: 1 | 2;
  /** Work on a part of it: clean, replace, refit, refit-backwards, refit-without-ring, throttle-relearn. */
  @Optional() @IsString() @MaxLength(30) work?: string;
  @Optional() @IsString() @MaxLength(30) part?: string;
  @Optional() @IsBoolean() also?: boolean;
  @Optional() @IsBoolean() on?: boolean;
  @Optional() @IsBoolean() ac?: boolean;
  @Optional() @IsNumber() @Min(0) @Max(7000) rpm?: number;
  @Optional() @IsNumber() @Min(0) @Max(200) kmh?: number;
  @Optional() @IsNumber() @Min(0) @Max(500) hours?: number;
  @Optional() @IsString() @MaxLength(40) vehicle?: string;
  @Optional() @IsNumber() @Min(40) @Max(115) baroKPa?: number;
  @Optional() @IsNumber() @Min(-500) @Max(6000) altitudeM?: number;
  @Optional() @IsNumber() @Min(-60) @Max(70) airC?: number;
  @Optional() @IsNumber() @Min(0) @Max(100) rate?: number;
  @Optional() @IsNumber() @Min(0) @Max(3600) seconds?: number;
  @Optional() @IsString() @MaxLength(40) test?: string;
  @Optional() @IsString() @MaxLength(40) script?: string;
  @Optional() @Nested(() => DegradationDto) degradation?: DegradationDto;
}

export interface BayView {
  bay: number;
  vehicleId: string;
  /** What may be chosen to stand in the bay. */
  fleet: { id: string; label: string }[];
  vehicle: VehicleRequest;
  key: boolean;
  rpm: number;
  kmh: number;
  target: string;
  /** Road scripts to choose from, and the one being driven. */
  scripts: { id: string; label: string }[];
  script: string | null;
  closedLoop: boolean;
  ectC: number;
  /** Simulated seconds a second; 0 paused. */
  rate: number;
  degradation: { dropShare: number; corruptShare: number; delayMs: number; brownOut: boolean };
  fault: { id: string; severity: number; bank?: 1 | 2 } | null;
  faultsIn: { id: string; severity: number; bank?: 1 | 2 }[];
  faults: { id: string; label: string; unit: string; low: number; high: number; typical: number; perBank: boolean }[];
  tests: string[];
  baroKPa: number;
  airC: number;
  /** What a bench test or a meter showed; only in the answer to it. */
  result?: BenchTestResult | { pin: number; volts: number }[];
}

/** A bench test on a simulated vehicle, answered from its physics; where a person looks, with the chance of a wrong look. */
export interface BenchTestResult {
  test: string;
  outcome?: string;
  values?: Record<string, number | string>;
  bank?: 1 | 2;
  chanceOfWrong: number;
}
