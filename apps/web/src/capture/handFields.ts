import { READING_RANGES } from '@just-balance/contract';
import { quantumOf, type ToolProfile } from '@just-balance/core/capture';
import type { BankKey, OperatingPoint, Reading, VehicleSpec } from '@just-balance/core/case';
import { airflowOfStrokeMg, airflowOfVolts } from '@just-balance/core/engine';
import { convert, type Role, shown, UNITS, type Unit, type UnitSystem } from '@just-balance/core/units';
import { typed } from '../ui/typed.ts';

type Plain = 'rpm' | 'mafGps' | 'mapKPa' | 'ectC' | 'iatC' | 'vssKmh' | 'fuelPct' | 'batteryV' | 'baroKPa';

export interface HandField {
  key: Plain;
  channel: string;
  label: string;
  /** The case's own, metric. */
  unit: string;
  role?: Role;
  /** Outside it is asked about, metric. [house] */
  low: number;
  high: number;
  /** Units a tool may show it in, beside those of the system. */
  also?: readonly string[];
  /** Not on the first page. */
  more?: true;
}

/** What a tool shows beside the trims. Ranges [house]. */
export const HAND_FIELDS: readonly HandField[] = [
  { key: 'rpm', channel: 'rpm', label: 'Engine speed', unit: 'rpm', low: 300, high: 7500 },
  {
    key: 'mafGps',
    channel: 'maf',
    label: 'Airflow (MAF)',
    unit: 'g/s',
    low: 0.3,
    high: 450,
    also: ['g/s', 'kg/h', 'lb/min', 'mg/stroke', 'V'],
  },
  {
    key: 'mapKPa',
    channel: 'map',
    label: 'Manifold (MAP)',
    unit: 'kPa',
    low: 12,
    high: 300,
    also: ['kPa', 'hPa', 'inHg', 'bar', 'psi'],
  },
  { key: 'ectC', channel: 'ect', label: 'Coolant (ECT)', unit: '°C', low: -40, high: 125 },
  { key: 'iatC', channel: 'iat', label: 'Intake air (IAT)', unit: '°C', low: -40, high: 90 },
  { key: 'batteryV', channel: 'vbat', label: 'Supply (battery)', unit: 'V', low: 9, high: 15.5 },
  { key: 'baroKPa', channel: 'baro', label: 'Barometric pressure', unit: 'kPa', low: 60, high: 106, more: true },
  { key: 'vssKmh', channel: 'vss', label: 'Road speed (VSS)', unit: 'km/h', low: 0, high: 200, more: true },
  { key: 'fuelPct', channel: 'fuelLevel', label: 'Fuel in the tank', unit: '%', low: 0, high: 100, more: true },
];

export const TERMS = [
  { term: 'stft', label: 'Short-term trim (STFT), %', low: -60, high: 60, range: READING_RANGES.trim },
  { term: 'ltft', label: 'Long-term trim (LTFT), %', low: -60, high: 60, range: READING_RANGES.trim },
  { term: 'lambda', label: 'Lambda (wide-band)', low: 0.6, high: 1.6, range: READING_RANGES.lambda },
  { term: 'o2V', label: 'Upstream sensor, V', low: -0.2, high: 5, range: READING_RANGES.o2V },
] as const;

/** Figures of one oxygen sensor, with the names the case has for them. */
export const SENSOR_FIGURES = [
  { key: 'crossingsPer10s', label: 'Crossings in 10 s' },
  { key: 'leanToRichMs', label: 'Lean to rich, ms' },
  { key: 'richToLeanMs', label: 'Rich to lean, ms' },
  { key: 'minV', label: 'Least, V' },
  { key: 'maxV', label: 'Greatest, V' },
] as const;

export type HandText = Record<string, string>;

/** Everything that belongs to a hand reading beside its figures. */
export interface HandSetup {
  vehicle: VehicleSpec & { airflowCurve?: readonly { volts: number; gps: number }[] | undefined };
  tool: ToolProfile;
  units: UnitSystem;
  /** Units chosen by hand, by field. */
  picked: Readonly<Record<string, string>>;
  /** Manifold pressure is typed above the air outside. */
  gauge: boolean;
  baroKPa: number;
}

