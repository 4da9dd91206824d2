import type { Reading } from '../case/index.ts';
import type { Sample } from '../link/index.ts';
import { FULL_SCALE, QUANTUM } from '../obd/index.ts';
import { switching } from '../oxygen/index.ts';
import { TRIM_AUTHORITY_PCT } from '../trims/index.ts';
import { type CapturePoint, WARM_FROM_C } from './points.ts';

export interface Condition {
  id: 'running' | 'warm' | 'cold' | 'closed' | 'rpm' | 'speed' | 'load' | 'steady-rpm' | 'steady-air';
  label: string;
  met: boolean;
  detail: string;
}

export type GuidedState = 'waiting' | 'capturing' | 'refused' | 'done';

export interface GuidedStatus {
  state: GuidedState;
  conditions: Condition[];
  goodS: number;
  wantedS: number;
  reason: string | null;
  /** Seconds until the coolant is warm, where it rises; null when unknown. */
  etaS: number | null;
}

/** Steadiness is first asked of this much signal, s. [house] */
const LOOK_BACK_S = 3;
/** A window that wandered this often is refused instead of tried again by itself. [house] */
const TRIES_BEFORE_REFUSAL = 3;
/** Coolant below warm that has not risen over this long will not get there, s. [house] */
const STALLED_S = 40;
/** Memory of the machine: enough for the window and the warm-up slope. */
const KEEP_S = 90;

interface Point {
  t: number;
  v: number;
}

/**
 * The guided capture as a pure state machine: committed samples go in, the status comes out. It waits for its
 * conditions, opens the window by itself, closes it after `windowS` good seconds, and refuses a window that wandered.
 */
export class GuidedCapture {
  private readonly series = new Map<string, Point[]>();
  /** Words: what counts, and what came last. One broken frame decides nothing: another word counts from its second time on. */
  private readonly words = new Map<string, { said: string; last: string }>();
  private windowFrom: number | null = null;
  private now = 0;
  private wanders = 0;
  private state: GuidedState = 'waiting';
  private reason: string | null = null;

  /**
   * `baroKPa`: station pressure, against which load is judged where the vehicle does not report its own. `unreported`:
   * what a recording from elsewhere does not hold at all; its condition is not asked, and `flags` says so.
   */
  constructor(
    readonly point: CapturePoint,
    private readonly banks: 1 | 2,
    private readonly metered: boolean,
    private readonly fuel: 'petrol' | 'diesel' = 'petrol',
    private readonly baroKPa = 101.325,
    private readonly unreported: ReadonlySet<'loop' | 'ect'> = new Set(),
  ) {}

  /** Where the window lies, in s of the samples' clock; null while none is open. */
  openWindow(): { fromS: number; toS: number } | null {
    return this.windowFrom === null ? null : { fromS: this.windowFrom, toS: this.now };
  }

  /** Take one committed batch; samples in time order. Ignored once done or refused. */
  take(samples: readonly Sample[]): GuidedStatus {
    for (const s of samples) {
      const t = s.atUs / 1e6;
      this.now = Math.max(this.now, t);
      if (typeof s.value === 'string') this.hear(s.channel, s.value);
      else {
        const list = this.series.get(s.channel) ?? [];
        list.push({ t, v: s.value });
        while (list.length > 0 && list[0]!.t < t - KEEP_S) list.shift();
        this.series.set(s.channel, list);
        // What passes in a moment is looked for at every pressure sample, not once a batch.
        if (
          this.point.kind === 'peak' &&
          s.channel === 'map' &&
          (this.state === 'waiting' || this.state === 'capturing')
        )
          this.advance();
      }
    }
    if (this.state === 'waiting' || this.state === 'capturing') this.advance();
    return this.status();
  }

  private hear(channel: string, word: string) {
    const w = this.words.get(channel);
    if (!w) this.words.set(channel, { said: word, last: word });
    else {
      if (w.last === word) w.said = word;
      w.last = word;
    }
  }

  private word(channel: string): string | undefined {
    return this.words.get(channel)?.said;
  }

  /** The link was lost: the window starts again, nothing of the gap counts. */
  interrupted(): void {
    if (this.state === 'done') return;
    this.windowFrom = null;
    this.state = 'waiting';
    this.series.clear();
  }

  /** After a refusal: try again. */
  again(): void {
    this.wanders = 0;
    this.reason = null;
    this.windowFrom = null;
    this.state = 'waiting';
  }

