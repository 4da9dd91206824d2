import type { LinkStatus } from '@just-balance/contract';
import type { CanFrame } from '@just-balance/core/can';
import {
  type Answer,
  PLANS,
  type PollingPlan,
  packSecond,
  type Sample,
  type SecondData,
  type SetAside,
} from '@just-balance/core/link';
import { ConflictException, Inject, Injectable, type OnModuleDestroy } from '@nestjs/common';
import type { Logger } from 'pino';
import { KeyedMutex } from '../common/mutex.ts';
import { Live } from '../live/live.service.ts';
import { LOGGER } from '../logger.ts';
import { BayHolds } from '../practice/bayHolds.ts';
import { SimControl } from '../practice/simControl.ts';
import { AdapterLink } from './adapterLink.ts';
import { Addresses, type Target } from './addresses.ts';
import { Leases, RENEW_MS } from './leases.ts';

/** What a job's capture hears from its link. */
export interface LinkListener {
  /** Commit one second. Called again with the same second after a failure, in order, before any later one. */
  second(samples: Sample[], epoch: number): Promise<void>;
  lost(detail: string, silent: boolean): void;
  /** Frames of the bus, as they come and go. */
  frames?(frames: readonly CanFrame[], atUs: number): void;
  /** A second in which no value came. */
  nothing?(): void;
  /** Another server goes on with it. */
  taken?(): void;
  /** A person has disconnected the adapter. */
  closed?(): Promise<void>;
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
  /** When the job last asked something of it, ms. */
  usedAt: number;
}

/** How long a vehicle may take to answer before a person is told, ms. [house] */
export const READY_MS = 6000;
const SECOND_MS = 1000;
/** Live figures without a running capture change this often. */
const SHOW_MS = 400;
/** Seconds that may wait for a database that is away; older ones than these are given up, unacknowledged. */
const MAX_WAITING = 900;
/** A link that nobody asks anything of lets the adapter go after this long, ms; one that a screen shows, later. [house] */
const IDLE_MS = 120_000;
const WATCHED_IDLE_MS = 900_000;

/** Live links, one per adapter, each owned by one job; samples flow to the capture first, then to the screens. */
@Injectable()
export class LinksService implements OnModuleDestroy {
  private readonly active = new Map<string, ActiveLink>();
  /** Opening and closing come one after the other: several requests for one adapter share one socket. */
  private readonly turns = new KeyedMutex();
  /** The unit a person has said to be the engine's, by job. */
  private readonly engines = new Map<string, string>();
  private stopping = false;

