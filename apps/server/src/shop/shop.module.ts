import { Module } from '@nestjs/common';
import { SettingsController } from './settings.controller.ts';

/** The shop's own settings. */
@Module({
  controllers: [SettingsController],
})
export class ShopModule {}
