/**
 * How often a fault comes in (of a hundred cars and more), what it does to a point, what its owner says and which code it
 * leaves. `says`: share of owners who notice it at all, and what they then speak of. `code`: codes by bank, chance.
 */
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
    says: [0.62, { 'rough-idle': 5, 'high-idle': 2, stall: 1, hesitation: 1 }],
  },
  'vac-leak-bank1': {
    of: 3.2,
    if: vee,
    size: [0.06, 0.2],
    does: runner(1),
    bank: 1,
    says: [0.6, { 'rough-idle': 6, 'misfire-felt': 2 }],
  },
  'vac-leak-bank2': {
    of: 3.2,
    if: vee,
    size: [0.06, 0.2],
    does: runner(2),
    bank: 2,
    says: [0.6, { 'rough-idle': 6, 'misfire-felt': 2 }],
  },
  'crankcase-leak': {
    of: 11,
    if: petrol,
    size: [0.06, 0.32],
    does: hole,
    says: [0.55, { 'rough-idle': 4, noise: 2, smoke: 1, 'high-idle': 1 }],
  },
  'pcv-stuck-open': {
    of: 2.6,
    if: petrol,
    does: (s) => {
      s.idlesFaster = 0.1;
    },
    says: [0.5, { 'high-idle': 4, 'rough-idle': 2 }],
  },
  'egr-gasket-leak': {
    of: 2.7,
    if: petrol,
    size: [0.06, 0.28],
    does: hole,
    says: [0.5, { 'rough-idle': 4, noise: 1 }],
  },
  'egr-stuck-open': {
    of: 3.4,
    size: [0.06, 0.2],
    does: (s, size) => {
      s.gasKPa = (size * 34) / s.x;
    },
    says: [0.75, { 'rough-idle': 5, stall: 3, hesitation: 1 }],
    code: ['P0402', 'P0402', 0.3],
  },
  'duct-leak': {
    of: 6.5,
    if: metered,
    size: [0.06, 0.27],
    does: (s, size) => {
      s.signal *= 1 - size * (0.85 + 0.15 * s.road);
    },
    says: [0.5, { hesitation: 4, 'low-power': 2, 'rough-idle': 1 }],
  },
  'boost-leak': {
    of: 1.8,
    if: turbo,
    size: [0.08, 0.3],
    says: [0.85, { 'low-power': 6, noise: 3, smoke: 1 }],
    code: ['P0299', 'P0299', 0.45],
  },
  'turbo-underboost': {
    of: 0.9,
    if: turbo,
    size: [0.1, 0.35],
    says: [0.85, { 'low-power': 6, 'limp-mode': 2 }],
    code: ['P0299', 'P0299', 0.65],
  },
  'maf-dirty': {
    of: 12,
    if: metered,
    size: [0.07, 0.24],
    // A power of the flow about the flow at which it happens to read right, anywhere from below idle to the hold.
    does: (s, size, t) => {
      s.signal *= (s.x / t.crossing) ** -size;
    },
    says: [0.55, { hesitation: 5, 'low-power': 3, 'stall-after-start': 1, 'rough-idle': 1 }],
  },
  'maf-under': {
    of: 5.5,
    if: metered,
    size: [0.07, 0.27],
    does: (s, size) => {
      s.signal *= 1 - size;
    },
    says: [0.5, { hesitation: 4, 'low-power': 3 }],
    code: ['P0101', 'P0101', 0.22],
  },
  'maf-over': {
    of: 1.6,
    if: metered,
    size: [0.08, 0.3],
    does: (s, size) => {
      s.signal *= 1 + size;
    },
    says: [0.5, { 'high-consumption': 4, 'rough-idle': 1, smoke: 1 }],
    code: ['P0101', 'P0101', 0.22],
  },
  'maf-damaged': {
    of: 1.4,
    if: metered,
    size: [-0.22, 0.14],
    does: (s, size, t) => {
      s.signal *= t.coin ? 1 + size : 1;
    },
    says: [0.5, { hesitation: 3, stall: 2 }],
    code: ['P0101', 'P0101', 0.3],
  },
  'maf-installation': {
    of: 0.8,
    if: metered,
    size: [-0.24, 0.24],
    does: (s, size) => {
      s.signal *= 1 + size;
    },
    says: [0.5, { hesitation: 3, 'rough-idle': 1 }],
  },
  'maf-circuit': {
    of: 2.3,
    if: metered,
    says: [0.85, { stall: 4, 'limp-mode': 3, 'low-power': 2 }],
    code: ['P0102', 'P0102', 0.85],
    dead: true,
  },
  'air-filter': { of: 2.9, size: [0.12, 0.35], says: [0.6, { 'low-power': 5, 'high-consumption': 1 }] },
  'exhaust-restricted': {
    of: 1.9,
    size: [0.08, 0.3],
    does: (s, size, t) => {
      for (const b of t.bank ? [bank(t)] : [0, 1]) s.breath[b] *= 1 - size * Math.min(1, 0.25 + 0.75 * s.road);
    },
    either: true,
    says: [0.8, { 'low-power': 7, hesitation: 1 }],
  },
  'map-bias': {
    of: 2.2,
    if: (v) => sensed(v),
    size: [-11, 11],
    does: (s, size) => {
      s.mapShown = Math.max(s.mapKPa + size, 8);
    },
    says: [0.45, { hesitation: 2, 'high-consumption': 1 }],
    code: ['P0106', 'P0106', 0.28],
  },
  'map-circuit': {
    of: 0.8,
    if: sensed,
    says: [0.7, { 'limp-mode': 3, hesitation: 2 }],
    code: ['P0107', 'P0107', 0.88],
  },
  'map-port-blocked': {
    of: 1.7,
    if: sensed,
    says: [0.6, { hesitation: 4, 'low-power': 2 }],
    code: ['P0106', 'P0106', 0.35],
  },
  'map-hose-split': {
    of: 1.5,
    if: sensed,
    size: [0.05, 0.3],
    does: (s, size) => {
      s.mapShown = s.mapKPa + size * (s.baroKPa - s.mapKPa);
    },
    says: [0.5, { 'high-consumption': 2, 'rough-idle': 1 }],
  },
  'fuel-low': {
    of: 11,
    if: petrol,
    size: [0.14, 0.46],
    does: (s, size, t) => {
      s.rail *= 1 - size * (t.coin || t.third ? Math.min(1, s.road) ** 2 : 1);
    },
    says: [0.7, { 'low-power': 5, hesitation: 4, 'hard-start-cold': 1, surge: 1 }],
    code: ['P0087', 'P0087', 0.12],
  },
  'fuel-high': {
    of: 1.6,
    if: petrol,
    size: [0.16, 0.6],
    does: (s, size) => {
      s.rail *= 1 + size;
    },
    says: [0.45, { 'high-consumption': 3, smoke: 1, 'fuel-smell': 1 }],
  },
  'regulator-diaphragm': {
    of: 0.7,
    if: petrol,
    size: [0.006, 0.018],
    does: (s, size, t) => beside(s, size, t, null),
    says: [0.6, { 'hard-start-hot': 3, 'fuel-smell': 2 }],
  },
  'injector-restricted': {
    of: 3,
    if: petrol,
    size: [0.07, 0.24],
    one: true,
    does: (s, size, t) => {
      s.injector[bank(t)] *= 1 - size;
    },
    says: [0.5, { 'misfire-felt': 3, hesitation: 2, 'rough-idle': 2 }],
    code: ['P0300', 'P0300', 0.2],
  },
  'injector-leaking': {
    of: 2.4,
    if: petrol,
    size: [0.005, 0.017],
    one: true,
    does: (s, size, t) => beside(s, size, t, bank(t)),
    says: [0.65, { 'hard-start-hot': 5, 'fuel-smell': 2, smoke: 1 }],
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
    says: [0.45, { 'rough-idle': 3, 'fuel-smell': 2, 'stall-after-start': 1 }],
    code: ['P0496', 'P0496', 0.27],
  },
  'evap-leak': { of: 2.8, if: petrol, says: [0.2, { 'fuel-smell': 1 }], code: ['P0442', 'P0455', 0.85] },
  'fuel-in-oil': {
    of: 1.5,
    if: petrol,
    size: [0.004, 0.014],
    does: (s, size, t) => beside(s, size, t, null),
    says: [0.35, { 'fuel-smell': 3, smoke: 1 }],
  },
  'ethanol-high': {
    of: 1.7,
    if: petrol,
    size: [22, 80],
    does: (s, size) => {
      s.stoich *= 14.13 / (14.7 - (14.7 - 9) * (size / 100) * 1.03);
    },
    says: [0.3, { 'hard-start-cold': 2, 'high-consumption': 1 }],
  },
  'o2-biased-lean': {
    of: 1.6,
    if: petrol,
    size: [0.06, 0.2],
    one: true,
    does: (s, size, t) => {
      s.seen[bank(t)] += size;
    },
    says: [0.4, { 'high-consumption': 3, 'fuel-smell': 1 }],
    code: ['P2195', 'P2197', 0.27],
  },
  'o2-biased-rich': {
    of: 1.6,
    if: petrol,
    size: [0.06, 0.2],
    one: true,
    does: (s, size, t) => {
      s.seen[bank(t)] -= size;
    },
    says: [0.4, { hesitation: 2, 'rough-idle': 1 }],
    code: ['P2196', 'P2198', 0.27],
  },
  'o2-slow': {
    of: 3,
    if: petrol,
    one: true,
    says: [0.35, { 'high-consumption': 2, surge: 1 }],
    code: ['P0133', 'P0153', 0.66],
  },
  'o2-circuit': {
    of: 2.4,
    if: petrol,
    one: true,
    says: [0.4, { 'high-consumption': 2, hesitation: 1 }],
    code: ['P0131', 'P0151', 0.9],
  },
  'o2-heater': {
    of: 3.1,
    if: petrol,
    one: true,
    says: [0.15, { 'high-consumption': 1 }],
    code: ['P0135', 'P0155', 0.92],
  },
  'exhaust-leak': {
    of: 3.3,
    if: petrol,
    size: [0.06, 0.24],
    one: true,
    does: (s, size, t) => {
      s.seen[bank(t)] += size * s.x ** -t.fade;
    },
    says: [0.7, { noise: 6, 'fuel-smell': 1 }],
  },
  'misfire-ignition': {
    of: 5.5,
    if: petrol,
    size: [0.03, 0.18],
    one: true,
    does: (s, size, t) => {
      s.seen[bank(t)] += size * s.x ** -(t.fade - 0.35);
    },
    says: [0.85, { 'misfire-felt': 6, 'rough-idle': 3, 'low-power': 1 }],
    code: ['P0300', 'P0300', 0.72],
  },
  'compression-timing': {
    of: 0.9,
    size: [0.08, 0.25],
    says: [0.75, { 'low-power': 3, 'rough-idle': 2, 'misfire-felt': 2 }],
    code: ['P0300', 'P0300', 0.25],
  },
  'ect-bias': { of: 1.7, says: [0.5, { 'hard-start-cold': 4, 'high-consumption': 2 }], code: ['P0116', 'P0116', 0.4] },
  'iat-bias': {
    of: 1.2,
    size: [-35, 35],
    does: (s, size) => {
      s.chargeShownC += size;
    },
    says: [0.15, { hesitation: 1 }],
    code: ['P0111', 'P0111', 0.45],
  },
  'thermostat-open': { of: 2.6, says: [0.4, { 'high-consumption': 3 }], code: ['P0128', 'P0128', 0.75] },
  'throttle-fouled': {
    of: 5,
    says: [0.75, { stall: 5, 'rough-idle': 3, 'stall-after-start': 2 }],
    code: ['P0506', 'P0506', 0.25],
  },
  'low-voltage': { of: 0.8, says: [0.7, { 'hard-start-cold': 5, stall: 1 }] },
  'secondary-air': {
    of: 0.6,
    if: petrol,
    size: [0.07, 0.22],
    does: (s, size) => {
      for (const b of [0, 1]) s.seen[b] += size * s.x ** -0.9;
    },
    says: [0.3, { noise: 3 }],
    code: ['P0411', 'P0411', 0.5],
  },
  'cat-degraded': {
    of: 4.6,
    one: true,
    if: petrol,
    says: [0.25, { 'low-power': 1, noise: 1 }],
    code: ['P0420', 'P0430', 0.85],
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
