import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { PhotosController } from './photos.controller.ts';
import { PhotosService } from './photos.service.ts';

/** Pictures of a job, and those of good parts the shop keeps. */
@Module({
  imports: [JobsModule],
  controllers: [PhotosController],
  providers: [PhotosService],
})
export class PhotosModule {}
