/** A car, a fault, an owner and a technician; and one test done on it. Reasoning: README.md beside. */
import { pointsOf, stateAt } from './engine.mjs';
import { FAULTS } from './faults.mjs';
import { codeOf, ownersOf } from './people.mjs';
import { TESTS } from './tests.mjs';

const round = (x, digits = 0) => Math.round(x * 10 ** digits) / 10 ** digits;

function drawVehicle(r, only) {
  const any = r.weighted([
    [46, 'maf'],
    [20, 'speed-density'],
    [10, 'both'],
    [14, 'turbo'],
    [5, 'diesel'],
  ]);
  const kind = only ?? any;
  const diesel = kind === 'diesel';
  const banks = !diesel && kind !== 'turbo' && r.chance(0.32) ? 2 : 1;
  return {
    fuel: diesel ? 'diesel' : 'petrol',
    metering: diesel ? 'both' : kind === 'turbo' ? r.pick(['maf', 'both', 'speed-density']) : kind,
    induction: diesel || kind === 'turbo' ? 'turbo' : 'na',
    injection: diesel || (kind === 'turbo' && r.chance(0.6)) ? 'direct' : 'port',
    displacementL: round(banks === 2 ? r.between(2.5, 5) : diesel ? r.between(1.5, 2.6) : r.between(1, 2.6), 1),
    cylinders: banks === 2 ? r.pick([6, 6, 8]) : r.pick([3, 4, 4, 4, 4]),
    banks,
  };
}

/** What kind of engine it is, for the report. */
export function kindOf(v) {
  if (v.fuel === 'diesel') return 'diesel';
  if (v.induction === 'turbo') return `turbo, ${v.metering === 'speed-density' ? 'speed-density' : 'metered'}`;
  const banks = v.banks === 2 ? ', two banks' : '';
  return `${v.metering === 'speed-density' ? 'speed-density' : v.metering === 'both' ? 'metered with pressure' : 'metered'}${banks}`;
}

/** In what state the engine was and how it was read, for the report. */
export function stateOf({ careful, coldRead, without }) {
  if (coldRead) return 'read before it was warm';
  const missing = Object.values(without).filter(Boolean).length;
  return `${careful ? 'read with care' : 'read in haste'}${missing > 0 ? ', something missing' : ''}`;
}

/** What every owner speaks of now and then without a reason in this fault. */
const IDLE_TALK = [
  'high-consumption',
  'noise',
  'rough-idle',
  'hesitation',
  'low-power',
  'hard-start-cold',
  'fuel-smell',
  'stall',
  'surge',
];
const NOTHING = ['none', 'failed-inspection'];
/** Cars that come in though their owner noticed nothing and no lamp is lit: for an inspection, for service. */
const ROUTINE = 0.15;

/** What is small is overlooked: share of owners who notice, and of codes that are set, by how big the fault is (0 to 1). */
export const noticed = (share, big) => Math.min(0.98, share * (0.52 + 0.74 * big));
export const coded = (share, big) => Math.min(0.98, share * (0.66 + 0.4 * big));

/** What the owner says: what the fault gives him, something else as well, or nothing. */
export function complaintsOf(r, fault, big = r.next()) {
  const [notices, of] = ownersOf(fault);
  const said = new Set();
  if (r.chance(noticed(notices, big))) {
    const list = Object.entries(of).map(([c, w]) => [w, c]);
    said.add(r.weighted(list));
    if (list.length > 1 && r.chance(0.3)) said.add(r.weighted(list));
  }
  if (r.chance(1 / 7)) said.add(r.pick(IDLE_TALK));
  return [...said];
}

/** A code left over from something else, or from years ago. */
const OLD_CODES = ['P0420', 'P0442', 'P0455', 'P0128', 'P0303', 'P0507', 'P0135', 'P0141', 'U0100'];

function codesOf(r, truth, readings) {
  const codes = [];
  const own = codeOf(truth.fault);
  if (own && r.chance(coded(own[2], truth.big))) {
    const [first, second] = own;
    // A misfire code names its cylinder as often as none.
    const named = first === 'P0300' && r.chance(0.5) ? `P030${r.pick([1, 2, 3, 4])}` : null;
    codes.push({ code: named ?? (truth.bank === 2 ? second : first), state: r.chance(0.8) ? 'stored' : 'pending' });
  }
  for (const b of truth.v.fuel === 'diesel' ? [] : [1, 2].slice(0, truth.v.banks)) {
    const worst = readings
      .map((x) => x.trims[`bank${b}`].stft + x.trims[`bank${b}`].ltft)
      .reduce((a, v) => (Math.abs(v) > Math.abs(a) ? v : a), 0);
    if (Math.abs(worst) > 18 + r.gauss(3))
      codes.push({ code: worst > 0 ? ['P0171', 'P0174'][b - 1] : ['P0172', 'P0175'][b - 1], state: 'stored' });
  }
  if (r.chance(0.06)) codes.push({ code: r.pick(OLD_CODES), state: 'stored' });
  return codes;
}

