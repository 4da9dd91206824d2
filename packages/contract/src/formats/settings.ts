import 'reflect-metadata';
import { FAULT_BY_ID, TEST_BY_ID } from '@just-balance/core/catalogue';
import type { Settings } from '@just-balance/core/diagnosis';
import type { Labour, Letterhead } from '@just-balance/core/handOver';
import type { LearningChoice } from '@just-balance/core/shop';
import { IsBoolean, IsNumber, IsString, Matches, Max, MaxLength, Min, ValidateBy } from 'class-validator';
import { ByKey, IdList, Nested, NotAbove, Optional, Positive } from '../checks/index.ts';

/** A number from 0 on for ids of a catalogue. */
function amountOf(known: ReadonlyMap<string, unknown>, what: string): PropertyDecorator {
  return ByKey((id, v) => {
    if (!known.has(id)) return `unknown ${what} "${id}"`;
    return typeof v === 'number' && Number.isFinite(v) && v >= 0 ? null : 'a number, 0 or more';
  });
}

/** Something must be left that may be the cause. */
function SomeWeight(): PropertyDecorator {
  return ValidateBy({
    name: 'someWeight',
    validator: {
      validate: (priors) =>
        [...FAULT_BY_ID.keys()].some((id) => (priors as Record<string, unknown> | null)?.[id] !== 0),
      defaultMessage: () => 'every fault weighs 0: nothing is left to be the cause',
    },
  });
}

class TrimLimitsDto {
  @Optional() @Positive('a number above 0') @NotAbove('actPct', 'not above the act limit') watchPct?: number;
  @Optional() @Positive('a number above 0') actPct?: number;
}

/** Two factors, each from a tenth to ten. */
function factorsProblem(v: unknown): string | null {
  const { hits, alarms } = (v ?? {}) as { hits?: unknown; alarms?: unknown };
  const fits = (x: unknown) => typeof x === 'number' && x >= 0.1 && x <= 10;
  return fits(hits) && fits(alarms) ? null : 'hits and alarms: factors from 0.1 to 10';
}

class LearningDto implements LearningChoice {
  @Optional() @IsBoolean() knownGood?: boolean;
  @Optional() @IsBoolean() priors?: boolean;
  @Optional() @IsBoolean() tests?: boolean;
}

class PlaceDto {
  /** Where the shop stands, m. */
  @Optional() @IsNumber() @Min(-500) @Max(9000) altitudeM?: number;
  /** The inspection rule that holds there, by its id: it is asked first. */
  @Optional() @IsString() @MaxLength(60) rule?: string;
}

/** At most as long as a part's name in a job. */
function priceProblem(name: string, v: unknown): string | null {
  if (name.trim() === '' || name.length > 120 || name !== name.trim().toLowerCase())
    return 'the name of a part in small letters, at most 120 of them';
  return typeof v === 'number' && v >= 0 && v <= 1e6 ? null : 'a price from 0 to 1,000,000';
}

class LabourDto implements Labour {
  @Positive('an hour, a number above 0') @Max(100_000) perHour!: number;
  /** Prices of parts by name, small letters. */
  @Optional() @ByKey(priceProblem) parts?: Record<string, number>;
  @Matches(/^[A-Z]{3}$/, { message: 'three letters of a currency, as EUR (ISO 4217)' }) currency!: string;
}

class LetterheadDto implements Letterhead {
  @Optional() @IsString() @MaxLength(80) does?: string;
  @Optional() @IsString() @MaxLength(120) address?: string;
  @Optional() @IsString() @MaxLength(60) phone?: string;
}

/** What a shop sets for the diagnosis. Unknown fields are ignored. */
export class SettingsDto implements Settings {
  @Optional() @Nested(() => TrimLimitsDto) limits?: TrimLimitsDto;
  @Optional() @amountOf(TEST_BY_ID, 'test') minutes?: Record<string, number>;
  @Optional() @IdList() tools?: string[];
  @Optional() @IdList() hazards?: string[];
  @Optional() @Positive('samples a second, a number above 0') toolHz?: number;
  @Optional()
  @ByKey((id, v) => (TEST_BY_ID.has(id) ? factorsProblem(v) : `unknown test "${id}"`))
  reliability?: Record<string, { hits: number; alarms: number }>;
  /** What of the shop's own learning is used; nothing unless it is chosen. */
  @Optional() @Nested(() => LearningDto) learning?: LearningDto;
  /** Where the shop stands: a new job starts with it. */
  @Optional() @Nested(() => PlaceDto) place?: PlaceDto;
  /** What an hour and parts cost: the record of a job says what its minutes and its parts come to. */
  @Optional() @Nested(() => LabourDto) labour?: LabourDto;
  /** What stands under the shop's name on its papers. */
  @Optional() @Nested(() => LetterheadDto) letterhead?: LetterheadDto;
  @Optional() @amountOf(FAULT_BY_ID, 'fault') @SomeWeight() priors?: Record<string, number>;
}
