import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { JobView, RecordingView } from '@just-balance/contract';
import { encodeColumn } from '@just-balance/core/series';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { Chart } from 'chart.js';
import { outbox } from '../src/data/queue.ts';
import { columns } from '../src/recordings/columns.worker.ts';
import { ExportMenu } from '../src/recordings/ExportMenu.tsx';
import { RecordingPanel } from '../src/recordings/RecordingPanel.tsx';
import { drawsNothing, EMPTY_JOB, open, openSignedIn, refused, SIGNED_IN, server } from './page.tsx';
import { workHere } from './workHere.ts';

drawsNothing();
workHere({ 'columns.worker.ts': columns });
beforeEach(async () => {
  localStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);

const SECONDS = 40;
/** A steady hold of a 2 L engine at sea level, one sample a second; the second half leaner by 4 %. */
const HELD = {
  rpm: { unit: 'rpm', at: () => 2500 },
  map: { unit: 'kPa', at: () => 40 },
  iat: { unit: '°C', at: () => 25 },
  maf: { unit: 'g/s', at: (t: number) => 14 + (t % 2) },
  ect: { unit: '°C', at: () => 88 },
  load: { unit: '%', at: () => 30 },
  stft1: { unit: '%', at: (t: number) => (t < SECONDS / 2 ? 2 : 6) },
  ltft1: { unit: '%', at: () => 8 },
  o2s12: { unit: 'V', at: () => 0.7 },
} as const;
const TEXTS = { fuelSys1: 'closed loop' } as const;
const time = Float64Array.from({ length: SECONDS }, (_, i) => i);

const RECORDING = {
  id: 'c1',
  at: 'hold-2500',
  name: null,
  phase: 'before',
  source: 'link',
  seconds: 40,
  startedAt: '2026-05-04T09:00:00Z',
  durationS: SECONDS - 1,
  channels: [
    ...Object.entries(HELD).map(([id, c]) => ({
      id,
      unit: c.unit,
      kind: 'number',
      n: SECONDS,
      parts: 1,
      quantum: null,
    })),
    ...Object.keys(TEXTS).map((id) => ({ id, unit: '', kind: 'text', n: SECONDS, parts: 1, quantum: null })),
  ],
  gapSpans: [],
  setAside: {},
  onTheBus: null,
  marks: [{ at: 'hold-2500', from: 10, to: 20 }],
  summary: null,
} as unknown as RecordingView;

const JOB = {
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
} as unknown as JobView;

const columnRoutes = () =>
  Object.fromEntries(
    [
      ...Object.entries(HELD).map(([id, c]) => [id, Float64Array.from(time, (t) => c.at(t))] as const),
      ...Object.entries(TEXTS).map(([id, text]) => [id, [...time].map(() => text)] as const),
    ].map(([id, value]) => [
      `GET /jobs/j1/captures/c1/columns/${id}?part=0`,
      { body: encodeColumn({ time, value } as Parameters<typeof encodeColumn>[0]) },
    ]),
  );

async function opened(recording: object = {}, routes: Parameters<typeof server>[0] = {}) {
  let closed = 0;
  const asked = server({
    ...SIGNED_IN,
    ...columnRoutes(),
    'GET /jobs/j1/captures/c1/recording': { body: { ...RECORDING, ...recording } },
    'GET /procedures?kind=drive': { body: [] },
    ...routes,
  });
  const page = openSignedIn(<RecordingPanel job={JOB} captureId="c1" close={() => closed++} />);
  await waitFor(() => expect(screen.queryByText('Loading channels…')).toBeNull());
  await screen.findByText(/^Shown/);
  return { ...page, asked, closed: () => closed };
}

/** What a picture was given to draw. */
function drawn(canvas: HTMLElement) {
  const { data, options } = Chart.getChart(canvas as HTMLCanvasElement)!;
  const scales = options.scales as unknown as Record<'x' | 'y', { title: { text: string } }>;
  return {
    axes: [scales.x.title.text, scales.y.title.text],
    points: data.datasets[0]!.data as { x: number; y: number }[],
  };
}

const figures = () =>
  Object.fromEntries(
    screen
      .getAllByRole('row')
      .slice(1)
      .map((r) => {
        const [name, ...rest] = within(r)
          .getAllByRole('cell')
          .map((c) => c.textContent!);
        return [name, rest];
      }),
  );

test('what it holds is said; the figures of the part shown are those of the samples', async () => {
  await opened();
  expect(await screen.findByText(/40 s committed · 10 channels · 10 values\/s · no gaps/)).toBeTruthy();
  await waitFor(() => expect(Object.keys(figures())).toHaveLength(4));
  // 14 and 15 g/s by turns: mean 14.5, sample deviation 0.51 (√(40/39)/2), one sample a second.
  expect(figures()['Airflow g/s']).toEqual(['14.5', '0.51', '14.0', '15.0', '40', '1.0/s']);
  expect(figures()['Engine speed rpm']).toEqual(['2,500', '0.0', '2,500', '2,500', '40', '1.0/s']);
  // Half at +10, half at +14.
  expect(figures()['Total trim, bank 1 %']?.[0]).toBe('12.0');
});

test('a mark is gone to, the part is widened, and all of it comes back', async () => {
  const { person } = await opened();
  const shown = () => screen.getByText(/^Shown/).textContent;
  expect(shown()).toBe('Shown: 0:00–0:39');
  await person.click(screen.getByRole('button', { name: /0:10$/ }));
  const near = shown();
  expect(near).not.toBe('Shown: 0:00–0:39');
  await waitFor(() => expect(Number(figures()['Engine speed rpm']![4])).toBeLessThan(40));
  await person.click(screen.getByRole('button', { name: 'Closer' }));
  const closer = shown();
  expect(closer).not.toBe(near);
  await person.click(screen.getByRole('button', { name: 'Wider' }));
  expect(shown()).toBe(near);
  await person.click(screen.getByRole('button', { name: 'All' }));
  expect(shown()).toBe('Shown: 0:00–0:39');
});

test('a mark is put on the part shown, with what happened in it', async () => {
  const { person, asked } = await opened(
    {},
    {
      'POST /jobs/j1/captures/c1/marks': (a) => ({
        body: { ...RECORDING, marks: [...RECORDING.marks, a.body] },
      }),
    },
  );
  await person.click(screen.getByRole('button', { name: 'Mark' }));
  expect(await screen.findByText('say what happened')).toBeTruthy();
  await person.type(screen.getByLabelText('Mark the part shown'), 'fan came on');
  await person.click(screen.getByRole('button', { name: 'Mark' }));
  expect(await screen.findByRole('button', { name: /fan came on/ })).toBeTruthy();
  expect(asked.find((a) => a.method === 'POST')!.body).toEqual({ at: 'fan came on', from: 0, to: 39 });
});

test('without any channel that is looked at first it still shows four', async () => {
  const others = RECORDING.channels.filter((c) => ['map', 'iat', 'ect', 'load', 'o2s12'].includes(c.id));
  await opened({ channels: others });
  await waitFor(() => expect(Object.keys(figures())).toHaveLength(4));
});

test('strips are chosen, six at most', async () => {
  const { person } = await opened();
  await waitFor(() => expect(Object.keys(figures())).toHaveLength(4));
  const choice = screen.getByText(/^Strips, at most 6/).closest('section')!;
  await person.click(within(choice).getByRole('button', { name: 'Coolant' }));
  await person.click(within(choice).getByRole('button', { name: 'Intake air' }));
  await waitFor(() => expect(figures()['Coolant °C']?.[0]).toBe('88.0'));
  const rest = within(choice)
    .getAllByRole('button')
    .filter((b) => b.getAttribute('aria-pressed') === 'false');
  expect(rest.length).toBeGreaterThan(0);
  expect(rest.every((b) => (b as HTMLButtonElement).disabled)).toBe(true);
  await person.click(within(choice).getByRole('button', { name: 'Coolant' }));
  await waitFor(() => expect(figures()['Coolant °C']).toBeUndefined());
});

test('drawn against each other: trim by airflow, by cell, and airflow by what it should be', async () => {
  const { person } = await opened();
  await person.click(screen.getByRole('tab', { name: 'Trim against airflow' }));
  const trims = drawn(await screen.findByRole('img', { name: 'Total trim against airflow' }));
  expect(trims.axes).toEqual(['Airflow, g/s', 'Total trim, %']);
  // Each second once: airflow by turns, the total in two steps.
  expect(trims.points).toHaveLength(SECONDS);
  expect(trims.points[0]).toEqual({ x: 14, y: 10 });
  expect(trims.points.at(-1)).toEqual({ x: 15, y: 14 });
  await person.click(screen.getByRole('tab', { name: 'Trim map' }));
  const map = await screen.findByRole('table', { name: /^Total trim, %, by engine speed and/ });
  const cell = within(map)
    .getAllByRole('cell')
    .find((c) => c.textContent !== '')!;
  expect(cell.textContent).toMatch(/^\+12\.0▶ lean · 40$/);
  await person.click(screen.getByRole('tab', { name: 'Airflow against expected' }));
  // 2 L, 2,500 rpm, 40 kPa, 298 K, ideal gas (R 287.05): 19.48 g/s filled to the brim; 14.5 is 74 % of that.
  const share = await screen.findByText(/of what engine speed/);
  const pct = Number(/(\d+) %/.exec(share.textContent!)![1]);
  const air = drawn(screen.getByRole('img', { name: 'Measured airflow against expected' }));
  expect(air.points.map((p) => p.y).slice(0, 2)).toEqual([14, 15]);
  expect(Math.round((100 * 14.5) / air.points[0]!.x)).toBe(pct);
  expect(pct).toBeGreaterThanOrEqual(74);
  expect(pct).toBeLessThan(110);
  await person.click(screen.getByRole('tab', { name: 'Oxygen sensors' }));
  expect(await screen.findByText('Bank 1 sensor 2, downstream')).toBeTruthy();
});

test('without an airflow sensor the trims stand against manifold pressure', async () => {
  const { person } = await opened({ channels: RECORDING.channels.filter((c) => c.id !== 'maf') });
  await person.click(screen.getByRole('tab', { name: 'Trim against airflow' }));
  const trims = drawn(await screen.findByRole('img', { name: 'Total trim against manifold pressure' }));
  expect(trims.axes[0]).toBe('Manifold pressure, kPa');
  expect(trims.points[0]).toEqual({ x: 40, y: 10 });
});

test('the trim map is headed in the units shown', async () => {
  localStorage.setItem('jb-units', 'us');
  const { person } = await opened();
  await person.click(screen.getByRole('tab', { name: 'Trim map' }));
  const map = await screen.findByRole('table', { name: /^Total trim/ });
  expect(map.textContent).not.toMatch(/kPa/);
});

test('without loop, airflow or pressure a view says what it lacks', async () => {
  const { person } = await opened({ channels: RECORDING.channels.filter((c) => ['rpm', 'ect'].includes(c.id)) });
  for (const [view, words] of [
    ['Trim against airflow', 'closed-loop trims beside airflow or manifold pressure'],
    ['Trim map', 'closed-loop trims beside engine speed and load'],
    ['Airflow against expected', 'airflow together with engine speed and manifold pressure'],
    ['Oxygen sensors', 'oxygen sensor'],
  ] as const) {
    await person.click(screen.getByRole('tab', { name: view }));
    expect(await screen.findByText(`This part of the recording holds no ${words}.`)).toBeTruthy();
  }
});

test('the part shown goes into the case as a reading', async () => {
  const { person } = await opened();
  await person.click(screen.getByRole('button', { name: 'A reading of the part shown' }));
  const box = await screen.findByRole('region', { name: 'Into the case' });
  expect((within(box).getByLabelText('Operating point') as HTMLSelectElement).value).toBe('hold-2500');
  await person.click(within(box).getByRole('button', { name: 'Put it into the case' }));
  expect(await within(box).findByText('It stands with the readings, marked in this recording.')).toBeTruthy();
  const [kept] = await outbox.waiting();
  const sent = JSON.parse(kept!.body as string) as {
    phase: string;
    stretch: object;
    reading: { at: string; mafGps: number; trims: object };
  };
  expect(sent).toMatchObject({ phase: 'before', stretch: { captureId: 'c1', fromS: 0, toS: 39 } });
  expect(sent.reading.at).toBe('hold-2500');
  expect(sent.reading.mafGps).toBeCloseTo(14.5, 6);
  // Another point is another reading: it is not kept yet.
  await person.selectOptions(within(box).getByLabelText('Operating point'), 'idle');
  expect(within(box).queryByText(/It stands with the readings/)).toBeNull();
});

test('what was set aside while it was captured is counted, by unit and reason', async () => {
  await opened({
    setAside: { '7E8: late: it answers a question that was given up': 1, '7E9: another unit was asked': 11 },
  });
  expect(screen.getByText(/ · 12 frames set aside · /)).toBeTruthy();
  const list = screen.getByText('Set aside while it was captured').parentElement!;
  expect(
    within(list)
      .getAllByRole('listitem')
      .map((l) => l.textContent),
  ).toEqual(['7E9: another unit was asked 11 frames', '7E8: late: it answers a question that was given up 1 frame']);
});

test('gaps of a capture are those it was marked with; of a file those of its samples', async () => {
  const gapSpans = [
    { from: 5, to: 8 },
    { from: 12, to: 13 },
  ];
  await opened({ gapSpans });
  expect(screen.getByText(/ · 2 gaps, marked$/)).toBeTruthy();
  cleanup();
  const late = Float64Array.from(time, (t) => (t < 20 ? t : t + 60));
  const rows = Object.entries(HELD).map(([id, c]) => [
    `GET /jobs/j1/captures/c1/columns/${id}?part=0`,
    { body: encodeColumn({ time: late, value: Float64Array.from(time, (t) => c.at(t)) }) },
  ]);
  await opened({ source: 'import', durationS: 99 }, Object.fromEntries(rows));
  await screen.findByText(/ · one gap, marked$/);
});

test('what was left out when it was read, and a name of its own', async () => {
  await opened({
    source: 'import',
    name: 'way to work',
    summary: { leftOut: ['Lat', 'Lon'], problems: ['line 7: “--” is not a number'], problemCount: 1 },
  });
  expect(screen.getByText('way to work, 0:39')).toBeTruthy();
  expect(await screen.findByText(/^Imported · .* · no gaps$/)).toBeTruthy();
  expect(screen.getByText('Columns: Lat, Lon')).toBeTruthy();
  expect(screen.getByText('line 7: “--” is not a number')).toBeTruthy();
});

test('a recording that cannot be opened says why, and a channel that does not come says it', async () => {
  server({ ...SIGNED_IN, 'GET /jobs/j1/captures/c1/recording': refused(404, 'No such recording.') });
  let closed = false;
  const { person } = openSignedIn(
    <RecordingPanel
      job={JOB}
      captureId="c1"
      close={() => {
        closed = true;
      }}
    />,
  );
  expect(await screen.findByText('No such recording.')).toBeTruthy();
  await person.click(screen.getByRole('button', { name: 'Back to Readings' }));
  expect(closed).toBe(true);
  cleanup();
  server({
    ...SIGNED_IN,
    ...columnRoutes(),
    'GET /jobs/j1/captures/c1/recording': { body: RECORDING },
    'GET /jobs/j1/captures/c1/columns/maf?part=0': refused(500, 'x'),
  });
  openSignedIn(<RecordingPanel job={JOB} captureId="c1" close={() => {}} />);
  expect(await screen.findByText(/the server answered 500 for a channel/)).toBeTruthy();
});

describe('what a recording can be taken away as', () => {
  const menu = (onTheBus: RecordingView['onTheBus']) => {
    open(<ExportMenu jobId="j1" captureId="c1" onTheBus={onTheBus} />);
    return screen.getByText('CAN log').closest('a')!;
  };
  test('a log is what was on the bus where that is kept, and says how much of it; else what follows from the figures', () => {
    const kept = menu({ frames: 12_400, lost: 0 });
    expect(kept.textContent).toBe('CAN logwhat was on the bus: 12,400 frames');
    expect(kept.getAttribute('href')).toBe('/api/jobs/j1/captures/c1/export?as=candump');
    cleanup();
    expect(menu({ frames: 1, lost: 2000 }).textContent).toMatch(/on the bus: 1 frame; 2,000 more were not kept$/);
    cleanup();
    expect(menu(null).textContent).toMatch(/as an engine would have answered; what belongs together only where/);
  });
});
