import { type AdapterView, type JobView, type LinkStatus, RecordRequest } from '@just-balance/contract';
import {
  BadRequestException,
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Inject,
  Param,
  ParseUUIDPipe,
  Post,
  ServiceUnavailableException,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Sequelize } from 'sequelize';
import { type Actor, Who } from '../common/request.ts';
import { SEQUELIZE } from '../database/connect.ts';
import { VehicleRecord } from '../database/models.ts';
import { appendEvent } from '../jobs/events.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { Live } from '../live/live.service.ts';
import { Addresses } from './addresses.ts';
import { LinksService } from './links.service.ts';
import { readRecord } from './record.ts';

const READY_MS = 6000;

@ApiTags('links')
@Controller()
export class LinksController {
  constructor(
    @Inject(LinksService) private readonly links: LinksService,
    @Inject(Addresses) private readonly addresses: Addresses,
    @Inject(JobsService) private readonly jobs: JobsService,
    @Inject(Live) private readonly live: Live,
    @Inject(SEQUELIZE) private readonly db: Sequelize,
  ) {}

  @Get('adapters')
  adapters(): Promise<AdapterView[]> {
    return this.addresses.list();
  }

  /** Connect the job's adapter; the state follows over the socket. */
  @Post('jobs/:id/link')
  @HttpCode(200)
  async open(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<LinkStatus> {
    const job = await this.jobs.find(who, id);
    if (!job.adapter) throw new BadRequestException({ statusCode: 400, message: 'adapter: choose one first' });
    return this.links.open(who.shopId, id, job.adapter);
  }

  @Get('jobs/:id/link')
  async status(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<LinkStatus> {
    const job = await this.jobs.find(who, id);
    return (
      this.links.status(id) ?? {
        adapter: job.adapter ?? '',
        state: 'off',
        detail: job.adapter ? 'not connected' : 'no adapter',
        valuesPerSecond: 0,
        rates: {},
      }
    );
  }

  @Delete('jobs/:id/link')
  @HttpCode(204)
  async close(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<void> {
    await this.jobs.find(who, id);
    await this.links.close(id);
  }

  /** Keep codes, lamp, freeze frame and monitors, read from the vehicle. */
  @Post('jobs/:id/records')
  async record(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: RecordRequest,
  ): Promise<JobView> {
    const job = await this.jobs.find(who, id);
    if (await VehicleRecord.count({ where: { id: body.id, shopId: who.shopId } })) return this.jobs.view(who, id);
    if (!job.adapter)
      throw new BadRequestException({
        statusCode: 400,
        message: 'adapter: choose one first, or enter the record by hand',
      });
    await this.links.open(who.shopId, id, job.adapter);
    if (!(await this.links.waitReady(id, READY_MS))) {
      const s = this.links.status(id);
      throw new ServiceUnavailableException({
        statusCode: 503,
        message: `the vehicle does not answer (${s?.detail ?? 'no link'}): key on? Nothing was recorded; try again or enter by hand.`,
      });
    }
    const data = await readRecord((p) => this.links.ask(id, p), body.phase);
    if (!data)
      throw new ServiceUnavailableException({
        statusCode: 503,
        message: 'the vehicle stopped answering while reading; nothing was recorded, try again',
      });
    await this.db.transaction(async (transaction) => {
      await VehicleRecord.create({ id: body.id, shopId: who.shopId, jobId: id, data }, { transaction });
      await appendEvent(
        who,
        id,
        'record',
        { phase: body.phase, source: 'link', codes: data.codes.length },
        transaction,
      );
    });
    this.live.publish(who.shopId, { type: 'changed', jobId: id });
    return this.jobs.view(who, id);
  }
}
