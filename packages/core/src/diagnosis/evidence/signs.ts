import { type BankKey, type Case, type Reading, throttleLimit, type VehicleSpec } from '../../case/index.ts';
import type { SignId } from '../../catalogue/index.ts';
import { COOLANT_BAND } from '../../expected/index.ts';
import { QUANTUM } from '../../obd/index.ts';
import { DOWNSTREAM, FEW_CROSSINGS, SLOW_MS } from '../../oxygen/index.ts';
import { againstBand, againstLimit, type LimitCall } from '../../trims/index.ts';
import { figure, type Said, said } from '../../units/index.ts';

/** Something a reading shows beside trims, with its sentence. */
export interface Sign {
  id: SignId;
  bank: 1 | 2 | null;
  /** The figures, for the explanation. */
  text: Said;
}

/** Coolant that never reaches this suggests the thermostat, °C. Common practice, no source. */
const NEVER_HOT_C = 77;
/**
 * Upstream narrow-band at a hold: fewer crossings in 10 s than `lazy`, or than half of the other bank's, is lazy. "Several"
 * is common practice; only far more of them clear a sensor. [house]
 */
const CROSSINGS = { lazy: FEW_CROSSINGS, ofOther: 0.5, lively: 15 };
/** A transition past this is slow, under that prompt, ms. Common practice: 100 ms. */
const TRANSITION_MS = { slow: 130, prompt: SLOW_MS };
/** Below this with the engine running nothing is charging, V; above that it is. Common practice, no source. */
const RUNNING_V = { low: 12.6, right: 13.2 };
/** Intake air colder than outside by more, or warmer by more, cannot be, K. [house] */
const INTAKE_AIR = { colder: 8, warmer: 55 };
/** λ further from 1 than this in closed loop is not held. [house] */
const LAMBDA_OFF = 0.03;

/** Boost at full load: below `low` a turbo engine is hardly charged, from `right` on it is. Common practice: light diesels 80–150. */
const BOOST_KPA = { petrol: { low: 20, right: 45 }, diesel: { low: 50, right: 80 } } as const;
/** A snap of the throttle fills the cylinders for a moment: airflow per litre it should reach, g/s at sea level. [house] */
const SNAP_GPS_PER_L = 10;
/** A pressure that differs by as much between two points follows the engine, kPa. [house] */
const MOVES_KPA = 20;
/** Slower than this a peak is missed, samples/s. Common practice, no source. */
const SNAP_HZ = 10;

/** Channels a figure is read from, for its step. */
const CHANNEL = { ectC: 'ect', iatC: 'iat', mapKPa: 'map', batteryV: 'vbat', lambda: 'lambda11' } as const;

/**
 * The step a figure stands on: within one of a limit nothing is said. The mean of a capture lies between the steps; a
 * throttle that rests does not.
 */
function stepOf(r: Reading, figure: keyof typeof CHANNEL): number {
  if (r.sampleHz !== undefined) return 0;
  const channel = CHANNEL[figure];
  return r.quantum?.[figure] ?? r.quantum?.[channel] ?? QUANTUM.get(channel) ?? 0;
}

const WARM: readonly Reading['at'][] = ['idle', 'hold-2500', 'road-load', 'idle-ac'];
const bankOf = (k: string): 1 | 2 => (k.startsWith('bank2') ? 2 : 1);

