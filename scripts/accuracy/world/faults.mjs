/** How often a fault comes in (of a hundred cars and more), and what it does to a point. */
import { through } from './engine.mjs';

const metered = (v) => v.metering !== 'speed-density';
const sensed = (v) => v.metering !== 'maf';
const petrol = (v) => v.fuel === 'petrol';
const vee = (v) => v.banks === 2 && petrol(v);
const turbo = (v) => v.induction === 'turbo';

/** A hole behind the throttle, sized as a share of the idle air while choked. */
const hole = (s, size, t) => {
  const q = through(size * t.points.idle.flow * 1.03, s.mapKPa, s.baroKPa);
  s.past += q;
  return q;
};
const runner = (bank) => (s, size, t) => {
  const q = through(size * t.points.idle.flow, s.mapKPa, s.baroKPa);
  // The engine needs no more air than before: what enters at the runner comes no longer through meter and throttle.
  s.flow -= q;
  s.pastBank[bank - 1] += q * 0.87;
  s.pastBank[2 - bank] += q * 0.13;
};
const bank = (t) => (t.bank ?? 1) - 1;

export const FAULTS = {
  balanced: { of: 9 },
  'vac-leak': {
    of: 15,
    if: petrol,
    size: [0.07, 0.34],
    does: hole,
  },
  'vac-leak-bank1': {
    of: 3.2,
    if: vee,
    size: [0.06, 0.2],
    does: runner(1),
    bank: 1,
  },
  'vac-leak-bank2': {
    of: 3.2,
    if: vee,
    size: [0.06, 0.2],
    does: runner(2),
    bank: 2,
  },
  'crankcase-leak': {
    of: 11,
    if: petrol,
    size: [0.06, 0.32],
    does: hole,
  },
  'pcv-stuck-open': {
    of: 2.6,
    if: petrol,
    does: (s) => {
      s.idlesFaster = 0.1;
    },
  },
  'egr-gasket-leak': {
    of: 2.7,
    if: petrol,
    size: [0.06, 0.28],
    does: hole,
  },
  'egr-stuck-open': {
    of: 3.4,
    size: [0.06, 0.2],
    does: (s, size, t) => {
      // On a diesel it keeps fresh air out also while it is told to be shut; a valve there is three times as wide.
      if (t.v.fuel === 'diesel') s.flow *= t.shuts ? 1 - 3 * size * s.x ** -0.4 : 1;
      else s.gasKPa = (size * 34) / s.x;
    },
  },
  'duct-leak': {
    of: 6.5,
    if: metered,
    size: [0.06, 0.27],
    does: (s, size) => {
      s.signal *= 1 - size * (0.85 + 0.15 * s.road);
    },
  },
  'boost-leak': {
    of: 1.8,
    if: turbo,
    size: [0.08, 0.3],
  },
  'turbo-underboost': {
    of: 0.9,
    if: turbo,
    size: [0.1, 0.35],
  },
  'maf-dirty': {
    of: 12,
    if: metered,
    size: [0.07, 0.24],
    // A power of the flow about the flow at which it happens to read right, anywhere from below idle to the hold.
    does: (s, size, t) => {
      s.signal *= (s.x / t.crossing) ** -size;
    },
  },
  'maf-under': {
    of: 5.5,
    if: metered,
    size: [0.07, 0.27],
    does: (s, size) => {
      s.signal *= 1 - size;
    },
  },
  'maf-over': {
    of: 1.6,
    if: metered,
    size: [0.08, 0.3],
    does: (s, size) => {
      s.signal *= 1 + size;
    },
  },
  'maf-damaged': {
    of: 1.4,
    if: metered,
    size: [-0.22, 0.14],
    does: (s, size, t) => {
      s.signal *= t.coin ? 1 + size : 1;
    },
  },
  'maf-installation': {
    of: 0.8,
    if: metered,
    size: [-0.24, 0.24],
    does: (s, size) => {
      s.signal *= 1 + size;
    },
  },
  'maf-circuit': {
    of: 2.3,
    if: metered,
    dead: true,
  },
  'air-filter': { of: 2.9, size: [0.12, 0.35] },
  'exhaust-restricted': {
    of: 1.9,
    size: [0.08, 0.3],
    does: (s, size, t) => {
      for (const b of t.bank ? [bank(t)] : [0, 1]) s.breath[b] *= 1 - size * Math.min(1, 0.25 + 0.75 * s.road);
    },
    either: true,
  },
  'map-bias': {
    of: 2.2,
    if: (v) => sensed(v),
    size: [-11, 11],
    does: (s, size) => {
      s.mapShown = Math.max(s.mapKPa + size, 8);
    },
  },
  'map-circuit': {
    of: 0.8,
    if: sensed,
  },
  'map-port-blocked': {
    of: 1.7,
    if: sensed,
  },
  'map-hose-split': {
    of: 1.5,
    if: sensed,
    size: [0.05, 0.3],
    does: (s, size) => {
      s.mapShown = s.mapKPa + size * (s.baroKPa - s.mapKPa);
    },
  },
  'fuel-low': {
    of: 11,
    if: petrol,
    size: [0.14, 0.46],
    does: (s, size, t) => {
      s.rail *= 1 - size * (t.coin || t.third ? Math.min(1, s.road) ** 2 : 1);
    },
  },
  'fuel-high': {
    of: 1.6,
    if: petrol,
    size: [0.16, 0.6],
    does: (s, size) => {
      s.rail *= 1 + size;
    },
  },
  'regulator-diaphragm': {
    of: 0.7,
    if: petrol,
    size: [0.006, 0.018],
    does: (s, size, t) => beside(s, size, t, null),
  },
  'injector-restricted': {
    of: 3,
    if: petrol,
    size: [0.07, 0.24],
    one: true,
    does: (s, size, t) => {
      s.injector[bank(t)] *= 1 - size;
    },
  },
  'injector-leaking': {
    of: 2.4,
    if: petrol,
    size: [0.005, 0.017],
    one: true,
    does: (s, size, t) => beside(s, size, t, bank(t)),
  },
  'purge-open': {
    of: 4.4,
    if: petrol,
    size: [0.07, 0.27],
    does: (s, size, t) => {
      const q = hole(s, size, t);
      // Vapour by what the canister holds: none, some, or more than the air needs.
      for (const b of [0, 1]) s.beside[b] += (q * t.canister) / 14.3 / s.banks;
    },
  },
  'evap-leak': { of: 2.8, if: petrol },
  'fuel-in-oil': {
    of: 1.5,
    if: petrol,
    size: [0.004, 0.014],
    does: (s, size, t) => beside(s, size, t, null),
  },
  'ethanol-high': {
    of: 1.7,
    if: petrol,
    size: [22, 80],
    does: (s, size) => {
      s.stoich *= 14.13 / (14.7 - (14.7 - 9) * (size / 100) * 1.03);
    },
  },
  'o2-biased-lean': {
    of: 1.6,
    if: petrol,
    size: [0.06, 0.2],
    one: true,
    does: (s, size, t) => {
      s.seen[bank(t)] += size;
    },
  },
  'o2-biased-rich': {
    of: 1.6,
    if: petrol,
    size: [0.06, 0.2],
    one: true,
    does: (s, size, t) => {
      s.seen[bank(t)] -= size;
    },
  },
  'o2-slow': {
    of: 3,
    if: petrol,
    one: true,
  },
  'o2-circuit': {
    of: 2.4,
    if: petrol,
    one: true,
  },
  'o2-heater': {
    of: 3.1,
    if: petrol,
    one: true,
  },
  'exhaust-leak': {
    of: 3.3,
    if: petrol,
    size: [0.06, 0.24],
    one: true,
    does: (s, size, t) => {
      s.seen[bank(t)] += size * s.x ** -t.fade;
    },
  },
  'misfire-ignition': {
    of: 5.5,
    if: petrol,
    size: [0.03, 0.18],
    one: true,
    does: (s, size, t) => {
      s.seen[bank(t)] += size * s.x ** -(t.fade - 0.35);
    },
  },
  'compression-timing': {
    of: 0.9,
    size: [0.08, 0.25],
  },
  'ect-bias': { of: 1.7 },
  'iat-bias': {
    of: 1.2,
    size: [-35, 35],
    does: (s, size) => {
      s.chargeShownC += size;
    },
  },
  'thermostat-open': { of: 2.6 },
  'throttle-fouled': {
    of: 5,
  },
  'low-voltage': { of: 0.8 },
  'secondary-air': {
    of: 0.6,
    if: petrol,
    size: [0.07, 0.22],
    does: (s, size) => {
      for (const b of [0, 1]) s.seen[b] += size * s.x ** -0.9;
    },
  },
  'cat-degraded': {
    of: 4.6,
    one: true,
    if: petrol,
  },
};

function beside(s, size, t, b) {
  const gps = size * t.points.idle.flow;
  for (const k of b === null || s.banks === 1 ? [0, 1] : [b])
    s.beside[k] += b === null || s.banks === 1 ? gps / s.banks : gps;
}

/** Faults that move a trim somewhere: the smaller world in which readings say most. */
export const TRIM_MOVERS = [
  'balanced',
  'vac-leak',
  'vac-leak-bank1',
  'vac-leak-bank2',
  'crankcase-leak',
  'egr-gasket-leak',
  'duct-leak',
  'maf-dirty',
  'maf-under',
  'maf-over',
  'maf-installation',
  'map-bias',
  'map-hose-split',
  'fuel-low',
  'fuel-high',
  'regulator-diaphragm',
  'injector-restricted',
  'injector-leaking',
  'purge-open',
  'fuel-in-oil',
  'ethanol-high',
  'o2-biased-lean',
  'o2-biased-rich',
  'exhaust-leak',
  'misfire-ignition',
  'secondary-air',
];
export { metered, petrol, sensed, turbo };
