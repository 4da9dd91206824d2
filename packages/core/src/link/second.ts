import type { Sample } from './requester.ts';

/** A second of samples as it is kept and sent: by channel, whole ms after the second's first sample, and the value. */
export type SecondData = Record<string, [number, number | string][]>;

/** `samples`: at least one, in time order. */
export function packSecond(samples: readonly Sample[]): SecondData {
  const first = samples[0]!.atUs;
  const data: SecondData = {};
  for (const s of samples) {
    const list = data[s.channel] ?? [];
    list.push([Math.round((s.atUs - first) / 1000), s.value]);
    data[s.channel] = list;
  }
  return data;
}

/** The samples again, in time order; `atMs` is when the second began, of whichever clock is meant. */
export function unpackSecond({ atMs, data }: { atMs: number; data: Readonly<SecondData> }): Sample[] {
  return Object.entries(data)
    .flatMap(([channel, list]) => list.map(([ms, value]) => ({ channel, atUs: Math.round((atMs + ms) * 1000), value })))
    .sort((a, b) => a.atUs - b.atUs);
}
