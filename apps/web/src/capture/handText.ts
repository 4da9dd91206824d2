import { type JobView } from '@just-balance/contract';
import { type Reading } from '@just-balance/core/case';
import { convert, UNITS, type Unit } from '@just-balance/core/units';
import { asTyped } from '../ui/useFollowUnits.ts';
import { HAND_FIELDS, type HandSetup, type HandText, SENSOR_FIGURES, unitOf } from './handFields.ts';

/** The sensors a person may read: those the vehicle has, else one before and one after each catalyst. */
export function sensorsOf(job: JobView): string[] {
  const fitted = job.records.findLast((r) => r.sensors)?.sensors ?? job.vehicle.sensors;
  if (fitted && fitted.length > 0) return fitted.map((s) => `bank${s.bank}s${s.sensor}`);
  return Array.from({ length: job.vehicle.banks ?? 1 }, (_, i) => [`bank${i + 1}s1`, `bank${i + 1}s2`]).flat();
}

export const sensorLabel = (key: string) =>
  `Bank ${key[4]}, sensor ${key[6]}, ${key.endsWith('s1') ? 'before the catalyst' : 'after it'}`;

/** A kept reading as it is typed. */
export function textOf(r: Reading, setup: HandSetup, sensors: readonly string[]): HandText {
  const text = (v: number | undefined) => (v === undefined ? '' : String(v));
  return {
    ...Object.fromEntries(
      HAND_FIELDS.map((f) => {
        if (f.key === 'mafGps' && r.mafV !== undefined) return [f.key, text(r.mafV)];
        const v = r[f.key];
        const unit = unitOf(f, setup);
        if (v === undefined) return [f.key, ''];
        // A tool's own unit, or the reader's; a share of a stroke or volts are worked out one way only.
        const back = unit === f.unit || !(unit in UNITS) ? v : convert(v, f.unit as Unit, unit as Unit);
        return [f.key, unit === f.unit ? String(v) : asTyped(back, 3)];
      }),
    ),
    ...Object.fromEntries(
      (['bank1', 'bank2'] as const).flatMap((bank) => [
        [`stft${bank[4]}`, text(r.trims?.[bank]?.stft)],
        [`ltft${bank[4]}`, text(r.trims?.[bank]?.ltft)],
        [`lambda${bank[4]}`, text(r.lambda?.[bank])],
        [`o2V${bank[4]}`, text(r.o2V?.[bank])],
      ]),
    ),
    throttle: text(r.relativeThrottlePct ?? r.relativeThrottleDeg),
    throttleUnit: r.relativeThrottlePct === undefined ? '°' : '%',
    airCon: r.airCon === undefined ? '' : r.airCon ? 'on' : 'off',
    recirculation: r.recirculation ?? '',
    loop: r.loop ?? '',
    ...Object.fromEntries(
      sensors.flatMap((s) => SENSOR_FIGURES.map((x) => [`${s}_${x.key}`, text(r.o2?.[s]?.[x.key])])),
    ),
  };
}
