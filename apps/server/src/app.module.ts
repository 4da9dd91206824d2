import { type DynamicModule, Module } from '@nestjs/common';
import { APP_GUARD, APP_INTERCEPTOR } from '@nestjs/core';
import { ThrottlerModule } from '@nestjs/throttler';
import type { Logger } from 'pino';
import type { Sequelize } from 'sequelize';
import { Attempts } from './accounts/attempts.ts';
import { CostGuard } from './accounts/cost.ts';
import { AuthGuard } from './accounts/guard.ts';
import { AccountController, PeopleController } from './accounts/people.controller.ts';
import { People } from './accounts/people.service.ts';
import { SessionController } from './accounts/session.controller.ts';
import { Sessions } from './accounts/sessions.ts';
import { SettingsController } from './accounts/settings.controller.ts';
import { SetupToken } from './accounts/setup.ts';
import { BayHolds } from './bays/bayHolds.ts';
import { BaysController } from './bays/bays.controller.ts';
import { SimControl } from './bays/simControl.ts';
import { CapturesController } from './captures/captures.controller.ts';
import { CapturesService } from './captures/captures.service.ts';
import { Elsewhere } from './captures/elsewhere.service.ts';
import { RecordingsController } from './captures/recordings.controller.ts';
import { RecordingsService } from './captures/recordings.service.ts';
import { IdempotencyInterceptor } from './common/idempotency.ts';
import { Origin } from './common/origin.ts';
import { CONFIG, type ServerConfig } from './config.ts';
import { SEQUELIZE } from './database/connect.ts';
import { Work } from './database/work.ts';
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
        PeopleController,
        AccountController,
        BaysController,
        ExportController,
      ],
      providers: [
        { provide: CONFIG, useValue: config },
        { provide: SEQUELIZE, useValue: sequelize },
        { provide: LOGGER, useValue: logger },
        { provide: APP_GUARD, useClass: AuthGuard },
        { provide: APP_GUARD, useClass: CostGuard },
        { provide: APP_INTERCEPTOR, useClass: IdempotencyInterceptor },
        Work,
        Origin,
        Sessions,
        Attempts,
        People,
        SetupToken,
        JobsService,
        Live,
        LiveGateway,
        SimControl,
        BayHolds,
        Addresses,
        Leases,
        LinksService,
        RecordingsService,
        CapturesService,
        Elsewhere,
      ],
    };
  }
}
