import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { leavesOf, merged, onlyChanged, sameContent } from '../src/ui/merge.ts';

describe('two people at one form', () => {
  const was = { displacementL: '1.8', cylinders: '4', banks: '1' };
  test('what only one of them touched is theirs; what both put differently is told', () => {
    const theirs = { ...was, displacementL: '3.0', cylinders: '6' };
    expect(merged(was, theirs, was)).toEqual({
      follow: [
        ['displacementL', '3.0'],
        ['cylinders', '6'],
      ],
      clashes: [],
    });
    expect(merged(was, theirs, { ...was, displacementL: '2.0', banks: '2' })).toEqual({
      follow: [['cylinders', '6']],
      clashes: [{ field: 'displacementL', mine: '2.0', theirs: '3.0' }],
    });
    // Both the same: nobody is asked.
    expect(merged(was, theirs, { ...was, displacementL: '3.0', cylinders: '6' })).toEqual({ follow: [], clashes: [] });
  });
  test('lists are one field, groups are their fields', () => {
    expect(leavesOf({ tools: ['a', 'b'], minutes: { smoke: '5', deep: { er: '' } } })).toEqual({
      tools: ['a', 'b'],
      'minutes.smoke': '5',
      'minutes.deep.er': '',
    });
    expect(merged({ tools: ['a'] }, { tools: ['a', 'b'] }, { tools: ['a'] }).follow).toEqual([['tools', ['a', 'b']]]);
  });
  test('whatever two do: each of their changes stands or is asked about', () => {
    const form = fc.record({ a: fc.constantFrom('', '1', '2'), b: fc.constantFrom('', '1', '2') });
    fc.assert(
      fc.property(form, form, form, (before, theirs, mine) => {
        const { follow, clashes } = merged(before, theirs, mine);
        const now: Record<string, unknown> = { ...mine, ...Object.fromEntries(follow) };
        for (const k of ['a', 'b'] as const) {
          const asked = clashes.some((c) => c.field === k);
          if (mine[k] !== before[k] && theirs[k] !== before[k] && mine[k] !== theirs[k]) expect(asked).toBe(true);
          else expect([asked, now[k]]).toEqual([false, mine[k] !== before[k] ? mine[k] : theirs[k]]);
        }
      }),
    );
  });
});

test('the same content, in whatever order its fields stand', () => {
  expect(sameContent({ a: [{ b: 1, c: 2 }], d: 3 }, { d: 3, a: [{ c: 2, b: 1 }] })).toBe(true);
  expect(sameContent({ a: [1, 2] }, { a: [2, 1] })).toBe(false);
});

describe('only what was changed is sent', () => {
  test('a figure that was only rounded to be shown stays as it is stored', () => {
    const stands = { odometerKm: 98_000, plate: 'KB 44', limits: { fuelPressureKPa: 379.2, other: 1 } };
    const untouched = { odometerKm: 97_999.43, plate: 'KB 44', limits: { fuelPressureKPa: 379.212, other: 1 } };
    expect(onlyChanged(stands, untouched, untouched)).toEqual(stands);
    expect(onlyChanged(stands, untouched, { ...untouched, plate: 'KB 45' })).toEqual({ ...stands, plate: 'KB 45' });
    const pressure = { ...untouched, limits: { ...untouched.limits, other: 2 } };
    expect(onlyChanged(stands, untouched, pressure)).toEqual({
      ...stands,
      limits: { fuelPressureKPa: 379.2, other: 2 },
    });
  });
  test('what was emptied is gone, what was added is there', () => {
    const typed: Record<string, unknown> = { a: 1, c: 3 };
    expect(onlyChanged({ a: 1, b: 2 }, { a: 1, b: 2 }, typed)).toEqual({ a: 1, c: 3 });
    // A default that nobody chose is sent where nothing stands.
    expect(onlyChanged({ a: null }, { a: 4 }, { a: 4 })).toEqual({ a: 4 });
  });
});
