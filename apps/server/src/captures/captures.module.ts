import { Module } from '@nestjs/common';
import { JobsModule } from '../jobs/jobs.module.ts';
import { LinksModule } from '../links/links.module.ts';
import { LiveModule } from '../live/live.module.ts';
import { RecordingsModule } from '../recordings/recordings.module.ts';
import { CapturesController } from './captures.controller.ts';
import { CapturesService } from './captures.service.ts';
import { Elsewhere } from './elsewhere.service.ts';
import { OfflineRecordingsService } from './offlineRecordings.service.ts';

/** Running captures, this server's and those of others. */
@Module({
  imports: [JobsModule, LinksModule, LiveModule, RecordingsModule],
  controllers: [CapturesController],
  providers: [CapturesService, OfflineRecordingsService, Elsewhere],
})
export class CapturesModule {}
