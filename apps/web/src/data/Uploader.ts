import type { SendResult } from './Outbox.ts';
import type { KeptSecond, OfflineRecording } from './offlineTypes.ts';

export interface OfflineStore {
  recordings(): Promise<OfflineRecording[]>;
  add(recording: OfflineRecording): Promise<void>;
  /** In one transaction: link and uploader change different fields of the same row. */
  update(id: string, change: (now: OfflineRecording) => Partial<OfflineRecording>): Promise<void>;
  /** The next second, and the count of them: both on disk, or neither. */
  keep(id: string, second: Pick<KeptSecond, 'atMs' | 'data'>): Promise<void>;
  /** Seconds from number `from` on, at most `most`, all of them where it is not given. */
  seconds(id: string, from: number, most?: number): Promise<KeptSecond[]>;
  /** A recording and all its seconds. */
  remove(id: string): Promise<void>;
}

interface Deps {
  store: OfflineStore;
  /** One write of an account; `done` carries what the server answered. */
  post(accountId: string, path: string, body: unknown): Promise<SendResult>;
  later(f: () => void, ms: number): () => void;
  /** Runs `f` in one tab of this browser at a time. */
  alone(f: () => Promise<void>): Promise<void>;
  /** All of one is in the shop. */
  arrived(recording: OfflineRecording): void;
}

const RETRY_MS = [1000, 3000, 3000, 10_000];
const CHUNK = 30;

/**
 * Takes recordings of this device up to the shop: begun, then in numbered chunks, then ended. A second goes from the
 * device only when all of its recording is in; the same chunk twice changes nothing there.
 */
export class Uploader {
  private shown: readonly OfflineRecording[] = [];
  private others = 0;
  private accountId: string | null = null;
  private readonly listeners = new Set<() => void>();
  private flying: Promise<void> | null = null;
  private again = false;
  private tries = 0;
  private stopTimer: (() => void) | null = null;

  constructor(private readonly deps: Deps) {}

  /** What is on this device for the account that is signed in. */
  waiting = (): readonly OfflineRecording[] => this.shown;

  /** How many wait for other accounts to sign in here. */
  ofOthers = (): number => this.others;

  subscribe = (f: () => void): (() => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };

  async useAccount(accountId: string | null): Promise<void> {
    this.accountId = accountId;
    await this.refresh();
    await this.flush();
  }

  async refresh(): Promise<void> {
    const all = await this.deps.store.recordings();
    this.shown = all.filter((s) => s.accountId === this.accountId).sort((a, b) => a.startedAtMs - b.startedAtMs);
    this.others = all.length - this.shown.length;
    for (const f of this.listeners) f();
  }

  /** After a refusal: the same once more. */
  async tryAgain(recording: OfflineRecording): Promise<void> {
    await this.deps.store.update(recording.id, () => ({ refused: null }));
    await this.refresh();
    await this.flush();
  }

  /** End one that nobody goes on with. */
  async end(recording: OfflineRecording): Promise<void> {
    await this.deps.store.update(recording.id, (s) => ({ ended: s.ended ?? 'stop' }));
    await this.flush();
  }

  /** A person gives it up, seconds and all. */
  async drop(recording: OfflineRecording): Promise<void> {
    await this.deps.store.remove(recording.id);
    await this.refresh();
  }

  /** Send what waits. What is put down meanwhile goes out in the same run or the one right after it. */
  async flush(): Promise<void> {
    if (this.flying) {
      this.again = true;
      return this.flying;
    }
    this.stopTimer?.();
    this.stopTimer = null;
    this.flying = this.deps
      .alone(async () => {
        do {
          this.again = false;
          await this.run();
        } while (this.again);
      })
      .finally(() => {
        this.flying = null;
        return this.again ? this.flush() : undefined;
      });
    return this.flying;
  }

  private async run(): Promise<void> {
    await this.refresh();
    for (const { id } of this.shown.filter((s) => s.refused === null)) {
      if ((await this.up(id)) === 'later') {
        this.stopTimer?.();
        const wait = RETRY_MS[Math.min(this.tries++, RETRY_MS.length - 1)]!;
        this.stopTimer = this.deps.later(() => void this.flush(), wait);
        break;
      }
      this.tries = 0;
    }
    await this.refresh();
  }

  /** Read anew for every step: the link puts seconds down meanwhile. */
  private async current(id: string): Promise<OfflineRecording | undefined> {
    return (await this.deps.store.recordings()).find((s) => s.id === id);
  }

  private async up(id: string): Promise<'done' | 'later'> {
    let chunk = CHUNK;
    let askedAgain = false;
    for (let s = await this.current(id); s && s.refused === null; s = await this.current(id)) {
      const path = `/jobs/${s.jobId}/captures`;
      const step = !s.begun ? 'begin' : s.sent < s.seconds ? 'seconds' : s.ended === null ? 'wait' : 'end';
      if (step === 'wait') return 'done';
      let result: SendResult;
      if (step === 'begin')
        result = await this.deps.post(s.accountId, `${path}/spooled`, { id, at: s.at, phase: s.phase });
      else if (step === 'end')
        result = await this.deps.post(s.accountId, `${path}/${id}/end`, {
          seconds: s.seconds,
          how: s.ended,
          events: s.events,
        });
      else {
        const seconds = await this.deps.store.seconds(id, s.sent, chunk);
        result = await this.deps.post(s.accountId, `${path}/${id}/seconds`, {
          from: s.sent,
          seconds: seconds.map(({ atMs, data }) => ({ atMs, data })),
        });
      }
      if (result.kind === 'later') return 'later';
      if (result.kind === 'refused') {
        // Too large a chunk, or a server that has less than was thought: both are mended here, once.
        if (step === 'seconds' && chunk > 1) {
          chunk = Math.ceil(chunk / 4);
          continue;
        }
        if (step !== 'begin' && !askedAgain) {
          askedAgain = true;
          await this.deps.store.update(id, () => ({ begun: false, sent: 0 }));
          continue;
        }
        const { reason } = result;
        await this.deps.store.update(id, () => ({ refused: reason }));
        return 'done';
      }
      const { committed } = result.answer as { committed: number };
      if (step === 'end') {
        await this.deps.store.remove(id);
        this.deps.arrived(s);
        return 'done';
      }
      // A server that takes them and has no more than before: not in the same breath again.
      if (step === 'seconds' && !(committed > s.sent)) return 'later';
      await this.deps.store.update(id, (now) => ({ begun: true, sent: Math.min(committed, now.seconds) }));
    }
    return 'done';
  }
}