  constructor(
    private readonly addresses: Addresses,
    private readonly leases: Leases,
    private readonly live: Live,
    private readonly sim: SimControl,
    private readonly bays: BayHolds,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  status(jobId: string): LinkStatus | null {
    return this.active.get(jobId)?.status ?? null;
  }

  /** Frames that did not count since this server opened the job's link. */
  setAside(jobId: string): SetAside {
    return this.active.get(jobId)?.link.setAside ?? {};
  }

  /** Whether this server holds the job's link. */
  holds(jobId: string): boolean {
    return this.active.has(jobId);
  }

  /** Sockets that stand or are being opened; for tests and figures. */
  get count(): number {
    return this.active.size;
  }

  /** Open the job's link, or return it. Throws 409 when another job is capturing through the adapter. */
  open(shopId: string, jobId: string, address: string): Promise<LinkStatus> {
    const target = this.addresses.resolve(address);
    return this.turns.run(address, async () => {
      const existing = this.active.get(jobId);
      if (existing?.address === address) {
        existing.usedAt = Date.now();
        return existing.status;
      }
      if (existing?.listener)
        throw new ConflictException({ statusCode: 409, message: 'a capture is running on this job: stop it first' });
      if (this.stopping) throw new ConflictException({ statusCode: 409, message: 'this server is stopping' });
      const other = [...this.active.values()].find((l) => l.address === address);
      if (other) {
        if (other.listener || (other.shopId !== shopId && Date.now() - other.usedAt < IDLE_MS))
          throw new ConflictException({
            statusCode: 409,
            message:
              other.shopId === shopId
                ? `adapter: ${address} is capturing for another job`
                : `adapter: ${address} is in use by another shop`,
          });
        await this.end(other);
      }
      if (target.bay !== null && (await this.bays.takenByOther(target.bay, shopId)))
        throw new ConflictException({ statusCode: 409, message: `adapter: ${address} is in use by another shop` });
      const epoch = await this.leases.acquire(address, { shopId, jobId });
      if (epoch === null)
        throw new ConflictException({ statusCode: 409, message: `adapter: ${address} is in use on another server` });
      // The job has moved to another adapter meanwhile.
      const moved = this.active.get(jobId);
      if (moved) await this.end(moved);
      return this.start(shopId, jobId, address, target, epoch).status;
    });
  }

  private start(shopId: string, jobId: string, address: string, target: Target, epoch: number): ActiveLink {
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
      usedAt: Date.now(),
      status: { adapter: address, state: 'connecting', detail: '', valuesPerSecond: 0, rates: {} },
      link: new AdapterLink(
        target.host,
        target.port,
        PLANS.mixture,
        {
          samples: (samples) => this.onSamples(entry, samples),
          frames: (frames, atUs) => entry.listener?.frames?.(frames, atUs),
          state: (state, detail, units) => this.onState(entry, state, detail, units),
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
    entry.link.choose(this.engines.get(jobId) ?? null);
    entry.link.open();
    return entry;
  }

  /**
   * Samples of the job's link go to a capture from now on. What had come in before is not part of it; what comes from
   * now on is, the first second whole. Null ends it. False when the job has no link.
   */
  listen(jobId: string, listener: LinkListener | null): boolean {
    const entry = this.active.get(jobId);
    if (!entry) return false;
    entry.listener = listener;
    entry.batch = [];
    entry.queue = [];
    entry.usedAt = Date.now();
    return true;
  }

  /** What the bus is asked from now on: the plan of the step at hand. */
  poll(jobId: string, plan: PollingPlan): void {
    this.active.get(jobId)?.link.poll(plan);
  }

  /** The unit to ask as the engine's from now on, over a new link too; null: the one that is found. */
  chooseEngine(jobId: string, unit: string | null): LinkStatus | null {
    const entry = this.active.get(jobId);
    if (!entry) return null;
    if (unit === null) this.engines.delete(jobId);
    else this.engines.set(jobId, unit);
    entry.usedAt = Date.now();
    entry.link.choose(unit);
    return entry.status;
  }

  /** One question to the vehicle; null when the job has no link. */
  async ask(jobId: string, payload: readonly number[], engineOnly = false): Promise<Answer[] | null> {
    const entry = this.active.get(jobId);
    if (!entry) return null;
    entry.usedAt = Date.now();
    return entry.link.ask(payload, engineOnly);
  }

  /** Clear the vehicle's codes; null when the job has no link. See `AdapterLink.clear`. */
  async clear(jobId: string): Promise<Answer[] | null> {
    const entry = this.active.get(jobId);
    if (!entry) return null;
    entry.usedAt = Date.now();
    return entry.link.clear();
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
    await entry.listener?.closed?.();
    await this.turns.run(entry.address, () => this.end(entry));
  }

  /** End this very link; one that the job has opened since stays. */
  private async end(entry: ActiveLink): Promise<void> {
    if (this.active.get(entry.jobId) === entry) this.active.delete(entry.jobId);
    else if (entry.timers.length === 0) return;
    for (const t of entry.timers) clearInterval(t);
    entry.timers = [];
    entry.listener = null;
    entry.link.close();
    await this.leases.release(entry.address, entry.epoch).catch(() => {});
    this.live.publish(entry.shopId, {
      type: 'link',
      jobId: entry.jobId,
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

  private onState(
    entry: ActiveLink,
    state: LinkStatus['state'],
    detail: string,
    units: NonNullable<LinkStatus['units']>,
  ) {
    entry.status = { ...entry.status, state, detail, units };
    if (state === 'lost' || state === 'silent') entry.listener?.lost(detail, state === 'silent');
    this.live.publish(entry.shopId, { type: 'link', jobId: entry.jobId, status: entry.status });
  }

  /** Once a second: commit what came in, then show it. While one commit is under way the next second waits its turn. */
  private async onSecond(entry: ActiveLink) {
    entry.status.valuesPerSecond = entry.count;
    entry.status.rates = smoothed(entry.status.rates, entry.counts);
    const silent = entry.count === 0;
    entry.count = 0;
    entry.counts.clear();
    this.live.publish(entry.shopId, { type: 'link', jobId: entry.jobId, status: entry.status });
    if (!entry.listener) return void (await this.endIdle(entry));
    if (silent) entry.listener.nothing?.();
    if (entry.batch.length > 0) entry.queue.push(entry.batch);
    entry.batch = [];
    if (entry.queue.length > MAX_WAITING) entry.queue.splice(entry.busy ? 1 : 0, 1);
    if (!entry.busy) await this.commitWaiting(entry);
  }

  /** A link nobody uses lets the adapter go; one that is only looked at does so later. */
  private async endIdle(entry: ActiveLink) {
    const idleMs = Date.now() - entry.usedAt;
    if (idleMs < (this.live.watched(entry.jobId) ? WATCHED_IDLE_MS : IDLE_MS)) return;
    await this.turns.run(entry.address, async () => {
      if (!entry.listener) await this.end(entry);
    });
  }

  private async commitWaiting(entry: ActiveLink) {
    entry.busy = true;
    const { listener } = entry;
    try {
      for (let second = entry.queue[0]; second && listener && entry.listener === listener; second = entry.queue[0]) {
        await listener.second(second, entry.epoch);
        // A listener that ended or changed meanwhile has its own queue.
        if (entry.queue[0] === second) entry.queue.shift();
        this.live.publish(entry.shopId, {
          type: 'live',
          jobId: entry.jobId,
          t: Date.now(),
          values: lastOf(second),
          committed: true,
          second: wholeOf(second),
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
    const kept = await this.leases.renew(entry.address, entry.epoch, entry.status).catch(() => true);
    if (kept || this.active.get(entry.jobId) !== entry) return;
    entry.listener?.lost('another server has taken the adapter', false);
    entry.listener?.taken?.();
    entry.listener = null;
    await this.turns.run(entry.address, () => this.end(entry));
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
    this.stopping = true;
    for (const entry of [...this.active.values()]) await this.turns.run(entry.address, () => this.end(entry));
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

/** A second with the time of every sample, on the wall clock. */
function wholeOf(samples: readonly Sample[]): { atMs: number; data: SecondData } {
  const agoUs = Number(process.hrtime.bigint() / 1000n) - samples[0]!.atUs;
  return { atMs: Date.now() - agoUs / 1000, data: packSecond(samples) };
}

function lastOf(samples: readonly Sample[]): Record<string, number | string> {
  const out: Record<string, number | string> = {};
  for (const s of samples) out[s.channel] = s.value;
  return out;
}
