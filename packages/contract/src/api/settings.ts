import 'reflect-metadata';
import type { Settings } from '@just-balance/core/diagnosis';
import { IsInt, IsObject, Min } from 'class-validator';

export class ShopSettingsRequest {
  @IsInt() @Min(1) rev!: number;
  @IsObject() settings!: Settings;
}
