import { type DynamicModule, Module } from '@nestjs/common';
import { APP_GUARD, APP_INTERCEPTOR } from '@nestjs/core';
import { ThrottlerModule } from '@nestjs/throttler';
import type { Logger } from 'pino';
import type { Sequelize } from 'sequelize';
import { AuthGuard } from './accounts/guard.ts';
import { SessionController } from './accounts/session.controller.ts';
import { Sessions } from './accounts/sessions.ts';
import { SettingsController } from './accounts/settings.controller.ts';
import { SetupToken } from './accounts/setup.ts';
import { BaysController } from './bays/bays.controller.ts';
import { SimControl } from './bays/simControl.ts';
import { CapturesController } from './captures/captures.controller.ts';
import { CapturesService } from './captures/captures.service.ts';
import { RecordingsController } from './captures/recordings.controller.ts';
import { RecordingsService } from './captures/recordings.service.ts';
import { IdempotencyInterceptor } from './common/idempotency.ts';
import { CONFIG, type ServerConfig } from './config.ts';
import { SEQUELIZE } from './database/connect.ts';
import { DiagnosisController } from './diagnosis/diagnosis.controller.ts';
import { HealthController } from './health/health.controller.ts';
import { JobsController } from './jobs/jobs.controller.ts';
import { JobsService } from './jobs/jobs.service.ts';
import { Addresses } from './links/addresses.ts';
import { Leases } from './links/leases.ts';
import { LinksController } from './links/links.controller.ts';
import { LinksService } from './links/links.service.ts';
import { LiveGateway } from './live/live.gateway.ts';
import { Live } from './live/live.service.ts';
import { LOGGER } from './logger.ts';
import { ExportController } from './reports/export.controller.ts';
import { VehiclesController } from './vehicles/vehicles.controller.ts';

@Module({})
export class AppModule {
  static with(config: ServerConfig, sequelize: Sequelize, logger: Logger): DynamicModule {
    return {
      module: AppModule,
      imports: [ThrottlerModule.forRoot([{ ttl: 60_000, limit: 600 }])],
      controllers: [
        HealthController,
        SessionController,
        SettingsController,
        VehiclesController,
        JobsController,
        LinksController,
        CapturesController,
        RecordingsController,
        DiagnosisController,
        BaysController,
        ExportController,
      ],
      providers: [
        { provide: CONFIG, useValue: config },
        { provide: SEQUELIZE, useValue: sequelize },
        { provide: LOGGER, useValue: logger },
        { provide: APP_GUARD, useClass: AuthGuard },
        { provide: APP_INTERCEPTOR, useClass: IdempotencyInterceptor },
        Sessions,
        SetupToken,
        JobsService,
        Live,
        LiveGateway,
        SimControl,
        Addresses,
        Leases,
        LinksService,
        RecordingsService,
        CapturesService,
      ],
    };
  }
}
