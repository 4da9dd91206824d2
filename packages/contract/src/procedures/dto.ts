import 'reflect-metadata';
import { OPERATING_POINTS, type OperatingPoint, READ_FIGURES, type ReadFigure } from '@just-balance/core/case';
import { FAULT_BY_ID } from '@just-balance/core/catalogue';
import {
  AFTERWARDS,
  type Answer,
  CAUTIONS,
  type Finds,
  type FirstOfAll,
  type Leads,
  PROCEDURE_KINDS,
  type Procedure,
  type ProcedureKind,
  type ProcedureStep,
  STEP_KINDS,
  type StepKind,
  type StopRule,
} from '@just-balance/core/procedures';
import { ROLES, type Role, type Said } from '@just-balance/core/units';
import {
  ArrayMaxSize,
  ArrayMinSize,
  Equals,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsString,
  Matches,
  Max,
  MaxLength,
  Min,
  MinLength,
  ValidateBy,
} from 'class-validator';
import { ID, ID_MESSAGE, Nested, Optional, Positive, Sentence, Words } from '../checks/index.ts';

const CAUTION_IDS = CAUTIONS.map((c) => c.id);

/** A list of such texts. */
function ListOfWords(many: number, most = 300): PropertyDecorator {
  const each = { each: true };
  const parts = [IsArray(), ArrayMaxSize(many), IsString(each), MinLength(1, each), MaxLength(most, each)];
  return (target, key) => {
    for (const p of parts) p(target, key as string);
  };
}

/** One of these, or a list of them. */
function OneOrMore(values: readonly string[]): PropertyDecorator {
  return ValidateBy({
    name: 'oneOrMore',
    validator: {
      validate: (v) => {
        const list: unknown[] = Array.isArray(v) ? v : [v];
        return list.length > 0 && list.every((x) => values.includes(x as string));
      },
      defaultMessage: () => `one or more of ${values.join(', ')}`,
    },
  });
}

class ForDto {
  @Optional()
  @IsArray()
  @ArrayMaxSize(60)
  @IsIn([...FAULT_BY_ID.keys()], { each: true, message: 'a list of faults of the catalogue' })
  faults?: string[];
  @Optional() @ListOfWords(60, 80) parts?: string[];
  @Optional() @OneOrMore(['petrol', 'diesel']) fuel?: string | string[];
  @Optional() @OneOrMore(['maf', 'speed-density', 'both']) metering?: string | string[];
  @Optional() @OneOrMore(['na', 'turbo']) induction?: string | string[];
}

class FindsDto implements Finds {
  @Words(60) test!: string;
  @Words(60) outcome!: string;
}

class LeadsDto implements Leads {
  @Optional() @Words(200) stopRule?: string;
  @Optional() @Nested(() => FindsDto) finds?: FindsDto;
  @Optional() @IsBoolean() own?: boolean;
}

class AnswerDto extends LeadsDto implements Answer {
  @Words(200) text!: string;
  @Optional() @Words(60) goTo?: string;
  @Optional() @ListOfWords(60, 60) without?: string[];
  @Optional() @Words(60) source?: string;
  @Optional() @IsBoolean() nothing?: boolean;
}

class StepDto implements ProcedureStep {
  @Matches(ID, { message: ID_MESSAGE }) @MaxLength(60) id!: string;
  @IsIn(STEP_KINDS) kind!: StepKind;
  @Sentence(800) text!: Said;
  @Optional() @Words(800) why?: string;
  @Optional() @IsIn(CAUTION_IDS, { message: 'a caution of the table' }) caution?: string;
  @Optional() @Words(800) spoken?: string;
  @Optional() @IsArray() @ArrayMinSize(1) @ArrayMaxSize(12) @Nested(() => AnswerDto, { each: true }) answers?: Answer[];
  @Optional() @Words(120) quantity?: string;
  @Optional() @Words(20) unit?: string;
  @Optional() @IsIn(ROLES) role?: Role;
  @Optional() @IsNumber() @Min(-1e6) @Max(1e6) low?: number;
  @Optional() @IsNumber() @Min(-1e6) @Max(1e6) high?: number;
  @Optional() @Nested(() => LeadsDto) within?: LeadsDto;
  @Optional() @Nested(() => LeadsDto) below?: LeadsDto;
  @Optional() @Nested(() => LeadsDto) above?: LeadsDto;
  @Optional() @IsInt() @Min(1) @Max(86_400) seconds?: number;
  @Optional() @Words(120) item?: string;
  @Optional() @IsInt() @Min(1) @Max(200) count?: number;
  @Optional() @Words(300) detail?: string;
  @Optional() @Positive('newton metres, a number above 0') torqueNm?: number;
  @Optional() @ListOfWords(60, 80) sequence?: string[];
  @Optional() @IsIn(OPERATING_POINTS) at?: OperatingPoint;
  @Optional() @IsIn(READ_FIGURES) figure?: ReadFigure;
}

class StopRuleDto implements StopRule {
  @Words(200) if!: string;
  // biome-ignore lint/suspicious/noThenProperty: the format's own key; no promise is made of it
  @Words(300) then!: string;
  @Words(500) why!: string;
  @Optional() @Nested(() => FindsDto) finds?: FindsDto;
}

class PartDto {
  @Words(120) name!: string;
  @Optional() @IsBoolean() oneTime?: boolean;
}

class FirstDto implements FirstOfAll {
  @Words(120) what!: string;
  @ListOfWords(20, 60) tests!: string[];
}

/** `just-balance/procedure`, version 1. Unknown keys are errors. */
export class ProcedureDto implements Procedure {
  @Equals('just-balance/procedure') format!: 'just-balance/procedure';
  @Equals(1) version!: 1;
  @Matches(ID, { message: ID_MESSAGE }) @MaxLength(60) id!: string;
  @Words(120) title!: string;
  @IsIn(PROCEDURE_KINDS) kind!: ProcedureKind;
  @Words(300) source!: string;
  @Optional() @Nested(() => ForDto) for?: ForDto;
  @Words(800) purpose!: string;
  @IsArray() @ArrayMaxSize(20) @Sentence(300, { each: true }) when!: Said[];
  @IsArray() @ArrayMaxSize(20) @Sentence(300, { each: true }) notWhen!: Said[];
  @Optional() @IsArray() @ArrayMaxSize(20) @Nested(() => FirstDto, { each: true }) first?: FirstDto[];
  @IsNumber() @Min(0) @Max(1440) minutes!: number;
  @ListOfWords(60, 120) tools!: string[];
  @ListOfWords(60, 120) materials!: string[];
  @IsArray() @ArrayMaxSize(60) @Nested(() => PartDto, { each: true }) parts!: PartDto[];
  @IsArray() @ArrayMaxSize(30) @IsIn(CAUTION_IDS, { each: true, message: 'cautions of the table' }) cautions!: string[];
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(200) @Nested(() => StepDto, { each: true }) steps!: StepDto[];
  @IsArray() @ArrayMaxSize(30) @Nested(() => StopRuleDto, { each: true }) stopRules!: StopRuleDto[];
  @IsIn(AFTERWARDS) afterwards!: (typeof AFTERWARDS)[number];
  @IsArray() @ArrayMaxSize(10) @IsIn(OPERATING_POINTS, { each: true }) prove!: OperatingPoint[];
}