  private advance() {
    const ready = this.conditions().every((c) => c.met);
    if (!ready) {
      this.windowFrom = null;
      this.state = 'waiting';
      return;
    }
    this.windowFrom ??= this.now;
    this.state = 'capturing';
    if (this.now - this.windowFrom < this.point.windowS) return;
    const wander = this.point.kind === 'peak' ? null : this.wander(this.windowFrom);
    if (!wander) {
      this.state = 'done';
      return;
    }
    this.wanders++;
    this.windowFrom = null;
    if (this.wanders >= TRIES_BEFORE_REFUSAL) {
      this.state = 'refused';
      this.reason = wander;
    } else this.state = 'waiting';
  }

  /** Why a whole window is not good enough; null when it is. */
  private wander(from: number): string | null {
    const off = this.point.rpmHigh === 0;
    const metered = this.metered && !off;
    const s = stats(this.window(metered ? 'maf' : 'map', from));
    if (s && s.sd / s.mean > this.point.airflowSteadyShare) {
      return `${metered ? 'airflow' : 'manifold pressure'} wandered ${((100 * s.sd) / s.mean).toFixed(0)} %`;
    }
    if (off) return s ? null : 'no manifold pressure in the window';
    const r = stats(this.window('rpm', from));
    if (r && r.sd / r.mean > this.point.rpmSteadyShare)
      return `engine speed wandered ${((100 * r.sd) / r.mean).toFixed(0)} %`;
    if (!r) return 'no engine speed in the window';
    return null;
  }

  private window(channel: string, from: number): Point[] {
    return (this.series.get(channel) ?? []).filter((p) => p.t >= from);
  }

  private last(channel: string): number | undefined {
    return this.series.get(channel)?.at(-1)?.v;
  }

  /** Median of the newest five: one broken frame decides nothing. */
  private recent(channel: string): number | undefined {
    const five = (this.series.get(channel) ?? []).slice(-5).map((p) => p.v);
    return five.sort((a, b) => a - b)[five.length >> 1];
  }

  private conditions(): Condition[] {
    const p = this.point;
    const rpm = this.recent('rpm');
    const ect = this.recent('ect');
    const out: Condition[] = [];
    const add = (id: Condition['id'], label: string, met: boolean, detail: string) =>
      out.push({ id, label, met, detail });
    const off = p.rpmHigh === 0;
    add(
      'running',
      'Engine',
      off ? rpm !== undefined && rpm < 50 : (rpm ?? 0) > 300,
      rpm === undefined ? 'no engine speed yet' : rpm > 300 ? 'running' : 'not running',
    );
    if (p.needsWarm && !this.unreported.has('ect'))
      add(
        'warm',
        'Coolant',
        (ect ?? -99) >= WARM_FROM_C,
        ect === undefined
          ? 'no reading yet'
          : `${ect.toFixed(0)} °C of ${WARM_FROM_C} °C${this.stalledCold() ? ', no longer rising: a thermostat that stays open does this' : ''}`,
      );
    if (p.coldBelowC !== undefined)
      add(
        'cold',
        'Coolant still cold',
        (ect ?? 999) <= p.coldBelowC,
        ect === undefined ? 'no reading yet' : `${ect.toFixed(0)} °C, at most ${p.coldBelowC} °C`,
      );
    if (p.needsClosedLoop && this.fuel === 'petrol' && !this.unreported.has('loop')) {
      const status = this.word('fuelSys1');
      const second = this.banks === 2 ? this.word('fuelSys2') : 'closed loop';
      const closed =
        (status ?? '').startsWith('closed') && ((second ?? '').startsWith('closed') || second === 'not reported');
      add('closed', 'Closed loop', closed, status ?? 'not reported yet');
    }
    if (!off)
      add(
        'rpm',
        'Engine speed',
        rpm !== undefined && rpm >= p.rpmLow && rpm <= p.rpmHigh,
        rpm === undefined ? '—' : `${rpm.toFixed(0)} of ${p.rpmLow}–${p.rpmHigh} rpm`,
      );
    if (p.speedLowKmh !== undefined) {
      const kmh = this.recent('vss');
      add(
        'speed',
        'Road speed',
        (kmh ?? 0) >= p.speedLowKmh,
        kmh === undefined ? 'no reading yet' : `${kmh.toFixed(0)} of ${p.speedLowKmh} km/h`,
      );
    }
    if (p.loadAbove !== undefined || p.loadBelow !== undefined) {
      const map = this.last('map');
      const share = map === undefined ? undefined : map / (this.last('baro') ?? this.baroKPa);
      const met = share !== undefined && (p.loadAbove === undefined ? share <= p.loadBelow! : share >= p.loadAbove);
      const wanted =
        p.loadAbove === undefined
          ? `at most ${Math.round(100 * p.loadBelow!)} %`
          : `${Math.round(100 * p.loadAbove)} %`;
      add(
        'load',
        'Load',
        met,
        share === undefined ? 'no manifold pressure yet' : `${Math.round(100 * share)} % of ${wanted} of outside air`,
      );
    }
    if (p.kind === 'steady') {
      if (!off) out.push(this.steady('steady-rpm', 'Speed steady', 'rpm', p.rpmSteadyShare));
      const air = this.metered && !off;
      out.push(
        this.steady(
          'steady-air',
          air ? 'Airflow steady' : 'Pressure steady',
          air ? 'maf' : 'map',
          p.airflowSteadyShare,
        ),
      );
    }
    return out;
  }

