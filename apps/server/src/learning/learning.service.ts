import type { LearnedView, LeaveOutRequest } from '@just-balance/contract';
import type { Settings } from '@just-balance/core/diagnosis';
import { type OutcomeOfJob as Known, type LearningChoice, learn, learnedSettings } from '@just-balance/core/shop';
import { Inject, Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { Logger } from 'pino';
import type { Transaction } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { loggable, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { Work } from '../database/work.ts';
import { LOGGER } from '../logger.ts';
import { Job } from '../rows/jobs.ts';
import { JobOutcomeRow } from '../rows/learning.ts';
import { Shop, ShopChange } from '../rows/shop.ts';

/** Outcomes come in bursts: the shop is worked out once for all of them, ms. */
const WAIT_MS = 500;
/** The newest outcomes that are counted. [house] */
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

  /** Work out again what is in use, soon. What is lost with the server is worked out after the next outcome. */
  later(shopId: string): void {
    if (this.due.has(shopId)) return;
    const timer = setTimeout(() => {
      this.due.delete(shopId);
      this.refresh(shopId).catch((e: unknown) => this.log.error({ err: loggable(e) }, 'learning'));
    }, WAIT_MS);
    timer.unref();
    this.due.set(shopId, timer);
  }

  async outcomes(shopId: string, transaction?: Transaction): Promise<(Known & { leftOut: boolean })[]> {
    const rows = await JobOutcomeRow.findAll({
      where: { shopId },
      order: [['createdAt', 'DESC']],
      limit: MOST_LESSONS,
      raw: true,
      ...(transaction ? { transaction } : {}),
    });
    return rows.reverse().map((r) => ({
      job: r.jobId,
      leftOut: Boolean(r.leftOut),
      outcome: typeof r.data === 'string' ? JSON.parse(r.data) : r.data,
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
    const used = (await this.outcomes(shopId, transaction)).filter((l) => !l.leftOut);
    const all = learn(used);
    const learned = {
      at: new Date().toISOString(),
      jobs: all.proven,
      settings: learnedSettings(all, choice),
      figures: choice.knownGood ? all.figures.map((f) => ({ ...f, values: [], jobs: [] })) : [],
    };
    await Shop.update({ learned }, { where: { id: shopId }, ...options });
  }

  async view(who: Actor): Promise<LearnedView> {
    const outcomes = await this.outcomes(who.shopId);
    const shop = (await Shop.findByPk(who.shopId))!;
    const counted = outcomes.filter((l) => !l.leftOut);
    const ids = outcomes.filter((l) => l.leftOut).map((l) => l.job);
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
    const used = (await this.outcomes(who.shopId)).filter((l) => !l.leftOut);
    const { learning: _, ...settings } = shop.settings;
    return { ...settings, ...learnedSettings(learn(used), choice) };
  }

  /** Leave one job out of all that is learned, or take it in again. */
  async leaveOut(who: Actor, jobId: string, { leftOut, reason }: LeaveOutRequest): Promise<LearnedView> {
    await this.work.run(async (transaction) => {
      const row = await JobOutcomeRow.findOne({ where: { jobId, shopId: who.shopId }, transaction, lock: true });
      if (!row) throw notHere('outcome of this job');
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
