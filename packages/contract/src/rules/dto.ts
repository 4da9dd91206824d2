import 'reflect-metadata';
import {
  EXTRA_TESTS,
  type ExtraTest,
  type InspectionRule,
  type RuleBand,
  type RuleExtra,
} from '@just-balance/core/readiness';
import { type Said } from '@just-balance/core/units';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsIn,
  IsInt,
  IsString,
  Matches,
  Max,
  MaxLength,
  Min,
} from 'class-validator';
import { ID, ID_MESSAGE, Nested, Optional, Sentence, Words } from '../checks/index.ts';

class BandDto implements RuleBand {
  @IsIn(['petrol', 'diesel']) fuel!: 'petrol' | 'diesel';
  @IsInt() @Min(1900) @Max(2200) fromYear!: number;
  @Optional() @IsInt() @Min(1900) @Max(2200) toYear?: number;
  @IsInt() @Min(0) @Max(16) allowed!: number;
  @Optional() @IsArray() @ArrayMaxSize(16) @IsString({ each: true }) only?: RuleBand['only'] & string[];
}

class ExtraDto implements RuleExtra {
  @IsIn(['petrol', 'diesel']) fuel!: 'petrol' | 'diesel';
  @IsInt() @Min(1900) @Max(2200) fromYear!: number;
  @Optional() @IsInt() @Min(1900) @Max(2200) toYear?: number;
  @IsIn(EXTRA_TESTS) test!: ExtraTest;
  @Sentence(300) says!: Said;
}

/** `just-balance/inspection-rule`, version 1. Unknown keys are ignored. */
export class InspectionRuleDto implements InspectionRule {
  format!: 'just-balance/inspection-rule';
  version!: 1;
  @Matches(ID, { message: ID_MESSAGE }) @MaxLength(60) id!: string;
  @Words(120) title!: string;
  @Words(120) place!: string;
  @Matches(/^\d{4}(-(0[1-9]|1[0-2])(-(0[1-9]|[12]\d|3[01]))?)?$/, {
    message: 'a year, a month or a day, such as "2020-12"',
  })
  asOf!: string;
  @Words(300) source!: string;
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(60) @Nested(() => BandDto, { each: true }) bands!: BandDto[];
  @Optional() @IsIn(['fails', 'noted']) lamp?: 'fails' | 'noted';
  @Optional() @IsIn(['fail', 'noted']) storedCodes?: 'fail' | 'noted';
  @Optional() @IsIn(['fail', 'may-fail', 'noted']) permanentCodes?: 'fail' | 'may-fail' | 'noted';
  @Optional() @IsArray() @ArrayMaxSize(30) @Nested(() => ExtraDto, { each: true }) extras?: ExtraDto[];
  @Optional()
  @IsArray()
  @ArrayMaxSize(30)
  @IsString({ each: true })
  @MaxLength(200, { each: true })
  visual?: string[];
}
