import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { convert, shown, UNITS, type Unit } from '../src/units/index.ts';

/** Our name of each unit that GNU units was asked about. */
const OURS: Record<string, Unit> = {
  kPa: 'kPa',
  inHg: 'inHg',
  psi: 'psi',
  bar: 'bar',
  mph: 'mph',
  kph: 'km/h',
  mile: 'mi',
  km: 'km',
  'lb/min': 'lb/min',
  'g/s': 'g/s',
  'kg/hour': 'kg/h',
  'lbf ft': 'lbf·ft',
  'lbf in': 'lbf·in',
  'in lbf': 'lbf·in',
  'N m': 'N·m',
  in: 'in',
  mm: 'mm',
  'in^2': 'in²',
  'mm^2': 'mm²',
  ft: 'ft',
  m: 'm',
  'in^3': 'in³',
  liter: 'L',
  tempF: '°F',
  tempC: '°C',
  K: 'K',
};

function parsed(text: string): { amount: number; unit: Unit } {
  const temperature = /^(temp[CF])\((-?[\d.]+)\)$/.exec(text);
  if (temperature) return { amount: Number(temperature[2]), unit: OURS[temperature[1]!]! };
  const m = /^([\d.]+) (.*)$/.exec(text);
  return m ? { amount: Number(m[1]), unit: OURS[m[2]!]! } : { amount: 1, unit: OURS[text]! };
}

const rows = readFileSync(join(__dirname, 'golden/gnu-units.tsv'), 'utf8')
  .split('\n')
  .filter((l) => l && !l.startsWith('#'))
  .map((l) => l.split('\t') as [string, string, string]);

describe('unit conversions against GNU units (printed values)', () => {
  test('the golden file is there', () => expect(rows.length).toBeGreaterThan(12));
  test.each(rows)('%s in %s', (from, to, printed) => {
    const { amount, unit } = parsed(from);
    const want = Number(printed);
    // inHg: GNU units' mercury column is rounded in the seventh digit against NIST's conventional inch.
    expect(Math.abs(convert(amount, unit, OURS[to]!) - want)).toBeLessThanOrEqual(1e-6 * Math.max(1, Math.abs(want)));
  });
});

test('96 in·lbf is 10.85 N·m (NIST SP 811)', () => {
  expect(convert(96, 'lbf·in', 'N·m')).toBeCloseTo(10.85, 2);
});

test('there and back is the same number, for every pair of one quantity', () => {
  const names = Object.keys(UNITS) as Unit[];
  const pairs = names.flatMap((a) =>
    names.filter((b) => UNITS[a].quantity === UNITS[b].quantity).map((b) => [a, b] as const),
  );
  fc.assert(
    fc.property(fc.constantFrom(...pairs), fc.double({ min: -1e5, max: 1e5, noNaN: true }), ([a, b], v) => {
      expect(Math.abs(convert(convert(v, a, b), b, a) - v)).toBeLessThan(1e-6 * Math.max(1, Math.abs(v)));
    }),
  );
});

test('pressure does not convert to temperature', () => {
  expect(() => convert(1, 'kPa', '°C')).toThrow(/pressure.*temperature/);
});

test('what a US reader sees', () => {
  expect(shown(100, 'kPa', 0, 'us')).toMatchObject({ unit: 'inHg', digits: 1 });
  expect(shown(100, 'kPa', 0, 'us', 'fuel').unit).toBe('psi');
  expect(shown(90, '°C', 0, 'us').value).toBeCloseTo(194, 9);
  expect(shown(12, '%', 1, 'us')).toEqual({ value: 12, unit: '%', digits: 1 });
  expect(shown(100, 'kPa', 0, 'metric')).toEqual({ value: 100, unit: 'kPa', digits: 0 });
});
