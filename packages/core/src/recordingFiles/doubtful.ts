import type { Channel, Series } from '../series/index.ts';
import { figure, type Said, said } from '../units/index.ts';

/** A channel that cannot be what it is taken for, and what of it is odd. */
export interface DoubtfulChannel {
  channel: string;
  text: Said;
}

/** What figures of a running engine may be at all, metric. [house]; a manifold without a charger: the air outside and a little. */
const RANGES: Readonly<Record<string, readonly [number, number, string]>> = {
  rpm: [0, 9000, 'rpm'],
  maf: [0, 700, 'g/s'],
  map: [5, 400, 'kPa'],
  baro: [55, 110, 'kPa'],
  ect: [-50, 150, '°C'],
  iat: [-50, 150, '°C'],
  vss: [0, 320, 'km/h'],
  stft1: [-70, 70, '%'],
  stft2: [-70, 70, '%'],
  ltft1: [-70, 70, '%'],
  ltft2: [-70, 70, '%'],
  lambda11: [0.4, 2.1, ''],
  lambda21: [0.4, 2.1, ''],
  vbat: [4, 20, 'V'],
  fuelLevel: [0, 100, '%'],
};
/** Above the air outside a manifold without a charger never stands by more, kPa. */
const ABOVE_AIR_KPA = 15;
/** Share of samples that may lie outside before the channel is doubted. [house] */
const ODD_SHARE = 0.05;
const LOOKED_AT = 20_000;

/** Channels whose figures cannot be those of this engine: asked about before anything is taken from them. */
export function doubtfulChannels(series: Series, engine: { turbo: boolean; baroKPa: number }): DoubtfulChannel[] {
  const out: DoubtfulChannel[] = [];
  for (const c of series.channels) {
    const range = RANGES[c.id];
    if (!range || c.value.length === 0) continue;
    const [low, high, unit] = range;
    const most = c.id === 'map' && !engine.turbo ? engine.baroKPa + ABOVE_AIR_KPA : high;
    const odd = outside(c, low, most);
    if (odd === null) continue;
    const reads = figure(Math.round(odd * 10) / 10, unit);
    out.push({
      channel: c.id,
      text:
        c.id === 'map' && odd > most && odd <= high
          ? said`${reads} on an engine without a charger: another unit, or another channel?`
          : said`${reads} cannot be: another unit, or another channel?`,
    });
  }
  return out;
}

/** The most telling of the figures outside, where more than a few are; null otherwise. */
function outside(c: Channel, low: number, high: number): number | null {
  const step = Math.max(1, Math.floor(c.value.length / LOOKED_AT));
  let [n, odd, most] = [0, 0, Number.NaN];
  for (let i = 0; i < c.value.length; i += step) {
    const v = c.value[i]!;
    n++;
    if (v >= low && v <= high) continue;
    odd++;
    if (Number.isNaN(most) || Math.abs(v - (low + high) / 2) > Math.abs(most - (low + high) / 2)) most = v;
  }
  return odd > ODD_SHARE * n ? most : null;
}
