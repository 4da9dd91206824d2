import { Module } from '@nestjs/common';
import { HealthController } from './health.controller.ts';

/** Whether the server and its database answer. */
@Module({
  controllers: [HealthController],
})
export class HealthModule {}
