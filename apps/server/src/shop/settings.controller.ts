import { readSettings, ShopSettingsRequest } from '@just-balance/contract';
import type { Settings } from '@just-balance/core/diagnosis';
import { Body, Controller, Get, Put } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { badFields, conflict } from '../common/errors.ts';
import { type Actor, Who } from '../common/request.ts';
import { Shop } from '../database/models.ts';

interface SettingsView {
  rev: number;
  settings: Settings;
}

/** Limits, test minutes, tools and priors of the shop; given to the core as an argument. */
@ApiTags('shop')
@Controller('shop/settings')
export class SettingsController {
  @Get()
  async read(@Who() who: Actor): Promise<SettingsView> {
    const s = (await Shop.findByPk(who.shopId))!;
    return { rev: s.rev, settings: s.settings };
  }

  @Put()
  async write(@Who() who: Actor, @Body() body: ShopSettingsRequest): Promise<SettingsView> {
    const read = readSettings(body.settings);
    if (!read.ok) throw badFields(read.errors.map((e) => ({ ...e, field: `settings.${e.field}` })));
    const [n] = await Shop.update(
      { settings: read.value, rev: body.rev + 1 },
      { where: { id: who.shopId, rev: body.rev } },
    );
    if (n === 0) throw conflict('the settings', await this.read(who));
    return this.read(who);
  }
}
