import 'reflect-metadata';
import { IsString, MaxLength } from 'class-validator';

/** Asks the vehicle on this adapter what it is. */
export class IdentifyRequest {
  @IsString() @MaxLength(120) adapter!: string;
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
}
