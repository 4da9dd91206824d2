import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { JobView } from '@just-balance/contract';
import type { Case } from '@just-balance/core/case';
import { judgement, type Settings } from '@just-balance/core/diagnosis';
import { handOverDocuments, type Labour } from '@just-balance/core/handOver';
import { INSPECTION_RULES } from '@just-balance/core/readiness';
import { learn } from '@just-balance/core/shop';
import { inWords } from '@just-balance/core/units';
import { cleanup, screen } from '@testing-library/react';
import 'fake-indexeddb/auto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { JobLive } from '../src/data/live.tsx';
import { outbox } from '../src/data/queue.ts';
import { LearnedPage } from '../src/pages/learned/LearnedPage.tsx';
import { NewJob } from '../src/pages/newJob/NewJob.tsx';
import { HandOverStation } from '../src/stations/handOver/HandOverStation.tsx';
import { WouldPass } from '../src/stations/readiness/WouldPass.tsx';
import { CleanOrReplacePanel } from '../src/stations/service/CleanOrReplacePanel.tsx';
import { withMoments } from '../src/ui/days.ts';
import { EMPTY_JOB, LEAD, open, openSignedIn, server } from './page.tsx';

beforeEach(async () => {
  localStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);

interface Schema {
  properties?: Record<string, Schema>;
}
const schema = JSON.parse(
  readFileSync(join(__dirname, '../../../docs/formats/settings.schema.json'), 'utf8'),
) as Schema;
const fieldsOf = (s: Schema, at = ''): string[] =>
  s.properties ? Object.entries(s.properties).flatMap(([k, v]) => fieldsOf(v, at ? `${at}.${k}` : k)) : [at];

const trims = (total: number) => ({ bank1: { stft: 1, ltft: total - 1, sd: 0.8, n: 90 } });
const CASE: Case = {
  ...{ format: 'just-balance/case', version: 1, id: 'x' },
  vehicle: { fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 },
  readings: [
    { at: 'idle', rpm: 700, mafGps: 2.6, mapKPa: 32, ectC: 90, loop: 'closed', sampleHz: 2, trims: trims(7) },
    { at: 'hold-2500', rpm: 2500, mafGps: 9, mapKPa: 30, ectC: 90, loop: 'closed', sampleHz: 2, trims: trims(4) },
  ],
  tests: [{ id: 'smoke-intake', outcome: 'other' }],
};
/** A dead or slow sensor is asked about: by a test that a slow tool cannot do. */
const SLOW: Case = {
  ...CASE,
  codes: [
    { code: 'P0133', state: 'stored' },
    { code: 'P0101', state: 'stored' },
  ],
  tests: [],
};
/** All that Balance says. */
const judged = async (s: Settings, c = CASE) => JSON.stringify(inWords(judgement(c, s).diagnosis, 'metric'));

const VEHICLE = { ...CASE.vehicle, id: 'v1', label: 'Marl 2.0', banks: 1 };
const JOB = {
  ...EMPTY_JOB,
  ...{ rev: 1, status: 'open', openedAt: '2026-05-04T08:00:00Z', openedBy: 'A', adapter: null, vehicle: VEHICLE },
  complaint: { symptoms: [], recentWork: [] },
} as unknown as JobView;
const live = { values: {}, traces: new Map(), link: null, capture: null } as unknown as JobLive;

/** What a page says to a shop with these settings. */
async function page(settings: object, what: Parameters<typeof open>[0], ready: RegExp): Promise<string> {
  const account = { ...LEAD, shop: { ...LEAD.shop, settings } };
  const learning = (settings as { learning?: object }).learning ?? {};
  server({
    'GET /session': { body: { account, setupNeeded: false, demo: null } },
    'GET /service/outcomes': { body: [] },
    'GET /vehicles': { body: [] },
    'GET /bays': { body: [] },
    'GET /adapters': { body: [] },
    'GET /procedures?kind=rule': { body: [] },
    'GET /learned': { body: { learned: learn([]), choice: learning, inUse: null, leftOut: [] } },
  });
  openSignedIn(what);
  await screen.findAllByText(ready);
  const fields = [...document.querySelectorAll('input')].map((i) => `${i.type === 'checkbox' ? i.checked : i.value}`);
  const said = `${document.body.textContent} ${fields.join(' ')}`;
  cleanup();
  return said;
}
const sum = (labour: Labour | undefined) =>
  page(labour ? { labour } : {}, <CleanOrReplacePanel job={JOB} live={live} />, /Shop rate, per hour/);
const sheet = (letterhead: object) =>
  page({ letterhead }, <HandOverStation job={JOB} live={live} />, /What we found and did/);
const learned = (learning: object) => page({ learning }, <LearnedPage />, /Nothing is learned yet/);
const RULES = INSPECTION_RULES.map((r) => r.id);
const record = {
  ...{
    id: 'r',
    rev: 1,
    phase: 'before',
    at: '2026-05-04T08:00:00Z',
    source: 'hand',
    codes: [],
    lampOn: false,
    freezeFrame: [],
  },
  monitors: { monitors: [{ id: 'catalyst', state: 'complete' }], ignition: 'spark' },
} as never;

/** One look for each field: what is said with one value of it, and with another. */
const LOOKS: Readonly<Record<string, [() => Promise<string>, () => Promise<string>]>> = {
  'limits.watchPct': [() => judged({ limits: { watchPct: 5 } }), () => judged({ limits: { watchPct: 3 } })],
  'limits.actPct': [() => judged({ limits: { actPct: 10 } }), () => judged({ limits: { actPct: 5 } })],
  minutes: [() => judged({}), () => judged({ minutes: { 'pinch-pcv': 40 } })],
  tools: [() => judged({}), () => judged({ tools: [] })],
  hazards: [() => judged({}), () => judged({ hazards: [] })],
  toolHz: [() => judged({ toolHz: 20 }, SLOW), () => judged({ toolHz: 0.5 }, SLOW)],
  priors: [() => judged({}), () => judged({ priors: { 'maf-dirty': 60 } })],
  reliability: [() => judged({}), () => judged({ reliability: { 'smoke-intake': { hits: 0.4, alarms: 3 } } })],
  'learning.knownGood': [() => learned({}), () => learned({ knownGood: true })],
  'learning.priors': [() => learned({}), () => learned({ priors: true })],
  'learning.tests': [() => learned({}), () => learned({ tests: true })],
  'place.altitudeM': [
    () => page({}, <NewJob />, /Say what it is/),
    () => page({ place: { altitudeM: 640 } }, <NewJob />, /Say what it is/),
  ],
  'place.rule': [RULES[0], RULES[1]].map(
    (rule) => () => page({ place: { rule } }, <WouldPass job={JOB} record={record} />, /Would a rule take it/),
  ) as [() => Promise<string>, () => Promise<string>],
  'labour.perHour': [() => sum(undefined), () => sum({ perHour: 150, currency: 'EUR' })],
  'labour.currency': [() => sum({ perHour: 150, currency: 'EUR' }), () => sum({ perHour: 150, currency: 'CHF' })],
  'labour.parts': [
    () => sum({ perHour: 150, currency: 'EUR' }),
    () => sum({ perHour: 150, currency: 'EUR', parts: { 'airflow sensor': 410 } }),
  ],
  'letterhead.does': [() => sheet({}), () => sheet({ does: 'Engine workshop' })],
  'letterhead.address': [() => sheet({}), () => sheet({ address: '3 High Road' })],
  'letterhead.phone': [() => sheet({}), () => sheet({ phone: '0555' })],
};

describe('every field of the settings changes something that is said', () => {
  test('none is left out', () => {
    expect(Object.keys(LOOKS).sort()).toEqual(
      fieldsOf(schema)
        .filter((f) => !/^(format|version)$/.test(f))
        .sort(),
    );
  });
  test.each(Object.keys(LOOKS))('%s', async (field) => {
    const [one, other] = LOOKS[field]!;
    const [a, b] = [await one(), await other()];
    expect(a === b ? `${field}: nothing changes` : '').toBe('');
  });
  test('the sum of cleaning and replacing starts from the shop’s own rate and price', async () => {
    expect(await sum({ perHour: 150, currency: 'EUR', parts: { 'airflow sensor': 410 } })).toMatch(/150 410 /);
    expect(await sum(undefined)).toMatch(/90 140 /);
  });
});

test('a day of a list is a day of this place: from its midnight to the next, also where the clocks change', () => {
  const [from, to] = ['2026-03-29', '2026-03-29'];
  const q = new URLSearchParams(withMoments(new URLSearchParams({ from, to, q: 'hose' })));
  const [a, b] = [new Date(q.get('from')!), new Date(q.get('to')!)];
  expect([a.getHours(), a.getDate(), b.getHours(), b.getDate(), q.get('q')]).toEqual([0, 29, 0, 30, 'hose']);
});

test('the record of a job prices its minutes', () => {
  const done = {
    ...JOB,
    tests: [
      {
        id: 't',
        rev: 1,
        undone: false,
        phase: 'before',
        at: '',
        by: 'A',
        test: { id: 'compression', outcome: 'even' },
      },
    ],
  };
  const limits = { watchPct: 5, actPct: 10 };
  const { technician } = handOverDocuments({
    ...{ job: done as never, shop: 'x', proof: null, limits, units: 'metric' },
    labour: { perHour: 150, currency: 'EUR' },
  });
  expect(JSON.stringify(technician)).toMatch(/at 150\.00 EUR an hour/);
});
