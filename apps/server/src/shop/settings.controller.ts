import { type SettingsView, type ShopChangeView, ShopSettingsRequest } from '@just-balance/contract';
import { Body, Controller, Get, Put } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { v7 as uuidv7 } from 'uuid';
import { conflict } from '../common/errors.ts';
import { type Actor, Who } from '../common/request.ts';
import { Work } from '../database/work.ts';
import { Learning } from '../learning/learning.service.ts';
import { Job } from '../rows/jobs.ts';
import { Shop, ShopChange } from '../rows/shop.ts';

/** Changes that are shown, the newest. [house] */
const SHOWN = 200;

/** Limits, test minutes, tools and priors of the shop; given to the core as an argument. */
@ApiTags('shop')
@Controller('shop')
export class SettingsController {
  constructor(
    private readonly work: Work,
    private readonly learning: Learning,
  ) {}

  @Get('settings')
  async read(@Who() who: Actor): Promise<SettingsView> {
    const s = (await Shop.findByPk(who.shopId))!;
    return { rev: s.rev, settings: s.settings };
  }

  @Put('settings')
  async write(@Who() who: Actor, @Body() body: ShopSettingsRequest): Promise<SettingsView> {
    await this.work.run(async (transaction) => {
      const s = (await Shop.findByPk(who.shopId, { transaction, lock: true }))!;
      if (s.rev !== body.rev) throw conflict('the settings', { rev: s.rev, settings: s.settings });
      const before = s.settings as unknown as Record<string, unknown>;
      const after = body.settings as unknown as Record<string, unknown>;
      const changed = [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
        (k) => JSON.stringify(before[k]) !== JSON.stringify(after[k]),
      );
      await s.update({ settings: body.settings, rev: body.rev + 1 }, { transaction });
      if (changed.length > 0)
        await ShopChange.create(
          {
            id: uuidv7(),
            shopId: who.shopId,
            accountId: who.accountId,
            by: who.name,
            kind: 'settings',
            data: Object.fromEntries(changed.map((k) => [k, { before: before[k] ?? null, after: after[k] ?? null }])),
          },
          { transaction },
        );
      // Verdicts stand on the limits: every job is filed again, in the background.
      if (changed.includes('limits'))
        await Job.update({ filed: false }, { where: { shopId: who.shopId, practice: false }, transaction });
      await this.learning.refresh(who.shopId, transaction);
      return { rev: body.rev + 1 };
    });
    return this.read(who);
  }

  /** Who changed what of the shop, newest first. */
  @Get('changes')
  async changes(@Who() who: Actor): Promise<ShopChangeView[]> {
    const rows = await ShopChange.findAll({
      where: { shopId: who.shopId },
      order: [
        ['createdAt', 'DESC'],
        ['id', 'DESC'],
      ],
      limit: SHOWN,
    });
    return rows.map((r) => ({ id: r.id, at: r.createdAt.toISOString(), by: r.by, kind: r.kind, data: r.data }));
  }
}
