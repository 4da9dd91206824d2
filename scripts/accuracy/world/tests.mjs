/**
 * What a person sees at each test. `k`: the truth, `is(…ids)`, `big` (0: the smallest such fault, 1: the largest),
 * `finds(p)` (whether this person notices what shows in p of cases), `amiss(p, of)` (what is taken for a finding although
 * it is none, in p of cases; where it usually lies), `bank`.
 */
import { metered, petrol, sensed, turbo } from './faults.mjs';

const any = () => true;
const yes = (p, none, found) => (k) => (k.finds(p(k)) ? found : (k.amiss(0.045, [[1, found]]) ?? none));
/** How well a hole shows: a pinhole hides. */
const byHole = (low, high) => (k) => low + (high - low) * k.big;
const LEAKS = ['vac-leak', 'vac-leak-bank1', 'vac-leak-bank2', 'crankcase-leak', 'egr-gasket-leak'];
const gasket = (k) =>
  k.is('vac-leak-bank1') ? 1 : k.is('vac-leak-bank2') ? 2 : k.truth.v.banks === 2 && k.truth.coin ? 2 : 1;
const moves = (k) => k.is(...LEAKS, 'purge-open');

const hosePinched = (of) => ({ run: yes((k) => of(k), 'no-change', 'changes') });

/** What is lean burns badly now and then; and old counters stand for nothing. */
const counts = (k) => {
  if (k.is('misfire-ignition') && k.finds(0.93)) return k.truth.third ? 'random' : `bank${k.bank}`;
  if (k.is('injector-restricted') && k.finds(0.3 + 0.4 * k.big)) return `bank${k.bank}`;
  if (k.is('vac-leak-bank1', 'vac-leak-bank2') && k.finds(0.2 + 0.4 * k.big)) return `bank${gasket(k)}`;
  if (k.is('compression-timing', 'egr-stuck-open') && k.finds(0.55)) return k.truth.coin ? 'random' : `bank${k.bank}`;
  if ((moves(k) || k.is('fuel-low', 'maf-dirty')) && k.finds(0.12 + 0.2 * k.big)) return 'random';
  return (
    k.amiss(0.06, [
      [3, 'random'],
      [1, 'bank1'],
    ]) ?? 'none'
  );
};