/** The unit a field is typed in: chosen by hand, else the tool's own, else the system's. */
export function unitOf(f: HandField, { tool, units, picked }: Pick<HandSetup, 'tool' | 'units' | 'picked'>): string {
  return picked[f.key] ?? tool.unit[f.channel] ?? shown(0, f.unit, 0, units, f.role).unit;
}

/** Volts of an airflow sensor without a curve are no airflow: they are kept as volts. */
export function keptAsVolts(f: HandField, setup: HandSetup): boolean {
  return f.key === 'mafGps' && unitOf(f, setup) === 'V' && (setup.vehicle.airflowCurve?.length ?? 0) < 2;
}

/** A field's figure in its metric unit; NaN where it is no number, or nothing that can be worked out. */
export function metricFigure(f: HandField, text: string, unit: string, setup: HandSetup, rpm: number): number {
  const v = Number(typed(text));
  if (Number.isNaN(v)) return Number.NaN;
  let metric = v;
  if (unit === 'mg/stroke') metric = airflowOfStrokeMg(v, rpm, setup.vehicle.cylinders);
  else if (unit === 'V' && f.key === 'mafGps') metric = airflowOfVolts(setup.vehicle.airflowCurve ?? [], v);
  else if (unit !== f.unit && unit in UNITS) metric = convert(v, unit as Unit, f.unit as Unit);
  if (f.key === 'mapKPa' && setup.gauge) metric += setup.baroKPa;
  return unit === f.unit && !setup.gauge ? metric : Math.round(metric * 1000) / 1000;
}

/** Why a figure that is a number cannot be worked out; null where it can. */
function missing(f: HandField, unit: string, rpm: number): string | null {
  if (f.key !== 'mafGps') return null;
  if (unit === 'mg/stroke' && !(rpm > 0)) return 'mg a stroke needs the engine speed beside it';
  if (unit !== 'V') return null;
  return 'outside the curve on the vehicle’s card';
}

const whole = (v: number) =>
  Math.abs(v) < 10 ? String(Math.round(v * 100) / 100) : Math.round(v).toLocaleString('en-US');

/** What is wrong with what was typed, by field, in the words and units typed. */
export function handProblems(t: HandText, setup: HandSetup, sensors: readonly string[]): Record<string, string> {
  const wrong: Record<string, string> = {};
  const rpm = Number(typed(t.rpm ?? ''));
  let any = false;
  for (const f of HAND_FIELDS) {
    const text = t[f.key]?.trim() ?? '';
    if (text === '') continue;
    any = true;
    const unit = unitOf(f, setup);
    if (Number.isNaN(Number(typed(text)))) {
      wrong[f.key] = `“${text}” is not a number`;
      continue;
    }
    if (keptAsVolts(f, setup)) {
      const [low, high] = READING_RANGES.mafV;
      const volts = Number(typed(text));
      if (!(volts >= low && volts <= high)) wrong[f.key] = `${text} V cannot be: ${low} to ${high} V`;
      continue;
    }
    const v = metricFigure(f, text, unit, setup, rpm);
    if (Number.isNaN(v)) wrong[f.key] = missing(f, unit, rpm) ?? `“${text}” is not a number`;
    else {
      const [low, high] = READING_RANGES[f.key];
      if (v >= low && v <= high) continue;
      const back = (x: number) =>
        unit !== f.unit && unit in UNITS ? convert(x, f.unit as Unit, unit as Unit) : unit === f.unit ? x : Number.NaN;
      wrong[f.key] = Number.isNaN(back(low))
        ? `${text} ${unit} cannot be: that is ${whole(v)} ${f.unit}`
        : `${text} ${unit} cannot be: ${whole(back(low))} to ${whole(back(high))} ${unit}`;
    }
  }
  const plain = (key: string, [low, high]: readonly [number, number], unit: string, what = '') => {
    const text = t[key]?.trim() ?? '';
    if (text === '') return;
    any = true;
    const v = Number(typed(text));
    if (Number.isNaN(v)) wrong[key] = `“${text}” is not a number`;
    else if (!(v >= low && v <= high))
      wrong[key] = `${what}${text}${unit ? ` ${unit}` : ''} cannot be: ${low} to ${high}${unit ? ` ${unit}` : ''}`;
  };
  for (const bank of [1, 2])
    for (const x of TERMS) {
      const trim = x.term === 'stft' || x.term === 'ltft';
      plain(`${x.term}${bank}`, x.range, trim ? '%' : x.term === 'o2V' ? 'V' : '', trim ? 'a trim of ' : '');
    }
  plain(
    'throttle',
    t.throttleUnit === '%' ? READING_RANGES.relativeThrottlePct : READING_RANGES.relativeThrottleDeg,
    t.throttleUnit ?? '',
  );
  plain('ethanol', [0, 100], '%');
  for (const s of sensors) {
    for (const x of SENSOR_FIGURES)
      plain(`${s}_${x.key}`, x.key.endsWith('V') ? [-2, 8] : x.key === 'crossingsPer10s' ? [0, 1000] : [0, 60_000], '');
    const [least, most] = [t[`${s}_minV`], t[`${s}_maxV`]].map((x) => Number(typed(x ?? '')));
    if (t[`${s}_minV`]?.trim() && t[`${s}_maxV`]?.trim() && least! > most!) wrong[`${s}_maxV`] = 'less than the least';
  }
  if (!any) wrong.rpm = 'nothing entered yet: at least one figure makes a reading';
  return wrong;
}

