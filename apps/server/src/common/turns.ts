import { HttpException } from '@nestjs/common';

/**
 * Work one piece at a time, those who ask in turn: one who asks for much holds nobody else up for longer than the piece
 * at hand. More than `waiting` pieces are turned away with a 503.
 */
export class Turns {
  private busy = false;
  private readonly queues = new Map<string, (() => void)[]>();

  constructor(private readonly waiting: number) {}

  async run<T>(of: string, f: () => Promise<T>): Promise<T> {
    await this.turn(of);
    try {
      return await f();
    } finally {
      this.busy = false;
      this.next();
    }
  }

  private turn(of: string): Promise<void> {
    if (!this.busy) {
      this.busy = true;
      return Promise.resolve();
    }
    const waiting = [...this.queues.values()].reduce((n, q) => n + q.length, 0);
    if (waiting >= this.waiting)
      throw new HttpException({ statusCode: 503, message: 'much is coming in just now: try again in a moment' }, 503);
    return new Promise((begin) => {
      const mine = this.queues.get(of);
      if (mine) mine.push(begin);
      else this.queues.set(of, [begin]);
    });
  }

  private next(): void {
    const [of, queue] = this.queues.entries().next().value ?? [];
    const begin = queue?.shift();
    if (of === undefined || !queue || !begin) return;
    // Whoever has been served goes behind the others.
    this.queues.delete(of);
    if (queue.length > 0) this.queues.set(of, queue);
    this.busy = true;
    begin();
  }
}
