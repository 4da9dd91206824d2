import { metricOf, shown, type UnitSystem } from '@just-balance/core/units';
import { CalculatorCard } from '../../calculators/CalculatorCard.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { SignedField } from '../../ui/SignedField.tsx';
import { typed } from '../../ui/typed.ts';
import { asTyped, useFollowUnits } from '../../ui/useFollowUnits.ts';

/** What the day and the place are like, as it is typed. */
export interface DayForm {
  baroKPa: string;
  altitudeM: string;
  airC: string;
}

export const EMPTY_DAY: DayForm = { baroKPa: '', altitudeM: '', airC: '' };
const FIELDS = {
  baroKPa: { label: 'Station pressure', unit: 'kPa', digits: 2 },
  altitudeM: { label: 'Altitude', unit: 'm', digits: 0 },
  airC: { label: 'Outside air', unit: '°C', digits: 1 },
} as const;
type Key = keyof typeof FIELDS;
const KEYS = Object.keys(FIELDS) as Key[];

/** Metric figures as they are typed in these units. */
export function dayText(day: Partial<Record<Key, number>>, units: UnitSystem): DayForm {
  const text = (k: Key) => {
    const v = day[k];
    if (v === undefined) return '';
    return units === 'metric' ? String(v) : asTyped(shown(v, FIELDS[k].unit, 2, units).value, 2);
  };
  return { baroKPa: text('baroKPa'), altitudeM: text('altitudeM'), airC: text('airC') };
}

/** What was typed, metric; NaN for what is no number. */
export function dayOf(t: DayForm, units: UnitSystem): Partial<Record<Key, number>> {
  return Object.fromEntries(
    KEYS.flatMap((k) => {
      if (t[k].trim() === '') return [];
      const v = metricOf(Number(typed(t[k])), FIELDS[k].unit, units);
      return [[k, units === 'metric' ? v : Math.round(v * 100) / 100]];
    }),
  );
}

/** Station pressure, altitude and outside air: every expected figure rests on them. */
export function DayFields({
  value,
  set,
  follow = set,
  error,
}: {
  value: DayForm;
  set: (key: Key, text: string) => void;
  /** The same figure in another unit. */
  follow?: (key: Key, text: string) => void;
  error: (key: Key) => string | undefined;
}) {
  const { units } = usePreferences();
  const unit = (k: Key) => shown(0, FIELDS[k].unit, 0, units).unit;
  useFollowUnits(
    Object.fromEntries(KEYS.map((k) => [k, unit(k)])),
    (k) => value[k as Key],
    (k, text) => follow(k as Key, text),
  );
  return (
    <>
      <div className="grid grid-cols-2 gap-3 sm:grid-cols-3">
        {KEYS.map((k) => (
          <SignedField
            key={k}
            name={k}
            label={`${FIELDS[k].label}, ${unit(k)}`}
            value={value[k]}
            set={(v) => set(k, v)}
            error={error(k)}
          />
        ))}
      </div>
      <Fold title="What station pressure is, and how to work it out">
        <p className="m-0 mb-2 text-soft">
          The pressure of the air where you stand. A weather report gives it reduced to sea level: on a hill that is too
          much, and every expected airflow with it. With the altitude alone it is worked out; with neither, sea level is
          taken and less is said for certain.
        </p>
        <CalculatorCard id="altitude" start={{ vacuumKPa: 0 }} />
      </Fold>
    </>
  );
}
