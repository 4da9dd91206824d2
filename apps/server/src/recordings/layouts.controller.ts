import { createHash } from 'node:crypto';
import { type KeptLayoutView, LayoutQuery, LayoutRequest, type LayoutView } from '@just-balance/contract';
import { Body, Controller, Get, HttpCode, Post, Put } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { badFields } from '../common/errors.ts';
import { type Actor, Who } from '../common/request.ts';
import { TableLayout } from '../rows/recordings.ts';

const hashOf = (headers: string) => createHash('sha256').update(headers).digest('hex');

/** How a tool's tables are read, remembered for the whole shop by their headers. */
@ApiTags('recordings')
@Controller('layouts')
export class LayoutsController {
  @Get()
  async all(@Who() who: Actor): Promise<KeptLayoutView[]> {
    const rows = await TableLayout.findAll({ where: { shopId: who.shopId }, order: [['headersHash', 'ASC']] });
    return rows.map((r) => ({ ...r.data, by: r.by, hash: r.headersHash }));
  }

  /** Asked with a body: headers may be longer than an address. */
  @Post('find')
  @HttpCode(200)
  async find(@Who() who: Actor, @Body() { headers }: LayoutQuery): Promise<{ found: LayoutView | null }> {
    const row = await TableLayout.findOne({ where: { shopId: who.shopId, headersHash: hashOf(headers) } });
    return { found: row && { ...row.data, by: row.by } };
  }

  @Put()
  @HttpCode(204)
  async keep(@Who() who: Actor, @Body() { headers, hash, layout, roles }: LayoutRequest): Promise<void> {
    const headersHash = headers === undefined ? hash : hashOf(headers);
    if (headersHash === undefined)
      throw badFields([{ field: 'headers', message: 'the headers, or their SHA-256 as `hash`' }]);
    await TableLayout.upsert({
      shopId: who.shopId,
      headersHash,
      by: who.name,
      data: { layout, roles },
    });
  }
}