/** The reading as the case has it. Channels are those of the standard, for the steps that stand with it. */
export function handReading(t: HandText, setup: HandSetup, sensors: readonly string[], before?: Reading): Reading {
  const number = (key: string) => (t[key]?.trim() ? Number(typed(t[key]!)) : undefined);
  const { tool } = setup;
  const reading: Reading = { at: t.at as OperatingPoint };
  const rpm = number('rpm') ?? Number.NaN;
  for (const f of HAND_FIELDS) {
    const text = t[f.key]?.trim();
    if (text && keptAsVolts(f, setup)) reading.mafV = Number(typed(text));
    else if (text) reading[f.key] = metricFigure(f, text, unitOf(f, setup), setup, rpm);
  }
  for (const bank of [1, 2]) {
    const key = `bank${bank}` as BankKey;
    for (const term of ['stft', 'ltft'] as const) {
      const v = number(`${term}${bank}`);
      if (v !== undefined) reading.trims = { ...reading.trims, [key]: { ...reading.trims?.[key], [term]: v } };
    }
    const spread = before?.trims?.[key];
    if (reading.trims?.[key] && spread?.sd !== undefined) reading.trims[key] = { ...reading.trims[key], sd: spread.sd };
    if (reading.trims?.[key] && spread?.n !== undefined) reading.trims[key] = { ...reading.trims[key], n: spread.n };
    for (const term of ['lambda', 'o2V'] as const) {
      const v = number(`${term}${bank}`);
      if (v !== undefined) reading[term] = { ...reading[term], [key]: v };
    }
  }
  const throttle = number('throttle');
  if (throttle !== undefined)
    reading[t.throttleUnit === '%' ? 'relativeThrottlePct' : 'relativeThrottleDeg'] = throttle;
  if (t.airCon) reading.airCon = t.airCon === 'on';
  if (t.recirculation) reading.recirculation = t.recirculation as 'open' | 'shut';
  if (t.loop) reading.loop = t.loop as 'closed' | 'open';
  for (const s of sensors) {
    const figures = Object.fromEntries(
      SENSOR_FIGURES.flatMap((x) => {
        const v = number(`${s}_${x.key}`);
        return v === undefined ? [] : [[x.key, v]];
      }),
    );
    if (Object.keys(figures).length > 0) reading.o2 = { ...reading.o2, [s]: figures };
  }
  // Of what passes in a moment, a tool is only as good as it is fast.
  if (t.at === 'snap' || t.at === 'boost' || t.at === 'decel') reading.sampleHz = tool.aloneHz;
  // The steps of what was read stand with it: noise, and what is undecided, follow from them.
  reading.quantum = Object.fromEntries(
    ['stft', 'ltft', 'maf', 'map', 'ect', 'iat', 'rpm', 'tpRel', 'vbat', 'lambda11'].map((c) => [
      c,
      quantumOf(tool, c),
    ]),
  );
  return reading;
}
