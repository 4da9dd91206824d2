import { isMainThread, parentPort, Worker } from 'node:worker_threads';
import { HttpException } from '@nestjs/common';

/** What work that is done aside may take. */
export interface AsideLimits {
  /** From the moment it begins, ms. */
  ms: number;
  /** Of the thread's own objects, MiB; buffers are bounded by who asks. */
  megabytes: number;
  /** Asked for and not begun: more are turned away. */
  waiting: number;
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

/** A thread that has nothing to do for this long is ended, ms. [house] */
const IDLE_MS = 30_000;

interface Asked<In, Out> {
  of: string;
  input: In;
  done(v: Out): void;
  failed(e: Error): void;
}

/**
 * Work on what comes from outside, in a thread of its own: one piece at a time, the askers in turn, ended at its
 * limits. Nothing that somebody sends can keep the server from answering others, or end it.
 */
export class Aside<In, Out> {
  private worker: Worker | null = null;
  private current: Asked<In, Out> | null = null;
  private readonly queues = new Map<string, Asked<In, Out>[]>();
  private limit: NodeJS.Timeout | null = null;
  private idle: NodeJS.Timeout | null = null;
  private ended: AsideEnded | null = null;

  /** `file`: a module that calls `answerAside`. */
  constructor(
    private readonly file: URL,
    private readonly limits: AsideLimits,
  ) {}

  /** `of`: who asks (a shop): each gets its turn. Throws AsideEnded at a limit, 503 where too many wait. */
  run(of: string, input: In): Promise<Out> {
    return new Promise((done, failed) => {
      const waiting = [...this.queues.values()].reduce((n, q) => n + q.length, 0);
      if (waiting >= this.limits.waiting) {
        failed(
          new HttpException({ statusCode: 503, message: 'much is being read just now: try again in a moment' }, 503),
        );
        return;
      }
      const mine = this.queues.get(of) ?? [];
      mine.push({ of, input, done, failed });
      this.queues.set(of, mine);
      this.next();
    });
  }

  close(): void {
    for (const queue of this.queues.values()) for (const asked of queue) asked.failed(new AsideEnded('died'));
    this.queues.clear();
    this.end(new AsideEnded('died'));
  }

  private next(): void {
    if (this.current || this.ended) return;
    const [of, queue] = this.queues.entries().next().value ?? [];
    if (of === undefined || !queue) {
      this.idle ??= setTimeout(() => this.stop(), IDLE_MS).unref();
      return;
    }
    if (this.idle) clearTimeout(this.idle);
    this.idle = null;
    // Whoever has been served goes behind the others.
    this.queues.delete(of);
    this.current = queue.shift()!;
    if (queue.length > 0) this.queues.set(of, queue);
    this.limit = setTimeout(() => this.end(new AsideEnded('time')), this.limits.ms);
    this.worker ??= this.start();
    this.worker.ref();
    this.worker.postMessage(this.current.input);
  }

  private start(): Worker {
    const worker = new Worker(this.file, { resourceLimits: { maxOldGenerationSizeMb: this.limits.megabytes } });
    worker.on('message', (m: { value: Out } | { error: string }) => {
      if (worker !== this.worker) return;
      const asked = this.settle();
      worker.unref();
      if ('error' in m) asked?.failed(new Error(m.error));
      else asked?.done(m.value);
      this.next();
    });
    worker.on('error', (e: NodeJS.ErrnoException) => {
      if (worker === this.worker) this.end(new AsideEnded(e.code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'memory' : 'died'));
    });
    worker.on('exit', () => {
      if (worker === this.worker) this.end(new AsideEnded('died'));
    });
    return worker;
  }

  /** The thread is ended, then what it was at is refused: nothing of it runs on beside the next. */
  private end(why: AsideEnded): void {
    if (this.ended) return;
    this.ended = why;
    void this.stop().then(() => {
      this.ended = null;
      this.settle()?.failed(why);
      this.next();
    });
  }

  private settle(): Asked<In, Out> | null {
    if (this.limit) clearTimeout(this.limit);
    this.limit = null;
    const asked = this.current;
    this.current = null;
    return asked;
  }

  private async stop(): Promise<void> {
    this.idle = null;
    const worker = this.worker;
    this.worker = null;
    await worker?.terminate();
  }
}

/** The other side: answers each message with what `f` makes of it. Does nothing where it is read outside of a thread. */
export function answerAside<In, Out>(f: (input: In) => Promise<Out> | Out): void {
  if (isMainThread || !parentPort) return;
  const port = parentPort;
  port.on('message', async (input: In) => {
    try {
      port.postMessage({ value: await f(input) });
    } catch (e) {
      port.postMessage({ error: (e as Error).message });
    }
  });
}
