import { expect, test } from '@jest/globals';
import { relearn } from '@just-balance/core/relearn';
import type { Series } from '@just-balance/core/series';
import { Car, carById, type InjectedFault } from '../src/index.ts';

/** A car whose memory has learnt a fault, repaired at second 0; its trims from then on, as a tool shows them. */
function repaired(id: string, fault: InjectedFault, learn: number, seconds: number): { series: Series; long: number } {
  const car = new Car(carById(id), { baroKPa: 99.1, airC: 18 }, 11);
  car.inject(fault);
  car.start();
  car.warmUp();
  car.settle();
  car.inject();
  car.control.learn = learn;
  const names = ['stft1', 'ltft1', 'rpm'] as const;
  const rows: number[][] = [];
  for (let i = 0; i < seconds * 5; i++) {
    car.run(0.2);
    const v = car.values();
    rows.push(names.map((n) => (n === 'rpm' ? v[n]! : Math.round(v[n]! / 0.78125) * 0.78125)));
  }
  const time = Float64Array.from(rows, (_, i) => i / 5);
  const channels = names.map((name, k) => ({ id: name, unit: '', time, value: Float64Array.from(rows, (r) => r[k]!) }));
  return { series: { startedAt: null, channels, marks: [] }, long: car.values().ltft1! };
}

test.each<[string, InjectedFault, number]>([
  ['quillon-18', { id: 'vac-leak', severity: 0.5 }, 1],
  ['quillon-18', { id: 'vac-leak', severity: 0.5 }, 0.4],
  ['quillon-18', { id: 'vac-leak', severity: 0.4 }, 0.15],
  ['aldwin-30', { id: 'maf-dirty', severity: 12 }, 0.3],
])('%s, %o, memory at %f of its rate: told where it ends once the short term has halved', (id, fault, learn) => {
  // First-order by design: 6 % of the short term a second into memory.
  const tau = 1 / (0.06 * learn);
  const half = relearn(repaired(id, fault, learn, Math.max(15, tau)).series).banks[0]!;
  const later = repaired(id, fault, learn, 8 * tau + 30);
  expect(relearn(later.series).banks[0]!.state).toBe('settled');
  // As the ECU holds it, without the tool's steps.
  const end = later.long;
  expect(half.state).toBe('settling');
  expect(Math.abs(half.settled!.totalPct - end)).toBeLessThan(1);
  expect(half.longSettlesInS!).toBeGreaterThan(0);
  expect(half.longSettlesInS!).toBeLessThan(6 * tau + 10);
});
