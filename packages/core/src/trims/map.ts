import { type Channel, heldAt, heldIndex, holdOnto, type Series } from '../series/index.ts';

/** One cell of a trim map. */
export interface TrimCell {
  rpmFrom: number;
  loadFrom: number;
  /** Mean displayed total, %. */
  totalPct: number;
  n: number;
}

/** Total trim by engine speed and load: cells with their mean in %, and how many samples each has. */
export interface TrimMap {
  rpmStep: number;
  loadStep: number;
  /** Which load the cells are over: calculated load in %, or manifold pressure in kPa where that is all there is. */
  loadChannel: 'load' | 'loadAbs' | 'map';
  cells: TrimCell[];
}

const RPM_STEP = 500;
const LOAD_STEP = 10;
/** A value older than this says nothing of the moment, s. [house] */
const STALE_S = 3;

/** Moments of a recording with a bank's displayed total beside something else, one per short-term sample. Closed loop only where the recording says. */
export function totalsOver(
  series: Series,
  bank: 1 | 2,
  beside: readonly string[],
): { t: number; total: number; beside: number[] }[] {
  const find = (id: string) => series.channels.find((c) => c.id === id);
  const short = find(`stft${bank}`);
  const long = find(`ltft${bank}`);
  const others = beside.map(find);
  if (!short || others.some((o) => !o)) return [];
  const loop = series.texts?.find((c) => c.id === `fuelSys${bank}`) ?? series.texts?.find((c) => c.id === 'fuelSys1');
  const out: { t: number; total: number; beside: number[] }[] = [];
  for (let i = 0; i < short.time.length; i++) {
    const t: number = short.time[i]!;
    if (loop) {
      const k = heldIndex(loop.time, t);
      if (k >= 0 && !loop.value[k]!.startsWith('closed') && loop.value[k] !== 'not reported') continue;
    }
    // Long-term memory moves slowly: the newest value of the last 30 s counts.
    const l: number = long ? heldAt(long, t, 30) : 0;
    const at: number[] = others.map((o) => heldAt(o!, t, STALE_S));
    if (Number.isNaN(l) || at.some(Number.isNaN)) continue;
    out.push({ t, total: short.value[i]! + l, beside: at });
  }
  return out;
}

/** Mean total trim over engine speed and load; null when a channel for it is missing. */
export function trimMap(series: Series, bank: 1 | 2): TrimMap | null {
  const loadChannel = (['load', 'loadAbs', 'map'] as const).find((id) => series.channels.some((c) => c.id === id));
  if (!loadChannel) return null;
  const moments = totalsOver(series, bank, ['rpm', loadChannel]);
  const cells = new Map<string, TrimCell>();
  for (const m of moments) {
    const rpmFrom = Math.floor(m.beside[0]! / RPM_STEP) * RPM_STEP;
    const loadFrom = Math.floor(m.beside[1]! / LOAD_STEP) * LOAD_STEP;
    const key = `${rpmFrom} ${loadFrom}`;
    const c = cells.get(key) ?? { rpmFrom, loadFrom, totalPct: 0, n: 0 };
    c.n++;
    c.totalPct += (m.total - c.totalPct) / c.n;
    cells.set(key, c);
  }
  if (cells.size === 0) return null;
  return {
    rpmStep: RPM_STEP,
    loadStep: LOAD_STEP,
    loadChannel,
    cells: [...cells.values()].sort((a, b) => a.loadFrom - b.loadFrom || a.rpmFrom - b.rpmFrom),
  };
}

/** Displayed total of a bank over time: short plus the newest long term. Null without a short-term channel. */
export function totalChannel(series: Pick<Series, 'channels'>, bank: 1 | 2): Channel | null {
  const short = series.channels.find((c) => c.id === `stft${bank}`);
  const long = series.channels.find((c) => c.id === `ltft${bank}`);
  if (!short) return null;
  const n = short.time.length;
  const time = new Float64Array(n);
  const value = new Float64Array(n);
  const held = long && holdOnto(short.time, long.time);
  let kept = 0;
  for (let i = 0; i < n; i++) {
    const k = held ? held[i]! : 0;
    if (k < 0) continue;
    time[kept] = short.time[i]!;
    value[kept++] = short.value[i]! + (long ? long.value[k]! : 0);
  }
  return {
    id: `total${bank}`,
    unit: '%',
    ...(short.quantum === undefined ? {} : { quantum: short.quantum }),
    time: time.subarray(0, kept),
    value: value.subarray(0, kept),
  };
}