/** Every sign in the newest readings. `label` names a point for the texts. */
export function signsOf(c: Case, readings: readonly Reading[], baroKPa: number, label: (r: Reading) => string): Sign[] {
  const out: Sign[] = [];
  const put = (id: SignId, text: Said, bank: 1 | 2 | null = null) => {
    if (!out.some((s) => s.id === id && s.bank === bank)) out.push({ id, bank, text });
  };
  const warm = readings.filter((r) => WARM.includes(r.at));
  const coolant = warm.filter((r) => r.ectC !== undefined).sort((a, b) => b.ectC! - a.ectC!);
  const hottest = coolant[0];
  if (hottest) {
    const [t, step] = [hottest.ectC!, stepOf(hottest, 'ectC')];
    if (againstLimit(-t, -COOLANT_BAND.low, step) === 'inside' || t === COOLANT_BAND.low)
      put('hot', said`Coolant at ${figure(t, '°C')}.`);
    // One reading below it may be an engine still warming up; two are an engine that does not get there.
    else if (againstLimit(-t, -NEVER_HOT_C, step) === 'past' && (coolant.length > 1 || hottest.neverWarm))
      put('never-hot', said`Coolant ${hottest.neverWarm ? 'stays at' : 'no hotter than'} ${figure(t, '°C')}.`);
  }
  for (const r of readings) {
    for (const [key, o] of Object.entries(r.o2 ?? {})) {
      if (key.endsWith('s2')) downstreamSign(key, o, r, label(r), put);
      else upstreamSigns(key, o, r, label(r), put);
    }
    if (r.at === 'idle') throttleSign(c, r, put);
    if (c.vehicle.induction === 'turbo' && (r.at === 'full-load' || r.at === 'boost') && r.mapKPa !== undefined) {
      const above = r.mapKPa - baroKPa;
      const band = BOOST_KPA[c.vehicle.fuel];
      const text = said`${label(r)}: ${figure(above, 'kPa', 0, { role: 'boost' })} above the air outside.`;
      const step = stepOf(r, 'mapKPa');
      if (againstLimit(-above, -band.low, step) === 'past') put('boost-low', text);
      else if (againstLimit(-above, -band.right, step) === 'inside') put('boost-right', text);
    }
    if (r.at === 'snap' && r.mafGps !== undefined && (r.sampleHz ?? 0) >= SNAP_HZ) {
      const expected = SNAP_GPS_PER_L * c.vehicle.displacementL * (baroKPa / 101.325);
      if (r.mafGps < expected)
        put(
          'snap-low',
          said`Snap throttle peaks at ${figure(r.mafGps, 'g/s')}, ${figure(expected, 'g/s', 0)} expected at least.`,
        );
    }
    if (r.at === 'snap' && r.pressureFollows === false)
      put('pressure-flat', `${label(r)}: manifold pressure does not follow.`);
    if (r.batteryV !== undefined && r.at !== 'koeo') {
      const [down, step] = [-r.batteryV, stepOf(r, 'batteryV')];
      if (againstLimit(down, -RUNNING_V.low, step) === 'past')
        put('battery-low', `${r.batteryV} V with the engine running.`);
      else if (againstLimit(down, -RUNNING_V.right, step) === 'inside')
        put('battery-right', `${r.batteryV} V with the engine running.`);
    }
    const airC = c.ambient?.airC;
    if (r.iatC !== undefined && airC !== undefined) {
      const above = r.iatC - airC;
      const limit = INTAKE_AIR.warmer + (c.vehicle.induction === 'turbo' ? 40 : 0);
      const call = againstBand(above, -INTAKE_AIR.colder, limit, stepOf(r, 'iatC'));
      if (call === 'past')
        put('intake-air-off', said`Intake air ${figure(r.iatC, '°C')} with ${figure(airC, '°C')} outside.`);
      else if (call === 'inside' && r.at !== 'full-load')
        put('intake-air-right', said`Intake air ${figure(r.iatC, '°C')} with ${figure(airC, '°C')} outside.`);
    }
    if (WARM.includes(r.at) && r.loop === 'closed')
      for (const [key, l] of Object.entries(r.lambda ?? {}) as [BankKey, number][])
        if (againstLimit(Math.abs(l - 1), LAMBDA_OFF, stepOf(r, 'lambda')) === 'past')
          put('lambda-not-held', `${label(r)}: λ ${l} in closed loop.`, bankOf(key));
  }
  const running = readings.filter((r) => r.at !== 'koeo' && r.mapKPa !== undefined).map((r) => r.mapKPa!);
  const [least, most] = [Math.min(...running), Math.max(...running)];
  if (running.length > 1 && most - least >= MOVES_KPA)
    put('pressure-moves', said`Manifold pressure moves with the engine, ${figure([least, most], 'kPa', 0)}.`);
  return out;
}

