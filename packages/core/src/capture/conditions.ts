import { figure, type Said, said } from '../units/index.ts';
import { type CapturePoint, WARM_FROM_C } from './points.ts';
import { type Point, recent, robust } from './robust.ts';
import { lastOf, pointsOf, type Signals, since, wordOf } from './signals.ts';

/** What a guided capture is of. */
export interface GuidedSetup {
  readonly point: CapturePoint;
  readonly banks: 1 | 2;
  /** Whether the car measures its airflow. */
  readonly metered: boolean;
  readonly fuel: 'petrol' | 'diesel';
  /** Station pressure, against which load is judged where the vehicle does not report its own. */
  readonly baroKPa: number;
  /** What a recording from elsewhere does not hold at all: its condition is not asked, and the reading's flags say so. */
  readonly unreported: ReadonlySet<'loop' | 'ect'>;
}

/** Something that must be true for a capture: whether it is, and the figure it is read from. */
export interface Condition {
  id:
    | 'running'
    | 'warm'
    | 'cold'
    | 'closed'
    | 'rpm'
    | 'speed'
    | 'pedal'
    | 'leap'
    | 'load'
    | 'steady-rpm'
    | 'steady-air';
  label: string;
  met: boolean;
  detail: Said;
}

/** Steadiness is first asked of this much signal, s. [house] */
const LOOK_BACK_S = 3;
const JUST_STARTED = 'started a moment ago';
/** An engine turns by itself above this, rpm. */
const RUNS_RPM = 300;
/** After the start it flares and settles for so long, s. [house] */
export const FLARES_S = 6;
/**
 * A pull, where the vehicle says enough to tell it from a free rev: its wheels turn, on rollers too, and the pedal is
 * down. The pedal's signal rests near 15 % and ends at 75 to 90 %. Common practice, no source.
 */
const PULLS = { fromKmh: 15, pedalPct: 70 } as const;
/** A wheel that hardly turns is a speed sensor's noise, km/h. [house] */
const STANDS_KMH = 3;
/** Floored from idle an engine without load leaps by so much in so long; one that is raised to a hold does not. [house] */
const LEAP = { rpm: 2000, withinS: 1.5 } as const;
/** Coolant below warm that has not risen over this long will not get there, s. [house] */
const STALLED_S = 40;
/** The warm-up is told on by its slope over this long, s. [house] */
const SLOPE_S = 60;

const warmOf = (ect: number) => figure([ect, WARM_FROM_C], '°C', 0, { between: ' of ' });

