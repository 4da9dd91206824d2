import type { VehicleRequest, VehicleView } from '@just-balance/contract';
import { convert, metricOf, type Role, shown, type Unit, type UnitSystem } from '@just-balance/core/units';
import { typed } from '../../ui/typed.ts';
import { asTyped } from '../../ui/useFollowUnits.ts';

/** The vehicle's card as it is typed. */
export interface VehicleForm {
  label: string;
  note: string;
  plate: string;
  year: string;
  vin: string;
  odometerKm: string;
  tankL: string;
  fuel: 'petrol' | 'diesel';
  metering: 'maf' | 'speed-density' | 'both';
  induction: 'na' | 'turbo';
  injection: 'port' | 'direct';
  displacementL: string;
  cylinders: string;
  banks: '1' | '2';
  ethanolPctCalibrated: string;
  relativeThrottleIdle: string;
  relativeThrottleUnit: 'deg' | '%';
  throttleChannel: string;
  fuelPressureKPa: string;
  fuelPressureReference: '' | 'fixed' | 'manifold';
  boostKPa: string;
  boostFrom: 'absolute' | 'gauge';
  /** Sensors of each bank, by hand: how many, and whether the first is wide-band. */
  sensors1: string;
  sensors2: string;
  wide: boolean;
  /** Volts and g/s, a line each. */
  airflowCurve: string;
}

export const EMPTY_VEHICLE: VehicleForm = {
  label: '',
  note: '',
  plate: '',
  year: '',
  vin: '',
  odometerKm: '',
  tankL: '',
  fuel: 'petrol',
  metering: 'maf',
  induction: 'na',
  injection: 'port',
  displacementL: '',
  cylinders: '4',
  banks: '1',
  ethanolPctCalibrated: '',
  relativeThrottleIdle: '',
  relativeThrottleUnit: 'deg',
  throttleChannel: '',
  fuelPressureKPa: '',
  fuelPressureReference: '',
  boostKPa: '',
  boostFrom: 'gauge',
  sensors1: '',
  sensors2: '',
  wide: false,
  airflowCurve: '',
};

/** Figures of the card that are read in more than one unit. */
export const CARD_UNITS = {
  odometerKm: { unit: 'km', digits: 0 },
  tankL: { unit: 'L', digits: 1, role: 'tank' },
  fuelPressureKPa: { unit: 'kPa', digits: 0, role: 'fuel' },
  boostKPa: { unit: 'kPa', digits: 0, role: 'boost' },
} as const satisfies Partial<Record<keyof VehicleForm, { unit: string; digits: number; role?: Role }>>;
type WithUnit = keyof typeof CARD_UNITS;

const roleOf = (key: WithUnit): Role | undefined => (CARD_UNITS[key] as { role?: Role }).role;

/** The unit a figure of the card is typed in. */
export const cardUnit = (key: WithUnit, units: UnitSystem): string =>
  shown(0, CARD_UNITS[key].unit, 0, units, roleOf(key)).unit;

const number = (text: string): number | undefined => (text.trim() === '' ? undefined : Number(typed(text)));

/** What is typed as the contract has it, over what is known of the vehicle already; what is emptied is gone. */
export function vehicleOf(base: Partial<VehicleRequest>, f: VehicleForm, units: UnitSystem): VehicleRequest {
  const metric = (key: WithUnit) => {
    const v = number(f[key]);
    if (v === undefined) return undefined;
    const back = metricOf(v, CARD_UNITS[key].unit, units, roleOf(key));
    return units === 'metric' ? back : Math.round(back * 1000) / 1000;
  };
  const throttle = number(f.relativeThrottleIdle);
  const [pressure, boost] = [metric('fuelPressureKPa'), metric('boostKPa')];
  const { relativeThrottleIdleDeg: _, ...limitsBefore } = base.limits ?? {};
  const limits = defined({
    ...limitsBefore,
    relativeThrottleIdle: throttle,
    relativeThrottleUnit: throttle === undefined ? undefined : f.relativeThrottleUnit,
    fuelPressureKPa: pressure,
    fuelPressureReference: f.fuelPressureReference || undefined,
  });
  const known = { ...base } as Partial<VehicleView>;
  delete known.id;
  delete known.rev;
  return defined({
    ...known,
    label: f.label.trim(),
    note: f.note.trim() || undefined,
    plate: f.plate.trim().toUpperCase() || undefined,
    year: number(f.year),
    vin: f.vin.trim().toUpperCase() || undefined,
    odometerKm: metric('odometerKm'),
    tankL: metric('tankL'),
    fuel: f.fuel,
    metering: f.metering,
    induction: f.induction,
    injection: f.injection,
    displacementL: number(f.displacementL) ?? Number.NaN,
    cylinders: number(f.cylinders) ?? Number.NaN,
    banks: f.banks === '2' ? 2 : 1,
    ethanolPctCalibrated: number(f.ethanolPctCalibrated),
    limits: Object.keys(limits).length > 0 ? limits : undefined,
    throttleChannel: f.throttleChannel.trim() || undefined,
    boostTarget: boost === undefined ? undefined : { kPa: boost, from: f.boostFrom },
    sensors: sensorsOf(f),
    airflowCurve: curveOf(f.airflowCurve, units),
  }) as VehicleRequest;
}

