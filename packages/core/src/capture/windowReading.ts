import type { Reading } from '../case/index.ts';
import { FULL_SCALE, QUANTUM } from '../obd/index.ts';
import { switching } from '../oxygen/index.ts';
import { holdOnto } from '../series/index.ts';
import { TRIM_AUTHORITY_PCT } from '../trims/index.ts';
import { type GuidedSetup, snapWithoutPressure, stalledCold } from './conditions.ts';
import { WARM_FROM_C } from './points.ts';
import { type Point, robust } from './robust.ts';
import { lastOf, pointsOf, type Signals, since, wordOf } from './signals.ts';

/** Sensors whose full scale no engine reaches. [house] */
const PEGGED = new Set(['rpm', 'maf', 'map', 'ect', 'iat', 'o2s', 'vbat', 'baro']);

/** From how many samples a second crossings are counted, and below which swing a sensor rests. [house] */
const CROSSINGS_FROM_HZ = 2;
const RESTS_V = 0.15;

/** Commanded EGR up to which it is shut, and from which it is open, %. [house] */
const EGR_SHUT_PCT = 1;
const EGR_OPEN_PCT = 5;

/** Where a window began; null for one that was never whole: then its last `windowS` seconds count. */
interface ClosedWindow {
  readonly signals: Signals;
  readonly windowFromS: number | null;
}

