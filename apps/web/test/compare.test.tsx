import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { JobView, ReadingView } from '@just-balance/contract';
import { encodeColumn } from '@just-balance/core/series';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import type { JobLive } from '../src/data/live.tsx';
import { outbox } from '../src/data/queue.ts';
import { BeforeAfter } from '../src/job/compare/BeforeAfter.tsx';
import { judge } from '../src/job/judgement/diagnosis.worker.ts';
import { TestList } from '../src/job/work/TestList.tsx';
import { columns } from '../src/recordings/columns.worker.ts';
import { Overlaid } from '../src/recordings/Overlaid.tsx';
import { ProveStation } from '../src/stations/prove/ProveStation.tsx';
import { drawsNothing, EMPTY_JOB, open, openSignedIn, SIGNED_IN, server } from './page.tsx';
import { workHere } from './workHere.ts';

drawsNothing();
workHere({ 'columns.worker.ts': columns, 'diagnosis.worker.ts': judge });
beforeEach(async () => {
  localStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);

const live = { values: {}, traces: new Map(), link: null, capture: null } as unknown as JobLive;
const trims = (stft: number, ltft = 0) => ({ stft, ltft, sd: 0.5, n: 25, loop: 'closed' as const });
const at = (point: string, phase: 'before' | 'after', reading: object, more: object = {}): ReadingView =>
  ({
    ...{ id: `${phase}-${point}`, rev: 1, phase, source: 'hand', captureId: null, doubtful: null },
    at: phase === 'before' ? '2026-05-04T09:00:00Z' : '2026-05-04T12:00:00Z',
    reading: { at: point, ...reading },
    ...more,
  }) as ReadingView;
const job = (more: object): JobView =>
  ({
    ...EMPTY_JOB,
    rev: 3,
    status: 'open',
    openedAt: '2026-05-04T08:00:00Z',
    openedBy: 'A. Lund',
    ambient: { baroKPa: 100 },
    vehicle: {
      ...{
        id: 'v1',
        rev: 1,
        label: 'Marl 2.0',
        fuel: 'petrol',
        metering: 'maf',
        displacementL: 2,
        cylinders: 4,
        banks: 1,
      },
    },
    complaint: { story: '', symptoms: [], recentWork: [] },
    ...more,
  }) as unknown as JobView;
const WARM = { rpm: 700, mafGps: 3.1, mapKPa: 34, ectC: 88, iatC: 25 };
const cells = (region: string, row: RegExp) =>
  within(within(screen.getByRole('region', { name: region })).getByRole('row', { name: row }))
    .getAllByRole('cell')
    .map((c) => c.textContent!.trim());

describe('before and after', () => {
  test('the change with its uncertainty, better where it is, and the same conditions said', async () => {
    server({ ...SIGNED_IN });
    openSignedIn(
      <BeforeAfter
        job={job({
          readings: [
            at('idle', 'before', { ...WARM, trims: { bank1: trims(12, 10) } }),
            at('idle', 'after', { ...WARM, trims: { bank1: trims(1, 2) } }),
          ],
        })}
      />,
    );
    await screen.findByText(/one picture/);
    // Two standard errors of two means of 25 samples, each 0.5 apart: 2·√(0.01 + 0.01) = 0.28, and half a point.
    expect(cells('Total trim before and after', /^Idle/)).toEqual([
      'Idle',
      '+22.0',
      '+3.0',
      '−19.0 ± 0.8',
      'better, in band',
    ]);
    expect(screen.getByText('✓ same conditions')).toBeTruthy();
    expect(screen.getByText('Nothing cleared: readiness survives.')).toBeTruthy();
  });

  test('two banks stand apart; what got worse is worse', async () => {
    server({ ...SIGNED_IN });
    openSignedIn(
      <BeforeAfter
        job={job({
          vehicle: { ...job({}).vehicle, banks: 2 },
          readings: [
            at('idle', 'before', { ...WARM, trims: { bank1: trims(12), bank2: trims(-2) } }),
            at('idle', 'after', { ...WARM, trims: { bank1: trims(11.9), bank2: trims(-9) } }),
          ],
        })}
      />,
    );
    await screen.findByText(/one picture/);
    const rows = within(screen.getByRole('region', { name: 'Total trim before and after' }))
      .getAllByRole('row')
      .slice(1);
    expect(rows.map((r) => r.textContent)).toEqual([
      expect.stringMatching(/^Idle● 1\+12\.0\+11\.9−0\.1 ± 0\.8 smaller than ±0\.8/),
      expect.stringMatching(/^Idle◇ 2−2\.0−9\.0−7\.0 ± 0\.8 worse/),
    ]);
  });

  test('other conditions are named with what they do', async () => {
    server({ ...SIGNED_IN });
    openSignedIn(
      <BeforeAfter
        job={job({
          readings: [
            at('idle', 'before', { ...WARM, trims: { bank1: trims(12) } }),
            at('idle', 'after', { ...WARM, ectC: 55, iatC: 48, trims: { bank1: trims(1) } }),
          ],
        })}
      />,
    );
    await screen.findByText(/one picture/);
    expect(screen.getByText('not the same')).toBeTruthy();
    expect(screen.getByRole('row', { name: /^Coolant/ }).textContent).toMatch(/88.*55/);
    const list = screen.getAllByRole('listitem').map((l) => l.textContent);
    expect(list.some((l) => l!.startsWith('Coolant: '))).toBe(true);
  });

  test('airflow beside the trims; a change smaller than two readings differ by is no change', async () => {
    server({ ...SIGNED_IN });
    openSignedIn(
      <BeforeAfter
        job={job({
          vehicle: { ...job({}).vehicle, metering: 'maf' },
          readings: [
            at('hold-2500', 'before', { ...WARM, rpm: 2500, mafGps: 9, trims: { bank1: trims(15) } }),
            at('hold-2500', 'after', { ...WARM, rpm: 2500, mafGps: 14, trims: { bank1: trims(1) } }),
          ],
        })}
      />,
    );
    await screen.findByText(/one picture/);
    const row = screen.getAllByRole('row').find((r) => /^Airflow, g\/s/.test(r.textContent!))!;
    expect(row.textContent).toMatch(/9\.0.*14\.0.*changed/);
  });
});

describe('Prove', () => {
  test('without a reading from before it says what a proof is', () => {
    open(<ProveStation job={job({})} live={live} />);
    expect(screen.getByText('Nothing to compare with yet')).toBeTruthy();
    expect(screen.getByRole('link', { name: 'To Readings' }).getAttribute('href')).toMatch(/readings$/);
  });

  test('readings between two repairs are counted, and no part of the verdict', async () => {
    server({ ...SIGNED_IN });
    const repair = (id: string, hour: string) => ({
      ...{ id, rev: 1, by: 'A. Lund', undone: false, text: 'hose', fault: null, part: null, adaptation: 'relearn' },
      at: `2026-05-04T${hour}:00:00Z`,
    });
    const read = [
      at('idle', 'before', { ...WARM, trims: { bank1: trims(12) } }),
      at('idle', 'after', { ...WARM, trims: { bank1: trims(11) } }, { id: 'x', at: '2026-05-04T10:30:00Z' }),
      at('idle', 'after', { ...WARM, trims: { bank1: trims(1) } }),
    ];
    openSignedIn(
      <ProveStation job={job({ readings: read, repairs: [repair('r1', '10'), repair('r2', '11')] })} live={live} />,
    );
    const verdict = await screen.findByRole('region', { name: 'Verdict' });
    expect(verdict.textContent).toMatch(/1 reading was taken between two repairs/);
    expect(verdict.textContent).toMatch(/Next:/);
    expect(cells('Total trim before and after', /^Idle/)[2]).toBe('+1.0');
  });
});

describe('cleaned, and no better', () => {
  const points = ['idle', 'hold-2500'] as const;
  const cleaned = {
    ...{ id: 'r1', rev: 1, by: 'A. Lund', undone: false, text: 'Airflow sensor cleaned', fault: null },
    ...{ part: 'airflow sensor', work: 'cleaned', adaptation: 'relearn', at: '2026-05-04T10:00:00Z' },
  };
  const open_ = (afterPct: number, more: object = {}) => {
    server({ ...SIGNED_IN });
    const readings = points.flatMap((p) => [
      at(p, 'before', { ...WARM, trims: { bank1: trims(14) } }, { id: `${p} b` }),
      at(p, 'after', { ...WARM, trims: { bank1: trims(afterPct) } }, { id: `${p} a`, at: '2026-05-04T11:00:00Z' }),
    ]);
    openSignedIn(<ProveStation job={job({ readings, repairs: [{ ...cleaned, ...more }] })} live={live} />);
  };
  test('goes back, with the sum once more', async () => {
    open_(14);
    await screen.findByText('Cleaned, and no better');
    const sum = screen.getByRole('link', { name: 'Clean or replace again' });
    expect(sum.getAttribute('href')).toBe('/jobs/j1/service?view=clean-or-replace');
    expect(screen.getByRole('link', { name: 'Back to Balance' }).getAttribute('href')).toBe('/jobs/j1/balance?after');
  });
  test('better, or something else than a cleaning, does not', async () => {
    open_(1);
    await screen.findByRole('region', { name: 'Verdict' });
    expect(screen.queryByText('Cleaned, and no better')).toBeNull();
    cleanup();
    open_(14, { work: 'repaired' });
    await screen.findByRole('region', { name: 'Verdict' });
    expect(screen.queryByText('Cleaned, and no better')).toBeNull();
  });
});

describe('Tests of the job', () => {
  const row = (id: string, more: object = {}) => ({
    ...{ id, rev: 4, at: '2026-05-04T09:00:00Z', undone: false, by: 'A. Lund', phase: 'before' },
    test: { id: 'smoke', outcome: 'leak-before-plate' },
    ...more,
  });

  test('the newest first, what it showed in words; undone and put back', async () => {
    const asked = server({ 'PATCH /jobs/j1/tests/t2': { body: {} }, 'PATCH /jobs/j1/tests/t1': { body: {} } });
    const { person } = open(
      <TestList
        job={job({
          tests: [row('t1', { undone: true }), row('t2', { phase: 'after', test: { id: 'smoke', outcome: 'none' } })],
        })}
      />,
    );
    const rows = screen.getAllByRole('row').slice(1);
    expect(rows[0]!.textContent).toMatch(/after the repair/);
    expect(rows[1]!.textContent).toMatch(/as it came in.*A\. Lund/);
    expect(rows[1]!.className).toMatch(/line-through/);
    await person.click(within(rows[0]!).getByRole('button', { name: 'Undo' }));
    await person.click(within(rows[1]!).getByRole('button', { name: 'Put back' }));
    await waitFor(() => expect(asked).toHaveLength(2));
    expect(asked.map((a) => [a.path, a.body])).toEqual([
      ['/jobs/j1/tests/t2', { rev: 4, undone: true }],
      ['/jobs/j1/tests/t1', { rev: 4, undone: false }],
    ]);
  });
});

describe('recordings over each other', () => {
  const time = Float64Array.from({ length: 20 }, (_, i) => i / 2);
  const recording = (id: string, channels: string[]) => ({
    ...{ id, at: 'idle', name: null, phase: 'before', source: 'link', seconds: 10, startedAt: null, durationS: 10 },
    channels: channels.map((c) => ({ id: c, unit: '%', kind: 'number', n: 20, parts: 1, quantum: null })),
    ...{ gapSpans: [], setAside: {}, onTheBus: null, marks: [], summary: null },
  });
  const column = (v: number) => ({ body: encodeColumn({ time, value: time.map(() => v) }) });
  const pair = (point: string) => [
    at(point, 'before', { ...WARM, trims: { bank1: trims(12) } }, { captureId: `b-${point}` }),
    at(point, 'after', { ...WARM, trims: { bank1: trims(1) } }, { captureId: `a-${point}` }),
  ];

  test('a point recorded before and after; channels both hold, trims first', async () => {
    const asked = server({
      'GET /jobs/j1/captures/b-idle/recording': { body: recording('b-idle', ['rpm', 'ltft1', 'stft1', 'only-before']) },
      'GET /jobs/j1/captures/a-idle/recording': { body: recording('a-idle', ['rpm', 'ltft1', 'stft1']) },
      'GET /jobs/j1/captures/b-idle/columns/stft1?part=0': column(12),
      'GET /jobs/j1/captures/a-idle/columns/stft1?part=0': column(1),
      'GET /jobs/j1/captures/b-idle/columns/rpm?part=0': column(700),
      'GET /jobs/j1/captures/a-idle/columns/rpm?part=0': column(700),
    });
    const { person } = open(
      <Overlaid job={job({ readings: pair('idle'), captures: [{ id: 'b-idle' }, { id: 'a-idle' }] })} />,
    );
    const choice = (await screen.findByLabelText('Channel')) as HTMLSelectElement;
    await waitFor(() => expect([...choice.options].map((o) => o.value)).toEqual(['stft1', 'ltft1', 'rpm']));
    await person.selectOptions(choice, 'rpm');
    expect(
      await screen.findByRole('img', { name: /^Engine speed over time, before dashed and after solid/ }),
    ).toBeTruthy();
    await waitFor(() => expect(asked.filter((a) => a.path.includes('/rpm'))).toHaveLength(2));
  });

  test('nothing recorded twice: nothing drawn; two points: one is chosen', async () => {
    open(<Overlaid job={job({ readings: [pair('idle')[0]], captures: [{ id: 'b-idle' }] })} />);
    expect(screen.queryByRole('region')).toBeNull();
    cleanup();
    const ids = ['b-idle', 'a-idle', 'b-hold-2500', 'a-hold-2500'];
    server(Object.fromEntries(ids.map((id) => [`GET /jobs/j1/captures/${id}/recording`, { body: recording(id, []) }])));
    const { person } = open(
      <Overlaid
        job={job({ readings: [...pair('idle'), ...pair('hold-2500')], captures: ids.map((id) => ({ id })) })}
      />,
    );
    const [first, second] = screen.getAllByRole('button');
    expect(first!.getAttribute('aria-pressed')).toBe('true');
    await person.click(second!);
    expect(second!.getAttribute('aria-pressed')).toBe('true');
    expect(first!.getAttribute('aria-pressed')).toBe('false');
  });
});
