import type { RecordView, VehicleRequest } from '@just-balance/contract';
import { throttleLimit } from '@just-balance/core/case';
import { modelYear } from '@just-balance/core/obd';
import { counted, numberText, type Role, type Shown } from '@just-balance/core/units';

type Show = (value: number, unit: string, digits: number, role?: Role) => Shown;

/** A figure of the card with its unit, as it is read. */
export function inUnits(show: Show, value: number, unit: string, role?: Role): string {
  const s = show(value, unit, 0, role);
  const written = s.value.toLocaleString('en-US', {
    minimumFractionDigits: s.digits,
    // As it was entered; what was converted has the digits of its unit.
    maximumFractionDigits: s.unit === unit ? 2 : s.digits,
  });
  return `${written} ${s.unit}`;
}

const AIR = {
  maf: 'airflow sensor',
  both: 'airflow and pressure sensor',
  'speed-density': 'pressure sensor (speed-density)',
} as const;

const REFERENCE = { unknown: '', fixed: ', above the air outside', manifold: ', follows the manifold' } as const;

/** Every point: one that was put right is seen. */
function curveWords(curve: NonNullable<VehicleRequest['airflowCurve']>, show: Show): string {
  const points = curve.map((p) => {
    const flow = show(p.gps, 'g/s', 1);
    return `${numberText(p.volts)} V ${numberText(flow.value, flow.digits)}`;
  });
  return `${points.join(', ')} ${show(0, 'g/s', 1).unit}`;
}

/** The vehicle's card line by line, those that say something; with what was read from the vehicle where it was asked. */
export function cardFacts(v: VehicleRequest, show: Show, record?: RecordView): [string, string][] {
  const vin = record?.vin ?? v.vin;
  const year = vin ? modelYear(vin, new Date().getFullYear() + 1) : null;
  const sensors = record?.sensors ?? v.sensors;
  const limit = throttleLimit(v.limits);
  return (
    [
      [
        'Engine',
        `${v.displacementL} L, ${counted(v.cylinders, 'cylinder')}, ${v.banks === 2 ? 'two banks' : 'one bank'}, ${v.fuel}${v.ethanolPctCalibrated === undefined ? '' : `, made for ${v.ethanolPctCalibrated} % ethanol`}`,
      ],
      ['Air', AIR[v.metering]],
      [
        'Induction',
        `${v.induction === 'turbo' ? 'charged' : 'naturally aspirated'}, ${v.injection ?? 'port'} injection`,
      ],
      ['Number plate', v.plate],
      ['Note', v.note],
      ['Model year', v.year === undefined ? undefined : String(v.year)],
      [
        'VIN',
        vin &&
          `${vin}${record?.vin && v.vin && record.vin !== v.vin ? `, entered as ${v.vin}` : ''}${year === null ? '' : `, model year ${year} by its tenth character`}`,
      ],
      ['Distance', v.odometerKm === undefined ? undefined : inUnits(show, v.odometerKm, 'km')],
      ['Tank', v.tankL === undefined ? undefined : inUnits(show, v.tankL, 'L', 'tank')],
      [
        'Fuel pressure',
        v.limits?.fuelPressureKPa === undefined
          ? undefined
          : `${inUnits(show, v.limits.fuelPressureKPa, 'kPa', 'fuel')}${REFERENCE[v.limits.fuelPressureReference ?? 'unknown']}`,
      ],
      [
        'Relative throttle',
        limit
          ? `at most ${limit.limit} ${limit.unit}${v.throttleChannel ? `, “${v.throttleChannel}”` : ''}`
          : undefined,
      ],
      [
        'Boost',
        v.boostTarget &&
          `${inUnits(show, v.boostTarget.kPa, 'kPa', 'boost')} ${v.boostTarget.from === 'gauge' ? 'above the air outside' : 'absolute'}`,
      ],
      [
        'Oxygen sensors',
        sensors &&
          (sensors.map((s) => `bank ${s.bank} sensor ${s.sensor}${s.wide ? ' (wide-band)' : ''}`).join(', ') ||
            'none reported'),
      ],
      ['Airflow curve', v.airflowCurve && curveWords(v.airflowCurve, show)],
    ] satisfies [string, string | undefined][]
  ).filter((f): f is [string, string] => Boolean(f[1]));
}