/** The reading of the closed window (or of the last `windowS` seconds when kept as doubtful). */
export function readingOf(setup: GuidedSetup, { signals, windowFromS }: ClosedWindow): Reading {
  const from = windowFromS ?? signals.nowS - setup.point.windowS;
  // Of something that passes, the moment of most air counts; of a steady window, its mean.
  const peakAt =
    setup.point.kind === 'peak' && setup.point.loadBelow === undefined ? peakTime(setup, signals, from) : null;
  const mean = (channel: string) =>
    pegged.has(channel)
      ? undefined
      : peakAt === null
        ? robust(since(signals, channel, from))?.mean
        : nearest(signals, channel, peakAt);
  const rounded = (v: number | undefined, digits: number) =>
    v === undefined ? undefined : Math.round(v * 10 ** digits) / 10 ** digits;
  const reading: Reading = {
    at: setup.point.at,
    loop:
      (wordOf(signals, 'fuelSys1') ?? '').startsWith('closed') ||
      (setup.unreported.has('loop') && setup.point.needsClosedLoop)
        ? 'closed'
        : 'open',
  };
  const put = <K extends keyof Reading>(key: K, value: Reading[K] | undefined) => {
    if (value !== undefined) reading[key] = value;
  };
  const pegged = new Set(peggedChannels(signals, from));
  const lately = (channel: string) => (pegged.has(channel) ? undefined : lastOf(signals, channel));
  put('rpm', rounded(mean('rpm'), 0));
  if (setup.metered && setup.point.rpmHigh > 0 && !frozenAirflow(setup, signals, from))
    put('mafGps', rounded(mean('maf'), 2));
  put('mapKPa', rounded(mean('map'), 1));
  put('ectC', rounded(mean('ect') ?? lately('ect'), 0));
  put('iatC', rounded(mean('iat') ?? lately('iat'), 0));
  put('vssKmh', rounded(mean('vss'), 0));
  put('baroKPa', rounded(lately('baro'), 0));
  put('fuelPct', rounded(lately('fuelLevel'), 0));
  put('batteryV', rounded(mean('vbat') ?? lately('vbat'), 2));
  put('relativeThrottlePct', rounded(mean('tpRel') ?? lately('tpRel'), 1));
  // Some commanded opening between the two is neither: it is on its way.
  const egr = setup.fuel === 'diesel' ? mean('egrCommanded') : undefined;
  if (egr !== undefined && (egr <= EGR_SHUT_PCT || egr >= EGR_OPEN_PCT))
    reading.recirculation = egr <= EGR_SHUT_PCT ? 'shut' : 'open';
  const trims: NonNullable<Reading['trims']> = {};
  for (let b = 1; setup.point.trims && b <= setup.banks; b++) {
    const t = totals(signals, b as 1 | 2, from);
    if (t) trims[`bank${b as 1 | 2}`] = t;
  }
  if (Object.keys(trims).length > 0) reading.trims = trims;
  const lambda: NonNullable<Reading['lambda']> = {};
  const volts: NonNullable<Reading['o2']> = {};
  for (let b = 1; b <= setup.banks; b++) {
    const l = mean(`lambda${b}1`);
    if (l !== undefined) lambda[`bank${b as 1 | 2}`] = Math.round(l * 1000) / 1000;
    for (const sensor of [1, 2]) {
      const v = pegged.has(`o2s${b}${sensor}`) ? [] : since(signals, `o2s${b}${sensor}`, from);
      const s = switching(
        v.map((p) => p.t),
        v.map((p) => p.v),
      );
      // A sensor polled slowly shows whether it moves at all, but not how often.
      const counts = s !== null && (s.sampleHz >= CROSSINGS_FROM_HZ || s.maxV - s.minV < RESTS_V);
      if (s)
        volts[`bank${b}s${sensor}`] = {
          minV: rounded(s.minV, 3)!,
          maxV: rounded(s.maxV, 3)!,
          ...(counts ? { crossingsPer10s: rounded(s.crossingsPer10s, 1)! } : {}),
          ...(s.leanToRichMs === null ? {} : { leanToRichMs: rounded(s.leanToRichMs, 0)! }),
          ...(s.richToLeanMs === null ? {} : { richToLeanMs: rounded(s.richToLeanMs, 0)! }),
        };
    }
  }
  if (Object.keys(lambda).length > 0) reading.lambda = lambda;
  if (Object.keys(volts).length > 0) reading.o2 = volts;
  if (!setup.point.trims) {
    // Open loop: what the sensor shows counts, not the trims.
    const now: NonNullable<Reading['o2V']> = {};
    for (let b = 1; b <= setup.banks; b++) {
      const v = mean(`o2s${b}1`);
      if (v !== undefined) now[`bank${b as 1 | 2}`] = Math.round(v * 1000) / 1000;
    }
    if (Object.keys(now).length > 0) reading.o2V = now;
  }
  const rpm = since(signals, 'rpm', from);
  const span = rpm.length > 1 ? rpm.at(-1)!.t - rpm[0]!.t : 0;
  if (span > 0) reading.sampleHz = Math.round(((rpm.length - 1) / span) * 10) / 10;
  if (setup.point.needsWarm && stalledCold(signals)) reading.neverWarm = true;
  if (snapWithoutPressure(setup, signals) !== null && pointsOf(signals, 'map').length > 0)
    reading.pressureFollows = false;
  reading.quantum = { stft: QUANTUM.get('stft1')! };
  return reading;
}

/** When the most air flowed since `from`: the airflow signal, or the pressure where there is none. */
function peakTime(setup: GuidedSetup, signals: Signals, from: number): number {
  const look = since(signals, setup.metered ? 'maf' : 'map', from);
  return look.reduce((best, p) => (p.v > best.v ? p : best), look[0] ?? { t: signals.nowS, v: 0 }).t;
}

function nearest(signals: Signals, channel: string, t: number): number | undefined {
  const list = pointsOf(signals, channel);
  let best: Point | undefined;
  for (const p of list) if (!best || Math.abs(p.t - t) < Math.abs(best.t - t)) best = p;
  return best && Math.abs(best.t - t) < 3 ? best.v : undefined;
}

