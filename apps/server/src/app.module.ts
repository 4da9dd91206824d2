import { type DynamicModule, Module } from '@nestjs/common';
import { APP_GUARD, APP_INTERCEPTOR } from '@nestjs/core';
import { ThrottlerModule } from '@nestjs/throttler';
import type { Logger } from 'pino';
import type { Sequelize } from 'sequelize';
import { AccountsModule } from './accounts/accounts.module.ts';
import { AuthGuard } from './accounts/guard.ts';
import { ArchivesModule } from './archives/archives.module.ts';
import { CapturesModule } from './captures/captures.module.ts';
import { CautionsModule } from './cautions/cautions.module.ts';
import { BodyGuard } from './common/body.ts';
import { ChangesInterceptor } from './common/changes.ts';
import { CostGuard } from './common/cost.ts';
import { IdempotencyInterceptor } from './common/idempotency.ts';
import { InfrastructureModule } from './common/infrastructure.module.ts';
import { SaidInterceptor } from './common/said.ts';
import type { ServerConfig } from './config.ts';
import { FromVehicleModule } from './fromVehicle/fromVehicle.module.ts';
import { HealthModule } from './health/health.module.ts';
import { JobsModule } from './jobs/jobs.module.ts';
import { KnownModule } from './known/known.module.ts';
import { LinksModule } from './links/links.module.ts';
import { LogbookModule } from './logbook/logbook.module.ts';
import { PhotosModule } from './photos/photos.module.ts';
import { PracticeModule } from './practice/practice.module.ts';
import { ProceduresModule } from './procedures/procedures.module.ts';
import { ReadingsModule } from './readings/readings.module.ts';
import { RecordingsModule } from './recordings/recordings.module.ts';
import { RecordsModule } from './records/records.module.ts';
import { RepairsModule } from './repairs/repairs.module.ts';
import { ReportsModule } from './reports/reports.module.ts';
import { ServiceModule } from './service/service.module.ts';
import { ShopModule } from './shop/shop.module.ts';
import { SocketsModule } from './sockets/sockets.module.ts';
import { TestsModule } from './tests/tests.module.ts';
import { VehiclesModule } from './vehicles/vehicles.module.ts';

/** One module per resource, and what is asked of every request. */
@Module({})
export class AppModule {
  static with(config: ServerConfig, sequelize: Sequelize, logger: Logger): DynamicModule {
    return {
      module: AppModule,
      imports: [
        ThrottlerModule.forRoot([{ ttl: 60_000, limit: 600 }]),
        InfrastructureModule.with(config, sequelize, logger),
        HealthModule,
        AccountsModule,
        ShopModule,
        VehiclesModule,
        JobsModule,
        LogbookModule,
        ReadingsModule,
        TestsModule,
        RepairsModule,
        KnownModule,
        CautionsModule,
        RecordsModule,
        FromVehicleModule,
        RecordingsModule,
        LinksModule,
        CapturesModule,
        PracticeModule,
        ReportsModule,
        ArchivesModule,
        ServiceModule,
        PhotosModule,
        ProceduresModule,
        SocketsModule,
      ],
      providers: [
        { provide: APP_GUARD, useClass: AuthGuard },
        { provide: APP_GUARD, useClass: CostGuard },
        { provide: APP_GUARD, useClass: BodyGuard },
        { provide: APP_INTERCEPTOR, useClass: SaidInterceptor },
        { provide: APP_INTERCEPTOR, useClass: IdempotencyInterceptor },
        { provide: APP_INTERCEPTOR, useClass: ChangesInterceptor },
      ],
    };
  }
}