  private steady(id: Condition['id'], label: string, channel: string, share: number): Condition {
    const points = this.window(channel, this.now - LOOK_BACK_S);
    const s = stats(points);
    const spans = points.length >= 3 && this.now - points[0]!.t >= LOOK_BACK_S * 0.6;
    if (!s || !spans) return { id, label, met: false, detail: 'watching' };
    return {
      id,
      label,
      met: s.sd / Math.max(Math.abs(s.mean), 1e-6) <= share,
      detail: `${s.mean.toFixed(s.mean > 100 ? 0 : 1)} ± ${s.sd.toFixed(s.mean > 100 ? 0 : 2)}`,
    };
  }

  status(): GuidedStatus {
    return {
      state: this.state,
      conditions: this.conditions(),
      goodS:
        this.state === 'done'
          ? this.point.windowS
          : this.windowFrom === null
            ? 0
            : Math.min(this.now - this.windowFrom, this.point.windowS),
      wantedS: this.point.windowS,
      reason: this.reason,
      etaS: this.warmEta(),
    };
  }

  /** The engine has run for a while, is not warm, and the coolant does not rise any more. */
  private stalledCold(): boolean {
    const ect = this.series.get('ect') ?? [];
    const rpm = this.series.get('rpm') ?? [];
    const last = ect.at(-1);
    if (!last || last.v >= WARM_FROM_C || last.t - ect[0]!.t < STALLED_S || !rpm.every((p) => p.v > 300)) return false;
    const before = ect.filter((p) => p.t < last.t - STALLED_S / 2);
    const recent = ect.filter((p) => p.t >= last.t - STALLED_S / 2);
    const mean = (list: Point[]) => list.reduce((s, p) => s + p.v, 0) / list.length;
    return mean(recent) - mean(before) < 0.5;
  }

  private warmEta(): number | null {
    const ect = this.series.get('ect') ?? [];
    const first = ect[0];
    const last = ect.at(-1);
    if (!this.point.needsWarm || !first || !last || last.v >= WARM_FROM_C || last.t - first.t < 15) return null;
    const rate = (last.v - first.v) / (last.t - first.t);
    return rate > 0.005 ? (WARM_FROM_C - last.v) / rate : null;
  }

