import type { AdapterView, LinkStatus } from '@just-balance/contract';
import { BadRequestException, Controller, Delete, Get, HttpCode, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { JobsService } from '../jobs/jobs.service.ts';
import { Addresses } from './addresses.ts';
import { Leases } from './leases.ts';
import { LinksService } from './links.service.ts';

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
}
