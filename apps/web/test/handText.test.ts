import { expect, test } from '@jest/globals';
import type { JobView } from '@just-balance/contract';
import { TOOL_PROFILES, toolProfile } from '@just-balance/core/capture';
import type { Reading } from '@just-balance/core/case';
import type { HandSetup } from '../src/capture/handFields.ts';
import { sensorLabel, sensorsOf, textOf } from '../src/capture/handText.ts';

const METRIC: HandSetup = {
  vehicle: { fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 },
  tool: toolProfile('reader-full')!,
  units: 'metric',
  picked: {},
  gauge: false,
  baroKPa: 100,
};
const job = (more: object = {}) => ({ records: [], vehicle: { banks: 1 }, ...more }) as unknown as JobView;

test('the sensors that are asked about: those of the record, else of the card, else one on each side of each catalyst', () => {
  expect(sensorsOf(job())).toEqual(['bank1s1', 'bank1s2']);
  expect(sensorsOf(job({ vehicle: { banks: 2 } }))).toEqual(['bank1s1', 'bank1s2', 'bank2s1', 'bank2s2']);
  const card = { vehicle: { banks: 1, sensors: [{ bank: 1, sensor: 1 }] } };
  expect(sensorsOf(job(card))).toEqual(['bank1s1']);
  const records = [{ sensors: [{ bank: 1, sensor: 2 }] }, { sensors: null }];
  expect(sensorsOf(job({ ...card, records }))).toEqual(['bank1s2']);
  expect([sensorLabel('bank1s1'), sensorLabel('bank2s2')]).toEqual([
    'Bank 1, sensor 1, before the catalyst',
    'Bank 2, sensor 2, after it',
  ]);
});

test('a kept reading comes back as it is typed, in the units of the reader; what it does not say stays empty', () => {
  const reading: Reading = {
    at: 'idle',
    rpm: 742,
    mafGps: 3.2,
    ectC: 90,
    trims: { bank1: { stft: -1.6, ltft: 7 } },
    relativeThrottleDeg: 2.5,
    airCon: false,
    loop: 'closed',
  };
  const metric = textOf(reading, METRIC, ['bank1s1']);
  expect(metric).toMatchObject({
    rpm: '742',
    mafGps: '3.2',
    ectC: '90',
    stft1: '-1.6',
    ltft1: '7',
    stft2: '',
    loop: 'closed',
  });
  expect([metric.airCon, metric.throttle, metric.throttleUnit]).toEqual(['off', '2.5', '°']);
  // A tool that shows its own units is typed in them, whatever the reader has.
  const own = TOOL_PROFILES.find((t) => t.kind === 'hand-held' && t.unit.maf === 'lb/min')!;
  expect(Number(textOf({ ...reading, mafGps: 7.56 }, { ...METRIC, tool: own }, []).mafGps)).toBeCloseTo(1, 2);
  // NIST SP 811: 90 °C is 194 °F.
  expect(textOf(reading, { ...METRIC, units: 'us' }, [])).toMatchObject({ ectC: '194', rpm: '742' });
  expect(textOf({ ...reading, airCon: true, relativeThrottlePct: 3 }, METRIC, [])).toMatchObject({
    airCon: 'on',
    throttle: '3',
    throttleUnit: '%',
  });
  const bare = textOf({ at: 'idle' } as Reading, METRIC, ['bank1s1']);
  expect(Object.entries(bare).filter(([k, v]) => v !== '' && k !== 'throttleUnit')).toEqual([]);
});
