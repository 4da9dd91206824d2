import { type SettingsView, ShopSettingsRequest } from '@just-balance/contract';
import { Body, Controller, Get, Put } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { conflict } from '../common/errors.ts';
import { type Actor, Who } from '../common/request.ts';
import { Shop } from '../database/models.ts';

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
    const [n] = await Shop.update(
      { settings: body.settings, rev: body.rev + 1 },
      { where: { id: who.shopId, rev: body.rev } },
    );
    if (n === 0) throw conflict('the settings', await this.read(who));
    return this.read(who);
  }
}
