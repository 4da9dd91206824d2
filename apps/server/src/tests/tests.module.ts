import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { TestsController } from './tests.controller.ts';
import { TestsService } from './tests.service.ts';

@Module({ imports: [JobsModule], controllers: [TestsController], providers: [TestsService], exports: [TestsService] })
export class TestsModule {}
