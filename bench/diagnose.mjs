import { performance } from 'node:perf_hooks';
import { diagnose } from '@just-balance/core/diagnosis';

const reading = (at, mafGps, total1, total2) => ({
  at,
  mafGps,
  ectC: 90,
  loop: 'closed',
  trims: {
    bank1: { stft: total1 * 0.2, ltft: total1 * 0.8, sd: 0.8, n: 100 },
    bank2: { stft: total2 * 0.2, ltft: total2 * 0.8, sd: 0.8, n: 100 },
  },
});
const CASE = {
  format: 'just-balance/case',
  version: 1,
  id: 'bench',
  vehicle: { fuel: 'petrol', metering: 'maf', displacementL: 3, cylinders: 6, banks: 2 },
  ambient: { baroKPa: 99, airC: 20 },
  readings: [reading('idle', 3.4, 19, 4), reading('hold-2500', 12, 6, 2), reading('road-load', 25, 3, 1)],
  codes: [{ code: 'P0171', state: 'stored' }],
  complaints: ['rough-idle'],
  tests: [{ id: 'visual-intake', outcome: 'ok' }],
};

/** One case with next tests on one core; the reference is JSON.parse of the same result's text. */
export async function measure() {
  for (let i = 0; i < 20; i++) diagnose(CASE);
  const times = Array.from({ length: 200 }, () => {
    const t = performance.now();
    diagnose(CASE);
    return performance.now() - t;
  }).sort((a, b) => a - b);
  const text = JSON.stringify(diagnose(CASE));
  const parse = Array.from({ length: 200 }, () => {
    const t = performance.now();
    JSON.parse(text);
    return performance.now() - t;
  }).sort((a, b) => a - b);
  const median = times[100];
  return [
    {
      what: 'one diagnosis with next tests (V6, 3 points)',
      ours: `median ${median.toFixed(1)} ms, p99 ${times[197].toFixed(1)} ms`,
      reference: `JSON.parse of its result ${(parse[100] * 1000).toFixed(0)} µs`,
      ratio: `${(median / parse[100]).toFixed(0)}×`,
      aim: 'median ≤ 10 ms, p99 ≤ 40 ms',
    },
  ];
}