/** Everything that must be true, with how it stands. */
export function conditionsOf(setup: GuidedSetup, signals: Signals): Condition[] {
  const p = setup.point;
  const rpm = recent(pointsOf(signals, 'rpm'));
  const ect = recent(pointsOf(signals, 'ect'));
  const out: Condition[] = [];
  const add = (id: Condition['id'], label: string, met: boolean, detail: Said) => out.push({ id, label, met, detail });
  const off = p.rpmHigh === 0;
  // Started a moment ago it flares: what passes then is no pull and no snap.
  const fresh = p.kind === 'peak' && since(signals, 'rpm', signals.nowS - FLARES_S).some((x) => x.v <= RUNS_RPM);
  add(
    'running',
    'Engine',
    off ? rpm !== undefined && rpm < 50 : (rpm ?? 0) > RUNS_RPM && !fresh,
    rpm === undefined ? 'no engine speed yet' : rpm <= RUNS_RPM ? 'not running' : fresh ? JUST_STARTED : 'running',
  );
  if (p.needsWarm && !setup.unreported.has('ect'))
    add(
      'warm',
      'Coolant',
      (ect ?? -99) >= WARM_FROM_C,
      ect === undefined ? 'no reading yet' : said`${warmOf(ect)}${stalledCold(signals) ? ', no longer rising' : ''}`,
    );
  if (p.coldBelowC !== undefined)
    add(
      'cold',
      'Coolant still cold',
      (ect ?? 999) <= p.coldBelowC,
      ect === undefined ? 'no reading yet' : said`${figure(ect, '°C', 0)}, at most ${figure(p.coldBelowC, '°C')}`,
    );
  if (p.needsClosedLoop && setup.fuel === 'petrol' && !setup.unreported.has('loop')) {
    const status = wordOf(signals, 'fuelSys1');
    const second = setup.banks === 2 ? wordOf(signals, 'fuelSys2') : 'closed loop';
    const closed =
      (status ?? '').startsWith('closed') && ((second ?? '').startsWith('closed') || second === 'not reported');
    add('closed', 'Closed loop', closed, status ?? 'not reported yet');
  }
  if (!off)
    add(
      'rpm',
      'Engine speed',
      rpm !== undefined && rpm >= p.rpmLow && rpm <= p.rpmHigh,
      rpm === undefined ? '—' : said`${figure(rpm, '', 0)} of ${figure([p.rpmLow, p.rpmHigh], 'rpm', 0)}`,
    );
  if (p.speedLowKmh !== undefined) {
    const kmh = recent(pointsOf(signals, 'vss'));
    add(
      'speed',
      'Road speed',
      (kmh ?? 0) >= p.speedLowKmh,
      kmh === undefined ? 'no reading yet' : said`${figure([kmh, p.speedLowKmh], 'km/h', 0, { between: ' of ' })}`,
    );
  }
  // Without a throttle the manifold tells no pull from a free rev: wheels and pedal do.
  if (p.pulls && setup.fuel === 'diesel') {
    const kmh = recent(pointsOf(signals, 'vss'));
    if (kmh !== undefined)
      add(
        'speed',
        'Road speed',
        kmh >= PULLS.fromKmh,
        said`${figure([kmh, PULLS.fromKmh], 'km/h', 0, { between: ' of ' })}`,
      );
    const pedal = recent(pointsOf(signals, 'app'));
    if (pedal !== undefined)
      add('pedal', 'Pedal', pedal >= PULLS.pedalPct, `${Math.round(pedal)} % of ${PULLS.pedalPct} %`);
  }
  if (p.stands) {
    const kmh = recent(pointsOf(signals, 'vss'));
    if (kmh !== undefined)
      add('speed', 'Standing', kmh <= STANDS_KMH, kmh <= STANDS_KMH ? 'standing' : said`${figure(kmh, 'km/h', 0)}`);
  }
  // Without a throttle the manifold is full at idle too: the engine itself tells a snap.
  if (p.at === 'snap' && setup.fuel === 'diesel') {
    const lately = since(signals, 'rpm', signals.nowS - LEAP.withinS);
    let [least, rise] = [Number.POSITIVE_INFINITY, 0];
    for (const { v } of lately) {
      least = Math.min(least, v);
      rise = Math.max(rise, v - least);
    }
    add('leap', 'Leap', rise >= LEAP.rpm, said`${figure([rise, LEAP.rpm], 'rpm', 0, { between: ' of ' })}`);
  }
  if (p.loadAbove !== undefined || p.loadBelow !== undefined) {
    const map = lastOf(signals, 'map');
    const share = map === undefined ? undefined : map / (lastOf(signals, 'baro') ?? setup.baroKPa);
    const met = share !== undefined && (p.loadAbove === undefined ? share <= p.loadBelow! : share >= p.loadAbove);
    const wanted =
      p.loadAbove === undefined ? `at most ${Math.round(100 * p.loadBelow!)} %` : `${Math.round(100 * p.loadAbove)} %`;
    add(
      'load',
      'Load',
      met,
      share === undefined ? 'no manifold pressure yet' : `${Math.round(100 * share)} % of ${wanted} of outside air`,
    );
  }
  if (p.kind === 'steady') {
    if (!off) out.push(steady(signals, 'steady-rpm', 'Speed steady', 'rpm', p.rpmSteadyShare));
    const air = setup.metered && !off;
    out.push(
      steady(
        signals,
        'steady-air',
        air ? 'Airflow steady' : 'Pressure steady',
        air ? 'maf' : 'map',
        p.airflowSteadyShare,
      ),
    );
  }
  return out;
}

