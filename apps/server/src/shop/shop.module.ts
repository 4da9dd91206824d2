import { Module } from '@nestjs/common';
import { LearningModule } from '../learning/learning.module.ts';
import { AuditController } from './audit.controller.ts';
import { SettingsController } from './settings.controller.ts';

/** The shop's own settings. */
@Module({ imports: [LearningModule], controllers: [SettingsController, AuditController] })
export class ShopModule {}
