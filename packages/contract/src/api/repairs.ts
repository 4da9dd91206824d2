import 'reflect-metadata';
import { REPAIR_WORKS, type RepairWork } from '@just-balance/core/procedures';
import { IsIn, IsString, IsUUID, MaxLength, MinLength } from 'class-validator';
import { Optional } from '../checks/index.ts';

export class NewRepairRequest {
  @IsUUID() id!: string;
  @IsString() @MinLength(1) @MaxLength(500) text!: string;
  @Optional() @IsString() @MaxLength(60) fault?: string;
  @Optional() @IsString() @MaxLength(200) part?: string;
  /** What was done to the part; where it is not said, it stands in the text alone. */
  @Optional() @IsIn(REPAIR_WORKS) work?: RepairWork;
  /** The guided work it came of. */
  @Optional() @IsUUID() run?: string;
  @IsIn(['relearn', 'reset']) adaptation!: 'relearn' | 'reset';
}

export interface RepairView {
  id: string;
  rev: number;
  at: string;
  by: string;
  undone: boolean;
  text: string;
  /** What it was for, where somebody said so. */
  fault: string | null;
  /** The cause was put there by an earlier version, from what was likeliest then; it counts for nothing. */
  guessed?: boolean;
  part: string | null;
  work?: RepairWork | null;
  run?: string | null;
  adaptation: 'relearn' | 'reset';
}
