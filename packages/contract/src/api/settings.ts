import 'reflect-metadata';
import { IsInt, Min } from 'class-validator';
import { Nested } from '../checks/index.ts';
import { SettingsDto } from '../formats/index.ts';

export class ShopSettingsRequest {
  @IsInt() @Min(1) rev!: number;
  @Nested(() => SettingsDto) settings!: SettingsDto;
}

export interface SettingsView {
  rev: number;
  settings: SettingsDto;
}

/** One change of the shop: its settings, its people, what it learns from. */
export interface ShopChangeView {
  id: string;
  at: string;
  by: string;
  kind: string;
  data: Record<string, unknown>;
}
