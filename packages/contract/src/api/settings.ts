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
