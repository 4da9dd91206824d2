import { type AdapterView, type LinkStatus, RecordRequest, type RecordView } from '@just-balance/contract';
import {
  BadRequestException,
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Param,
  ParseUUIDPipe,
  Post,
  ServiceUnavailableException,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { Costly } from '../accounts/cost.ts';
import { type Actor, Who } from '../common/request.ts';
import { VehicleRecord } from '../database/models.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { recordView } from '../jobs/views.ts';
import { Addresses } from './addresses.ts';
import { Leases } from './leases.ts';
import { LinksService } from './links.service.ts';
import { readRecord } from './record.ts';

const READY_MS = 6000;

@ApiTags('links')
@Controller()
export class LinksController {
  constructor(
    private readonly links: LinksService,
    private readonly leases: Leases,
    private readonly addresses: Addresses,
    private readonly jobs: JobsService,
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
    return (await this.leases.elsewhere(id))?.status ?? this.links.open(who.shopId, id, job.adapter);
  }

  @Get('jobs/:id/link')
  async status(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<LinkStatus> {
    const job = await this.jobs.find(who, id);
    return (
      this.links.status(id) ??
      (await this.leases.elsewhere(id))?.status ?? {
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
  @Costly(60)
  @Post('jobs/:id/records')
  async record(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: RecordRequest,
  ): Promise<RecordView> {
    const job = await this.jobs.find(who, id);
    const before = await VehicleRecord.findOne({ where: { id: body.id, jobId: id, shopId: who.shopId } });
    if (before) return recordView(before);
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
    return this.jobs.addRecord(who, id, body.id, data);
  }
}
