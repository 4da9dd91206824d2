import { describe, expect, test } from '@jest/globals';
import { CAPTURE_POINTS } from '../src/capture/index.ts';
import { TESTS } from '../src/catalogue/index.ts';
import { decodeMonitors } from '../src/obd/index.ts';
import { CAUTIONS, cautionsFor, PRECEDENCE, WORK_STEPS } from '../src/procedures/index.ts';
import { INSPECTION_RULES, inspectionAnswers, MONITOR_NOTES, recentlyCleared } from '../src/readiness/index.ts';

describe('cautions', () => {
  test('every step that a person carries out has at least one', () => {
    expect(WORK_STEPS.filter((s) => cautionsFor(s).length === 0)).toEqual([]);
  });
  test('every test and every guided point is a step', () => {
    for (const t of TESTS) expect(WORK_STEPS).toContain(`test:${t.id}`);
    for (const p of CAPTURE_POINTS) {
      expect(WORK_STEPS).toContain(`read:${p.at}`);
      expect(WORK_STEPS).toContain(`prove:${p.at}`);
    }
  });
  test('no caution names a step that does not exist', () => {
    for (const c of CAUTIONS) for (const s of c.steps) expect(WORK_STEPS).toContain(s);
  });
  test('every row says its source, once and plainly', () => {
    for (const c of CAUTIONS) {
      expect(c.source.length).toBeGreaterThan(3);
      expect(c.text.length).toBeLessThan(160);
    }
    expect(new Set(CAUTIONS.map((c) => c.id)).size).toBe(CAUTIONS.length);
  });
  test.each([
    ['test:enrich-survey', 'enrichment'],
    ['test:fuel-pressure', 'fuel-pressure'],
    ['readiness-drive', 'road-test'],
    ['read:idle', 'running-engine'],
    ['test:pinch-pcv', 'pinch'],
    ['record', 'keep-before-clear'],
  ])('%s carries %s', (step, id) => expect(cautionsFor(step).map((c) => c.id)).toContain(id));
  test('service information wins', () =>
    expect(PRECEDENCE).toMatch(/Service information.*local law.*licensed practice win/));
});

describe('inspection', () => {
  const status = (bytes: number[]) => decodeMonitors(Uint8Array.from(bytes));
  const evapOpen = status([0x00, 0x07, 0x65, 0x04]);
  const catOpen = status([0x00, 0x07, 0x65, 0x01]);
  const twoOpen = status([0x00, 0x07, 0x65, 0x05]);
  const passes = (s: typeof evapOpen, year: number | undefined, fuel: 'petrol' | 'diesel' = 'petrol') =>
    inspectionAnswers(s, year, fuel).map((a) => a.passes);
  test('US federal: 1996–2000 two, 2001 on one (from memory); the strict state: from 2000 only EVAP (common practice)', () => {
    expect(passes(evapOpen, 2014)).toEqual([true, true]);
    expect(passes(catOpen, 2014)).toEqual([true, false]);
    expect(passes(twoOpen, 2014)).toEqual([false, false]);
    expect(passes(twoOpen, 1998)).toEqual([true, false]);
    expect(passes(catOpen, 1998)).toEqual([true, true]);
  });
  test('a lamp that is on fails; an unknown year is not answered', () => {
    expect(passes(status([0x81, 0x07, 0x65, 0x00]), 2014)).toEqual([false, false]);
    expect(passes(evapOpen, undefined)).toEqual([null, null]);
    expect(passes(evapOpen, 1990)).toEqual([null, null]);
  });
  test('rules are dated data with a source that sends people to their own programme', () => {
    for (const r of INSPECTION_RULES) {
      expect(r.source).toMatch(/ask your local programme/);
      expect(r.asOf.length).toBeGreaterThan(3);
    }
  });
  test('few warm-ups or kilometres betray a recent clearing', () => {
    expect(recentlyCleared(2, 900)).toBe(true);
    expect(recentlyCleared(60, 12)).toBe(true);
    expect(recentlyCleared(60, 900)).toBe(false);
    expect(recentlyCleared(null, null)).toBeNull();
  });
  test('the fuel-system monitor proves nothing alone', () => {
    expect(MONITOR_NOTES.fuelSystem?.proves).toMatch(/proves nothing alone/);
  });
});
