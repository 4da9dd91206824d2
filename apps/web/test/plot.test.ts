import { expect, test } from '@jest/globals';
import { Chart, LinearScale, LineController, PointElement, ScatterController } from 'chart.js';
import { still } from '../src/charts/theme.ts';

Chart.register(LinearScale, LineController, PointElement, ScatterController);

/** A canvas that takes every stroke and draws nothing. */
function canvas() {
  const context: object = new Proxy(
    { measureText: () => ({ width: 8, actualBoundingBoxAscent: 6, actualBoundingBoxDescent: 2 }) },
    { get: (own, key) => (key === 'canvas' ? element : (Reflect.get(own, key) ?? (() => {}))), set: () => true },
  );
  const element = { getContext: () => context, width: 600, height: 400, style: {}, getAttribute: () => null };
  return element as unknown as HTMLCanvasElement;
}

test.each(['scatter', 'line'] as const)('the axis of a %s reaches over all of its points', (type) => {
  const points = [
    { x: 1.7, y: 28 },
    { x: 7.6, y: 9 },
    { x: 0.2, y: 24 },
    { x: 1.8, y: 20 },
  ];
  // Dots come in the order of time; a line's points rise.
  const data = type === 'line' ? [...points].sort((a, b) => a.x - b.x) : points;
  const chart = new Chart(canvas(), {
    type,
    data: { datasets: [{ data }] },
    options: { ...still(type), responsive: false, scales: { x: { type: 'linear' }, y: { type: 'linear' } } },
  });
  const { x, y } = chart.scales;
  expect([x!.min <= 0.2, x!.max >= 7.6, y!.min <= 9, y!.max >= 28]).toEqual([true, true, true, true]);
});
