import {
  type CaptureCommand,
  type CaptureStatus,
  captureStatus,
  FREE,
  type LinkStatus,
  type NewCaptureRequest,
  type Phase,
} from '@just-balance/contract';
import { FrameBatch, packFrames, type TakenFrames } from '@just-balance/core/can';
import { type CaptureRun, followRun, type GuidedEvent, runStatus } from '@just-balance/core/capture';
import {
  type Answer,
  asideSince,
  PLANS,
  type PollingPlan,
  packSecond,
  type Sample,
  type SetAside,
  type ShellHandlers,
  unpackSecond,
} from '@just-balance/core/link';
import type { KeptBus, KeptSecond, OfflineRecording } from '../data/offlineTypes.ts';
import { whyNotKept } from '../data/room.ts';
import { Traces } from '../data/traces.ts';
import type { OfflineStore } from '../data/Uploader.ts';

/** The link over a port, as this needs it. */
export interface PortLink {
  open(): void;
  poll(plan: PollingPlan): void;
  ask(payload: readonly number[], engineOnly?: boolean): Promise<Answer[]>;
  choose(ecu: string | null): void;
  close(): void;
  /** Frames that did not count since it was opened. */
  readonly setAside: SetAside;
}
interface Deps {
  store: OfflineStore;
  shell(handlers: ShellHandlers): PortLink;
  newId(): string;
  /** µs of this device's clock, on which samples are. */
  nowUs(): number;
  /** How far that clock is behind the shop's, ms. */
  offsetMs(): number;
  every(f: () => void, ms: number): () => void;
  deflate(bytes: Uint8Array): Promise<Uint8Array>;
  /** Something is to go up. */
  flush(): void;
}

/** What a screen sees; a new value at every change. */
export interface DeviceState {
  status: LinkStatus;
  capture: CaptureStatus | null;
  /** The recording under way. */
  recording: OfflineRecording | null;
}

export interface NewRecording {
  accountId: string;
  jobId: string;
  at: NewCaptureRequest['at'];
  phase: Phase;
  coach: string | null;
  /** As it begins. */
  run: CaptureRun;
  plan: PollingPlan;
}

const SECOND_MS = 1000;
/** A second that had to wait is no longer than this, µs: the shop takes none of more than a minute. [house] */
const PIECE_US = 30e6;
/** How often what is recorded is offered to the shop, s. */
const OFFER_S = 5;

/**
 * The link of this device: an adapter at the tablet itself. Who receives the frames owns the record: every second is on
 * disk here before it is shown as kept, and goes up to the shop when there is one.
 */
export class DeviceLink {
  /** Values and traces, filled in place: a screen looks at them many times a second. */
  values: Record<string, number | string> = {};
  readonly traces = new Traces();
  private readonly shell: PortLink;
  private readonly listeners = new Set<() => void>();
  private readonly hearing = new Set<(samples: readonly Sample[]) => void>();
  private readonly stopTimer: () => void;
  private batch: Sample[] = [];
  private count = 0;
  private counts = new Map<string, number>();
  private run: CaptureRun | null = null;
  private readonly bus = new FrameBatch();
  /** What is kept of the bus in this recording, deflated. */
  private busBytes = 0;
  private keeping: Promise<void> = Promise.resolve();
  private sinceOffer = 0;
  /** Frames that had not counted before this page took the recording up, of the link and of the recording. */
  private aside: { link: SetAside; recording: SetAside } = { link: {}, recording: {} };
  /** Of the recording: one offset for all of it, whatever is measured meanwhile. */
  private offsetMs = 0;
  /** Between a start and its first second. */
  private starting = false;
  state: DeviceState;

  constructor(
    readonly jobId: string,
    private readonly deps: Deps,
  ) {
    this.state = {
      status: {
        adapter: 'this device',
        state: 'connecting',
        detail: '',
        valuesPerSecond: 0,
        rates: {},
      },
      capture: null,
      recording: null,
    };
    this.shell = deps.shell({
      samples: (s) => this.onSamples(s),
      frames: (frames, atUs) => {
        if (this.keeps) this.bus.add(frames, atUs, this.busBytes);
      },
      state: (state, detail, units) => this.onState(state, detail, units),
    });
    this.stopTimer = deps.every(() => this.onSecond(), SECOND_MS);
    this.shell.open();
    this.shell.poll(PLANS.mixture);
  }

  subscribe = (f: () => void): (() => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };

  /** Every sample as it comes in. */
  listen = (f: (samples: readonly Sample[]) => void): (() => void) => {
    this.hearing.add(f);
    return () => this.hearing.delete(f);
  };

  ask(payload: readonly number[], engineOnly?: boolean): Promise<Answer[]> {
    return this.shell.ask(payload, engineOnly);
  }