  /** The reading of the closed window (or of the last `windowS` seconds when kept as doubtful). */
  reading(): Reading {
    const from = this.windowFrom ?? this.now - this.point.windowS;
    // Of something that passes, the moment of most air counts; of a steady window, its mean.
    const peakAt = this.point.kind === 'peak' && this.point.loadBelow === undefined ? this.peakTime(from) : null;
    const mean = (channel: string) =>
      pegged.has(channel)
        ? undefined
        : peakAt === null
          ? stats(this.window(channel, from))?.mean
          : this.nearest(channel, peakAt);
    const rounded = (v: number | undefined, digits: number) =>
      v === undefined ? undefined : Math.round(v * 10 ** digits) / 10 ** digits;
    const reading: Reading = {
      at: this.point.at,
      loop:
        (this.word('fuelSys1') ?? '').startsWith('closed') ||
        (this.unreported.has('loop') && this.point.needsClosedLoop)
          ? 'closed'
          : 'open',
    };
    const put = <K extends keyof Reading>(key: K, value: Reading[K] | undefined) => {
      if (value !== undefined) reading[key] = value;
    };
    const pegged = new Set(this.peggedChannels(from));
    const lately = (channel: string) => (pegged.has(channel) ? undefined : this.last(channel));
    put('rpm', rounded(mean('rpm'), 0));
    if (this.metered && this.point.rpmHigh > 0 && !this.frozenAirflow(from)) put('mafGps', rounded(mean('maf'), 2));
    put('mapKPa', rounded(mean('map'), 1));
    put('ectC', rounded(mean('ect') ?? lately('ect'), 0));
    put('iatC', rounded(mean('iat') ?? lately('iat'), 0));
    put('batteryV', rounded(mean('vbat') ?? lately('vbat'), 2));
    put('relativeThrottlePct', rounded(mean('tpRel') ?? lately('tpRel'), 1));
    const trims: NonNullable<Reading['trims']> = {};
    for (let b = 1; this.point.trims && b <= this.banks; b++) {
      const t = this.totals(b as 1 | 2, from);
      if (t) trims[`bank${b as 1 | 2}`] = t;
    }
    if (Object.keys(trims).length > 0) reading.trims = trims;
    const lambda: NonNullable<Reading['lambda']> = {};
    const volts: NonNullable<Reading['o2']> = {};
    for (let b = 1; b <= this.banks; b++) {
      const l = mean(`lambda${b}1`);
      if (l !== undefined) lambda[`bank${b as 1 | 2}`] = Math.round(l * 1000) / 1000;
      const v = pegged.has(`o2s${b}1`) ? [] : this.window(`o2s${b}1`, from);
      const s = switching(
        v.map((p) => p.t),
        v.map((p) => p.v),
      );
      if (s)
        volts[`bank${b}s1`] = {
          minV: rounded(s.minV, 3)!,
          maxV: rounded(s.maxV, 3)!,
          crossingsPer10s: rounded(s.crossingsPer10s, 1)!,
          ...(s.leanToRichMs === null ? {} : { leanToRichMs: rounded(s.leanToRichMs, 0)! }),
          ...(s.richToLeanMs === null ? {} : { richToLeanMs: rounded(s.richToLeanMs, 0)! }),
        };
    }
    if (Object.keys(lambda).length > 0) reading.lambda = lambda;
    if (Object.keys(volts).length > 0) reading.o2 = volts;
    if (!this.point.trims) {
      // Open loop: what the sensor shows counts, not the trims.
      const now: NonNullable<Reading['o2V']> = {};
      for (let b = 1; b <= this.banks; b++) {
        const v = mean(`o2s${b}1`);
        if (v !== undefined) now[`bank${b as 1 | 2}`] = Math.round(v * 1000) / 1000;
      }
      if (Object.keys(now).length > 0) reading.o2V = now;
    }
    const rpm = this.window('rpm', from);
    const span = rpm.length > 1 ? rpm.at(-1)!.t - rpm[0]!.t : 0;
    if (span > 0) reading.sampleHz = Math.round(((rpm.length - 1) / span) * 10) / 10;
    reading.quantum = { stft: QUANTUM.get('stft1')! };
    return reading;
  }

  /** When the most air flowed since `from`: the airflow signal, or the pressure where there is none. */
  private peakTime(from: number): number {
    const look = this.window(this.metered ? 'maf' : 'map', from);
    return look.reduce((best, p) => (p.v > best.v ? p : best), look[0] ?? { t: this.now, v: 0 }).t;
  }

  private nearest(channel: string, t: number): number | undefined {
    const list = this.series.get(channel) ?? [];
    let best: Point | undefined;
    for (const p of list) if (!best || Math.abs(p.t - t) < Math.abs(best.t - t)) best = p;
    return best && Math.abs(best.t - t) < 3 ? best.v : undefined;
  }

  /** Total = short + long, paired by holding the newest long-term value. */
  private totals(bank: 1 | 2, from: number) {
    const short = this.window(`stft${bank}`, from);
    const long = this.series.get(`ltft${bank}`) ?? [];
    if (short.length === 0 || long.length === 0) return null;
    const totals: number[] = [];
    const shorts: number[] = [];
    const longs: number[] = [];
    let k = 0;
    for (const s of short) {
      while (k + 1 < long.length && long[k + 1]!.t <= s.t) k++;
      shorts.push(s.v);
      longs.push(long[k]!.v);
      totals.push(s.v + long[k]!.v);
    }
    const st = stats(totals.map((v) => ({ t: 0, v })))!;
    const two = (v: number) => Math.round(v * 100) / 100;
    const avg = (list: number[]) => two(list.reduce((a, b) => a + b, 0) / list.length);
    return { stft: avg(shorts), ltft: avg(longs), sd: two(Math.max(st.sd, 0.1)), n: totals.length };
  }

