import { createHash } from 'node:crypto';
import { LayoutQuery, LayoutRequest, type LayoutView } from '@just-balance/contract';
import { Body, Controller, HttpCode, Post, Put } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { type Actor, Who } from '../common/request.ts';
import { TableLayout } from '../rows/recordings.ts';

const hashOf = (headers: string) => createHash('sha256').update(headers).digest('hex');

/** How a tool's tables are read, remembered for the whole shop by their headers. */
@ApiTags('recordings')
@Controller('layouts')
export class LayoutsController {
  /** Asked with a body: headers may be longer than an address. */
  @Post('find')
  @HttpCode(200)
  async find(@Who() who: Actor, @Body() { headers }: LayoutQuery): Promise<{ found: LayoutView | null }> {
    const row = await TableLayout.findOne({ where: { shopId: who.shopId, headersHash: hashOf(headers) } });
    return { found: row && { ...row.data, by: row.by } };
  }

  @Put()
  @HttpCode(204)
  async keep(@Who() who: Actor, @Body() { headers, layout, roles }: LayoutRequest): Promise<void> {
    await TableLayout.upsert({
      shopId: who.shopId,
      headersHash: hashOf(headers),
      by: who.name,
      data: { layout, roles },
    });
  }
}
