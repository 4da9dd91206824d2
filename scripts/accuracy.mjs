/**
 * npm run accuracy [cases] [seed]: the diagnosis against simulated vehicles it was not built from, each played to the end
 * with the tests it recommends itself. Writes docs/diagnosis-accuracy.md.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { say } from './lib/say.mjs';

await ensureModules();
await ensureBuilt();
const { diagnose, FAULTS } = await import('@just-balance/core/diagnosis');
const { BENCH_TESTS, benchTest, canHave, Car, FLEET, SIM_FAULTS, typicalFor } = await import('@just-balance/vehicle');

const CASES = Number(process.argv[2] ?? 400);
const SEED = Number(process.argv[3] ?? 1);
const SURE = 0.85;
const MOST_TESTS = 8;

/** Mulberry32 (public domain): a small generator with a seed. */
function generator(seed) {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
const PETROL = FLEET.filter((f) => f.fuel === 'petrol');
const WEIGHT = new Map(FAULTS.map((f) => [f.id, f.weight]));

/** A vehicle with a fault drawn by the starting weights, a size about the usual one, and its own healthy offset. */
function draw(random) {
  const spec = PETROL[Math.floor(random() * PETROL.length)];
  const possible = [{ id: 'balanced' }, ...SIM_FAULTS.filter((f) => canHave(f, spec))];
  const total = possible.reduce((s, f) => s + WEIGHT.get(f.id), 0);
  let at = random() * total;
  const row = possible.find((f) => {
    at -= WEIGHT.get(f.id);
    return at <= 0;
  });
  const car = new Car(spec, { baroKPa: 84 + 17 * random(), airC: -5 + 35 * random() }, Math.floor(random() * 1e6));
  let severity = null;
  const bank = row.perBank && spec.banks === 2 && random() < 0.5 ? 2 : 1;
  if (row.id !== 'balanced') {
    severity = typicalFor(row, spec) * (row.low === row.high ? 1 : 0.55 + 1.1 * random());
    if (row.unit === 'kPa' && row.low < 0 && random() < 0.5) severity = -severity;
    severity = Math.min(Math.max(severity, row.low), row.high);
    car.inject({ id: row.id, severity, ...(row.perBank ? { bank } : {}) });
  }
  // No two engines are alike: about 2.3 points of healthy spread, two thirds of its variance common to all points.
  const gauss = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const offset = 0.0188 * gauss();
  car.engine.effects.mafGain *= 1 + offset;
  car.engine.effects.injectorLoss = car.engine.effects.injectorLoss.map(
    (l) => 1 - (1 - l) * (1 + (spec.metering === 'speed-density' ? offset : 0) + 0.009 * gauss()),
  );
  return { spec, car, fault: row.id, severity };
}

function read(car, at, action, settleS) {
  car.start();
  car.do(action, settleS);
  const sum = {};
  const totals = [[], []];
  for (let i = 0; i < 100; i++) {
    car.run(0.1);
    const v = car.values();
    for (const k of ['rpm', 'maf', 'map', 'ect', 'iat', 'stft1', 'ltft1', 'stft2', 'ltft2'])
      if (v[k] !== undefined) sum[k] = (sum[k] ?? 0) + v[k] / 100;
    for (const b of [1, 2]) if (v[`stft${b}`] !== undefined) totals[b - 1].push(v[`stft${b}`] + v[`ltft${b}`]);
  }
  const trims = {};
  for (const b of [1, 2]) {
    const t = totals[b - 1];
    if (t.length === 0) continue;
    const mean = t.reduce((a, c) => a + c, 0) / t.length;
    const sd = Math.sqrt(t.reduce((a, c) => a + (c - mean) ** 2, 0) / (t.length - 1));
    trims[`bank${b}`] = { stft: sum[`stft${b}`], ltft: sum[`ltft${b}`], sd: Math.max(sd, 0.1), n: t.length };
  }
  return {
    at,
    rpm: Math.round(sum.rpm),
    ...(sum.maf === undefined ? {} : { mafGps: sum.maf }),
    mapKPa: Math.round(sum.map),
    ectC: Math.round(sum.ect),
    iatC: Math.round(sum.iat),
    loop: car.control.closed ? 'closed' : 'open',
    trims,
  };
}

const READINGS = { 'road-load': [{ do: 'speed', kmh: 85 }, 60] };

function play(random) {
  const { spec, car, fault, severity } = draw(random);
  car.start();
  car.warmUp();
  car.run(70);
  car.settle();
  const c = {
    format: 'just-balance/case',
    version: 1,
    id: 'simulated',
    vehicle: {
      fuel: spec.fuel,
      metering: spec.metering,
      induction: spec.induction,
      injection: spec.injection,
      displacementL: spec.displacementL,
      cylinders: spec.cylinders,
      banks: spec.banks,
      ethanolPctCalibrated: spec.ethanolCalibratedPct,
      ...(spec.railKPa <= 765
        ? { limits: { fuelPressureKPa: spec.railKPa, fuelPressureReference: spec.railReference } }
        : {}),
    },
    ambient: { baroKPa: Math.round(car.surroundings.baroKPa * 10) / 10, airC: Math.round(car.surroundings.airC) },
    readings: [read(car, 'idle', { do: 'idle' }, 12), read(car, 'hold-2500', { do: 'hold', rpm: 2500 }, 12)],
    codes: [...car.diagnostics.pending].map((code) => ({ code, state: 'pending' })),
    complaints: [],
    tests: [],
  };
  const steps = [];
  let minutes = 0;
  const cannot = new Set();
  for (let turn = 0; ; turn++) {
    const d = diagnose(c);
    steps.push({
      top: d.causes[0].fault,
      p: d.causes[0].probability,
      rank: d.causes.findIndex((x) => x.fault === fault) + 1,
    });
    if (d.causes[0].probability >= SURE || turn === MOST_TESTS) break;
    const next = d.nextTests.find((t) => !cannot.has(t.test));
    if (!next) break;
    minutes += next.minutes;
    if (READINGS[next.test]) c.readings.push(read(car, next.test, ...READINGS[next.test]));
    else if (BENCH_TESTS.includes(next.test)) {
      const bank = spec.banks === 2 ? (d.causes[0].bank ?? 1) : 1;
      const { chanceOfWrong: _, test, ...r } = benchTest(car, next.test, turn, bank);
      c.tests.push({
        id: test,
        ...(r.outcome ? { outcome: r.outcome } : { values: r.values }),
        ...(r.bank ? { bank: r.bank } : {}),
      });
    } else {
      cannot.add(next.test);
      minutes -= next.minutes;
    }
  }
  const last = steps.at(-1);
  return { fault, severity, car: spec.id, first: steps[0], last, minutes, tests: c.tests.length, steps };
}

const random = generator(SEED);
const results = [];
for (let i = 0; i < CASES; i++) {
  results.push(play(random));
  if (process.stderr.isTTY && i % 20 === 0) process.stderr.write(`\r${i} of ${CASES}`);
}
const share = (n) => `${((100 * n) / CASES).toFixed(0)} %`;
const mean = (v) => v.reduce((a, b) => a + b, 0) / v.length;
const count = (f) => results.filter(f).length;
const all = results.flatMap((r) => r.steps.map((s) => ({ p: s.p, right: s.rank === 1 })));
const bins = [0, 1, 2, 3, 4].map((b) => all.filter((s) => Math.min(4, Math.floor(s.p * 5)) === b));
const ece = bins.reduce(
  (e, b) =>
    e +
    (b.length === 0
      ? 0
      : (b.length / all.length) * Math.abs(mean(b.map((s) => s.p)) - mean(b.map((s) => Number(s.right))))),
  0,
);
const wrong = new Map();
for (const r of results)
  if (r.last.rank !== 1) wrong.set(`${r.fault} → ${r.last.top}`, (wrong.get(`${r.fault} → ${r.last.top}`) ?? 0) + 1);
const faults = [...new Set(results.map((r) => r.fault))].sort();
const lines = [
  '# How right the diagnosis is, on simulated vehicles',
  '',
  `Made by \`npm run accuracy ${CASES} ${SEED}\`: ${CASES} petrol cars of the simulated fleet (which shares no code with the`,
  'diagnosis), faults drawn by the starting weights, sizes 0.55 to 1.65 times the usual one, own healthy offset, altitude and',
  'weather; idle and 2,500 rpm readings first, then always the first recommended test until the first cause reaches 0.85,',
  'nothing is left or eight are done. Where a person looks, the look may be wrong.',
  '',
  '| measure | here |',
  '|---|---|',
  `| true fault first from the two readings | ${share(count((r) => r.first.rank === 1))} |`,
  `| among the first three from the two readings | ${share(count((r) => r.first.rank > 0 && r.first.rank <= 3))} |`,
  `| right at the end | ${share(count((r) => r.last.rank === 1))} |`,
  `| minutes, mean | ${mean(results.map((r) => r.minutes)).toFixed(1)} |`,
  `| tests, mean | ${mean(results.map((r) => r.tests)).toFixed(1)} |`,
  `| calibration error of the first cause, every step, five bins | ${ece.toFixed(3)} |`,
  '',
  '## Calibration',
  '',
  '| said | steps | right |',
  '|---|---|---|',
  ...bins.map(
    (b, i) =>
      `| ${i * 20}–${i * 20 + 20} % | ${b.length} | ${b.length === 0 ? '—' : `${(100 * mean(b.map((s) => Number(s.right)))).toFixed(0)} %`} |`,
  ),
  '',
  '## By fault',
  '',
  '| fault | cases | first from readings | right at the end | minutes |',
  '|---|---|---|---|---|',
  ...faults.map((f) => {
    const of = results.filter((r) => r.fault === f);
    return `| \`${f}\` | ${of.length} | ${of.filter((r) => r.first.rank === 1).length} | ${of.filter((r) => r.last.rank === 1).length} | ${mean(of.map((r) => r.minutes)).toFixed(0)} |`;
  }),
  '',
  '## Confused at the end',
  '',
  ...[...wrong].sort((a, b) => b[1] - a[1]).map(([k, n]) => `- ${k}: ${n}`),
  '',
];
writeFileSync(join(ROOT, 'docs/diagnosis-accuracy.md'), `${lines.join('\n')}\n`);
say(lines.slice(8, 16).join('\n'));
