import { type OfflineAnswer, WRITES, type Write } from '@just-balance/contract';
import type { KeptSecond, NewSecond, OfflineRecording } from './offlineTypes.ts';
import { Sender, type SenderParts, type SendResult } from './Sender.ts';

export interface OfflineStore {
  recordings(): Promise<OfflineRecording[]>;
  add(recording: OfflineRecording): Promise<void>;
  /** In one transaction: link and uploader change different fields of the same row. */
  update(id: string, change: (now: OfflineRecording) => Partial<OfflineRecording>): Promise<void>;
  /** The next second, and the count of them: both on disk, or neither. */
  keep(id: string, second: NewSecond): Promise<void>;
  /** Seconds from number `from` on, at most `most`, all of them where it is not given. */
  seconds(id: string, from: number, most?: number): Promise<KeptSecond[]>;
  /** A recording and all its seconds. */
  remove(id: string): Promise<void>;
}

interface Parts extends SenderParts {
  store: OfflineStore;
  /** One write of an account; `done` carries what the server answered. */
  post<B>(accountId: string, write: Write<B, OfflineAnswer>, body: B): Promise<SendResult>;
  /** All of one is in the shop. */
  arrived(recording: OfflineRecording): void;
}

const CHUNK = 30;
/** Bytes in one call of a function: beyond, its arguments are too many. */
const AT_ONCE = 8192;

function base64(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += AT_ONCE) text += String.fromCharCode(...bytes.subarray(i, i + AT_ONCE));
  return btoa(text);
}

const onItsWay = ({ atMs, data, bus }: KeptSecond) => ({
  ...{ atMs, data },
  ...(bus ? { bus: { frames: base64(bus.frames), lost: bus.lost } } : {}),
});

/**
 * Takes recordings of this device up to the shop: begun, then in numbered chunks, then ended. A second goes from the
 * device only when all of its recording is in; the same chunk twice changes nothing there.
 */
export class Uploader extends Sender<OfflineRecording, Parts> {
  protected async kept(): Promise<readonly OfflineRecording[]> {
    return (await this.parts.store.recordings()).sort((a, b) => a.startedAtMs - b.startedAtMs);
  }

  /** After a refusal: the same once more. */
  async tryAgain(recording: OfflineRecording): Promise<void> {
    await this.parts.store.update(recording.id, () => ({ refused: null }));
    await this.refresh();
    await this.flush();
  }

  /** End one that nobody goes on with. */
  async end(recording: OfflineRecording): Promise<void> {
    await this.parts.store.update(recording.id, (s) => ({ ended: s.ended ?? 'stop' }));
    await this.flush();
  }

  /** A person gives it up, seconds and all. */
  async drop(recording: OfflineRecording): Promise<void> {
    await this.parts.store.remove(recording.id);
    await this.refresh();
  }

  protected async run(): Promise<'done' | 'later'> {
    await this.refresh();
    for (const { id } of this.waiting().filter((s) => s.refused === null)) {
      if ((await this.up(id)) === 'later') return 'later';
      this.reached();
    }
    return 'done';
  }

  /** Read anew for every step: the link puts seconds down meanwhile. */
  private async current(id: string): Promise<OfflineRecording | undefined> {
    return (await this.parts.store.recordings()).find((s) => s.id === id);
  }

  private async up(id: string): Promise<'done' | 'later'> {
    let chunk = CHUNK;
    let askedAgain = false;
    for (let s = await this.current(id); s && s.refused === null; s = await this.current(id)) {
      const { jobId, accountId } = s;
      const step = !s.begun ? 'begin' : s.sent < s.seconds ? 'seconds' : s.ended === null ? 'wait' : 'end';
      if (step === 'wait') return 'done';
      let result: SendResult;
      if (step === 'begin')
        result = await this.parts.post(accountId, WRITES.beginOffline(jobId), { id, at: s.at, phase: s.phase });
      else if (step === 'end')
        result = await this.parts.post(accountId, WRITES.endOffline(jobId, id), {
          seconds: s.seconds,
          how: s.ended!,
          events: s.events,
          ...(s.setAside ? { setAside: s.setAside } : {}),
        });
      else {
        const seconds = await this.parts.store.seconds(id, s.sent, chunk);
        result = await this.parts.post(accountId, WRITES.offlineSeconds(jobId, id), {
          from: s.sent,
          seconds: seconds.map(onItsWay),
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
          await this.parts.store.update(id, () => ({ begun: false, sent: 0 }));
          continue;
        }
        const { reason } = result;
        await this.parts.store.update(id, () => ({ refused: reason }));
        return 'done';
      }
      const { committed } = result.answer as OfflineAnswer;
      if (step === 'end') {
        await this.parts.store.remove(id);
        this.parts.arrived(s);
        return 'done';
      }
      // A server that takes them and has no more than before: not in the same breath again.
      if (step === 'seconds' && !(committed > s.sent)) return 'later';
      await this.parts.store.update(id, (now) => ({ begun: true, sent: Math.min(committed, now.seconds) }));
    }
    return 'done';
  }
}
