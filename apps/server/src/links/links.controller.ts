import { type AdapterView, ChooseEngineRequest, IdentifyRequest, type LinkStatus } from '@just-balance/contract';
import { identifyVehicle, type VehicleIdentity } from '@just-balance/core/link';
import {
  BadRequestException,
  Body,
  ConflictException,
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
import { v7 as uuidv7 } from 'uuid';
import { Costly } from '../common/cost.ts';
import { type Actor, Who } from '../common/request.ts';
import { JobWrites } from '../jobs/write.ts';
import { Addresses } from './addresses.ts';
import { Leases } from './leases.ts';
import { LinksService, READY_MS } from './links.service.ts';

@ApiTags('links')
@Controller()
export class LinksController {
  constructor(
    private readonly links: LinksService,
    private readonly leases: Leases,
    private readonly addresses: Addresses,
    private readonly jobs: JobWrites,
  ) {}

  @Get('adapters')
  adapters(): Promise<AdapterView[]> {
    return this.addresses.list();
  }

  /** What the vehicle on an adapter says it is, before there is a job: VIN, fuel, sensors, how its air is metered. */
  @Costly(20)
  @Post('adapters/identify')
  @HttpCode(200)
  async identify(@Who() who: Actor, @Body() { adapter }: IdentifyRequest): Promise<VehicleIdentity> {
    // The link belongs to nobody's job: it is let go as soon as it has been asked.
    const asker = uuidv7();
    try {
      await this.links.open(who.shopId, asker, adapter);
      const ready = await this.links.waitReady(asker, READY_MS);
      const said = ready ? await identifyVehicle((p, engineOnly) => this.links.ask(asker, p, engineOnly)) : null;
      if (said) return said;
      throw new ServiceUnavailableException({
        statusCode: 503,
        message: `the vehicle does not answer (${this.links.status(asker)?.detail ?? 'no link'}): key on? Or type what it is.`,
      });
    } finally {
      await this.links.close(asker);
    }
  }

  /** Connect the job's adapter; the state follows over the socket. */
  @Post('jobs/:id/link')
  @HttpCode(200)
  async open(@Who() who: Actor, @Param('id', ParseUUIDPipe) id: string): Promise<LinkStatus> {
    const job = await this.jobs.find(who, id);
    if (!job.adapter) throw new BadRequestException({ statusCode: 400, message: 'adapter: choose one first' });
    return (await this.leases.elsewhere(id))?.status ?? this.links.open(who.shopId, id, job.adapter);
  }

  /** Another unit than the one found is the engine's. */
  @Post('jobs/:id/link/engine')
  @HttpCode(200)
  async engine(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() { unit }: ChooseEngineRequest,
  ): Promise<LinkStatus> {
    await this.jobs.find(who, id);
    const status = this.links.chooseEngine(id, unit ?? null);
    if (status) return status;
    throw new ConflictException({ statusCode: 409, message: 'the adapter is not connected here: connect it first' });
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
}
