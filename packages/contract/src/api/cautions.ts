import 'reflect-metadata';
import { IsString, IsUUID, MaxLength } from 'class-validator';

export class AcknowledgeRequest {
  @IsUUID() id!: string;
  @IsString() @MaxLength(60) caution!: string;
  @IsString() @MaxLength(60) step!: string;
}

export interface CautionView {
  caution: string;
  step: string;
  at: string;
  by: string;
}
