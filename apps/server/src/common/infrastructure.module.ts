import { type DynamicModule, Global, Module } from '@nestjs/common';
import type { Logger } from 'pino';
import type { Sequelize } from 'sequelize';
import { CONFIG, type ServerConfig } from '../config.ts';
import { SEQUELIZE } from '../database/connect.ts';
import { Work } from '../database/work.ts';
import { LOGGER } from '../logger.ts';
import { Origin } from './origin.ts';

/** What every resource stands on: configuration, database, log. */
@Global()
@Module({})
export class InfrastructureModule {
  static with(config: ServerConfig, sequelize: Sequelize, logger: Logger): DynamicModule {
    return {
      module: InfrastructureModule,
      providers: [
        { provide: CONFIG, useValue: config },
        { provide: SEQUELIZE, useValue: sequelize },
        { provide: LOGGER, useValue: logger },
        Work,
        Origin,
      ],
      exports: [CONFIG, SEQUELIZE, LOGGER, Work, Origin],
    };
  }
}