  private show(change: Partial<DeviceState>): void {
    this.state = { ...this.state, ...change };
    for (const f of this.listeners) f();
  }

  private onSamples(samples: Sample[]): void {
    this.count += samples.length;
    for (const s of samples) {
      this.counts.set(s.channel, (this.counts.get(s.channel) ?? 0) + 1);
      if (typeof s.value === 'number') this.traces.add(s.channel, s.atUs / 1e6, s.value);
    }
    this.values = { ...this.values, ...Object.fromEntries(samples.map((s) => [s.channel, s.value])) };
    if (this.keeps) this.batch.push(...samples);
    for (const f of this.hearing) f(samples);
    for (const f of this.listeners) f();
  }

  /** Whether what comes in now belongs to a recording. */
  private get keeps(): boolean {
    return this.state.recording !== null && this.state.capture?.state !== 'paused';
  }

  /** The unit to ask as the engine's; null: the one that is found. */
  choose(ecu: string | null): void {
    this.shell.choose(ecu);
  }

  private onState(state: LinkStatus['state'], detail: string, units: NonNullable<LinkStatus['units']>): void {
    if (state === 'lost' || state === 'silent') this.interrupted();
    this.show({ status: { ...this.state.status, state, detail, units } });
  }

  /** Nothing of a gap counts; the same goes up with the seconds, so that the shop comes to the same reading. */
  private interrupted(): void {
    if (!this.state.recording || !this.run) return;
    const { id } = this.state.recording;
    this.follow({ kind: 'interrupted' });
    this.keeping = this.keeping
      .then(() =>
        this.deps.store.update(id, (s) => ({ events: [...s.events, { after: s.seconds, kind: 'interrupted' }] })),
      )
      .catch(() => {});
  }

  private onSecond(): void {
    const rates = Object.fromEntries(this.counts);
    const { count, batch } = this;
    this.count = 0;
    this.counts = new Map();
    this.batch = [];
    this.show({ status: { ...this.state.status, valuesPerSecond: count, rates } });
    if (batch.length > 0 && this.state.recording) {
      // What was on the bus goes with the samples it brought.
      const bus = this.bus.take();
      this.keeping = this.keeping.then(() => this.keep(batch, bus));
    }
    if (++this.sinceOffer >= OFFER_S && this.state.recording) {
      this.sinceOffer = 0;
      void this.deps.store.update(this.state.recording.id, () => ({ setAside: this.asideNow() })).catch(() => {});
      this.deps.flush();
    }
  }

  /** Frames of the recording that did not count so far. */
  private asideNow(): SetAside {
    const all: Record<string, number> = { ...this.aside.recording };
    for (const [why, n] of Object.entries(asideSince(this.aside.link, this.shell.setAside)))
      all[why] = (all[why] ?? 0) + n;
    return all;
  }

  /** On disk first, then the capture sees it. */
  private async keep(batch: readonly Sample[], taken: TakenFrames | null): Promise<void> {
    const all = pieces(batch);
    for (const [i, piece] of all.entries()) {
      const { recording } = this.state;
      if (!recording) return;
      const second = secondOf(piece, this.offsetMs);
      const bus = taken && i === 0 ? await this.keptBus(taken, (second.atMs - this.offsetMs) * 1000) : null;
      try {
        await this.deps.store.keep(recording.id, bus ? { ...second, bus } : second);
      } catch (e) {
        // The device will not take it, full perhaps: it comes again with the next second, and the screen says so.
        this.batch = [...all.slice(i).flat(), ...this.batch];
        if (taken && bus) this.bus.giveBack(taken);
        const detail = `what comes in is not kept: ${whyNotKept(e)}; it is tried again every second`;
        return this.show({ status: { ...this.state.status, detail } });
      }
      this.busBytes += bus?.frames.length ?? 0;
      const now = { ...recording, seconds: recording.seconds + 1 };
      this.follow({ kind: 'samples', samples: unpackSecond(second) });
      this.show({
        recording: this.state.recording?.id === recording.id ? now : this.state.recording,
        capture: this.statusNow(now),
      });
      if (this.run && runStatus(this.run).state === 'done') await this.end('stop');
    }
  }

  /** No value's proof: where it cannot be packed, the second is kept without it. */
  private async keptBus(taken: TakenFrames, fromUs: number): Promise<KeptBus | null> {
    const near = taken.frames.filter((f) => Math.abs(f.atUs - fromUs) <= PIECE_US);
    try {
      if (near.length === 0) throw new RangeError('none of this second');
      const frames = await this.deps.deflate(packFrames(near, fromUs));
      return { frames, lost: taken.lost + taken.frames.length - near.length };
    } catch {
      this.bus.lose(taken);
      return null;
    }
  }

