import { describe, expect, test } from '@jest/globals';
import { decidedBy, lastStart, type PlanCondition } from '../src/readiness/index.ts';

const at = (hm: string) => `2026-03-04T${hm}:00Z`;
const row = (
  id: PlanCondition['id'],
  state: PlanCondition['state'],
  from: string | null,
  until: string | null = null,
) =>
  ({
    id,
    state,
    holdsFrom: from && at(from),
    holdsUntil: until && at(until),
    why: 'because',
  }) as PlanCondition;
const ids = (list: readonly PlanCondition[]) => list.map((c) => c.id);

describe('the window of a start', () => {
  test('the last to come decides; one that comes ten minutes before decides with it', () => {
    const list = [
      row('soak', 'not-yet', '06:00'),
      row('coolant-to-air', 'not-yet', '05:50'),
      row('lamp', 'holds', null),
    ];
    expect(ids(decidedBy(list, at('06:00')))).toEqual(['soak', 'coolant-to-air']);
    expect(ids(decidedBy([list[0]!, row('coolant-to-air', 'not-yet', '05:49')], at('06:00')))).toEqual(['soak']);
    expect(decidedBy(list, null)).toEqual([]);
  });

  test('air that ends before and comes again decides, where nothing else comes then', () => {
    const list = [row('soak', 'not-yet', '00:30'), row('ambient', 'holds', null, '00:10')];
    expect(ids(decidedBy(list, at('06:00')))).toEqual(['ambient']);
    expect(ids(decidedBy(list, at('00:30')))).toEqual(['soak']);
  });

  test('the last start leaves room for the drive; where what ends is not known, none is said', () => {
    const list = [row('ambient', 'not-yet', '07:00', '18:30'), row('lamp', 'holds', null)];
    expect(lastStart(list, at('07:00'), 20)).toBe(at('18:10'));
    expect(lastStart(list, at('07:00'), null)).toBe(at('18:30'));
    expect(lastStart(list, at('18:20'), 20)).toBeNull();
    expect(lastStart([row('lamp', 'holds', null)], at('07:00'), 20)).toBeNull();
    expect(lastStart(list, null, 20)).toBeNull();
  });
});
