/**
 * Simulated drives for the tests, outside Jest: its sandbox makes the inner loops some twenty times slower.
 * Standard input: a JSON list of jobs; standard output: the list of answers.
 */
import { BENCH_TESTS, benchTest, Car, carById } from '@just-balance/vehicle';

const AIR = { baroKPa: 99.1, airC: 18 };

function carOf(job, seed) {
  const c = new Car(carById(job.id), AIR, seed);
  c.inject(...(job.faults ?? []));
  return c;
}

function read(c, action, settleS) {
  c.do(action, settleS);
  const m = { total1: 0, total2: 0, maf: 0, map: 0 };
  for (let i = 0; i < 60; i++) {
    c.run(0.1);
    const v = c.values();
    m.total1 += ((v.stft1 ?? 0) + (v.ltft1 ?? 0)) / 60;
    m.total2 += ((v.stft2 ?? v.stft1 ?? 0) + (v.ltft2 ?? v.ltft1 ?? 0)) / 60;
    m.maf += c.engine.state.mafSignalGps / 60;
    m.map += c.engine.state.mapSignalKPa / 60;
  }
  return m;
}

/** Idle, hold, road load and full load of a warm, adapted car. */
function see(job) {
  const c = carOf(job, 3);
  c.start();
  c.warmUp();
  c.run(5);
  c.settle();
  const idle = read(c, { do: 'idle' }, 4);
  const tpRelIdle = c.values().tpRel ?? 0;
  const hold = read(c, { do: 'hold', rpm: 2500 }, 8);
  const back = Math.max(...c.engine.state.exhaustKPa) - AIR.baroKPa;
  let low = 9;
  let high = 0;
  for (let i = 0; i < 300; i++) {
    c.step();
    low = Math.min(low, c.engine.state.lambdaSensed[0]);
    high = Math.max(high, c.engine.state.lambdaSensed[0]);
  }
  const road = read(c, { do: 'speed', kmh: 88 }, 50);
  c.do({ do: 'full-load', rpm: 3800 }, 12);
  const s = c.engine.state;
  const codes = [...c.diagnostics.pending];
  return {
    idle,
    hold,
    road,
    fullMaf: s.mafSignalGps,
    fullLambda: s.lambdaCyl[0],
    boostKPa: s.chargeKPa - AIR.baroKPa,
    tpRelIdle,
    back,
    codes,
    sensor: { low, high },
  };
}

/** Cleared, then trips from cold; what stands after each. `repairAfter` takes the fault out after so many trips. */
function trips(job) {
  const spec = carById(job.id);
  const c = new Car(job.fuelLevelPct === undefined ? spec : { ...spec, fuelLevelPct: job.fuelLevelPct }, AIR, 5);
  c.inject(...(job.faults ?? []));
  c.stop(true);
  c.diagnostics.clear();
  const states = [];
  const state = () => {
    const d = c.diagnostics;
    states.push({
      pending: [...d.pending],
      stored: [...d.stored],
      permanent: [...d.permanent],
      lamp: d.lampOn,
      freeze: d.freeze?.code ?? null,
      open: d
        .status()
        .monitors.filter((m) => m.state === 'incomplete')
        .map((m) => m.id),
    });
  };
  state();
  for (let n = 0; n < job.trips; n++) {
    if (n === job.repairAfter) c.inject();
    if (job.warmStart) {
      c.start();
      c.warmUp();
      c.stop(false);
    } else c.soak(12);
    c.start();
    c.do({ do: 'idle' }, 60);
    if (job.errand) {
      state();
      continue;
    }
    c.do({ do: 'speed', kmh: 66 }, 480);
    c.do({ do: 'speed', kmh: 82 }, 260);
    c.do({ do: 'coast' }, 30);
    c.do({ do: 'idle' }, 40);
    state();
  }
  return states;
}

/** A bench test on a warm, adapted car, as often as asked. */
function bench(job) {
  const c = carOf(job, 9);
  c.start();
  c.warmUp();
  c.run(10);
  c.settle();
  return Array.from({ length: job.turns ?? 1 }, (_, turn) => benchTest(c, job.test, turn, job.bank ?? 1));
}

const kinds = { see, trips, bench, tests: () => BENCH_TESTS };
let text = '';
for await (const chunk of process.stdin) text += chunk;
process.stdout.write(JSON.stringify(JSON.parse(text).map((job) => kinds[job.kind](job))));
