import type { Sample } from '../link/index.ts';
import type { Point } from './robust.ts';

/** Memory of a capture: enough for the window and the warm-up slope, s. */
export const KEEP_S = 90;

/** A channel of words: what counts, and what came last. One broken frame decides nothing: another word counts from its second time on. */
interface Word {
  readonly said: string;
  readonly last: string;
}

/** What the car has said lately. Never changed once made. */
export interface Signals {
  readonly series: ReadonlyMap<string, readonly Point[]>;
  readonly words: ReadonlyMap<string, Word>;
  /** Of the newest sample, s. */
  readonly nowS: number;
}

export const SILENCE: Signals = { series: new Map(), words: new Map(), nowS: 0 };

/** Signals with more samples: `add` them in time order, then `done`. Leaves what it was given alone. */
export class Growing implements Signals {
  readonly series: Map<string, readonly Point[]>;
  readonly words: Map<string, Word>;
  nowS: number;
  private readonly own = new Map<string, Point[]>();

  constructor(before: Signals) {
    this.series = new Map(before.series);
    this.words = new Map(before.words);
    this.nowS = before.nowS;
  }

  add({ channel, atUs, value }: Sample): void {
    const t = atUs / 1e6;
    this.nowS = Math.max(this.nowS, t);
    if (typeof value === 'string') {
      const w = this.words.get(channel);
      this.words.set(channel, { said: !w || w.last === value ? value : w.said, last: value });
      return;
    }
    let list = this.own.get(channel);
    if (!list) {
      list = (this.series.get(channel) ?? []).filter((p) => p.t >= t - KEEP_S);
      this.own.set(channel, list);
      this.series.set(channel, list);
    }
    list.push({ t, v: value });
    while (list[0]!.t < t - KEEP_S) list.shift();
  }

  done(): Signals {
    return { series: this.series, words: this.words, nowS: this.nowS };
  }
}

export function pointsOf(s: Signals, channel: string): readonly Point[] {
  return s.series.get(channel) ?? [];
}

/** Samples of a channel from `fromS` on. */
export function since(s: Signals, channel: string, fromS: number): readonly Point[] {
  return pointsOf(s, channel).filter((p) => p.t >= fromS);
}

export function lastOf(s: Signals, channel: string): number | undefined {
  return pointsOf(s, channel).at(-1)?.v;
}

export function wordOf(s: Signals, channel: string): string | undefined {
  return s.words.get(channel)?.said;
}
