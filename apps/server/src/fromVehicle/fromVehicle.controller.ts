import { type EntryView, HeardRecordRequest, RecordRequest, type RecordView } from '@just-balance/contract';
import { ClearRequest } from '@just-balance/contract/service';
import { readVehicleRecord, replayed } from '@just-balance/core/link';
import {
  BadRequestException,
  Body,
  Controller,
  Param,
  ParseUUIDPipe,
  Post,
  ServiceUnavailableException,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { Costly } from '../common/cost.ts';
import { badFields } from '../common/errors.ts';
import { type Actor, Who } from '../common/request.ts';
import { JobWrites } from '../jobs/write.ts';
import { LinksService, READY_MS } from '../links/links.service.ts';
import { RecordsService } from '../records/records.service.ts';
import { ClearingService } from './clearing.service.ts';

@ApiTags('records')
@Controller('jobs/:id/records')
export class FromVehicleController {
  constructor(
    private readonly links: LinksService,
    private readonly jobs: JobWrites,
    private readonly records: RecordsService,
    private readonly clearing: ClearingService,
  ) {}

  /** Keep codes, lamp, freeze frame and monitors, read from the vehicle. */
  @Costly(60)
  @Post()
  async record(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: RecordRequest,
  ): Promise<RecordView> {
    const job = await this.jobs.find(who, id);
    const before = await this.records.kept(who, id, body.id);
    if (before) return before;
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
        message:
          s?.state === 'silent'
            ? 'The vehicle does not answer: key on? Nothing was recorded; try again or enter by hand.'
            : `The vehicle does not answer: ${s?.detail ?? 'no link'}. Nothing was recorded; try again or enter by hand.`,
      });
    }
    const data = await readVehicleRecord((p, engineOnly) => this.links.ask(id, p, engineOnly));
    if (!data)
      throw new ServiceUnavailableException({
        statusCode: 503,
        message: 'the vehicle stopped answering while reading; nothing was recorded, try again',
      });
    return this.records.add(who, id, body.id, { phase: body.phase, source: 'link', ...data });
  }

  /** The same, heard by the link of a browser: the road has no network of the shop. */
  @Costly(60)
  @Post('heard')
  async heard(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: HeardRecordRequest,
  ): Promise<RecordView> {
    await this.jobs.find(who, id);
    const data = await readVehicleRecord(replayed(body.heard));
    if (!data) throw badFields([{ field: 'heard', message: 'no answer to the monitor question (01 01) among them' }]);
    return this.records.add(who, id, body.id, { phase: body.phase, source: 'link', ...data });
  }

  /** Clear the vehicle's codes (service 04). Refused while what it wipes is not on record, or the engine runs. */
  @Costly(10)
  @Post('clear')
  async clear(
    @Who() who: Actor,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: ClearRequest,
  ): Promise<EntryView> {
    return this.clearing.clear(who, await this.jobs.find(who, id), body.id);
  }
}
