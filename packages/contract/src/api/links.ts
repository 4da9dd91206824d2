import 'reflect-metadata';
import type { FoundUnit } from '@just-balance/core/link';
import { IsString, Matches, MaxLength } from 'class-validator';
import { Optional } from '../checks/index.ts';

/** Asks the vehicle on this adapter what it is. */
export class IdentifyRequest {
  @IsString() @MaxLength(120) adapter!: string;
}

/** The unit to ask as the engine's; absent: the one that is found. */
export class ChooseEngineRequest {
  /** Identifiers of answers (ISO 15765-4). */
  @Optional() @Matches(/^7E[89A-F]$/, { message: 'a unit that answers: 7E8 to 7EF' }) unit?: string;
}

export interface AdapterView {
  address: string;
  label: string;
  simulated: boolean;
}

export interface LinkStatus {
  adapter: string;
  state: 'off' | 'connecting' | 'discovering' | 'ready' | 'silent' | 'lost';
  detail: string;
  valuesPerSecond: number;
  /** Samples of each channel in the last second, smoothed. */
  rates: Record<string, number>;
  /** Units that answer, while it is ready; absent where nobody has said. */
  units?: readonly FoundUnit[];
}
