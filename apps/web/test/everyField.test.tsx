import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { JobView } from '@just-balance/contract';
import { TOOL_PROFILES } from '@just-balance/core/capture';
import { TEST_BY_ID } from '@just-balance/core/catalogue';
import { caseOfJob } from '@just-balance/core/job';
import { cleanup, screen, waitFor } from '@testing-library/react';
import 'fake-indexeddb/auto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { HAND_FIELDS, handProblems, handReading, SENSOR_FIGURES, TERMS } from '../src/capture/handFields.ts';
import { outbox } from '../src/data/queue.ts';
import { dayOf } from '../src/job/record/DayFields.tsx';
import { HandRecord } from '../src/job/record/HandRecord.tsx';
import { EMPTY_VEHICLE, vehicleOf } from '../src/job/vehicle/vehicleForm.ts';
import { OutcomePanel } from '../src/stations/balance/OutcomePanel.tsx';
import { Story } from '../src/stations/complaint/Story.tsx';
import { EMPTY_JOB, open, SIGNED_IN, server } from './page.tsx';

beforeEach(async () => {
  localStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);

interface Schema {
  properties?: Record<string, Schema>;
  additionalProperties?: Schema | boolean;
  items?: Schema;
  type?: string | string[];
}
const SCHEMA = JSON.parse(readFileSync(join(__dirname, '../../../docs/formats/case.schema.json'), 'utf8')) as Schema;

/** Every field of the case at its place, lists and records without their keys. */
function fieldsOf(s: Schema, at = ''): string[] {
  if (s.items?.properties) return fieldsOf(s.items, at);
  if (s.additionalProperties && typeof s.additionalProperties === 'object' && s.additionalProperties.properties)
    return fieldsOf(s.additionalProperties, `${at}.*`);
  if (s.properties && Object.keys(s.properties).length > 0)
    return Object.entries(s.properties).flatMap(([k, x]) => fieldsOf(x, at ? `${at}.${k}` : k));
  return [at];
}

/** What is set by the program itself: the format's head, what a capture measures and a person cannot read. */
const BY_THE_PROGRAM = [
  'format',
  'version',
  'id',
  'readings.trims.bank1.sd',
  'readings.trims.bank1.n',
  'readings.trims.bank2.sd',
  'readings.trims.bank2.n',
  'readings.neverWarm',
  'readings.pressureFollows',
  // A short form that the contract takes; the interface writes limit and unit.
  'vehicle.limits.relativeThrottleIdleDeg',
];

/** Fields that hold something, written as `fieldsOf` writes them. */
function setIn(v: unknown, at = ''): string[] {
  if (Array.isArray(v) && v.some((x) => typeof x === 'object')) return v.flatMap((x) => setIn(x, at));
  if (v !== null && typeof v === 'object' && !Array.isArray(v))
    return Object.entries(v).flatMap(([k, x]) => {
      const key = at.endsWith('.o2') && /^bank/.test(k) ? '*' : k;
      return setIn(x, at ? `${at}.${key}` : key);
    });
  return v === undefined ? [] : [at.replace(/^(readings\.quantum|tests\.values)\..*/, '$1')];
}

test('every field of the contract’s case can be entered in the interface', async () => {
  const two = '2';
  const vehicle = vehicleOf(
    {},
    {
      ...EMPTY_VEHICLE,
      label: 'x',
      displacementL: '2',
      banks: two,
      ethanolPctCalibrated: '85',
      relativeThrottleIdle: '2.4',
      fuelPressureKPa: '380',
      fuelPressureReference: 'fixed',
    },
    'metric',
  );
  const sensors = ['bank1s1', 'bank1s2'];
  const typedIn = (unit: string) => ({
    at: 'snap',
    ...Object.fromEntries(HAND_FIELDS.map((f) => [f.key, String(f.low + 1)])),
    ...Object.fromEntries(TERMS.flatMap((t) => [1, 2].map((b) => [`${t.term}${b}`, '1']))),
    ...Object.fromEntries(sensors.flatMap((s) => SENSOR_FIGURES.map((f) => [`${s}_${f.key}`, '0.5']))),
    throttle: '2',
    throttleUnit: unit,
    airCon: 'on',
    recirculation: 'shut',
    loop: 'closed',
  });
  const setup = {
    vehicle,
    tool: TOOL_PROFILES[1]!,
    units: 'metric',
    picked: {},
    gauge: false,
    baroKPa: 100,
  } as const;
  const readings = ['°', '%'].map((unit) => {
    expect(handProblems(typedIn(unit), setup, sensors)).toEqual({});
    return handReading(typedIn(unit), setup, sensors);
  });
  // The airflow sensor's signal where its curve is not known.
  readings.push(handReading({ ...typedIn('%'), mafGps: '1.2' }, { ...setup, picked: { mafGps: 'V' } }, sensors));

  const job = { ...EMPTY_JOB, rev: 1, vehicle, complaint: { symptoms: [] }, status: 'open' } as unknown as JobView;
  const kept = (a: { body: { id: string } }) => ({ status: 201, body: { id: a.body.id } });
  const asked = server({
    ...SIGNED_IN,
    'POST /jobs/j1/tests': kept,
    'POST /jobs/j1/records/by-hand': kept,
    'PATCH /jobs/j1': (a) => ({ body: { ...job, rev: 2, complaint: a.body.complaint } }),
  });
  const sent = (path: string, n: number) =>
    waitFor(() => expect(asked.filter((a) => a.path.endsWith(path) && a.method !== 'GET')).toHaveLength(n));

  const story = open(<Story job={job} />);
  await story.person.click(screen.getByRole('button', { name: 'stall' }));
  await story.person.type(screen.getByRole('combobox', { name: 'Part or work' }), 'egr{Enter}');
  await story.person.type(screen.getByLabelText('Days ago'), '3');
  await story.person.selectOptions(screen.getByLabelText('Replaced by'), 'copy');
  await story.person.click(screen.getByRole('button', { name: 'Add' }));
  await sent('/jobs/j1', 2);
  cleanup();

  const record = open(<HandRecord job={job} phase="before" done={() => {}} />);
  await record.person.type(screen.getByLabelText('Stored codes'), 'P0171');
  await record.person.click(screen.getByRole('button', { name: 'Keep this record' }));
  await sent('/by-hand', 1);
  cleanup();

  const tests: [string, string[], string][] = [
    ['pinch-pcv', ['Total trim before, %', 'Total trim with it shut, %'], 'something changes'],
    ['o2-force', [], 'answers slowly'],
    ['injector-balance', [], 'low on bank 1'],
    ['known-good-swap', [], 'cured'],
  ];
  for (const [i, [id, fields, outcome]] of tests.entries()) {
    const panel = open(<OutcomePanel job={job} row={TEST_BY_ID.get(id)!} likelyBank={1} recorded={() => {}} />);
    for (const f of fields) await panel.person.type(screen.getByLabelText(f), '4');
    if (id === 'injector-balance') await panel.person.click(screen.getByRole('button', { name: '3' }));
    await panel.person.click(screen.getByRole('button', { name: outcome }));
    await sent('/tests', i + 1);
    cleanup();
  }
  const body = (path: string) => asked.filter((a) => a.path.endsWith(path) && a.method !== 'GET').map((a) => a.body);
  const c = caseOfJob({
    id: 'j1',
    vehicle,
    ambient: dayOf({ baroKPa: '98', altitudeM: '200', airC: '-3' }, 'metric'),
    complaint: body('/jobs/j1').at(-1).complaint,
    records: [{ phase: 'before', codes: [{ code: body('/by-hand')[0].stored[0], state: 'stored' }] }],
    readings: readings.map((reading) => ({ phase: 'before', reading })),
    tests: body('/tests').map((t) => ({ undone: false, test: t.test })),
  });
  const entered = new Set(setIn(c));
  const missing = fieldsOf(SCHEMA).filter((f) => !entered.has(f) && !BY_THE_PROGRAM.includes(f));
  expect(missing).toEqual([]);
});
