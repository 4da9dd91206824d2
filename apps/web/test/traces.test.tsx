import { afterEach, expect, test } from '@jest/globals';
import type { Band } from '@just-balance/core/readiness';
import { type Channel, gapsOf, type Series } from '@just-balance/core/series';
import { cleanup, screen } from '@testing-library/react';
import { Chart } from 'chart.js';
import fc from 'fast-check';
import { axisTicks } from '../src/charts/range.ts';
import { TraceChart } from '../src/charts/TraceChart.tsx';
import { BandLane } from '../src/recordings/BandLane.tsx';
import { OxygenSensors } from '../src/recordings/OxygenSensors.tsx';
import 'fake-indexeddb/auto';
import { drawsNothing, open } from './page.tsx';

afterEach(cleanup);

const channel = (id: string, unit: string, n: number, hz: number, value: (t: number) => number): Channel => {
  const time = Float64Array.from({ length: n }, (_, k) => k / hz);
  return { id, unit, time, value: time.map(value) };
};

test('the figures beside the traces have a real minus, and thousands', () => {
  drawsNothing();
  const strip = (c: Channel, digits: number) => ({
    channel: c,
    levels: [],
    gaps: [],
    label: c.id,
    digits,
    low: null,
    high: null,
    expected: null,
  });
  open(
    <TraceChart
      strips={[
        strip(
          channel('timing', '°', 50, 10, () => -12.5),
          1,
        ),
        strip(
          channel('rpm', 'rpm', 50, 10, () => 2480),
          0,
        ),
        strip(
          channel('totalBank1', '%', 50, 10, () => 8.5),
          1,
        ),
      ]}
      range={{ from: 0, to: 4 }}
      all={{ from: 0, to: 4.9 }}
      cursor={2}
      marks={[]}
      gaps={[]}
      setRange={() => {}}
      setCursor={() => {}}
    />,
  );
  // Said in a table below: here for eyes only.
  const figures = screen.getAllByRole('listitem', { hidden: true }).map((l) => l.textContent);
  expect(figures).toEqual(['timing', 'rpm', 'totalBank1', '−12.5 °', '2,480 rpm', '+8.5 %']);
});

test('three labels of an axis are three figures, each true to its place', () => {
  const texts = (min: number, max: number, digits: number) => axisTicks(min, max, digits).map((t) => t.text);
  expect(texts(29.8, 30.4, 0)).toEqual(['29.8', '30.1', '30.4']);
  expect(texts(0.99, 1, 2)).toEqual(['0.99', '0.995', '1']);
  expect(texts(-20, 60, 1)).toEqual(['−20', '0', '60']);
  expect(texts(0, 9000, 0)).toEqual(['0', '4,500', '9,000']);
  fc.assert(
    fc.property(
      fc.double({ min: -1e4, max: 1e4, noNaN: true }),
      fc.double({ min: 1e-3, max: 1e4, noNaN: true }),
      (min, span) => {
        const all = axisTicks(min, min + span, 0);
        expect(new Set(all.map((t) => t.text)).size).toBe(3);
        for (const t of all) {
          const read = Number(t.text.replaceAll(',', '').replace('−', '-'));
          expect(Math.abs(read - t.value)).toBeLessThanOrEqual(0.021 * span);
        }
      },
    ),
  );
});

test('a line that stands still is drawn as one, in the middle of what is worth telling apart', () => {
  drawsNothing();
  const trim = channel('stft1', '%', 50, 10, () => 1.5);
  open(
    <TraceChart
      strips={[{ channel: trim, levels: [], gaps: [], label: 'Trim', digits: 1, low: -5, high: 5, expected: null }]}
      range={{ from: 0, to: 4.9 }}
      all={{ from: 0, to: 4.9 }}
      cursor={null}
      marks={[]}
      gaps={[]}
      setRange={() => {}}
      setCursor={() => {}}
    />,
  );
  const { min, max } = Chart.getChart(document.querySelector('canvas')!)!.options.scales!.y0 as {
    min: number;
    max: number;
  };
  expect([max - min >= 0.39, (min + max) / 2]).toEqual([true, expect.closeTo(1.5, 6)]);
});

