import type { CaptureStatus } from '@just-balance/contract';
import { Inject, Injectable, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import type { Logger } from 'pino';
import { Op } from 'sequelize';
import { LinksService } from '../links/links.service.ts';
import { Live } from '../live/live.service.ts';
import { LOGGER } from '../logger.ts';
import { Capture, CaptureRow } from '../rows/captures.ts';
import { Job } from '../rows/jobs.ts';
import { LinkLease } from '../rows/links.ts';
import { CapturesService } from './captures.service.ts';

/** How often what other servers have committed is looked at, ms: as often as they commit. */
const LOOK_MS = 1000;

interface Seen {
  /** Writes into the job. */
  changes: number;
  capture: string | null;
  status: string;
  link: string;
  /** The newest committed second that was shown. */
  newest: string;
}

/**
 * What other servers do to the jobs that this server's screens watch, read from what they have committed: changes,
 * captures and their seconds, links. Costs four queries a second while any screen is open, none otherwise.
 */
@Injectable()
export class Elsewhere implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly seen = new Map<string, Seen>();
  private timer: NodeJS.Timeout | null = null;
  private looking: Promise<void> | null = null;

  constructor(
    private readonly live: Live,
    private readonly links: LinksService,
    private readonly captures: CapturesService,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  onApplicationBootstrap(): void {
    this.timer = setInterval(() => {
      this.looking ??= this.look()
        .catch((e: Error) => this.log.warn({ reason: e.name }, 'other servers not looked at'))
        .finally(() => {
          this.looking = null;
        });
    }, LOOK_MS).unref();
  }

  async onModuleDestroy(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    await this.looking;
  }

  private async look(): Promise<void> {
    const watched = this.live.watchedJobs();
    for (const id of this.seen.keys()) if (!watched.has(id)) this.seen.delete(id);
    const ids = [...watched.keys()];
    if (ids.length === 0) return;
    const changes = new Map(
      (await Job.findAll({ where: { id: ids }, attributes: ['id', 'changes'] })).map((j) => [j.id, j.changes]),
    );
    const foreign = ids.filter((id) => !this.captures.keeps(id) && !this.links.holds(id));
    const running = foreign.length > 0 ? await Capture.findAll({ where: { jobId: foreign, state: 'running' } }) : [];
    const leases =
      foreign.length > 0
        ? await LinkLease.findAll({ where: { jobId: foreign, expiresAt: { [Op.gt]: new Date() } } })
        : [];
    for (const id of ids) {
      const shopId = watched.get(id)!;
      const first = !this.seen.has(id);
      const before = this.seen.get(id) ?? { changes: 0, capture: null, status: '', link: '', newest: '' };
      const now: Seen = { ...before, changes: changes.get(id) ?? 0 };
      this.seen.set(id, now);
      if (!first && now.changes > Math.max(before.changes, this.live.toldOf(id)))
        this.live.changed(shopId, id, { resources: null, screen: null, changes: now.changes });
      if (!foreign.includes(id)) continue;
      const lease = leases.find((l) => l.jobId === id);
      now.link = lease?.status ? JSON.stringify(lease.status) : '';
      if (lease?.status && now.link !== before.link)
        this.live.publish(shopId, { type: 'link', jobId: id, status: lease.status });
      await this.showCapture(shopId, id, running.find((c) => c.jobId === id) ?? null, before, now);
    }
  }

  private async showCapture(shopId: string, jobId: string, row: Capture | null, before: Seen, now: Seen) {
    now.capture = row?.id ?? null;
    if (row?.status) {
      now.status = JSON.stringify(row.status);
      if (now.status !== before.status) this.live.publish(shopId, { type: 'capture', jobId, status: row.status });
    } else if (!row && before.capture) {
      const ended = await Capture.findOne({ where: { id: before.capture, shopId } });
      const last = ended?.status;
      if (last) {
        const status: CaptureStatus = { ...last, state: ended.state === 'done' ? 'done' : 'refused', reason: null };
        this.live.publish(shopId, { type: 'capture', jobId, status });
      }
    }
    if (!row) return;
    const newest = await CaptureRow.findOne({
      where: { captureId: row.id, shopId },
      order: [
        ['epoch', 'DESC'],
        ['seq', 'DESC'],
      ],
    });
    if (!newest) return;
    now.newest = `${newest.epoch}.${newest.seq}`;
    if (now.newest === before.newest) return;
    const values = Object.fromEntries(
      Object.entries(newest.data).flatMap(([id, list]) => (list.length > 0 ? [[id, list.at(-1)![1]]] : [])),
    );
    this.live.publish(shopId, { type: 'live', jobId, t: Number(newest.atMs) + 1000, values, committed: true });
  }
}
