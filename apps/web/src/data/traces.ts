export interface TracePoint {
  t: number;
  v: number;
}

/** The last two minutes of a channel, s. */
const KEEP_S = 120;
/** Trims are followed while they settle, s. */
const KEEP_SETTLING_S = 600;
const SETTLING: ReadonlySet<string> = new Set(['stft1', 'ltft1', 'stft2', 'ltft2', 'rpm']);

/** The newest figures of every numeric channel, by its name; the oldest go as new ones come. Filled in place. */
export class Traces extends Map<string, TracePoint[]> {
  /** @param t Seconds, rising. */
  add(channel: string, t: number, v: number): void {
    const list = this.get(channel) ?? [];
    list.push({ t, v });
    const keep = SETTLING.has(channel) ? KEEP_SETTLING_S : KEEP_S;
    while (list[0]!.t < t - keep) list.shift();
    this.set(channel, list);
  }
}