  /** An airflow signal that stands on one step for a whole window measures nothing. */
  private frozenAirflow(from: number): boolean {
    if (!this.metered || this.point.kind !== 'steady' || this.point.rpmHigh === 0) return false;
    const air = this.window('maf', from);
    return air.length >= 20 && air.every((p) => p.v === air[0]!.v);
  }

  /** Channels that stood at the end of what their bytes can carry: they measure nothing, and are left out. */
  private peggedChannels(from: number): string[] {
    return [...this.series.keys()].filter((channel) => {
      const full = FULL_SCALE.get(channel);
      const w = this.window(channel, from);
      // A share of 100 % and a trim at its end are real; the trims have the ECU's own limit below.
      if (full === undefined || w.length < 3 || !PEGGED.has(channel.replace(/\d+$/, ''))) return false;
      return w.every((p) => p.v >= full - 1e-6);
    });
  }

  /** Flags for the reading: a channel at its limit, one that never moved, too few samples for what passed. */
  flags(): string[] {
    const out: string[] = [];
    const from = this.windowFrom ?? this.now - this.point.windowS;
    if (this.unreported.has('ect') && this.point.needsWarm)
      out.push('coolant is not in the recording: warm is assumed');
    if (this.unreported.has('loop') && this.point.needsClosedLoop && this.fuel === 'petrol')
      out.push('loop state is not in the recording: closed is assumed');
    const air = this.window(this.metered ? 'maf' : 'map', from);
    for (const channel of this.peggedChannels(from))
      out.push(`${channel} stood at the end of its range: pegged, left out`);
    if (this.frozenAirflow(from)) out.push('airflow never moved: a frozen or substituted signal, left out');
    // Peaks are missed below about 10 samples a second. Common practice, no source.
    if (this.point.at === 'snap' && air.length > 1 && (air.length - 1) / (air.at(-1)!.t - air[0]!.t) < 10)
      out.push('fewer than ten samples a second: the peak may be missed');
    const r = this.reading();
    for (const [bank, t] of Object.entries(r.trims ?? {})) {
      if (
        t &&
        (Math.abs(t.stft ?? 0) >= TRIM_AUTHORITY_PCT - 0.8 || Math.abs(t.ltft ?? 0) >= TRIM_AUTHORITY_PCT - 0.8)
      ) {
        out.push(`${bank === 'bank1' ? 'bank 1' : 'bank 2'} trim stands at the ECU's limit`);
      }
    }
    return out;
  }
}

/** Sensors whose full scale no engine reaches. [house] */
const PEGGED = new Set(['rpm', 'maf', 'map', 'ect', 'iat', 'o2s', 'vbat', 'baro']);

/** A single value this many robust deviations off its neighbours is a broken frame, not the engine. Hampel's identifier. */
const SPIKE = 8;
/** The least deviation assumed, as a share of the median: quiet channels have none. [house] */
const SPIKE_FLOOR = 0.02;

function withoutSpikes(points: readonly Point[]): readonly Point[] {
  if (points.length < 7) return points;
  const sorted = points.map((p) => p.v).sort((a, b) => a - b);
  const median = sorted[sorted.length >> 1]!;
  const deviations = sorted.map((v) => Math.abs(v - median)).sort((a, b) => a - b);
  const limit = SPIKE * Math.max(1.4826 * deviations[deviations.length >> 1]!, SPIKE_FLOOR * Math.abs(median), 1e-3);
  const kept = points.filter((p) => Math.abs(p.v - median) <= limit);
  // More than a tenth off is no spike: that is how the engine runs.
  return kept.length >= 0.9 * points.length ? kept : points;
}

function stats(all: readonly Point[]): { mean: number; sd: number } | null {
  const points = withoutSpikes(all);
  if (points.length < 2) return points.length === 1 ? { mean: points[0]!.v, sd: 0 } : null;
  const mean = points.reduce((s, p) => s + p.v, 0) / points.length;
  const variance = points.reduce((s, p) => s + (p.v - mean) ** 2, 0) / (points.length - 1);
  return { mean, sd: Math.sqrt(variance) };
}