/** Total = short + long, paired by holding the newest long-term value. */
function totals(signals: Signals, bank: 1 | 2, from: number) {
  const short = since(signals, `stft${bank}`, from);
  const long = pointsOf(signals, `ltft${bank}`);
  if (short.length === 0 || long.length === 0) return null;
  const held = holdOnto(
    short.map((p) => p.t),
    long.map((p) => p.t),
  );
  const shorts = short.map((p) => p.v);
  // Before its first sample the long-term value is taken to have been what it then was.
  const longs = [...held].map((k) => long[Math.max(k, 0)]!.v);
  const { sd } = robust(short.map(({ t }, i) => ({ t, v: shorts[i]! + longs[i]! })))!;
  const two = (v: number) => Math.round(v * 100) / 100;
  const avg = (list: number[]) => two(list.reduce((a, b) => a + b, 0) / list.length);
  return { stft: avg(shorts), ltft: avg(longs), sd: two(Math.max(sd, 0.1)), n: short.length };
}

/** An airflow signal that stands on one step for a whole window measures nothing. */
function frozenAirflow(setup: GuidedSetup, signals: Signals, from: number): boolean {
  if (!setup.metered || setup.point.kind !== 'steady' || setup.point.rpmHigh === 0) return false;
  const air = since(signals, 'maf', from);
  return air.length >= 20 && air.every((p) => p.v === air[0]!.v);
}

/** Channels that stood at the end of what their bytes can carry: they measure nothing, and are left out. */
function peggedChannels(signals: Signals, from: number): string[] {
  return [...signals.series.keys()].filter((channel) => {
    const full = FULL_SCALE.get(channel);
    const w = since(signals, channel, from);
    // A share of 100 % and a trim at its end are real; the trims have the ECU's own limit below.
    if (full === undefined || w.length < 3 || !PEGGED.has(channel.replace(/\d+$/, ''))) return false;
    return w.every((p) => p.v >= full - 1e-6);
  });
}

/** Flags for the reading: a channel at its limit, one that never moved, too few samples for what passed. */
export function flagsOf(setup: GuidedSetup, window: ClosedWindow): string[] {
  const { signals, windowFromS } = window;
  const out: string[] = [];
  const from = windowFromS ?? signals.nowS - setup.point.windowS;
  if (setup.unreported.has('ect') && setup.point.needsWarm)
    out.push('coolant is not in the recording: warm is assumed');
  if (setup.unreported.has('loop') && setup.point.needsClosedLoop && setup.fuel === 'petrol')
    out.push('loop state is not in the recording: closed is assumed');
  for (let bank = 1; setup.point.trims && bank <= setup.banks; bank++) {
    const [short, long] = [`stft${bank}`, `ltft${bank}`].map((c) => pointsOf(signals, c).length > 0);
    if (short !== long)
      out.push(
        `${short ? 'long' : 'short'}-term trim of bank ${bank} is not in the recording: without it there is no total, and none is taken`,
      );
  }
  const ect = lastOf(signals, 'ect');
  if (setup.point.needsWarm && ect !== undefined && ect < WARM_FROM_C)
    out.push(stalledCold(signals) ? 'the coolant does not get warm' : 'taken before the engine was warm');
  if (snapWithoutPressure(setup, signals) !== null && pointsOf(signals, 'map').length > 0)
    out.push('manifold pressure did not follow the snap: port, pipe or sensor');
  const air = since(signals, setup.metered ? 'maf' : 'map', from);
  for (const channel of peggedChannels(signals, from))
    out.push(`${channel} stood at the end of its range: pegged, left out`);
  if (frozenAirflow(setup, signals, from)) out.push('airflow never moved: a frozen or substituted signal, left out');
  // Peaks are missed below about 10 samples a second. Common practice, no source.
  if (setup.point.at === 'snap' && air.length > 1 && (air.length - 1) / (air.at(-1)!.t - air[0]!.t) < 10)
    out.push('fewer than ten samples a second: the peak may be missed');
  const r = readingOf(setup, window);
  for (const [bank, t] of Object.entries(r.trims ?? {})) {
    if (t && (Math.abs(t.stft ?? 0) >= TRIM_AUTHORITY_PCT - 0.8 || Math.abs(t.ltft ?? 0) >= TRIM_AUTHORITY_PCT - 0.8)) {
      out.push(`${bank === 'bank1' ? 'bank 1' : 'bank 2'} trim stands at the ECU's limit`);
    }
  }
  return out;
}