/** What may have to hold steady, and what it is measured in. */
const UNIT_OF = { rpm: 'rpm', maf: 'g/s', map: 'kPa' } as const;

function steady(
  signals: Signals,
  id: Condition['id'],
  label: string,
  channel: keyof typeof UNIT_OF,
  share: number,
): Condition {
  const points = since(signals, channel, signals.nowS - LOOK_BACK_S);
  const s = robust(points);
  const spans = points.length >= 3 && signals.nowS - points[0]!.t >= LOOK_BACK_S * 0.6;
  if (!s || !spans) return { id, label, met: false, detail: 'watching' };
  return {
    id,
    label,
    met: s.sd / Math.max(Math.abs(s.mean), 1e-6) <= share,
    detail: said`${figure([s.mean, s.sd], UNIT_OF[channel], s.mean > 100 ? 0 : 2, { between: ' ± ' })}`,
  };
}

/** The engine has run for a while, is not warm, and the coolant does not rise any more. */
export function stalledCold(signals: Signals): boolean {
  const ect = pointsOf(signals, 'ect');
  const rpm = pointsOf(signals, 'rpm');
  const last = ect.at(-1);
  if (!last || last.v >= WARM_FROM_C || last.t - ect[0]!.t < STALLED_S || !rpm.every((p) => p.v > 300)) return false;
  const before = ect.filter((p) => p.t >= last.t - STALLED_S && p.t < last.t - STALLED_S / 2);
  const recent = ect.filter((p) => p.t >= last.t - STALLED_S / 2);
  const mean = (list: readonly Point[]) => list.reduce((s, p) => s + p.v, 0) / list.length;
  return mean(recent) - mean(before) < 0.5;
}

/** Seconds until the coolant is warm, by its slope of late; null where it need not be, is, or does not rise. */
export function warmEtaS(setup: GuidedSetup, signals: Signals): number | null {
  const last = pointsOf(signals, 'ect').at(-1);
  if (!setup.point.needsWarm || !last || last.v >= WARM_FROM_C || stalledCold(signals)) return null;
  const first = since(signals, 'ect', last.t - SLOPE_S)[0]!;
  if (last.t - first.t < 15) return null;
  const rate = (last.v - first.v) / (last.t - first.t);
  return rate > 0.005 ? (WARM_FROM_C - last.v) / rate : null;
}

/** Coolant from which a reading that is steady otherwise is worth keeping as doubtful, °C. [house] */
const DOUBTFUL_FROM_C = 50;

/** Whether nothing but the last warmth is missing: what is steady can be kept as doubtful meanwhile. */
export function onlyNotWarm(signals: Signals, conditions: readonly Condition[]): boolean {
  const open = conditions.filter((c) => !c.met);
  // An engine that is not warm is often not in closed loop yet either.
  return (
    open.length > 0 &&
    open.every((c) => c.id === 'warm' || c.id === 'closed') &&
    open.some((c) => c.id === 'warm') &&
    (recent(pointsOf(signals, 'ect')) ?? -99) >= DOUBTFUL_FROM_C
  );
}