/** One fault of those a car can have, with its size and place. */
function drawFault(r, v, faults) {
  const possible = Object.entries(FAULTS).filter(([id, f]) => (f.if?.(v) ?? true) && (!faults || faults.includes(id)));
  const fault = r.weighted(possible.map(([id, f]) => [f.of, id]));
  const row = FAULTS[fault];
  let size = row.size ? r.between(...row.size) : 0;
  // Off by next to nothing is not off.
  if (row.size && row.size[0] < 0) size = (r.chance(0.5) ? row.size[0] : row.size[1]) * r.between(0.35, 1);
  const bank = row.bank ?? (row.one || (row.either && r.chance(0.5)) ? (v.banks === 2 && r.chance(0.5) ? 2 : 1) : null);
  return {
    fault,
    size,
    bank,
    does: row.does,
    big: row.size
      ? Math.abs((Math.abs(size) - Math.max(row.size[0], 0)) / (row.size[1] - Math.max(row.size[0], 0)))
      : r.next(),
  };
}

/** A case before anything was tested, and the truth behind it. `faults`: only these; `kind`: only such engines. */
export function drawCase(r, { faults, kind } = {}) {
  const fits = (car) =>
    Object.entries(FAULTS).some(([id, f]) => (f.if?.(car) ?? true) && (!faults || faults.includes(id)));
  let v = drawVehicle(r, kind);
  // Of a fault that is asked for, a car that can have it.
  while (!fits(v)) v = drawVehicle(r, kind);
  const truth = drawTruth(r, v, faults);
  return { truth, c: caseOf(r, truth) };
}

/** A car with two faults that move a trim, at once: what they do adds up, and either may be seen. */
export function drawTwo(r, faults) {
  const v = drawVehicle(r, r.pick(['maf', 'maf', 'speed-density', 'both', 'turbo']));
  const one = drawTruth(
    r,
    v,
    faults.filter((f) => f !== 'balanced'),
  );
  const other = drawFault(
    r,
    v,
    faults.filter((f) => f !== one.fault && f !== 'balanced'),
  );
  const two = { ...one, ...other };
  const truth = {
    ...one,
    also: two,
    does: (s) => {
      for (const t of [one, two]) t.does?.(s, t.size, t);
    },
  };
  return { truth, c: caseOf(r, truth) };
}

function drawTruth(r, v, faults) {
  const truth = {
    v,
    ...drawFault(r, v, faults),
    points: pointsOf(r, v),
    ve: Math.exp(r.gauss(0.065)),
    takesBack: r.between(0.08, 0.3) * (v.metering === 'speed-density' ? 0.4 : 1),
    coin: r.chance(0.5),
    third: r.chance(0.3),
    fade: r.between(0.5, 1),
    crossing: r.between(0.55, 3.1),
    canister: r.weighted([
      [5, 0],
      [2, r.between(0.3, 1)],
      [3, r.between(1.3, 2.2)],
    ]),
    spot: r.weighted([
      [3, 'brake-booster'],
      [2, 'throttle'],
      [4, 'other'],
      [3, 'gasket'],
    ]),
    spec: r.pick([300, 345, 380, 400]),
    careful: r.chance(0.6),
    // What all points, what one bank and what one point of this healthy engine is off by, parts in a hundred.
    off: { all: r.gauss(1.9), bank: [r.gauss(0.7), r.gauss(0.7)] },
  };
  truth.coldRead = !truth.careful && r.chance(0.12);
  truth.without = {
    map: v.metering === 'maf' && r.chance(0.36),
    baro: r.chance(0.12),
    iat: r.chance(0.2),
    rpm: r.chance(0.06),
  };
  if (v.fuel === 'diesel') {
    // Who is careful shuts recirculation first, or at least looks what it does; who is in haste seldom knows.
    truth.shuts = r.chance(truth.careful ? 0.7 : 0.25);
    truth.looks = truth.shuts || r.chance(truth.careful ? 0.6 : 0.2);
  }
  return truth;
}

/**
 * Something brought the car in: what its owner feels, or its lamp. Who feels nothing and sees no lamp stays at home, but
 * for routine. So a fault without a code of its own is spoken of more often here than it is felt on the road.
 */
function broughtBy(r, truth, readings) {
  const both = truth.also ? [truth, truth.also] : [truth];
  for (;;) {
    const codes = [...new Map(both.flatMap((t) => codesOf(r, t, readings)).map((c) => [c.code, c])).values()];
    const complaints = [...new Set(both.flatMap((t) => complaintsOf(r, t.fault, t.big)))];
    const lamp = codes.some((c) => c.state === 'stored');
    if (complaints.length > 0) return { codes, complaints };
    if (lamp) return { codes, complaints: ['lamp-only'] };
    if (truth.fault === 'balanced' || r.chance(ROUTINE)) return { codes, complaints: [r.pick(NOTHING)] };
  }
}

