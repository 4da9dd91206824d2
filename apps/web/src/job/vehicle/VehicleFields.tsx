import { shown, type Unit } from '@just-balance/core/units';
import { type InputHTMLAttributes, type ReactElement, useEffect, useRef } from 'react';
import type { UseFormRegisterReturn } from 'react-hook-form';
import { Field } from '../../ui/Field.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { useFollowUnits } from '../../ui/useFollowUnits.ts';
import { CARD_UNITS, cardUnit, curveIn, type VehicleForm } from './vehicleForm.ts';

type Key = keyof VehicleForm;

interface Props {
  register: (name: Key) => UseFormRegisterReturn;
  error: (name: Key) => string | undefined;
  get: (name: Key) => VehicleForm[Key];
  set: (name: Key, text: string) => void;
  /** As it stands now: which fields there are follows from it. */
  now: Pick<VehicleForm, 'fuel' | 'banks' | 'induction'>;
}

const WITH_UNIT = Object.keys(CARD_UNITS) as (keyof typeof CARD_UNITS)[];
const CHOICES = {
  fuel: [
    ['petrol', 'Petrol'],
    ['diesel', 'Diesel'],
  ],
  banks: [
    ['1', 'One'],
    ['2', 'Two'],
  ],
  metering: [
    ['maf', 'Mass airflow sensor'],
    ['speed-density', 'Manifold pressure (speed-density)'],
    ['both', 'Both'],
  ],
  induction: [
    ['na', 'None: naturally aspirated'],
    ['turbo', 'Turbocharger or compressor'],
  ],
  injection: [
    ['port', 'Port'],
    ['direct', 'Direct'],
  ],
  relativeThrottleUnit: [
    ['deg', '°'],
    ['%', '%'],
  ],
  fuelPressureReference: [
    ['', 'not known'],
    ['fixed', 'Fixed, above the air outside'],
    ['manifold', 'Follows the manifold'],
  ],
  boostFrom: [
    ['gauge', 'above the air outside (gauge)'],
    ['absolute', 'absolute'],
  ],
  sensors1: [
    ['', 'not known'],
    ['1', '1'],
    ['2', '2'],
    ['3', '3'],
  ],
} as const satisfies Partial<Record<Key, readonly (readonly [string, string])[]>>;

/** The vehicle's card: the engine's facts first, then what service information says of it. */
export function VehicleFields({ register, error, get, set, now }: Props) {
  const { units } = usePreferences();
  useFollowUnits(
    Object.fromEntries(WITH_UNIT.map((k) => [k, cardUnit(k, units)])),
    (k) => String(get(k as Key) ?? ''),
    (k, text) => set(k as Key, text),
  );
  const flow = shown(0, 'g/s', 0, units).unit as Unit;
  const flowBefore = useRef(flow);
  useEffect(() => {
    if (flowBefore.current === flow) return;
    set('airflowCurve', curveIn(String(get('airflowCurve')), flowBefore.current, flow));
    flowBefore.current = flow;
  });
  const text = (name: Key, label: string, more: InputHTMLAttributes<HTMLInputElement> & { wide?: boolean } = {}) => {
    const { wide, ...input } = more;
    return (
      <Field label={label} error={error(name)} className={wide ? 'col-span-2' : ''}>
        {(aria) => <input className="input" autoComplete="off" {...input} {...register(name)} {...aria} />}
      </Field>
    );
  };
  const decimal = { inputMode: 'decimal' } as const;
  const figure = (name: keyof typeof CARD_UNITS, label: string): ReactElement =>
    text(name, `${label}, ${cardUnit(name, units)}`, decimal);
  const choice = (name: keyof typeof CHOICES, label: string, as: Key = name, wide = false) => (
    <Field label={label} error={error(as)} className={wide ? 'col-span-2' : ''}>
      {(aria) => (
        <select className="select" {...register(as)} {...aria}>
          {CHOICES[name].map(([id, words]) => (
            <option key={id} value={id}>
              {words}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        {text('plate', 'Number plate')}
        {text('note', 'Note (colour, body)')}
        {text('label', 'What you call it', { wide: true, required: true })}
        {text('displacementL', 'Displacement, L', decimal)}
        {text('cylinders', 'Cylinders', { inputMode: 'numeric' })}
        {choice('fuel', 'Fuel')}
        {choice('banks', 'Banks')}
        {choice('metering', 'Air is metered by', 'metering', true)}
        {choice('induction', 'Charged by')}
        {choice('injection', 'Injection')}
        {text('year', 'Model year', { inputMode: 'numeric' })}
        {text('vin', 'VIN, if at hand')}
        {figure('odometerKm', 'Distance')}
      </div>
      <Fold title="From its service information">
        <div className="grid grid-cols-2 gap-3">
          {now.fuel === 'petrol' && text('ethanolPctCalibrated', 'Ethanol it is made for, %', decimal)}
          {figure('tankL', 'Tank holds')}
          {figure('fuelPressureKPa', 'Fuel pressure at idle')}
          {choice('fuelPressureReference', 'The regulator’s reference')}
          {now.fuel === 'petrol' && (
            <>
              {text('relativeThrottleIdle', 'Relative throttle at hot idle, at most', decimal)}
              {choice('relativeThrottleUnit', 'in')}
              {text('throttleChannel', 'What your tool calls that channel', { wide: true })}
            </>
          )}
          <Field
            className="col-span-2"
            label={`The airflow sensor’s curve: volts and ${flow}, a line each`}
            error={error('airflowCurve')}
          >
            {(aria) => <textarea className="textarea figure" rows={3} {...register('airflowCurve')} {...aria} />}
          </Field>
          {now.induction === 'turbo' && (
            <>
              {figure('boostKPa', 'Boost at full load')}
              {choice('boostFrom', 'counted')}
            </>
          )}
          {now.fuel === 'petrol' && (
            <>
              {choice('sensors1', 'Oxygen sensors, bank 1')}
              {now.banks === '2' ? choice('sensors1', 'Oxygen sensors, bank 2', 'sensors2') : <span />}
              <label className="col-span-2 flex min-h-12 items-center gap-3 font-[550]">
                <input type="checkbox" className="checkbox" {...register('wide')} />
                The first of each bank is wide-band
              </label>
            </>
          )}
        </div>
      </Fold>
    </>
  );
}
