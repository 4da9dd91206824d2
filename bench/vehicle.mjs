import { performance } from 'node:perf_hooks';
import { Car, candumpOf, carById } from '@just-balance/vehicle';

/** Simulated seconds per second on one core, physics alone and with candump output; the reference is real time. */
export async function measure() {
  const car = new Car(carById('aldwin-30'));
  car.start();
  car.run(60);
  const before = process.memoryUsage().heapUsed;
  const t = performance.now();
  car.run(3000);
  const physics = 3000 / ((performance.now() - t) / 1000);
  const grown = (process.memoryUsage().heapUsed - before) / 1e6;
  const from = performance.now();
  let lines = 0;
  for (const _ of candumpOf({
    format: 'just-balance/scenario',
    version: 1,
    vehicle: 'aldwin-30',
    warm: true,
    drive: [{ do: 'idle', s: 600 }],
  }))
    lines++;
  const logged = 600 / ((performance.now() - from) / 1000);
  return [
    {
      what: 'simulated vehicle, physics alone',
      ours: `${physics.toFixed(0)} s/s, heap ${grown.toFixed(1)} MB more`,
      reference: 'real time 1 s/s',
      ratio: `${physics.toFixed(0)}×`,
      aim: '≥ 1000×',
    },
    {
      what: 'simulated vehicle with candump output',
      ours: `${logged.toFixed(0)} s/s, ${lines} frames`,
      reference: 'real time 1 s/s',
      ratio: `${logged.toFixed(0)}×`,
      aim: '≥ 300×',
    },
  ];
}
