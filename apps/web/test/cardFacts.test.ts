import { describe, expect, test } from '@jest/globals';
import type { VehicleRequest } from '@just-balance/contract';
import { type Role, shown, type UnitSystem } from '@just-balance/core/units';
import { cardFacts, inUnits } from '../src/job/vehicle/cardFacts.ts';

const show = (units: UnitSystem) => (v: number, unit: string, digits: number, role?: Role) =>
  shown(v, unit, digits, units, role);
const CARD: VehicleRequest = {
  label: 'Corvane 1.4',
  fuel: 'petrol',
  metering: 'both',
  induction: 'turbo',
  displacementL: 1.4,
  cylinders: 4,
  banks: 1,
  odometerKm: 82_000,
  tankL: 45.5,
  limits: { fuelPressureKPa: 362.5, fuelPressureReference: 'manifold', relativeThrottleIdle: 3.1 },
  boostTarget: { kPa: 85, from: 'gauge' },
  airflowCurve: [
    { volts: 1, gps: 2.1 },
    { volts: 4, gps: 96 },
  ],
  sensors: [{ bank: 1, sensor: 1, wide: true }],
};
const facts = (units: UnitSystem, more: Partial<VehicleRequest> = {}) =>
  Object.fromEntries(cardFacts({ ...CARD, ...more }, show(units)));

describe('the vehicle’s card as lines', () => {
  test('metric: as it was entered', () => {
    expect(facts('metric')).toEqual({
      Engine: '1.4 L, 4 cylinders, one bank, petrol',
      Air: 'airflow and pressure sensor',
      Induction: 'charged, port injection',
      Distance: '82,000 km',
      Tank: '45.5 L',
      'Fuel pressure': '362.5 kPa, follows the manifold',
      'Relative throttle': 'at most 3.1 °',
      Boost: '85 kPa above the air outside',
      'Oxygen sensors': 'bank 1 sensor 1 (wide-band)',
      'Airflow curve': '1 V 2.1, 4 V 96.0 g/s',
    });
  });

  // NIST Special Publication 811, appendix B: 1 mi = 1.609344 km, 1 psi = 6.894757 kPa, 1 gal = 3.785412 L.
  test('US: every figure with the digits of its unit, none left over from the conversion', () => {
    expect(facts('us')).toMatchObject({
      Distance: '50,952 mi',
      Tank: '12.0 gal',
      'Fuel pressure': '52.6 psi, follows the manifold',
      Boost: '12.3 psi above the air outside',
      'Airflow curve': '1 V 0.28, 4 V 12.70 lb/min',
    });
    expect(inUnits(show('us'), 1, 'km')).toBe('1 mi');
  });

  test('what is not known has no line', () => {
    const bare = facts('metric', { limits: undefined, boostTarget: undefined, sensors: undefined, tankL: undefined });
    expect(Object.keys(bare)).toEqual(['Engine', 'Air', 'Induction', 'Distance', 'Airflow curve']);
  });
});
