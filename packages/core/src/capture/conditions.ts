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

export interface Condition {
  id: 'running' | 'warm' | 'cold' | 'closed' | 'rpm' | 'speed' | 'load' | 'steady-rpm' | 'steady-air';
  label: string;
  met: boolean;
  detail: string;
}

/** Steadiness is first asked of this much signal, s. [house] */
const LOOK_BACK_S = 3;
/** Coolant below warm that has not risen over this long will not get there, s. [house] */
const STALLED_S = 40;

/** Everything that must be true, with how it stands. */
export function conditionsOf(setup: GuidedSetup, signals: Signals): Condition[] {
  const p = setup.point;
  const rpm = recent(pointsOf(signals, 'rpm'));
  const ect = recent(pointsOf(signals, 'ect'));
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
  if (p.needsWarm && !setup.unreported.has('ect'))
    add(
      'warm',
      'Coolant',
      (ect ?? -99) >= WARM_FROM_C,
      ect === undefined
        ? 'no reading yet'
        : `${ect.toFixed(0)} °C of ${WARM_FROM_C} °C${stalledCold(signals) ? ', no longer rising: a thermostat that stays open does this' : ''}`,
    );
  if (p.coldBelowC !== undefined)
    add(
      'cold',
      'Coolant still cold',
      (ect ?? 999) <= p.coldBelowC,
      ect === undefined ? 'no reading yet' : `${ect.toFixed(0)} °C, at most ${p.coldBelowC} °C`,
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
      rpm === undefined ? '—' : `${rpm.toFixed(0)} of ${p.rpmLow}–${p.rpmHigh} rpm`,
    );
  if (p.speedLowKmh !== undefined) {
    const kmh = recent(pointsOf(signals, 'vss'));
    add(
      'speed',
      'Road speed',
      (kmh ?? 0) >= p.speedLowKmh,
      kmh === undefined ? 'no reading yet' : `${kmh.toFixed(0)} of ${p.speedLowKmh} km/h`,
    );
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

function steady(signals: Signals, id: Condition['id'], label: string, channel: string, share: number): Condition {
  const points = since(signals, channel, signals.nowS - LOOK_BACK_S);
  const s = robust(points);
  const spans = points.length >= 3 && signals.nowS - points[0]!.t >= LOOK_BACK_S * 0.6;
  if (!s || !spans) return { id, label, met: false, detail: 'watching' };
  return {
    id,
    label,
    met: s.sd / Math.max(Math.abs(s.mean), 1e-6) <= share,
    detail: `${s.mean.toFixed(s.mean > 100 ? 0 : 1)} ± ${s.sd.toFixed(s.mean > 100 ? 0 : 2)}`,
  };
}

/** The engine has run for a while, is not warm, and the coolant does not rise any more. */
function stalledCold(signals: Signals): boolean {
  const ect = pointsOf(signals, 'ect');
  const rpm = pointsOf(signals, 'rpm');
  const last = ect.at(-1);
  if (!last || last.v >= WARM_FROM_C || last.t - ect[0]!.t < STALLED_S || !rpm.every((p) => p.v > 300)) return false;
  const before = ect.filter((p) => p.t < last.t - STALLED_S / 2);
  const recent = ect.filter((p) => p.t >= last.t - STALLED_S / 2);
  const mean = (list: readonly Point[]) => list.reduce((s, p) => s + p.v, 0) / list.length;
  return mean(recent) - mean(before) < 0.5;
}

/** Seconds until the coolant is warm, by its slope; null where it need not be, is, or does not rise. */
export function warmEtaS(setup: GuidedSetup, signals: Signals): number | null {
  const ect = pointsOf(signals, 'ect');
  const first = ect[0];
  const last = ect.at(-1);
  if (!setup.point.needsWarm || !first || !last || last.v >= WARM_FROM_C || last.t - first.t < 15) return null;
  const rate = (last.v - first.v) / (last.t - first.t);
  return rate > 0.005 ? (WARM_FROM_C - last.v) / rate : null;
}