/** What a capture waits for, in one sentence, with a time where one can be given. */
export function waitingFor(setup: GuidedSetup, signals: Signals, conditions: readonly Condition[]): Said {
  const p = setup.point;
  const open = (id: Condition['id']) => conditions.find((c) => c.id === id && !c.met);
  const then = p.kind === 'steady' ? ` Then ${p.windowS} s by themselves.` : '';
  if (signals.nowS === 0) return 'Waiting for the first values.';
  if (open('running') && open('running')!.detail === JUST_STARTED)
    return 'Waiting for the engine to settle after its start.';
  if (open('running'))
    return p.rpmHigh === 0
      ? 'Waiting for key on, engine off: the engine still turns.'
      : 'Waiting for the engine to run.';
  const ect = recent(pointsOf(signals, 'ect'));
  if (open('warm')) {
    if (ect === undefined) return 'Waiting for the coolant temperature.';
    if (stalledCold(signals))
      return said`The coolant stays at ${figure(ect, '°C', 0)} and does not get warm: keep the reading as doubtful, it counts as a finding.`;
    const eta = warmEtaS(setup, signals);
    const time =
      eta === null
        ? ''
        : eta < 90
          ? `, about ${Math.ceil(eta / 10) * 10} s to go`
          : `, about ${Math.ceil(eta / 60)} min to go`;
    return said`Waiting for warm coolant: ${warmOf(ect)}${time}.${then}`;
  }
  if (open('cold')) return said`Waiting for a cold engine: the coolant is at ${open('cold')!.detail}.`;
  if (open('closed')) return said`Waiting for closed loop: now ${open('closed')!.detail}.${then}`;
  if (open('rpm')) {
    const rpm = recent(pointsOf(signals, 'rpm'));
    const now = rpm === undefined ? '' : said`: now ${figure(rpm, '', 0)}`;
    return said`Waiting for ${figure([p.rpmLow, p.rpmHigh], 'rpm', 0)}${now}.${then}`;
  }
  if (open('speed') && p.stands) return said`Waiting for the car to stand: ${open('speed')!.detail}.${then}`;
  if (open('speed')) return said`Waiting for road speed: ${open('speed')!.detail}.${then}`;
  if (open('pedal') || open('leap')) return `Waiting for the moment: ${p.instruction}`;
  if (open('load')) return `Waiting for the moment: ${p.instruction}`;
  const shaky = conditions.find((c) => !c.met && (c.id === 'steady-rpm' || c.id === 'steady-air'));
  if (shaky)
    return `Waiting for ${shaky.id === 'steady-rpm' ? 'engine speed' : setup.metered && p.rpmHigh > 0 ? 'airflow' : 'pressure'} to hold steady for ${LOOK_BACK_S} s.${then}`;
  return 'Waiting for the first seconds.';
}

/** A snap that was done without pressure following: blocked port or pipe, dead sensor, or none that is reported. [house] */
const SNAP = { rises: 1200, backWithin: 600, withinS: 6, overS: 0.8, stirsKPa: 5, airTimes: 3 } as const;

/**
 * When a throttle was snapped and let go again without manifold pressure following: the capture would wait for ever. The
 * second it began, or null.
 */
export function snapWithoutPressure(setup: GuidedSetup, signals: Signals): number | null {
  if (setup.point.at !== 'snap') return null;
  const rpm = since(signals, 'rpm', signals.nowS - SNAP.withinS);
  const now = rpm.at(-1);
  const first = rpm[0];
  if (!first || !now) return null;
  const peak = rpm.reduce((a, b) => (b.v > a.v ? b : a), first);
  const before = rpm.filter((p) => p.t < peak.t);
  const base = before.reduce((m, p) => Math.min(m, p.v), peak.v);
  if (peak.v - base < SNAP.rises || now.t - peak.t < SNAP.overS || now.v > base + SNAP.backWithin) return null;
  const start = [...before].reverse().find((p) => p.v < base + 0.15 * (peak.v - base))?.t ?? peak.t;
  const map = since(signals, 'map', start - 0.5).map((p) => p.v);
  // The gentlest rev stirs a healthy manifold; a blocked port stands still.
  if (map.length > 0) return Math.max(...map) - Math.min(...map) < SNAP.stirsKPa ? start : null;
  // A car that reports no pressure: its airflow must have leapt.
  const air = since(signals, 'maf', start - 0.5);
  const most = Math.max(0, ...air.map((p) => p.v));
  if (air.length === 0 || most < SNAP.airTimes * air[0]!.v) return null;
  return start;
}