function caseOf(r, truth) {
  const { v } = truth;
  const readings = [readingAt(r, truth, 'idle'), readingAt(r, truth, 'hold-2500')];
  return {
    format: 'just-balance/case',
    version: 1,
    id: 'drawn',
    vehicle: {
      ...v,
      ...(v.injection === 'port'
        ? { limits: { fuelPressureKPa: truth.spec, fuelPressureReference: 'fixed', relativeThrottleIdleDeg: 3 } }
        : {}),
    },
    ambient: {
      ...(truth.without.baro ? {} : { baroKPa: round(truth.points.baroKPa, 1) }),
      airC: round(truth.points.airC),
    },
    readings,
    ...broughtBy(r, truth, readings),
    tests: [],
  };
}

/** A reading as this technician takes it. */
export function readingAt(r, truth, at) {
  const { v, without } = truth;
  const s = stateAt(truth, at);
  const point = r.gauss(1);
  const trim = (b) => {
    const value =
      s.trims[b] +
      truth.off.all +
      truth.off.bank[b] +
      point +
      r.gauss(truth.careful ? 0.5 : 1.3) +
      (truth.coldRead ? 2.5 : 0);
    const held = Math.max(-50, Math.min(50, value));
    const long = Math.max(-25, Math.min(25, held * r.between(0.6, 1)));
    const eye = truth.careful ? { sd: round(r.between(0.4, 1.4), 2), n: Math.round(r.between(50, 180)) } : {};
    return { stft: round((held - long) / 0.78125) * 0.78125, ltft: round(long / 0.78125) * 0.78125, ...eye };
  };
  const signal = FAULTS[truth.fault].dead
    ? truth.coin
      ? 0.1
      : 1.6 * truth.points.idle.flow
    : s.believed * Math.exp(r.gauss(0.02));
  return {
    at,
    ...(without.rpm ? {} : { rpm: Math.round(s.rpm) }),
    ...(s.metered ? { mafGps: Math.max(0, round(signal, 2)) } : {}),
    ...(without.map ? {} : { mapKPa: Math.round(s.mapShown + (v.fuel === 'diesel' ? r.gauss(1) : 0)) }),
    ectC:
      truth.fault === 'thermostat-open'
        ? Math.round(r.between(60, 76))
        : truth.coldRead
          ? Math.round(r.between(58, 74))
          : Math.round(r.between(84, 98)),
    ...(without.iat ? {} : { iatC: Math.round(s.chargeShownC) }),
    ...(v.fuel === 'diesel'
      ? truth.looks && { recirculation: truth.shuts ? 'shut' : 'open' }
      : { loop: 'closed', trims: { bank1: trim(0), ...(v.banks === 2 ? { bank2: trim(1) } : {}) } }),
  };
}

/** What a test ends with on this case: results, a reading, or null where it cannot be done here. */
export function runTest(r, truth, id) {
  if (id === 'road-load' || id === 'hold-2500') return { reading: readingAt(r, truth, id) };
  const test = TESTS[id];
  if (!test?.if(truth.v)) return null;
  if (!truth.also) return done(r, truth, id, () => {});
  // What either shows is seen.
  let found = false;
  const first = done(r, { ...truth, also: undefined }, id, () => {
    found = true;
  });
  if (found) return first;
  const second = done(r, truth.also, id, () => {
    found = true;
  });
  return found ? second : first;
}

/** The test on a car with one fault; `shows`: where it is that fault that was seen. */
function done(r, truth, id, shows) {
  const test = TESTS[id];
  const tests = [1, 2].slice(0, test.each ? truth.v.banks : 1).flatMap((bank) => {
    const here = !test.each || truth.bank === null || truth.bank === bank;
    const slips = r.chance(truth.careful ? 0.02 : 0.07);
    const k = {
      r,
      truth,
      slips,
      big: truth.big,
      bank: truth.bank ?? 1,
      is: (...ids) => {
        const so = here && ids.includes(truth.fault);
        // A figure shows what it is of.
        if (so && test.values && !slips) shows();
        return so;
      },
      finds: (p) => {
        const seen = !slips && r.chance(p * (truth.careful ? 1 : 0.9));
        if (seen) shows();
        return seen;
      },
      amiss: (p, of) => (r.chance(slips ? 0.5 : p * (truth.careful ? 1 : 1.5)) ? r.weighted(of) : null),
    };
    const named = test.each ? { bank } : {};
    if (test.values) return [{ id, values: test.values(k), ...named }];
    const outcome = test.run(k);
    return outcome === null ? [] : [{ id, outcome, ...named }];
  });
  return tests.length > 0 ? { tests } : null;
}