type Put = (id: SignId, text: Said, bank?: 1 | 2 | null) => void;

function downstreamSign(key: string, o: NonNullable<Reading['o2']>[string], r: Reading, at: string, put: Put) {
  const crossings = o.crossingsPer10s;
  if (crossings === undefined || r.at === 'idle') return;
  const bank = bankOf(key);
  const upstream = r.o2?.[key.replace('s2', 's1')]?.crossingsPer10s;
  const swing = o.minV !== undefined && o.maxV !== undefined ? o.maxV - o.minV : DOWNSTREAM.swingV;
  const often = upstream ? crossings >= DOWNSTREAM.share * upstream : crossings >= DOWNSTREAM.crossings;
  const text = `${at}: downstream crosses ${crossings.toFixed(0)} times in 10 s${upstream ? `, upstream ${upstream.toFixed(0)}` : ''}.`;
  if (often && crossings > DOWNSTREAM.steady && swing >= DOWNSTREAM.swingV) put('downstream-follows', text, bank);
  else if (crossings <= DOWNSTREAM.steady) put('downstream-steady', text, bank);
}

function upstreamSigns(key: string, o: NonNullable<Reading['o2']>[string], r: Reading, at: string, put: Put) {
  const bank = bankOf(key);
  const crossings = o.crossingsPer10s;
  if (o.minV !== undefined && o.maxV !== undefined && o.maxV - o.minV < 0.1) {
    put('upstream-dead', `${at}: upstream stays at ${o.minV}–${o.maxV} V.`, bank);
    return;
  }
  const times = [o.leanToRichMs, o.richToLeanMs].filter((t) => t !== undefined);
  const slowest = times.length > 0 ? Math.max(...times) : undefined;
  const hold = r.at === 'hold-2500';
  const other = r.o2?.[bank === 1 ? 'bank2s1' : 'bank1s1']?.crossingsPer10s ?? 0;
  const lazy =
    (slowest !== undefined && slowest > TRANSITION_MS.slow) ||
    (hold && crossings !== undefined && crossings < Math.max(CROSSINGS.lazy, CROSSINGS.ofOther * other));
  const lively =
    !lazy &&
    ((hold && crossings !== undefined && crossings >= CROSSINGS.lively) ||
      (slowest !== undefined && slowest <= TRANSITION_MS.prompt));
  const text = `${at}: upstream ${crossings === undefined ? '' : `crosses ${crossings.toFixed(0)} times in 10 s`}${slowest === undefined ? '' : `${crossings === undefined ? '' : ', '}slowest transition ${slowest} ms`}.`;
  if (lazy) put('upstream-lazy', text, bank);
  if (lively) put('upstream-lively', text, bank);
}

/** The vehicle's own channel at hot idle beside its own limit, only in the same unit; null without either. */
export function throttleAtIdle(
  vehicle: VehicleSpec,
  r: Reading,
): { value: number; limit: number; unit: '°' | '%'; call: LimitCall } | null {
  const own = throttleLimit(vehicle.limits);
  const value = own?.unit === '%' ? r.relativeThrottlePct : r.relativeThrottleDeg;
  if (own === null || value === undefined) return null;
  return { value, ...own, call: againstLimit(value, own.limit, throttleStep(own.unit, r.quantum)) };
}

/** Step of a relative throttle: what the tool's is said to be, else that of PID 45 for per cent; of a degree nobody knows it. */
export function throttleStep(unit: '°' | '%', quantum?: Readonly<Record<string, number>>): number {
  if (unit === '°') return quantum?.relativeThrottleDeg ?? 0;
  return quantum?.relativeThrottlePct ?? quantum?.tpRel ?? QUANTUM.get('tpRel')!;
}

function throttleSign(c: Case, r: Reading, put: Put) {
  const t = throttleAtIdle(c.vehicle, r);
  if (!t || t.call === 'undecided') return;
  const unit = t.unit === '°' ? '°' : ' %';
  put(
    t.call === 'past' ? 'throttle-wide' : 'throttle-right',
    `Throttle at ${t.value}${unit} at hot idle, limit ${t.limit}${unit}.`,
  );
}
