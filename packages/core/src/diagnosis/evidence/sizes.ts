import type { Case, Reading } from '../../case/index.ts';
import { TEST_BY_ID } from '../../catalogue/index.ts';
import type { Severity } from '../types.ts';
import { throttleAtIdle } from './signs.ts';

/** A size read off directly, for faults whose size moves nothing the forward model predicts. */
export interface MeasuredSize extends Severity {
  fault: string;
  bank: 1 | 2 | null;
}

/** What such a figure may be off by. Shares and steps [house]. */
const OFF = { transitionShare: 0.2, ratio: 0.1, throttle: 0.4, temperatureC: 2, boostKPa: 5 };

/** Faults that may be off either way; of the others only an excess is a size. */
const SIGNED: ReadonlySet<string> = new Set(['ect-bias']);

/** Sizes of sensor slowness, catalyst activity, throttle opening, coolant error and missing boost, newest figures. */
export function measuredSizes(c: Case, readings: readonly Reading[]): MeasuredSize[] {
  const out: MeasuredSize[] = [];
  const put = (fault: string, bank: 1 | 2 | null, value: number, off: number, unit: string) => {
    if (!Number.isFinite(value) || (value <= 0 && !SIGNED.has(fault))) return;
    out.push({ fault, bank, value, low: value - off, high: value + off, unit });
  };
  for (const r of readings) {
    for (const bank of [1, 2] as const) {
      const up = r.o2?.[`bank${bank}s1`];
      const down = r.o2?.[`bank${bank}s2`];
      const times = [up?.leanToRichMs, up?.richToLeanMs].filter((t) => t !== undefined);
      if (times.length > 0) {
        const slowest = Math.max(...times);
        put('o2-slow', bank, slowest, OFF.transitionShare * slowest, 'ms');
      }
      if (up?.crossingsPer10s && down?.crossingsPer10s !== undefined)
        put('cat-degraded', bank, down.crossingsPer10s / up.crossingsPer10s, OFF.ratio, 'ratio');
    }
    const throttle = r.at === 'idle' ? throttleAtIdle(c.vehicle, r) : null;
    if (throttle) put('throttle-fouled', null, throttle.value - throttle.limit, OFF.throttle, throttle.unit);
  }
  for (const t of c.tests ?? []) {
    const v = t.values ?? {};
    const number = (k: string) => (typeof v[k] === 'number' ? (v[k] as number) : Number.NaN);
    const row = TEST_BY_ID.get(t.id);
    switch (row?.measure ?? row?.beside) {
      case 'throttle': {
        const inDegrees = v.value === undefined;
        const own = inDegrees ? number('limitDeg') : number('limit');
        put(
          'throttle-fouled',
          null,
          (inDegrees ? number('deg') : number('value')) - own,
          OFF.throttle,
          inDegrees || v.unit === 'deg' ? '°' : typeof v.unit === 'string' ? v.unit : '%',
        );
        break;
      }
      case 'coolant':
        put('ect-bias', null, number('ectMinusAirC'), OFF.temperatureC, '°C');
        break;
      case 'boost':
        put('turbo-underboost', null, number('targetKPa') - number('measuredKPa'), OFF.boostKPa, 'kPa');
        break;
    }
  }
  return out;
}
