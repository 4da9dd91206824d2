import { useSyncExternalStore } from 'react';

/** What an answer said of the server's clock: how far this one is behind it, and how sure that is, ms. */
interface Offset {
  offsetMs: number;
  errorMs: number;
  /** This device's clock when it was heard. */
  atMs: number;
}

/** Clocks of tablets drift by less, as a share of the time gone by. [house] */
const DRIFT = 1e-4;
/** This far off is said. [house] */
const SAID_MS = 60_000;
const KEPT = 'jb-clock';

/**
 * The shop's time on this device: its own clock put right by what the server's says, measured on every answer. The best
 * measured offset counts, until it is old or contradicted: then somebody has set a clock. Kept for when no server answers.
 */
export class ShopClock {
  private best: Offset | null;
  private readonly listeners = new Set<() => void>();

  constructor(
    private readonly own: () => number,
    private readonly store: Pick<Storage, 'getItem' | 'setItem'> | null,
  ) {
    this.best = read(store?.getItem(KEPT) ?? null);
  }

  /** An answer came `serverMs` by the server's clock to what was asked at `sentMs` by this one. */
  heard(sentMs: number, serverMs: number): void {
    const atMs = this.own();
    if (!Number.isFinite(serverMs) || atMs < sentMs) return;
    // Somewhere between asking and hearing.
    const errorMs = (atMs - sentMs) / 2 + 1;
    const offsetMs = serverMs - (sentMs + atMs) / 2;
    const { best } = this;
    const bestError = best ? best.errorMs + DRIFT * Math.abs(atMs - best.atMs) : Number.POSITIVE_INFINITY;
    const contradicted = best !== null && Math.abs(offsetMs - best.offsetMs) > bestError + errorMs;
    if (!contradicted && errorMs >= bestError) return;
    const before = this.saidMs();
    this.best = { offsetMs, errorMs, atMs };
    try {
      this.store?.setItem(KEPT, JSON.stringify(this.best));
    } catch {
      // Full: the offset is measured again with the next answer.
    }
    if (this.saidMs() !== before) for (const f of this.listeners) f();
  }

  /** How far this device's clock is behind the shop's, ms; 0 where no server has ever answered. */
  get offsetMs(): number {
    return Math.round(this.best?.offsetMs ?? 0);
  }

  /** The shop's time, ms since 1970. */
  nowMs = (): number => Math.round(this.own()) + this.offsetMs;

  /** Whole minutes by which this device's clock is behind (+) or ahead (−), where it is worth saying; else 0. */
  saidMs = (): number => {
    const off = this.best?.offsetMs ?? 0;
    return Math.abs(off) < SAID_MS ? 0 : Math.round(off / SAID_MS) * SAID_MS;
  };

  subscribe = (f: () => void): (() => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };
}

function read(kept: string | null): Offset | null {
  try {
    const o = JSON.parse(kept ?? 'null') as Offset | null;
    return o && [o.offsetMs, o.errorMs, o.atMs].every((v) => Number.isFinite(v)) ? o : null;
  } catch {
    return null;
  }
}

export const shopClock = new ShopClock(() => Date.now(), typeof localStorage === 'undefined' ? null : localStorage);

/** The shop's time now, ms since 1970. */
export const shopNow = shopClock.nowMs;

/** As `ShopClock.saidMs`, on screen. */
export const useClockOff = (): number => useSyncExternalStore(shopClock.subscribe, shopClock.saidMs);
