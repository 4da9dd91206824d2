import type { LinkStatus } from '@just-balance/contract';
import { type Answer, PLANS, type PollingPlan, type Sample } from '@just-balance/core/link';
import { ConflictException, Inject, Injectable, type OnModuleDestroy } from '@nestjs/common';
import type { Logger } from 'pino';
import { SimControl } from '../bays/simControl.ts';
import { Live } from '../live/live.service.ts';
import { LOGGER } from '../logger.ts';
import { AdapterLink } from './adapterLink.ts';
import { Addresses } from './addresses.ts';
import { Leases, RENEW_MS } from './leases.ts';

/** What a job's capture hears from its link. */
export interface LinkListener {
  /** Commit one second. Called again with the same second after a failure, in order, before any later one. */
  second(samples: Sample[], epoch: number): Promise<void>;
  lost(detail: string): void;
}

interface ActiveLink {
  jobId: string;
  shopId: string;
  address: string;
  epoch: number;
  link: AdapterLink;
  status: LinkStatus;
  /** Samples of the open second. */
  batch: Sample[];
  /** Closed seconds not yet committed, oldest first; only the first is ever being written. */
  queue: Sample[][];
  latest: Record<string, number | string>;
  listener: LinkListener | null;
  timers: NodeJS.Timeout[];
  busy: boolean;
  count: number;
  /** Samples of each channel since the last second. */
  counts: Map<string, number>;
}

const SECOND_MS = 1000;
/** Live figures without a running capture change this often. */
const SHOW_MS = 400;
/** Seconds that may wait for a database that is away; older ones than these are given up, unacknowledged. */
const MAX_WAITING = 900;

/** Live links, one per adapter, each owned by one job; samples flow to the capture first, then to the screens. */
@Injectable()
export class LinksService implements OnModuleDestroy {
  private readonly active = new Map<string, ActiveLink>();