export const TESTS = {
  'smoke-intake': {
    run: (k) => {
      const p = byHole(0.6, 0.96)(k);
      if (k.is('vac-leak') && k.finds(p)) return k.truth.spot === 'gasket' ? `gasket-bank${gasket(k)}` : k.truth.spot;
      if (k.is('vac-leak-bank1', 'vac-leak-bank2') && k.finds(p)) return `gasket-bank${gasket(k)}`;
      if (k.is('crankcase-leak') && k.finds(p)) return k.truth.third ? 'other' : 'pcv';
      if (k.is('egr-gasket-leak') && k.finds(p)) return 'egr';
      if (k.is('duct-leak') && k.finds(p)) return k.truth.third ? 'airbox' : 'duct';
      if (k.is('boost-leak') && k.finds(p)) return 'charge-pipe';
      if (k.is('purge-open') && k.finds(0.4)) return 'purge';
      if (k.is('map-hose-split') && k.finds(0.55)) return 'other';
      if (k.is('maf-installation') && k.finds(0.4)) return 'airbox';
      return (
        k.amiss(0.08, [
          [5, 'throttle'],
          [2, 'airbox'],
          [1.5, 'other'],
          [1, 'pcv'],
          [0.5, 'gasket-bank1'],
        ]) ?? 'none'
      );
    },
  },
  'enrich-survey': {
    if: petrol,
    run: (k) => {
      const p = byHole(0.45, 0.75)(k);
      if (k.is('vac-leak') && k.finds(p)) return k.truth.spot === 'gasket' ? `bank${gasket(k)}` : k.truth.spot;
      if (k.is('vac-leak-bank1', 'vac-leak-bank2') && k.finds(p)) return `bank${gasket(k)}`;
      if (k.is('crankcase-leak') && k.finds(p)) return 'pcv';
      if (k.is('egr-gasket-leak') && k.finds(p)) return 'egr';
      if (k.is('duct-leak') && k.finds(0.25)) return 'duct';
      return (
        k.amiss(0.3, [
          [3, 'throttle'],
          [2, 'other'],
          [1, 'bank1'],
          [1, 'duct'],
          [0.5, 'pcv'],
        ]) ?? 'none'
      );
    },
  },
  'visual-intake': {
    run: (k) => {
      if (k.is('duct-leak') && k.finds(0.5 + 0.3 * k.big)) return k.truth.coin ? 'duct-loose' : 'duct-split';
      if (k.is('boost-leak') && k.finds(0.35)) return 'duct-loose';
      if (k.is('vac-leak') && k.finds(k.truth.spot === 'gasket' ? 0.1 : 0.45)) return 'hose-split';
      if (k.is('crankcase-leak') && k.finds(0.55)) return k.truth.coin ? 'hose-split' : 'oil-at-throttle';
      if (k.is('pcv-stuck-open') && k.finds(0.6)) return 'oil-at-throttle';
      if (k.is('air-filter') && k.finds(0.9)) return 'filter-loaded';
      if (k.is('maf-installation') && k.finds(0.6)) return k.truth.coin ? 'airbox-unsealed' : 'altered-intake';
      if (k.is('map-hose-split') && k.finds(0.5)) return 'hose-split';
      if (k.is('maf-dirty') && k.finds(0.25)) return k.truth.coin ? 'filter-oily' : 'filter-loaded';
      return (
        k.amiss(0.14, [
          [4, 'filter-loaded'],
          [4, 'oil-at-throttle'],
          [1, 'hose-split'],
          [1, 'duct-loose'],
          [1, 'altered-intake'],
        ]) ?? 'ok'
      );
    },
  },
  'rock-engine': { if: metered, run: yes((k) => (k.is('duct-leak') ? 0.75 : 0), 'no-change', 'changes') },
  'egr-block': {
    run: yes(
      (k) => (k.is('egr-gasket-leak') ? byHole(0.7, 0.95)(k) : k.is('egr-stuck-open') ? 0.88 : 0),
      'no-change',
      'changes',
    ),
  },
  'pinch-pcv': hosePinched((k) =>
    k.is('crankcase-leak') ? byHole(0.75, 0.95)(k) : k.is('fuel-in-oil') ? 0.8 : k.is('pcv-stuck-open') ? 0.55 : 0,
  ),
  'pinch-booster': hosePinched((k) =>
    k.is('vac-leak') && k.truth.spot === 'brake-booster' ? byHole(0.8, 0.97)(k) : 0,
  ),
  'pinch-purge': { if: petrol, ...hosePinched((k) => (k.is('purge-open') ? byHole(0.75, 0.97)(k) : 0)) },
  'crankcase-vacuum': {
    run: (k) => {
      if (k.is('crankcase-leak') && k.finds(byHole(0.6, 0.95)(k))) return 'none-or-pressure';
      if (k.is('pcv-stuck-open') && k.finds(0.85)) return 'high';
      return (
        k.amiss(0.07, [
          [3, 'none-or-pressure'],
          [1, 'high'],
        ]) ?? 'normal'
      );
    },
  },
  'vacuum-gauge': {
    if: petrol,
    run: (k) => {
      if (k.is('exhaust-restricted') && k.finds(0.55 + 0.35 * k.big)) return 'falls-when-held';
      if (k.is('compression-timing') && k.finds(0.85)) return k.truth.coin ? 'swinging' : 'low-steady';
      if (k.is('misfire-ignition') && k.finds(0.45)) return 'swinging';
      if (k.is('egr-stuck-open') && k.finds(0.55)) return k.truth.third ? 'swinging' : 'low-steady';
      if (moves(k) && k.finds(0.1 + 0.4 * k.big)) return 'low-steady';
      if (k.is('pcv-stuck-open') && k.finds(0.3)) return 'low-steady';
      return (
        k.amiss(0.06, [
          [4, 'low-steady'],
          [2, 'swinging'],
        ]) ?? 'normal'
      );
    },
  },
  'residual-pressure': {
    if: petrol,
    run: yes(
      (k) => (k.is('injector-leaking', 'regulator-diaphragm') ? 0.88 : k.is('fuel-low') ? 0.22 : 0),
      'holds',
      'falls',
    ),
  },
  'injector-balance': {
    if: petrol,
    run: (k) =>
      k.is('injector-restricted') && k.finds(0.7 + 0.25 * k.big)
        ? `low-bank${k.bank}`
        : (k.amiss(0.05, [[1, 'low-bank1']]) ?? 'even'),
  },
  'fuse-check': {
    run: (k) => (k.is('maf-circuit', 'o2-heater') && k.finds(0.2) ? 'blown' : (k.amiss(0.015, [[1, 'blown']]) ?? 'ok')),
  },
  'maf-inspect': {
    if: metered,
    run: (k) => {
      if (k.is('maf-dirty') && k.finds(0.6 + 0.3 * k.big)) return k.truth.third ? 'oily' : 'dirty';
      if (k.is('maf-damaged') && k.finds(0.75)) return 'damaged';
      if (k.is('maf-installation') && k.finds(0.7)) return k.truth.coin ? 'reversed' : 'seal-missing';
      if (k.is('maf-under') && k.finds(0.38)) return 'dirty';
      return (
        k.amiss(0.17, [
          [6, 'dirty'],
          [1, 'oily'],
          [0.7, 'damaged'],
          [0.5, 'seal-missing'],
        ]) ?? 'clean'
      );
    },
  },
  'maf-unplug': {
    if: metered,
    run: (k) =>
      k.is('maf-dirty', 'maf-under', 'maf-over', 'maf-installation', 'maf-circuit', 'maf-damaged') && k.finds(0.55)
        ? 'better'
        : (k.amiss(0.33, [
            [1, 'better'],
            [2, 'worse'],
          ]) ?? 'same'),
  },
  'maf-electrical': {
    if: metered,
    run: (k) => {
      if (k.is('maf-circuit') && k.finds(0.93)) return k.truth.third ? 'ground' : k.truth.coin ? 'supply' : 'signal';
      if (k.is('maf-damaged') && k.finds(0.35)) return 'signal';
      if (k.is('iat-bias') && k.finds(0.5)) return 'temperature-signal';
      if (k.is('low-voltage') && k.finds(0.2)) return 'supply';
      return (
        k.amiss(0.045, [
          [1, 'signal'],
          [1, 'ground'],
          [0.6, 'supply'],
        ]) ?? 'ok'
      );
    },
  },
  'wiggle-connector': {
    run: yes((k) => (k.is('maf-circuit', 'map-circuit', 'o2-circuit') ? 0.45 : 0), 'no-change', 'changes'),
  },
  'map-vacuum-pump': {
    if: sensed,
    run: (k) => {
      if (k.is('map-bias') && k.finds(0.7 + 0.27 * k.big)) return 'offset';
      if (k.is('map-port-blocked') && k.finds(0.6)) return 'slow';
      if (k.is('map-circuit') && k.finds(0.96)) return 'dead';
      if (k.is('map-hose-split') && k.finds(0.3)) return 'offset';
      return (
        k.amiss(0.04, [
          [3, 'offset'],
          [1, 'slow'],
        ]) ?? 'tracks'
      );
    },
  },
  'map-port-probe': {
    if: sensed,
    run: (k) =>
      k.is('map-port-blocked') && k.finds(0.82)
        ? 'blocked'
        : k.is('map-hose-split') && k.finds(0.75)
          ? 'hose-split'
          : (k.amiss(0.08, [
              [2, 'blocked'],
              [1, 'hose-split'],
            ]) ?? 'clear'),
  },
  'o2-force': {
    if: petrol,
    each: true,
    run: (k) => {
      if (k.is('o2-biased-lean') && k.finds(0.6 + 0.3 * k.big)) return 'biased-lean';
      if (k.is('exhaust-leak') && k.finds(0.35)) return 'biased-lean';
      if (k.is('o2-biased-rich') && k.finds(0.6 + 0.3 * k.big)) return 'biased-rich';
      if (k.is('o2-slow') && k.finds(0.85)) return 'slow';
      if (k.is('o2-heater') && k.finds(0.3)) return 'slow';
      if (k.is('o2-circuit') && k.finds(0.93)) return 'dead';
      return (
        k.amiss(0.06, [
          [3, 'slow'],
          [1, 'biased-lean'],
          [1, 'biased-rich'],
        ]) ?? 'responds'
      );
    },
  },
  'o2-heater-ohms': {
    if: petrol,
    each: true,
    run: (k) =>
      k.is('o2-heater') && k.finds(0.88) ? (k.truth.third ? 'short' : 'open') : (k.amiss(0.02, [[1, 'open']]) ?? 'ok'),
  },
  'gas-analysis': {
    if: petrol,
    run: (k) => {
      if (k.is('o2-biased-lean', 'exhaust-leak', 'secondary-air') && k.finds(0.86)) return 'rich';
      if (k.is('o2-biased-rich') && k.finds(0.86)) return 'lean';
      if (k.is('misfire-ignition') && k.finds(0.6)) return k.truth.coin ? 'lean' : 'rich';
      if ((moves(k) || k.is('fuel-low', 'maf-dirty', 'maf-under')) && k.finds(0.25 * k.big)) return 'lean';
      if (k.is('injector-leaking', 'fuel-in-oil', 'maf-over', 'fuel-high') && k.finds(0.25 * k.big)) return 'rich';
      return (
        k.amiss(0.05, [
          [1, 'lean'],
          [1, 'rich'],
        ]) ?? 'balanced'
      );
    },
  },
  'exhaust-leak-check': {
    run: (k) =>
      k.is('exhaust-leak') && k.finds(0.65 + 0.3 * k.big)
        ? `bank${k.bank}`
        : (k.amiss(0.06, [
            [2, 'bank1'],
            [1, k.truth.v.banks === 2 ? 'bank2' : 'bank1'],
          ]) ?? 'none'),
  },
  'misfire-counts': { if: petrol, run: counts },
  'swap-coil-plug': { if: petrol, run: yes((k) => (k.is('misfire-ignition') ? 0.87 : 0), 'stays', 'follows') },
  compression: { run: yes((k) => (k.is('compression-timing') ? 0.82 : 0), 'even', 'low') },
  'snap-throttle': {
    run: (k) => {
      if (k.is('maf-dirty') && k.finds(0.55 + 0.35 * k.big)) return 'low-peak';
      if (k.is('maf-under', 'duct-leak') && k.finds(0.4 + 0.4 * k.big)) return 'low-peak';
      if (k.is('air-filter', 'exhaust-restricted') && k.finds(0.4)) return 'low-peak';
      if (k.is('maf-circuit', 'map-circuit') && k.finds(0.85)) return 'flat';
      if (k.is('map-port-blocked') && k.finds(0.75)) return 'slow-fall';
      if (k.is('maf-damaged') && k.finds(0.4)) return 'dropouts';
      return (
        k.amiss(0.07, [
          [6, 'low-peak'],
          [2, 'slow-fall'],
          [1, 'dropouts'],
        ]) ?? 'ok'
      );
    },
  },
  'downstream-compare': {
    if: petrol,
    each: true,
    run: (k) => (k.is('cat-degraded') && k.finds(0.9) ? 'follows' : (k.amiss(0.05, [[1, 'follows']]) ?? 'steady')),
  },
  'borescope-cat': {
    if: petrol,
    each: true,
    run: (k) => {
      if (k.is('cat-degraded') && k.finds(0.5)) return k.truth.coin ? 'broken' : 'melted';
      if (k.is('exhaust-restricted') && k.finds(0.65)) return k.truth.coin ? 'broken' : 'melted';
      if (k.is('injector-leaking', 'fuel-high', 'maf-over') && k.finds(0.35)) return 'sooted';
      return (
        k.amiss(0.09, [
          [4, 'sooted'],
          [1, 'broken'],
        ]) ?? 'clean'
      );
    },
  },
  'oil-check': {
    run: (k) => {
      if (k.is('fuel-in-oil') && k.finds(0.82)) return k.truth.third ? 'level-high' : 'fuel-smell';
      if (k.is('injector-leaking') && k.finds(0.3)) return 'fuel-smell';
      return (
        k.amiss(0.07, [
          [4, 'fuel-smell'],
          [1, 'level-high'],
        ]) ?? 'normal'
      );
    },
  },
  'cold-soak-temps': {
    run: (k) =>
      k.is('ect-bias') && k.finds(0.87)
        ? 'ect-differs'
        : k.is('iat-bias') && k.finds(0.87)
          ? 'iat-differs'
          : (k.amiss(0.04, [
              [1, 'ect-differs'],
              [1, 'iat-differs'],
            ]) ?? 'agree'),
  },
  'cap-and-evap-smoke': {
    if: petrol,
    run: (k) =>
      k.is('evap-leak') && k.finds(0.85)
        ? k.truth.coin
          ? 'cap'
          : 'hose'
        : k.is('purge-open') && k.finds(0.42)
          ? 'valve'
          : (k.amiss(0.06, [
              [2, 'cap'],
              [1, 'hose'],
            ]) ?? 'none'),
  },
  'known-good-swap': { run: () => null },

  // Figures instead of words.
  'fuel-pressure': {
    if: petrol,
    values: (k) => {
      const spec = k.truth.spec;
      const short = k.is('fuel-low') && !k.slips ? k.truth.size : 0;
      const high = k.is('fuel-high') && !k.slips ? 1 + k.truth.size : 1;
      const gauge = () => 1 + k.r.gauss(0.018);
      const pump = k.truth.coin || k.truth.third;
      return {
        idleKPa: Math.round(spec * high * (1 - (pump ? 0.06 : 1) * short) * gauge()),
        loadKPa: Math.round(spec * high * (1 - short * k.r.between(0.85, 1.1)) * gauge()),
        specKPa: spec,
      };
    },
  },
  'full-load-airflow': {
    if: metered,
    values: (k) => {
      let ratio = Math.exp(k.r.gauss(0.065));
      const f = k.truth.size;
      if (k.is('maf-dirty')) ratio *= ((5.5 * 2.2) / k.truth.crossing) ** -f;
      if (k.is('maf-under', 'duct-leak', 'air-filter', 'compression-timing')) ratio *= 1 - f;
      if (k.is('maf-over', 'maf-installation')) ratio *= 1 + f;
      if (k.is('exhaust-restricted', 'turbo-underboost')) ratio *= 1 - 1.1 * f;
      if (k.is('maf-damaged') && k.truth.coin) ratio *= 1 + f;
      if (k.is('maf-circuit')) ratio *= k.r.between(0.1, 0.6);
      return { ratio: Math.round(100 * (k.slips ? Math.exp(k.r.gauss(0.2)) : ratio)) / 100 };
    },
  },
  'koeo-baro': {
    if: sensed,
    values: (k) => ({
      differenceKPa:
        Math.round(10 * ((k.is('map-bias') && !k.slips ? k.truth.size : k.slips ? k.r.gauss(4) : 0) + k.r.gauss(0.9))) /
        10,
    }),
  },
  'boost-compare': {
    if: turbo,
    values: (k) => {
      let there = 195;
      if (k.is('boost-leak', 'turbo-underboost')) there *= 1 - k.truth.size;
      if (k.is('map-port-blocked')) there *= 0.6;
      // What the sensor shows of it: a split hose lets the air outside in, an offset is there at every pressure.
      if (k.is('map-hose-split')) there -= k.truth.size * (there - k.truth.points.baroKPa);
      if (k.is('map-bias')) there += k.truth.size;
      return { targetKPa: 195, measuredKPa: Math.round((k.slips ? 195 : there) * Math.exp(k.r.gauss(0.03))) };
    },
  },
  backpressure: {
    if: petrol,
    values: (k) => {
      const f =
        (k.is('exhaust-restricted') ? 1.1 + 3 * k.truth.size * 1.6 : k.r.between(0.15, 0.75)) *
        (k.slips ? k.r.between(0.5, 2) : 1);
      return { idleKPa: Math.round(7 * f), at2500KPa: Math.round(20 * f) };
    },
  },
  'relative-throttle': {
    values: (k) => ({
      deg:
        Math.round(
          10 *
            ((k.is('throttle-fouled') && !k.slips ? k.r.between(3.1, 6.5) : k.r.between(1.3, 2.85)) +
              (k.slips ? k.r.gauss(1) : 0)),
        ) / 10,
      limitDeg: 3,
    }),
  },
  'fuel-ethanol': {
    if: petrol,
    values: (k) => ({
      pct: Math.max(0, Math.round((k.is('ethanol-high') ? k.truth.size : 8) + k.r.gauss(k.slips ? 8 : 2))),
    }),
  },
};
for (const t of Object.values(TESTS)) t.if ??= any;