test('a line ends at a gap, hollow, and the cursor in it says for how long there is no sample', () => {
  drawsNothing();
  // Ten seconds, half a minute of nothing, ten seconds.
  const time = Float64Array.from({ length: 200 }, (_, k) => (k < 100 ? k / 10 : 30 + k / 10));
  const rpm: Channel = { id: 'rpm', unit: 'rpm', time, value: time.map(() => 740) };
  const chart = (cursor: number) => (
    <TraceChart
      strips={[
        {
          channel: rpm,
          levels: [],
          gaps: gapsOf(time),
          label: 'Engine speed',
          digits: 0,
          low: null,
          high: null,
          expected: null,
        },
      ]}
      range={{ from: 0, to: 50 }}
      all={{ from: 0, to: 50 }}
      cursor={cursor}
      marks={[]}
      gaps={[]}
      setRange={() => {}}
      setCursor={() => {}}
    />
  );
  open(chart(25));
  expect(screen.getByText('no sample for 30 s')).toBeTruthy();
  const [line] = Chart.getChart(document.querySelector('canvas')!)!.data.datasets;
  const points = line!.data as { x: number; y: number }[];
  const breaks = points.flatMap((p, k) => (Number.isNaN(p.y) ? [k] : []));
  expect(breaks).toHaveLength(1);
  const radius = (line as unknown as { pointRadius: number[] }).pointRadius;
  expect(radius.flatMap((r, k) => (r > 0 ? [k] : []))).toEqual([breaks[0]! - 1, breaks[0]! + 1]);
  cleanup();
  open(chart(9));
  expect(screen.queryByText(/no sample/)).toBeNull();
  expect(screen.getByText('740')).toBeTruthy();
});

test('a downstream sensor over a recording of hours: its lowest and highest, however many values', () => {
  const values = 400_000;
  const series = {
    channels: [channel('o2s12', 'V', values, 20, (t) => (t < 1 ? 0.61 : 0.7 + 0.02 * Math.sin(t)))],
  } as unknown as Series;
  open(<OxygenSensors series={series} range={{ from: 0, to: values / 20 }} />);
  const row = screen.getByText('Bank 1 sensor 2, downstream').closest('tr')!;
  expect(row.textContent).toMatch(/0\.61 to 0\.72 V/);
});

test('a held channel under its step: what lies in the step is drawn, within the lane; pressed, it says which second', () => {
  const rpm = channel('rpm', 'rpm', 100, 1, (t) => (t < 10 ? 9000 : 2000 + 10 * (t % 7)));
  const seeks: number[] = [];
  open(
    <BandLane
      series={{ startedAt: null, channels: [rpm], marks: [] }}
      band={{ channel: 'rpm', low: 1800, high: 2200, unit: 'rpm' } as Band}
      first={10}
      length={90}
      seek={(s) => seeks.push(s)}
    />,
  );
  const path = document.querySelector('path')!.getAttribute('d')!;
  const points = [...path.matchAll(/[ML](\d+) ([\d.]+)/g)].map((m) => [Number(m[1]), Number(m[2])] as const);
  expect(points.length).toBeGreaterThan(100);
  // Nothing of before the step: at 9,000 rpm it would stand at the very top.
  for (const [x, y] of points) expect([x >= 0 && x < 480, y > 1 && y < 43]).toEqual([true, true]);
  const lane = screen.getByRole('button');
  lane.getBoundingClientRect = () => ({ left: 100, width: 450 }) as DOMRect;
  lane.dispatchEvent(new MouseEvent('click', { clientX: 325, bubbles: true }));
  expect(seeks).toEqual([45]);
  cleanup();
  const none = { startedAt: null, channels: [], marks: [] };
  open(
    <BandLane
      series={none}
      band={{ channel: 'rpm', low: 1800, unit: 'rpm' } as Band}
      first={0}
      length={9}
      seek={() => {}}
    />,
  );
  expect(screen.queryByRole('button')).toBeNull();
});
