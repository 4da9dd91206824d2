import 'reflect-metadata';
import { FAULT_BY_ID, TEST_BY_ID } from '@just-balance/core/catalogue';
import type { Settings } from '@just-balance/core/diagnosis';
import { ValidateBy } from 'class-validator';
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

/** What a shop sets for the diagnosis. Unknown fields are ignored. */
export class SettingsDto implements Settings {
  @Optional() @Nested(() => TrimLimitsDto) limits?: TrimLimitsDto;
  @Optional() @amountOf(TEST_BY_ID, 'test') minutes?: Record<string, number>;
  @Optional() @IdList() tools?: string[];
  @Optional() @IdList() hazards?: string[];
  @Optional() @Positive('samples a second, a number above 0') toolHz?: number;
  @Optional() @amountOf(FAULT_BY_ID, 'fault') @SomeWeight() priors?: Record<string, number>;
}
