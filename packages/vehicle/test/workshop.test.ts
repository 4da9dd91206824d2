import { describe, expect, test } from '@jest/globals';
import { Car, carById, EcuPort, PARTS, SIM_FAULTS } from '../src/index.ts';

const AIR = { baroKPa: 99.1, airC: 18 };
function warm(id: string, seed: number, ...faults: Parameters<Car['inject']>): Car {
  const car = new Car(carById(id), AIR, seed);
  car.inject(...faults);
  car.start();
  car.warmUp();
  car.run(5);
  return car;
}
const maf = (car: Car): number => {
  car.run(3);
  return car.engine.state.mafSignalGps;
};

describe('work on a simulated car', () => {
  test('every part names faults that exist', () => {
    const ids = SIM_FAULTS.map((f) => f.id);
    for (const list of Object.values(PARTS)) for (const f of list) expect(ids).toContain(f);
  });

  test('a cleaned wire recovers by an amount of its own, on some cars by nothing; never one that only reads low', () => {
    const left = Array.from({ length: 60 }, (_, seed) => {
      const car = new Car(carById('quillon-18'), AIR, seed);
      car.inject({ id: 'maf-dirty', severity: 20 });
      car.work('clean', 'airflow-sensor');
      return car.faults[0]?.severity ?? 0;
    });
    const nothing = left.filter((s) => s === 20).length;
    expect(nothing).toBeGreaterThan(2);
    expect(nothing).toBeLessThan(20);
    expect(left.filter((s) => s < 8).length).toBeGreaterThan(30);
    expect(new Set(left.map((s) => s.toFixed(3))).size).toBeGreaterThan(20);
    const burnt = new Car(carById('quillon-18'), AIR, 3);
    burnt.inject({ id: 'maf-under', severity: 15 });
    burnt.work('clean', 'airflow-sensor');
    expect(burnt.faults).toEqual([{ id: 'maf-under', severity: 15 }]);
    burnt.work('replace', 'airflow-sensor');
    expect(burnt.faults).toEqual([]);
  });

  test('a wet element misreads for minutes, then no longer; dried for half an hour before, not at all', () => {
    const dry = maf(warm('quillon-18', 4));
    const wet = warm('quillon-18', 4);
    wet.work('clean', 'airflow-sensor');
    expect(maf(wet) / dry).toBeGreaterThan(1.2);
    wet.run(900);
    expect(maf(wet) / dry).toBeCloseTo(1, 1);
    const rested = warm('quillon-18', 4);
    rested.work('clean', 'airflow-sensor');
    rested.soak(0.5);
    rested.start();
    rested.warmUp();
    rested.run(5);
    expect(maf(rested) / dry).toBeCloseTo(1, 1);
  });

  test('refitted backwards or without its ring it reads wrong, and right again once it sits right', () => {
    const right = maf(warm('quillon-18', 5));
    const car = warm('quillon-18', 5);
    car.work('refit-backwards', 'airflow-sensor');
    expect(maf(car) / right).toBeLessThan(0.85);
    car.work('refit', 'airflow-sensor');
    expect(maf(car) / right).toBeCloseTo(1, 1);
    car.work('refit-without-ring', 'airflow-sensor');
    car.settle();
    const { stft1 = 0, ltft1 = 0 } = car.values();
    expect(stft1 + ltft1).toBeGreaterThan(3);
    expect(() => car.work('refit-backwards', 'throttle-body')).toThrow(/only the airflow sensor/);
  });

  test('a cleaned throttle idles high until it has idled warm for five minutes', () => {
    const car = warm('quillon-18', 6, { id: 'throttle-fouled', severity: 45 });
    car.work('clean', 'throttle-body');
    expect(car.faults).toEqual([]);
    car.do({ do: 'idle' }, 60);
    expect(car.engine.state.rpm).toBeGreaterThan(carById('quillon-18').idleRpm + 120);
    // A touch of the pedal and the count begins again.
    car.do({ do: 'hold', rpm: 2500 }, 5);
    car.do({ do: 'idle' }, 280);
    expect(car.engine.state.rpm).toBeGreaterThan(carById('quillon-18').idleRpm + 120);
    car.do({ do: 'idle' }, 60);
    expect(Math.abs(car.engine.state.rpm - carById('quillon-18').idleRpm)).toBeLessThan(60);
  });

  test('clearing takes codes and memory; on one car the memory stays', () => {
    for (const [id, keeps] of [
      ['quillon-18', false],
      ['larkin-14t', true],
    ] as const) {
      const car = warm(id, 7, { id: 'ethanol-high', severity: 45 });
      car.settle();
      const before = car.values().ltft1!;
      expect(Math.abs(before)).toBeGreaterThan(4);
      car.stop(true);
      const request = { id: 0x7df, extended: false, data: Uint8Array.of(1, 4, 0, 0, 0, 0, 0, 0) };
      const [answer] = new EcuPort(car).receive(request, car.timeUs);
      expect(answer!.frame.data[1]).toBe(0x44);
      expect(Math.abs(car.control.trims[0]!.long[0]!)).toBeCloseTo(keeps ? Math.abs(before) : 0, 0);
    }
  });
});
