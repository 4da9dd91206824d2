import { setPriority } from 'node:os';
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { ServiceUnavailableException } from '@nestjs/common';
import { Turns } from './turns.ts';

/** What work that is done aside may take. */
export interface AsideLimits {
  /** From the moment it begins, ms. */
  ms: number;
  /** Of the thread's own objects, MiB; buffers are bounded by who asks. */
  megabytes: number;
  /** Asked for and not begun: more are turned away. */
  waiting: number;
  /** On two cores whoever waits for the server comes before what is read here. Linux alone knows it of a thread. */
  last?: boolean;
}

/** The work was ended at a limit, or its thread died of it. */
export class AsideEnded extends Error {
  constructor(readonly why: 'time' | 'memory' | 'died') {
    super(
      why === 'time'
        ? 'it took too long to read'
        : why === 'memory'
          ? 'it takes too much memory to read'
          : 'it could not be read',
    );
  }
}

/** Nothing is said of what was asked: the server is on its way out. */
const stopping = () => new ServiceUnavailableException('the server stops; ask again in a moment');

/** What a thread may hold of what it has just made, MiB: each lasts for one piece of work. [house] */
const YOUNG_MB = 16;
/** Niceness of a thread that comes last: a fifth of what the others get, where all want to work. */
const LAST = 7;
/** A thread that has nothing to do for this long is ended, ms. [house] */
const IDLE_MS = 30_000;

interface Asked<Out> {
  done(v: Out): void;
  failed(e: Error): void;
}

/**
 * Work on what comes from outside, in a thread of its own: one piece at a time, the askers in turn, ended at its
 * limits. Nothing that somebody sends can keep the server from answering others, or end it.
 */
export class Aside<In, Out> {
  private worker: Worker | null = null;
  private asked: Asked<Out> | null = null;
  private limit: NodeJS.Timeout | null = null;
  private idle: NodeJS.Timeout | null = null;
  private closed = false;
  private readonly turns: Turns;

  /** `file`: a module that calls `answerAside`. */
  constructor(
    private readonly file: URL,
    private readonly limits: AsideLimits,
  ) {
    this.turns = new Turns(limits.waiting);
  }

  /** `of`: who asks (a shop): each gets its turn. Throws AsideEnded at a limit, 503 where too many wait. */
  run(of: string, input: In): Promise<Out> {
    return this.turns.run(of, () => this.once(input));
  }

  async close(): Promise<void> {
    this.closed = true;
    await this.end(stopping());
  }

  private async once(input: In): Promise<Out> {
    if (this.closed) throw stopping();
    if (this.idle) clearTimeout(this.idle);
    this.worker ??= this.start();
    const worker = this.worker;
    worker.ref();
    try {
      return await new Promise<Out>((done, failed) => {
        this.asked = { done, failed };
        this.limit = setTimeout(() => void this.end(new AsideEnded('time')), this.limits.ms);
        worker.postMessage(input);
      });
    } finally {
      this.asked = null;
      if (this.limit) clearTimeout(this.limit);
      worker.unref();
      this.idle = setTimeout(() => void this.end(new AsideEnded('died')), IDLE_MS).unref();
    }
  }

  private start(): Worker {
    const worker = new Worker(this.file, {
      resourceLimits: { maxOldGenerationSizeMb: this.limits.megabytes, maxYoungGenerationSizeMb: YOUNG_MB },
      workerData: { last: this.limits.last ?? false },
    });
    const ours = (f: () => void) => () => {
      if (worker === this.worker) f();
    };
    worker.on('message', (m: { value: Out } | { error: string }) =>
      ours(() => ('error' in m ? this.asked?.failed(new Error(m.error)) : this.asked?.done(m.value)))(),
    );
    worker.on('error', (e: NodeJS.ErrnoException) =>
      ours(() => void this.end(new AsideEnded(e.code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'memory' : 'died')))(),
    );
    worker.on(
      'exit',
      ours(() => void this.end(new AsideEnded('died'))),
    );
    return worker;
  }

  /** The thread is ended, then what it was at is refused: nothing of it runs on beside the next. */
  private async end(why: Error): Promise<void> {
    const { worker, asked } = this;
    this.worker = null;
    this.asked = null;
    if (this.idle) clearTimeout(this.idle);
    await worker?.terminate();
    asked?.failed(why);
  }
}

/** The other side: answers each message with what `f` makes of it. Does nothing where it is read outside of a thread. */
export function answerAside<In, Out>(f: (input: In) => Promise<Out> | Out): void {
  if (isMainThread || !parentPort) return;
  const port = parentPort;
  try {
    if ((workerData as { last?: boolean } | null)?.last) setPriority(LAST);
  } catch {
    // Not everywhere a process may do so; then it shares as it is.
  }
  port.on('message', async (input: In) => {
    try {
      port.postMessage({ value: await f(input) });
    } catch (e) {
      port.postMessage({ error: (e as Error).message });
    }
  });
}