  private follow(event: GuidedEvent): void {
    if (this.run) this.run = followRun(this.run, event);
  }

  private statusNow(recording: OfflineRecording): CaptureStatus | null {
    return this.run && captureStatus(recording, runStatus(this.run), recording.seconds);
  }

  async start(r: NewRecording): Promise<void> {
    if (this.state.recording || this.starting) throw new Error('A recording is running already: stop it first.');
    this.starting = true;
    const recording: OfflineRecording = {
      id: this.deps.newId(),
      accountId: r.accountId,
      jobId: r.jobId,
      at: r.at,
      phase: r.phase,
      coach: r.coach,
      startedAtMs: Math.round(this.deps.nowUs() / 1000) + this.deps.offsetMs(),
      offsetMs: this.deps.offsetMs(),
      seconds: 0,
      sent: 0,
      begun: false,
      events: [],
      ended: null,
      refused: null,
    };
    try {
      await this.deps.store.add(recording);
      this.go(recording, r.run, r.plan);
    } finally {
      this.starting = false;
    }
  }

  /** After a reload or an empty battery: the same recording goes on, the gap in it. Its seconds so far come back. */
  async resume(recording: OfflineRecording, run: CaptureRun, plan: PollingPlan): Promise<KeptSecond[]> {
    if (this.state.recording || this.starting) return [];
    this.starting = true;
    const seconds = await this.deps.store.seconds(recording.id, 0).finally(() => {
      this.starting = false;
    });
    this.go(recording, run, plan);
    for (const [i, s] of seconds.entries()) {
      this.busBytes += s.bus?.frames.length ?? 0;
      for (const e of recording.events) if (e.after === i) this.follow({ kind: e.kind });
      this.follow({ kind: 'samples', samples: unpackSecond(s) });
    }
    this.interrupted();
    this.show({ capture: this.statusNow(recording) });
    return seconds;
  }

  private go(recording: OfflineRecording, run: CaptureRun, plan: PollingPlan): void {
    this.run = run;
    this.batch = [];
    this.bus.clear();
    this.busBytes = 0;
    this.offsetMs = recording.offsetMs ?? 0;
    this.aside = { link: this.shell.setAside, recording: recording.setAside ?? {} };
    this.shell.poll(plan);
    this.show({ recording, capture: this.statusNow(recording) });
  }

  async command(c: CaptureCommand['command']): Promise<CaptureStatus | null> {
    const { recording } = this.state;
    if (!recording || !this.run) return null;
    if (c === 'stop' || c === 'keep-doubtful') {
      // The open second belongs to it.
      this.onSecond();
      await this.keeping;
      await this.end(c);
      return null;
    }
    if (c === 'again') {
      this.follow({ kind: 'again' });
      await this.deps.store.update(recording.id, (s) => ({
        events: [...s.events, { after: s.seconds, kind: 'again' }],
      }));
    } else this.interrupted();
    const status = this.statusNow(recording);
    this.show({
      capture: status && c === 'pause' ? { ...status, state: 'paused', reason: 'paused by hand' } : status,
    });
    return this.state.capture;
  }

  private async end(how: 'stop' | 'keep-doubtful'): Promise<void> {
    const { recording } = this.state;
    if (!recording) return;
    const last = this.statusNow(recording);
    const done = how === 'keep-doubtful' || last?.state === 'done';
    this.run = null;
    const setAside = this.asideNow();
    this.shell.poll(PLANS.mixture);
    this.show({
      recording: null,
      capture: last && { ...last, state: done && recording.at !== FREE ? 'done' : 'refused', reason: null },
    });
    await this.deps.store.update(recording.id, () => ({ ended: how, setAside }));
    this.deps.flush();
  }

  /** Let the port go. A recording under way stays as it is, to be taken up or ended. */
  async close(): Promise<void> {
    this.stopTimer();
    this.onSecond();
    await this.keeping;
    this.shell.close();
    this.show({
      status: { ...this.state.status, state: 'off', detail: 'disconnected', valuesPerSecond: 0, rates: {} },
    });
  }
}

/** A batch in pieces of which each can be a second: of more than one only where the device would not keep them before. */
function pieces(batch: readonly Sample[]): Sample[][] {
  const out: Sample[][] = [];
  for (const s of batch) {
    const last = out.at(-1);
    if (last && Math.abs(s.atUs - last[0]!.atUs) < PIECE_US) last.push(s);
    else out.push([s]);
  }
  return out;
}

/** A batch as it is kept: times in whole ms of the shop's clock, which this device's is `offsetMs` behind. */
export function secondOf(batch: readonly Sample[], offsetMs = 0): Pick<KeptSecond, 'atMs' | 'data'> {
  return { atMs: Math.round(batch[0]!.atUs / 1000) + offsetMs, data: packSecond(batch) };
}
