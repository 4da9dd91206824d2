import { switching } from '@just-balance/core/oxygen';
import {
  BENCH_TESTS,
  benchTest,
  Car,
  canHave,
  engineCardOf,
  FLEET,
  SIM_FAULTS,
  typicalFor,
} from '@just-balance/vehicle';
import { play } from './play.mjs';
import { complaintsOf } from './world/draw.mjs';

const PETROL = FLEET.filter((f) => f.fuel === 'petrol');
const ROAD = [{ do: 'speed', kmh: 85 }, 60];

/** A vehicle with a fault drawn by the given weights, a size about the usual one, and its own healthy offset. */
function draw(r, weights) {
  const spec = r.pick(PETROL);
  const possible = [{ id: 'balanced' }, ...SIM_FAULTS.filter((f) => canHave(f, spec) && !f.id.startsWith('evap-'))];
  const row = r.weighted(possible.map((f) => [weights.get(f.id), f]));
  const car = new Car(spec, { baroKPa: r.between(84, 101), airC: r.between(-5, 30) }, Math.floor(r.next() * 1e6));
  let severity = null;
  const bank = row.perBank && spec.banks === 2 && r.chance(0.5) ? 2 : 1;
  if (row.id !== 'balanced') {
    severity = typicalFor(row, spec) * (row.low === row.high ? 1 : r.between(0.55, 1.65));
    if (row.unit === 'kPa' && row.low < 0 && r.chance(0.5)) severity = -severity;
    severity = Math.min(Math.max(severity, row.low), row.high);
    car.inject({ id: row.id, severity, ...(row.perBank ? { bank } : {}) });
  }
  // No two engines are alike: about 2.3 points of healthy spread, two thirds of its variance common to all points.
  const offset = r.gauss(0.0188);
  car.engine.effects.mafGain *= 1 + offset;
  car.engine.effects.injectorLoss = car.engine.effects.injectorLoss.map(
    (l) => 1 - (1 - l) * (1 + (spec.metering === 'speed-density' ? offset : 0) + r.gauss(0.009)),
  );
  // With one bank a leak at a runner is the common leak.
  const fault = row.id === 'vac-leak-bank1' && spec.banks === 1 ? 'vac-leak' : row.id;
  return { spec, car, fault, severity };
}

/** Ten seconds of what the adapter shows, put together as a guided capture does. */
function read(car, at, action, settleS) {
  car.start();
  car.do(action, settleS);
  const seen = {};
  const time = [];
  for (let i = 0; i < 200; i++) {
    car.run(0.05);
    time.push(i * 0.05);
    for (const [k, v] of Object.entries(car.values())) {
      if (typeof v !== 'number') continue;
      seen[k] ??= [];
      seen[k].push(v);
    }
  }
  const mean = (k) => (seen[k] ? seen[k].reduce((a, b) => a + b, 0) / seen[k].length : undefined);
  const trims = {};
  const o2 = {};
  for (const b of [1, 2]) {
    if (seen[`stft${b}`]) {
      const totals = seen[`stft${b}`].map((v, i) => v + seen[`ltft${b}`][i]);
      const m = totals.reduce((a, c) => a + c, 0) / totals.length;
      const sd = Math.sqrt(totals.reduce((a, c) => a + (c - m) ** 2, 0) / (totals.length - 1));
      trims[`bank${b}`] = { stft: mean(`stft${b}`), ltft: mean(`ltft${b}`), sd: Math.max(sd, 0.1), n: totals.length };
    }
    for (const s of [1, 2]) {
      const w = seen[`o2s${b}${s}`] && switching(time, seen[`o2s${b}${s}`]);
      if (w) o2[`bank${b}s${s}`] = { crossingsPer10s: w.crossingsPer10s, minV: w.minV, maxV: w.maxV };
    }
  }
  return {
    at,
    rpm: Math.round(mean('rpm')),
    ...(seen.maf ? { mafGps: mean('maf') } : {}),
    mapKPa: Math.round(mean('map')),
    ectC: Math.round(mean('ect')),
    iatC: Math.round(mean('iat')),
    relativeThrottlePct: mean('tpRel'),
    loop: car.control.closed ? 'closed' : 'open',
    trims,
    ...(Object.keys(o2).length > 0 ? { o2 } : {}),
  };
}

/** One simulated car, read at idle and 2,500 rpm, played to its end. */
export function playSimulated(r, weights) {
  const { spec, car, fault, severity } = draw(r, weights);
  car.start();
  car.warmUp();
  car.run(70);
  car.settle();
  const c = {
    format: 'just-balance/case',
    version: 1,
    id: 'simulated',
    vehicle: engineCardOf(spec),
    ambient: { baroKPa: Math.round(car.surroundings.baroKPa * 10) / 10, airC: Math.round(car.surroundings.airC) },
    readings: [read(car, 'idle', { do: 'idle' }, 12), read(car, 'hold-2500', { do: 'hold', rpm: 2500 }, 12)],
    codes: [...car.diagnostics.pending].map((code) => ({ code, state: 'pending' })),
    complaints: complaintsOf(r, fault),
    tests: [],
  };
  let turn = 0;
  const played = play(c, fault, (id) => {
    turn++;
    if (id === 'road-load') return { reading: read(car, id, ...ROAD) };
    if (!BENCH_TESTS.includes(id)) return null;
    // A test of one bank is done on both of two.
    const results = [1, 2].slice(0, spec.banks).map((bank) => benchTest(car, id, turn, bank));
    const asked = results[0].bank === undefined ? results.slice(0, 1) : results;
    return {
      tests: asked.map(({ test, outcome, values, bank }) => ({
        id: test,
        ...(outcome ? { outcome } : { values }),
        ...(bank ? { bank } : {}),
      })),
    };
  });
  return { ...played, severity, spec: spec.id, c };
}