function defined<T extends object>(o: T): T {
  return Object.fromEntries(Object.entries(o).filter(([, v]) => v !== undefined)) as T;
}

function sensorsOf(f: VehicleForm): VehicleRequest['sensors'] {
  const list = ([1, 2] as const).flatMap((bank) =>
    bank === 2 && f.banks !== '2'
      ? []
      : Array.from({ length: Number(bank === 1 ? f.sensors1 : f.sensors2) || 0 }, (_, i) => ({
          bank,
          sensor: i + 1,
          wide: i === 0 && f.wide,
        })),
  );
  return list.length > 0 ? list : undefined;
}

/** The same lines in another unit of flow; what cannot be read stays as it is. */
export function curveIn(text: string, from: Unit, to: Unit): string {
  return text
    .split('\n')
    .map((line) => {
      const [volts = '', flow = ''] = line.trim().split(/[\s;]+/);
      const v = Number(typed(flow));
      return flow === '' || Number.isNaN(v) ? line : `${volts} ${asTyped(convert(v, from, to), 4)}`;
    })
    .join('\n');
}

/** Lines of volts and flow; what is no number stays NaN, for the contract to refuse. */
function curveOf(text: string, units: UnitSystem): VehicleRequest['airflowCurve'] {
  const lines = text.split('\n').filter((l) => l.trim());
  if (lines.length === 0) return undefined;
  return lines.map((l) => {
    const [volts = '', gps = ''] = l.trim().split(/[\s;]+/);
    const flow = gps === '' ? Number.NaN : metricOf(Number(typed(gps)), 'g/s', units);
    return { volts: Number(typed(volts)), gps: units === 'metric' ? flow : Math.round(flow * 1000) / 1000 };
  });
}

/** A vehicle's card as it stands in the form. */
export function cardOf(v: Partial<VehicleRequest>, units: UnitSystem): VehicleForm {
  const text = (x: number | undefined) => (x === undefined ? '' : String(x));
  const figure = (key: WithUnit, x: number | undefined) => {
    if (x === undefined) return '';
    const s = shown(x, CARD_UNITS[key].unit, CARD_UNITS[key].digits, units, roleOf(key));
    return units === 'metric' ? String(x) : asTyped(s.value, s.digits);
  };
  const count = (bank: number) => v.sensors?.filter((s) => s.bank === bank).length;
  return {
    label: v.label ?? '',
    note: v.note ?? '',
    plate: v.plate ?? '',
    year: text(v.year),
    vin: v.vin ?? '',
    odometerKm: figure('odometerKm', v.odometerKm),
    tankL: figure('tankL', v.tankL),
    fuel: v.fuel ?? EMPTY_VEHICLE.fuel,
    metering: v.metering ?? EMPTY_VEHICLE.metering,
    induction: v.induction ?? EMPTY_VEHICLE.induction,
    injection: v.injection ?? EMPTY_VEHICLE.injection,
    displacementL: text(v.displacementL),
    cylinders: v.cylinders === undefined ? EMPTY_VEHICLE.cylinders : String(v.cylinders),
    banks: v.banks === 2 ? '2' : '1',
    ethanolPctCalibrated: text(v.ethanolPctCalibrated),
    relativeThrottleIdle: text(v.limits?.relativeThrottleIdle ?? v.limits?.relativeThrottleIdleDeg),
    relativeThrottleUnit:
      v.limits?.relativeThrottleIdle !== undefined && (v.limits.relativeThrottleUnit ?? 'deg') !== 'deg' ? '%' : 'deg',
    throttleChannel: v.throttleChannel ?? '',
    fuelPressureKPa: figure('fuelPressureKPa', v.limits?.fuelPressureKPa),
    fuelPressureReference: v.limits?.fuelPressureReference ?? '',
    boostKPa: figure('boostKPa', v.boostTarget?.kPa),
    boostFrom: v.boostTarget?.from ?? EMPTY_VEHICLE.boostFrom,
    sensors1: text(count(1) || undefined),
    sensors2: text(count(2) || undefined),
    wide: v.sensors?.some((s) => s.wide) ?? false,
    airflowCurve: (v.airflowCurve ?? [])
      .map((p) => `${p.volts} ${units === 'metric' ? p.gps : asTyped(shown(p.gps, 'g/s', 4, units).value, 4)}`)
      .join('\n'),
  };
}
