import { partLabel, type TestResult } from '../case/index.ts';
import { outcomeLabel, SWAP_LABELS, TEST_BY_ID } from '../catalogue/index.ts';
import { figure, joined, type Role, type Said, said } from '../units/index.ts';

/** A figure of a test, with what is likely (metric) so that a slip is asked about. Common practice, no source. */
export interface TestField {
  key: string;
  label: string;
  unit?: string;
  role?: Role;
  low: number;
  high: number;
}

const MEASURED: Readonly<Record<string, readonly TestField[]>> = {
  'fuel-pressure': [
    { key: 'idleKPa', label: 'At idle', unit: 'kPa', role: 'fuel', low: 150, high: 700 },
    { key: 'loadKPa', label: 'Under load', unit: 'kPa', role: 'fuel', low: 100, high: 700 },
    { key: 'specKPa', label: 'Should be', unit: 'kPa', role: 'fuel', low: 150, high: 700 },
    { key: 'volumeMlPer30s', label: 'In 30 seconds', unit: 'mL', low: 100, high: 2000 },
  ],
  boost: [
    { key: 'measuredKPa', label: 'Measured', unit: 'kPa', role: 'boost', low: 0, high: 300 },
    { key: 'targetKPa', label: 'Target, counted the same way', unit: 'kPa', role: 'boost', low: 0, high: 300 },
  ],
  'full-load': [{ key: 'ratio', label: 'Measured over expected airflow', low: 0.2, high: 1.5 }],
  koeo: [{ key: 'differenceKPa', label: 'Sensor minus barometer', unit: 'kPa', low: -40, high: 40 }],
  throttle: [
    { key: 'value', label: 'Reading at hot idle', low: 0, high: 100 },
    { key: 'limit', label: 'Limit, same channel and unit', low: 0, high: 100 },
  ],
  ethanol: [{ key: 'pct', label: 'Ethanol by volume', unit: '%', low: 0, high: 100 }],
  backpressure: [
    { key: 'idleKPa', label: 'At idle', unit: 'kPa', role: 'boost', low: 0, high: 60 },
    { key: 'at2500KPa', label: 'At 2,500 rpm', unit: 'kPa', role: 'boost', low: 0, high: 80 },
  ],
};

const TRIMS: readonly TestField[] = [
  { key: 'trimBefore', label: 'Total trim before', unit: '%', low: -60, high: 60 },
  { key: 'trimAfter', label: 'Total trim with it shut', unit: '%', low: -60, high: 60 },
];

/** Figures that may stand beside an outcome. */
const BESIDE: Readonly<Record<string, readonly TestField[]>> = {
  'rock-engine': TRIMS,
  'egr-block': TRIMS,
  'pinch-pcv': TRIMS,
  'pinch-booster': TRIMS,
  'pinch-purge': TRIMS,
  'map-vacuum-pump': [{ key: 'offsetKPa', label: 'Off by', unit: 'kPa', low: -60, high: 60 }],
  'cold-soak-temps': [{ key: 'ectMinusAirC', label: 'Coolant minus air', unit: 'K', low: -60, high: 60 }],
};

/** Tests whose outcome is of cylinders that can be named. */
export const NAMES_CYLINDERS: readonly string[] = ['injector-balance', 'misfire-counts', 'compression'];

/** The figures a test is made of. */
export function measuredFields(test: string): readonly TestField[] {
  const measure = TEST_BY_ID.get(test)?.measure;
  return (measure && MEASURED[measure]) ?? [];
}

/** Those that may go along with what it showed. */
export const besideFields = (test: string): readonly TestField[] => BESIDE[test] ?? [];

/** A test's figures in words. */
export function valuesInWords(test: string, values: Readonly<Record<string, number | string>>): Said[] {
  const fields = [...measuredFields(test), ...besideFields(test)];
  return Object.entries(values).flatMap(([k, v]) => {
    if (k === 'unit') return [];
    const f = fields.find((x) => x.key === k);
    const label = f?.label.toLowerCase() ?? k;
    if (typeof v !== 'number') return [`${label} ${v}`];
    const own = typeof values.unit === 'string' ? (values.unit === 'deg' ? '°' : values.unit) : '';
    return [said`${label} ${figure(v, f?.unit || own, undefined, f?.role ? { role: f.role } : {})}`];
  });
}

/** A result in words. */
export function resultInWords(t: TestResult): Said {
  const bank = t.bank ? `bank ${t.bank}: ` : '';
  const part = t.part ? `${SWAP_LABELS[t.part] ?? partLabel(t.part)}: ` : '';
  const outcomes = [t.outcome ?? []].flat().map((o) => outcomeLabel(t.id, o));
  const cylinders = t.cylinders?.length ? [`cylinder ${t.cylinders.join(', ')}`] : [];
  return said`${bank}${part}${joined([...outcomes, ...cylinders, ...valuesInWords(t.id, t.values ?? {})], ', ')}`;
}