  constructor(
    @Inject(Addresses) private readonly addresses: Addresses,
    @Inject(Leases) private readonly leases: Leases,
    @Inject(Live) private readonly live: Live,
    @Inject(SimControl) private readonly sim: SimControl,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  status(jobId: string): LinkStatus | null {
    return this.active.get(jobId)?.status ?? null;
  }

  /** Open the job's link, or return it. Throws 409 when another job is capturing through the adapter. */
  async open(shopId: string, jobId: string, address: string): Promise<LinkStatus> {
    const existing = this.active.get(jobId);
    if (existing?.address === address) return existing.status;
    if (existing) await this.close(jobId);
    const target = this.addresses.resolve(address);
    for (const other of [...this.active.values()]) {
      if (other.address !== address) continue;
      if (other.listener || other.shopId !== shopId)
        throw new ConflictException({ statusCode: 409, message: `adapter: ${address} is capturing for another job` });
      await this.close(other.jobId);
    }
    const epoch = await this.leases.acquire(address, shopId, true);
    if (epoch === null) throw new ConflictException({ statusCode: 409, message: `adapter: ${address} is in use` });
    const entry: ActiveLink = {
      jobId,
      shopId,
      address,
      epoch,
      batch: [],
      queue: [],
      latest: {},
      listener: null,
      timers: [],
      busy: false,
      count: 0,
      counts: new Map(),
      status: { adapter: address, state: 'connecting', detail: '', valuesPerSecond: 0, rates: {} },
      link: new AdapterLink(
        target.host,
        target.port,
        PLANS.mixture,
        {
          samples: (samples) => this.onSamples(entry, samples),
          state: (state, detail) => this.onState(entry, state, detail),
        },
        async (localPort) => {
          if (target.bay !== null) await this.sim.send({ do: 'plug', bay: target.bay, clientPort: localPort });
        },
      ),
    };
    this.active.set(jobId, entry);
    entry.timers.push(
      setInterval(() => void this.onSecond(entry), SECOND_MS),
      setInterval(() => this.show(entry), SHOW_MS),
      setInterval(() => void this.renew(entry), RENEW_MS),
    );
    entry.link.open();
    return entry.status;
  }

  listen(jobId: string, listener: LinkListener | null): number | null {
    const entry = this.active.get(jobId);
    if (!entry) return null;
    entry.listener = listener;
    entry.batch = [];
    entry.queue = [];
    return entry.epoch;
  }

  /** What the bus is asked from now on: the plan of the step at hand. */
  poll(jobId: string, plan: PollingPlan): void {
    this.active.get(jobId)?.link.poll(plan);
  }

  /** One question to the vehicle; null when the job has no link. */
  async ask(jobId: string, payload: readonly number[]): Promise<Answer[] | null> {
    return (await this.active.get(jobId)?.link.ask(payload)) ?? null;
  }

  async waitReady(jobId: string, ms: number): Promise<boolean> {
    const until = Date.now() + ms;
    while (Date.now() < until) {
      if (this.active.get(jobId)?.status.state === 'ready') return true;
      await new Promise((r) => setTimeout(r, 50));
    }
    return false;
  }

  async close(jobId: string): Promise<void> {
    const entry = this.active.get(jobId);
    if (!entry) return;
    this.active.delete(jobId);
    for (const t of entry.timers) clearInterval(t);
    entry.link.close();
    await this.leases.release(entry.address).catch(() => {});
    this.live.publish(entry.shopId, {
      type: 'link',
      jobId,
      status: { ...entry.status, state: 'off', detail: 'disconnected', valuesPerSecond: 0, rates: {} },
    });
  }

  private onSamples(entry: ActiveLink, samples: Sample[]) {
    for (const s of samples) {
      entry.batch.push(s);
      entry.latest[s.channel] = s.value;
      entry.counts.set(s.channel, (entry.counts.get(s.channel) ?? 0) + 1);
    }
    entry.count += samples.length;
  }

  private onState(entry: ActiveLink, state: LinkStatus['state'], detail: string) {
    entry.status = { ...entry.status, state, detail };
    if (state === 'lost' || state === 'silent') entry.listener?.lost(detail);
    this.live.publish(entry.shopId, { type: 'link', jobId: entry.jobId, status: entry.status });
  }

  /** Once a second: commit what came in, then show it. While one commit is under way the next second waits its turn. */
  private async onSecond(entry: ActiveLink) {
    entry.status.valuesPerSecond = entry.count;
    entry.count = 0;
    entry.status.rates = smoothed(entry.status.rates, entry.counts);
    entry.counts.clear();
    this.live.publish(entry.shopId, { type: 'link', jobId: entry.jobId, status: entry.status });
    if (!entry.listener) return;
    if (entry.batch.length > 0) entry.queue.push(entry.batch);
    entry.batch = [];
    if (entry.queue.length > MAX_WAITING) entry.queue.splice(entry.busy ? 1 : 0, 1);
    if (!entry.busy) await this.commitWaiting(entry);
  }

  private async commitWaiting(entry: ActiveLink) {
    entry.busy = true;
    try {
      for (let second = entry.queue[0]; second && entry.listener; second = entry.queue[0]) {
        await entry.listener.second(second, entry.epoch);
        entry.queue.shift();
        this.live.publish(entry.shopId, {
          type: 'live',
          jobId: entry.jobId,
          t: Date.now(),
          values: lastOf(second),
          committed: true,
        });
      }
    } catch (e) {
      // Not acknowledged: it stays first in the queue and is tried again with the next second.
      this.log.warn(
        { jobId: entry.jobId, waiting: entry.queue.length, reason: (e as Error).name },
        'second not stored',
      );
      entry.status = { ...entry.status, detail: `${entry.queue.length} s wait for the database` };
    } finally {
      entry.busy = false;
    }
  }

  /** Keep the lease; when another server took it, this one stops writing at once. */
  private async renew(entry: ActiveLink) {
    const epoch = await this.leases.acquire(entry.address, entry.shopId, false).catch(() => entry.epoch);
    if (epoch === entry.epoch || this.active.get(entry.jobId) !== entry) return;
    entry.listener?.lost('another server has taken the adapter');
    entry.listener = null;
    await this.close(entry.jobId);
  }

  private show(entry: ActiveLink) {
    if (entry.listener || entry.batch.length === 0) return;
    entry.batch = [];
    this.live.publish(entry.shopId, {
      type: 'live',
      jobId: entry.jobId,
      t: Date.now(),
      values: { ...entry.latest },
      committed: false,
    });
  }

  async onModuleDestroy(): Promise<void> {
    for (const id of [...this.active.keys()]) await this.close(id);
  }
}

/** Slow channels come every few seconds: the rate is a running mean over about four. */
const SMOOTH = 0.25;

function smoothed(before: Record<string, number>, counts: ReadonlyMap<string, number>): Record<string, number> {
  const out: Record<string, number> = {};
  for (const id of new Set([...Object.keys(before), ...counts.keys()])) {
    const was = before[id];
    const now = counts.get(id) ?? 0;
    const rate = was === undefined ? now : was + SMOOTH * (now - was);
    if (rate > 0.02) out[id] = Math.round(rate * 100) / 100;
  }
  return out;
}

function lastOf(samples: readonly Sample[]): Record<string, number | string> {
  const out: Record<string, number | string> = {};
  for (const s of samples) out[s.channel] = s.value;
  return out;
}
