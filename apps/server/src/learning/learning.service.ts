import type { LearnedView, LeaveOutRequest } from '@just-balance/contract';
import type { Settings } from '@just-balance/core/diagnosis';
import { type JobLesson as Known, type LearningChoice, learn, learnedSettings } from '@just-balance/core/shop';
import { Inject, Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { Logger } from 'pino';
import type { Transaction } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { loggable, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { Job, JobLesson, Shop, ShopChange } from '../database/models.ts';
import { Work } from '../database/work.ts';
import { LOGGER } from '../logger.ts';

/** Lessons come in bursts: the shop is worked out once for all of them, ms. */
const WAIT_MS = 500;
/** The newest lessons that are counted. [house] */
const MOST_LESSONS = 20_000;

/** What a shop's jobs are weighed with: its settings, and on top of them what of its learning it has chosen to use. */
export async function settingsOf(shopId: string, transaction?: Transaction): Promise<Settings> {
  const shop = await Shop.findByPk(shopId, transaction ? { transaction } : {});
  return { ...shop?.settings, ...shop?.learned?.settings };
}

/** What the shop has learned from its proven jobs, and what of it is used. */
@Injectable()
export class Learning implements OnApplicationShutdown {
  private readonly due = new Map<string, NodeJS.Timeout>();

  constructor(
    private readonly work: Work,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  onApplicationShutdown(): void {
    for (const timer of this.due.values()) clearTimeout(timer);
    this.due.clear();
  }

  /** Work out again what is in use, soon. What is lost with the server is worked out after the next lesson. */
  later(shopId: string): void {
    if (this.due.has(shopId)) return;
    const timer = setTimeout(() => {
      this.due.delete(shopId);
      this.refresh(shopId).catch((e: unknown) => this.log.error({ err: loggable(e) }, 'learning'));
    }, WAIT_MS);
    timer.unref();
    this.due.set(shopId, timer);
  }

  async lessons(shopId: string, transaction?: Transaction): Promise<(Known & { leftOut: boolean })[]> {
    const rows = await JobLesson.findAll({
      where: { shopId },
      order: [['createdAt', 'DESC']],
      limit: MOST_LESSONS,
      raw: true,
      ...(transaction ? { transaction } : {}),
    });
    return rows.reverse().map((r) => ({
      job: r.jobId,
      leftOut: Boolean(r.leftOut),
      lesson: typeof r.data === 'string' ? JSON.parse(r.data) : r.data,
    }));
  }

  async refresh(shopId: string, transaction?: Transaction): Promise<void> {
    const options = transaction ? { transaction } : {};
    const shop = await Shop.findByPk(shopId, options);
    if (!shop) return;
    const choice = shop.settings.learning ?? {};
    if (!choice.knownGood && !choice.priors && !choice.tests) {
      if (shop.learned) await Shop.update({ learned: null }, { where: { id: shopId }, ...options });
      return;
    }
    const used = (await this.lessons(shopId, transaction)).filter((l) => !l.leftOut);
    const all = learn(used);
    const learned = {
      at: new Date().toISOString(),
      jobs: all.proven,
      settings: learnedSettings(all, choice),
      figures: choice.knownGood ? all.figures.map((f) => ({ ...f, jobs: [] })) : [],
    };
    await Shop.update({ learned }, { where: { id: shopId }, ...options });
  }

  async view(who: Actor): Promise<LearnedView> {
    const lessons = await this.lessons(who.shopId);
    const shop = (await Shop.findByPk(who.shopId))!;
    const counted = lessons.filter((l) => !l.leftOut);
    const ids = lessons.filter((l) => l.leftOut).map((l) => l.job);
    const jobs = await Job.findAll({
      where: { id: ids, shopId: who.shopId },
      attributes: ['id', 'summary', 'createdAt'],
    });
    return {
      learned: learn(counted),
      choice: shop.settings.learning ?? {},
      inUse: shop.learned ? { at: shop.learned.at, jobs: shop.learned.jobs } : null,
      leftOut: jobs.map((j) => ({ job: j.id, label: j.summary?.label ?? '', at: j.createdAt.toISOString() })),
    };
  }

  /** The shop's settings with what was learned put in, as `jb diagnose --settings` takes them. */
  async exported(who: Actor, choice: LearningChoice): Promise<Settings> {
    const shop = (await Shop.findByPk(who.shopId))!;
    const used = (await this.lessons(who.shopId)).filter((l) => !l.leftOut);
    const { learning: _, ...settings } = shop.settings;
    return { ...settings, ...learnedSettings(learn(used), choice) };
  }

  /** Leave one job out of all that is learned, or take it in again. */
  async leaveOut(who: Actor, jobId: string, { leftOut, reason }: LeaveOutRequest): Promise<LearnedView> {
    await this.work.run(async (transaction) => {
      const row = await JobLesson.findOne({ where: { jobId, shopId: who.shopId }, transaction, lock: true });
      if (!row) throw notHere('lesson of this job');
      if (row.leftOut !== leftOut) {
        await row.update({ leftOut }, { transaction });
        await ShopChange.create(
          {
            id: uuidv7(),
            shopId: who.shopId,
            accountId: who.accountId,
            by: who.name,
            kind: leftOut ? 'left-out' : 'taken-in',
            data: { job: jobId, ...(reason ? { reason } : {}) },
          },
          { transaction },
        );
      }
      await this.refresh(who.shopId, transaction);
      return { job: jobId, leftOut };
    });
    return this.view(who);
  }
}
