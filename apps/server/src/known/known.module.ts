import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { KnownController } from './known.controller.ts';
import { KnownService } from './known.service.ts';

@Module({ imports: [JobsModule], controllers: [KnownController], providers: [KnownService], exports: [KnownService] })
export class KnownModule {}
