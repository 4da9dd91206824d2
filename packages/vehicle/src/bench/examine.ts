import { Car } from '../car.ts';
import type { DriverAction } from '../driver/driver.ts';
import type { InjectedFault } from '../faults/catalogue.ts';
import { cardOf } from '../fleet/card.ts';
import { carById } from '../fleet/cars.ts';
import { type BenchResult, benchTest } from './benchTests.ts';

/** A car with what is wrong with it, as it stands for somebody to find out. */
export interface ExaminedCar {
  vehicle: string;
  faults: readonly InjectedFault[];
  baroKPa: number;
  airC: number;
  seed: number;
}

export type Asked =
  | { reading: string }
  | { test: string; turn: number; bank?: 1 | 2 }
  | { record: true }
  | { card: true };

/** A reading in trade units: means of ten seconds; percent, g/s, kPa, °C, λ, V. */
export interface ExaminedReading {
  at: string;
  rpm: number;
  mafGps?: number;
  mapKPa: number;
  ectC: number;
  iatC: number;
  loop: 'closed' | 'open';
  trims?: Record<string, { stft: number; ltft: number; sd: number; n: number }>;
  lambda?: Record<string, number>;
  o2V?: Record<string, number>;
}

const ACTIONS: Readonly<Record<string, { action: DriverAction; settleS: number }>> = {
  idle: { action: { do: 'idle' }, settleS: 14 },
  'hold-2500': { action: { do: 'hold', rpm: 2500 }, settleS: 14 },
  'road-load': { action: { do: 'speed', kmh: 85 }, settleS: 60 },
};
export const EXAMINED_POINTS: readonly string[] = Object.keys(ACTIONS);

const SAMPLES = 200;
const EVERY_S = 0.05;

/** The car warm, in closed loop, its memory learned. */
export function standing({ vehicle, faults, baroKPa, airC, seed }: ExaminedCar): Car {
  const car = new Car(carById(vehicle), { baroKPa, airC }, seed);
  car.inject(...faults);
  car.start();
  car.warmUp();
  car.run(70);
  car.settle();
  return car;
}

/** What a car shows when it is asked; the same question of the same car gives the same answer. */
export function examine(
  what: ExaminedCar,
  asked: Asked,
): ExaminedReading | BenchResult | ExaminedRecord | ReturnType<typeof cardOf> {
  if ('card' in asked) return cardOf(carById(what.vehicle));
  const car = standing(what);
  if ('reading' in asked) return read(car, asked.reading);
  if ('test' in asked) return benchTest(car, asked.test, asked.turn, asked.bank ?? 1);
  return { stored: [...car.diagnostics.stored], pending: [...car.diagnostics.pending] };
}

export interface ExaminedRecord {
  stored: string[];
  pending: string[];
}

function read(car: Car, at: string): ExaminedReading {
  const how = ACTIONS[at];
  if (!how) throw new RangeError(`no reading at "${at}": ${EXAMINED_POINTS.join(', ')}`);
  car.start();
  car.do(how.action, how.settleS);
  const seen = new Map<string, number[]>();
  for (let i = 0; i < SAMPLES; i++) {
    car.run(EVERY_S);
    for (const [k, v] of Object.entries(car.values()))
      if (typeof v === 'number') seen.set(k, [...(seen.get(k) ?? []), v]);
  }
  const mean = (k: string) => {
    const list = seen.get(k);
    return list ? list.reduce((a, b) => a + b, 0) / list.length : undefined;
  };
  const round = (v: number, digits: number) => Math.round(v * 10 ** digits) / 10 ** digits;
  const trims: NonNullable<ExaminedReading['trims']> = {};
  const lambda: Record<string, number> = {};
  for (const b of [1, 2]) {
    const short = seen.get(`stft${b}`);
    const long = seen.get(`ltft${b}`);
    if (short && long) {
      const totals = short.map((v, i) => v + long[i]!);
      const m = totals.reduce((a, c) => a + c, 0) / totals.length;
      const sd = Math.sqrt(totals.reduce((a, c) => a + (c - m) ** 2, 0) / (totals.length - 1));
      trims[`bank${b}`] = {
        stft: round(mean(`stft${b}`)!, 2),
        ltft: round(mean(`ltft${b}`)!, 2),
        sd: round(Math.max(sd, 0.1), 2),
        n: totals.length,
      };
    }
    const l = mean(`lambda${b}1`);
    if (l !== undefined) lambda[`bank${b}`] = round(l, 3);
  }
  const maf = mean('maf');
  return {
    at,
    rpm: Math.round(mean('rpm')!),
    ...(maf === undefined ? {} : { mafGps: round(maf, 2) }),
    mapKPa: round(mean('map')!, 1),
    ectC: Math.round(mean('ect')!),
    iatC: Math.round(mean('iat')!),
    loop: car.control.closed ? 'closed' : 'open',
    ...(car.spec.fuel === 'diesel' || Object.keys(trims).length === 0 ? {} : { trims }),
    ...(Object.keys(lambda).length > 0 ? { lambda } : {}),
  };
}
