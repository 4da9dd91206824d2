import { describe, expect, test } from '@jest/globals';
import type { JobView } from '@just-balance/contract';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import type { Waiting } from '../src/data/Outbox.ts';
import { withWaiting } from '../src/data/withWaiting.ts';

const CLEAN = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!;
const job = {
  id: 'j1',
  readings: [],
  tests: [],
  cautions: [],
  repairs: [],
  runs: [{ id: 'run1', procedure: CLEAN, events: [{ id: 'e1', atMs: 1, by: 'I. Sato', what: { kind: 'resumed' } }] }],
  entries: [],
  photos: [],
} as unknown as JobView;

const waiting = (path: string, body: object, more: Partial<Waiting> = {}): Waiting => ({
  accountId: 'me',
  jobId: 'j1',
  group: 'g',
  label: 'entry',
  method: 'POST',
  path,
  body: JSON.stringify(body),
  idempotencyKey: 'k',
  refused: null,
  ...more,
});

const reading = { id: 'r1', phase: 'before', reading: { at: 'idle', mafGps: 3.4 } };

describe('a job and what waits for it on this device', () => {
  test('nothing waits: the same object, so that nothing is drawn anew', () => {
    expect(withWaiting(job, [])).toBe(job);
    expect(withWaiting(job, [waiting('/jobs/j2/readings', reading, { jobId: 'j2' })])).toBe(job);
  });

  test('a reading, a test and a caution stand in it at once, by this device', () => {
    const view = withWaiting(job, [
      waiting('/jobs/j1/readings', reading),
      waiting('/jobs/j1/tests', { id: 't1', test: { test: 'smoke', outcome: 'none' } }),
      waiting('/jobs/j1/cautions', { caution: 'running', step: 'readings' }),
    ]);
    expect(view.readings).toMatchObject([{ id: 'r1', phase: 'before', source: 'hand', reading: { mafGps: 3.4 } }]);
    expect(view.tests).toMatchObject([{ id: 't1', by: 'this device', undone: false }]);
    expect(view.cautions).toMatchObject([{ caution: 'running', step: 'readings' }]);
    expect(job.readings).toEqual([]);
  });

  test('gone up meanwhile, it stands once', () => {
    const up = withWaiting(job, [waiting('/jobs/j1/readings', reading)]);
    expect(withWaiting(up, [waiting('/jobs/j1/readings', reading)]).readings).toHaveLength(1);
  });

  test('a run, what happens in it, an entry, a repair and a picture stand in it too', () => {
    const happened = (id: string) => ({ events: [{ id, atMs: 5, what: { kind: 'resumed' } }] });
    const picture = '/jobs/j1/photos/p1?label=how+it+sat&run=run2&step=sits';
    const view = withWaiting(job, [
      waiting('/jobs/j1/runs', { id: 'run2', procedure: CLEAN }),
      waiting('/jobs/j1/runs/run2/events', happened('e2')),
      waiting('/jobs/j1/runs/run1/events', happened('e3')),
      waiting('/jobs/j1/entries', { id: 'x1', kind: 'outcome', data: { part: 'throttle-body', held: true } }),
      waiting('/jobs/j1/repairs', { id: 'r1', text: 'hose', adaptation: 'relearn' }),
      waiting(picture, {}, { method: 'PUT', body: new ArrayBuffer(7) }),
    ]);
    expect(view.runs).toMatchObject([
      { id: 'run1', events: [{ id: 'e1' }, { id: 'e3', by: 'this device' }] },
      { id: 'run2', procedure: { title: CLEAN.title }, events: [{ id: 'e2' }] },
    ]);
    expect(view.entries).toMatchObject([{ id: 'x1', kind: 'outcome', rev: 1, undone: false }]);
    expect(view.repairs).toMatchObject([{ id: 'r1', rev: 1, undone: false, text: 'hose', fault: null, part: null }]);
    expect(view.photos).toMatchObject([{ id: 'p1', run: 'run2', step: 'sits', label: 'how it sat', bytes: 7 }]);
    // What was there before is not changed.
    expect(job.runs[0]!.events).toHaveLength(1);
  });

  test('files and changes to other resources are not guessed at', () => {
    const view = withWaiting(job, [
      waiting('/jobs/j1/captures/c1/parts/0', {}, { method: 'PUT', body: new ArrayBuffer(2) }),
      waiting('/jobs/j1/known', { id: 'k1' }),
    ]);
    expect([view.readings, view.tests, view.cautions]).toEqual([[], [], []]);
  });

  test('what is found in a work stands among the tests at once, before it has gone up', () => {
    const stop = { id: 'e2', atMs: 1_700_000_000_000, what: { kind: 'stop', rule: 'the housing is cracked' } };
    const view = withWaiting(job, [waiting('/jobs/j1/runs/run1/events', { events: [stop] })]);
    expect(view.tests).toMatchObject([
      {
        by: 'this device',
        phase: 'before',
        test: { id: 'maf-inspect', outcome: 'damaged' },
        found: { run: 'run1', work: CLEAN.title, step: null },
      },
    ]);
  });
});
