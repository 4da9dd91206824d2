import { type Sample, type unpackSecond } from '@just-balance/core/link';
import type { MonitorId } from '@just-balance/core/obd';
import {
  type CarState,
  type CoachState,
  coachNow,
  coachSample,
  coachStart,
  type DriveProcedure,
  type DriveReview,
  heardSamples,
  reviewOf,
} from '@just-balance/core/readiness';

/** A drive as the coach has heard it. */
export interface Drive {
  state: CoachState;
  /** Second 0 of the drive, µs of the wall clock. */
  fromUs: number;
  km: number;
  ended: boolean;
  /** The car at key-on: what the review holds the conditions before the start against. */
  car: CarState;
}

/** First figures of every channel, by its name, and their moment, ms of the wall clock. */
export interface Heard {
  values: Readonly<Record<string, number | string>>;
  atMs: number;
}

/** What became of a drive, for whoever keeps it. */
export interface Driven {
  review: DriveReview;
  distanceKm: number;
  minutes: number;
}

interface Deps {
  /** Begins to record what the coach hears. */
  record(procedure: DriveProcedure): Promise<void>;
  /** Keeps a drive that is over. */
  keep(driven: Driven): Promise<void>;
  /** A drive that ended by itself could not be kept. */
  failed(e: unknown): void;
  /** Monitors that are open before the drive; null where that is not known. */
  open(): readonly MonitorId[] | null;
  /**
   * The car at key-on.
   *
   * @param heard What it said first, in a drive that goes on after a reload; null: it begins now.
   */
  car(procedure: DriveProcedure, heard: Heard | null): CarState;
  /** How many seconds of the car pass in one of ours: a simulated bay may be hurried. */
  rate(): number;
}

/** What a vehicle says of itself this soon is of the moment before the drive, ms. */
const FIRST_MS = 30_000;
/** A speed that was not heard for longer than this says nothing of the way between, s. */
const SPEED_GAP_S = 5;

/**
 * One drive under the coach: begun, fed with what a link hears, ended by itself when all is done or when it can no longer
 * succeed. What was driven before a reload is heard again: a live drive and its replay are the same.
 */
export class CoachSession {
  private held: Drive | null = null;
  private speed: { t: number; v: number } | null = null;
  private readonly hurry: Hurry;
  private readonly listeners = new Set<() => void>();
  private ending: Promise<void> | null = null;

  constructor(private readonly deps: Deps) {
    this.hurry = new Hurry(() => deps.rate());
  }

  /** The drive as it stands; the same object until something changes. */
  drive = (): Drive | null => this.held;

  subscribe = (f: () => void): (() => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };

  /** `known`: channels the vehicle is known to give; `nowUs`: the newest moment heard, µs of the wall clock. */
  async begin(procedure: DriveProcedure, known: ReadonlySet<string>, nowUs: number): Promise<void> {
    // Of the moment at which it was pressed: recording takes a while to begin.
    const car = this.carNow(procedure, null);
    await this.deps.record(procedure);
    this.speed = null;
    this.put({
      state: coachStart(procedure, new Set(known)),
      fromUs: this.hurry.from(nowUs),
      km: 0,
      ended: false,
      car,
    });
  }

  /** Take up a drive that a reload interrupted, from its seconds. Not where one is under way or nothing was heard. */
  resume(
    procedure: DriveProcedure,
    seconds: readonly Parameters<typeof unpackSecond>[0][],
    unpack: typeof unpackSecond,
  ): void {
    const [first] = seconds;
    if (this.held || !first) return;
    const known = new Set(seconds.flatMap((s) => Object.keys(s.data)));
    const values: Record<string, number | string> = {};
    for (const s of seconds.filter((x) => x.atMs - first.atMs <= FIRST_MS))
      for (const { channel, value } of unpack(s)) values[channel] ??= value;
    let d: Drive = {
      state: coachStart(procedure, known),
      fromUs: first.atMs * 1000,
      km: 0,
      ended: false,
      car: this.carNow(procedure, { values, atMs: first.atMs }),
    };
    for (const s of seconds) d = this.heardBy(d, unpack(s));
    this.put(d);
  }

  /** Samples as a link hears them. */
  hear(samples: readonly Sample[]): void {
    const d = this.held;
    if (!d || d.ended) return;
    const next = this.heardBy(d, this.hurry.of(samples));
    this.put(next);
    const { state } = coachNow(next.state, this.deps.open(), next.car);
    if (state !== 'driving') void this.end().catch((e: unknown) => this.deps.failed(e));
  }

  /** End it and keep what it brought; once, however often it is asked. Rejects where it could not be kept. */
  end(): Promise<void> {
    const d = this.held;
    if (!d) return Promise.resolve();
    this.ending ??= this.over(d).catch((e: unknown) => {
      // Asked again it is tried again.
      this.ending = null;
      throw e;
    });
    return this.ending;
  }

  private async over(d: Drive): Promise<void> {
    this.put({ ...d, ended: true });
    await this.deps.keep({
      review: reviewOf(d.state, d.car),
      distanceKm: d.km,
      minutes: (d.state.nowS ?? 0) / 60,
    });
  }

  private heardBy(d: Drive, samples: readonly Sample[]): Drive {
    let { state, km } = d;
    for (const s of heardSamples(state.procedure, samples, d.fromUs)) {
      state = coachSample(state, s);
      const v = s.values.vss;
      if (v === undefined) continue;
      const before = this.speed;
      if (before && s.t > before.t && s.t - before.t <= SPEED_GAP_S)
        km += ((v + before.v) / 2) * ((s.t - before.t) / 3600);
      this.speed = { t: s.t, v };
    }
    return { ...d, state, km };
  }

  /** With the monitors that the record says are open, where it says so. */
  private carNow(procedure: DriveProcedure, heard: Heard | null): CarState {
    const open = this.deps.open();
    return { ...this.deps.car(procedure, heard), ...(open ? { incomplete: [...open] } : {}) };
  }

  private put(d: Drive): void {
    this.held = d;
    for (const f of this.listeners) f();
  }
}

/** The clock of a simulated bay whose time is hurried: what comes in a second of ours is so many of the car's. */
class Hurry {
  private last = 0;
  private at = 0;

  constructor(private readonly rate: () => number) {}

  /** From this moment on, µs; it is its own. */
  from(us: number): number {
    this.last = us;
    this.at = us;
    return us;
  }

  of(samples: readonly Sample[]): readonly Sample[] {
    if (this.last === 0) return samples;
    return samples.map((s) => {
      this.at += Math.max(0, s.atUs - this.last) * (this.rate() || 1);
      this.last = Math.max(this.last, s.atUs);
      return { ...s, atUs: this.at };
    });
  }
}
