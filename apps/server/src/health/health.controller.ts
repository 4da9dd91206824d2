import { Controller, Get, Inject, ServiceUnavailableException } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Sequelize } from 'sequelize';
import { SEQUELIZE } from '../database/connect.ts';

@ApiTags('health')
@Controller('health')
export class HealthController {
  constructor(@Inject(SEQUELIZE) private readonly db: Sequelize) {}

  @Get()
  async health(): Promise<{ status: 'ok' }> {
    try {
      await this.db.authenticate();
    } catch {
      throw new ServiceUnavailableException({
        statusCode: 503,
        status: 'database down',
        message: 'the database does not answer',
      });
    }
    return { status: 'ok' };
  }
}
