/**
 * What a fault makes an owner speak of and the ECU store: `owner`, the share of cars with it whose owner notices it at
 * all; `says`, what he then speaks of, in parts of the whole; `code`, the share that has stored a code of its own.
 * Common practice, no source; figures [house].
 */
export interface NoticeRow {
  owner: number;
  says: Readonly<Record<string, number>>;
  code?: number;
}

const SHAKES: NoticeRow = {
  owner: 0.6,
  says: { 'rough-idle': 0.6, 'high-idle': 0.15, stall: 0.1, hesitation: 0.1, noise: 0.05 },
};
const STARVED: NoticeRow = {
  owner: 0.55,
  says: { hesitation: 0.5, 'low-power': 0.35, 'stall-after-start': 0.1, stall: 0.05 },
};
const RICH: NoticeRow = {
  owner: 0.5,
  says: { 'high-consumption': 0.55, 'fuel-smell': 0.2, smoke: 0.15, 'rough-idle': 0.1 },
};
const DRIPS: NoticeRow = {
  owner: 0.6,
  says: { 'hard-start-hot': 0.5, 'fuel-smell': 0.3, smoke: 0.1, 'high-consumption': 0.1 },
};

/** How often an owner notices a fault, what they say, and how often it sets its code; shares of 1. */
export const NOTICES: Readonly<Record<string, NoticeRow>> = {
  balanced: { owner: 0, says: {} },
  'vac-leak': SHAKES,
  'vac-leak-bank1': { owner: 0.6, says: { 'rough-idle': 0.7, 'misfire-felt': 0.2, hesitation: 0.1 } },
  'vac-leak-bank2': { owner: 0.6, says: { 'rough-idle': 0.7, 'misfire-felt': 0.2, hesitation: 0.1 } },
  'crankcase-leak': SHAKES,
  'pcv-stuck-open': { owner: 0.45, says: { 'high-idle': 0.6, 'rough-idle': 0.3, smoke: 0.1 } },
  'egr-gasket-leak': SHAKES,
  'egr-stuck-open': {
    owner: 0.75,
    says: { 'rough-idle': 0.45, stall: 0.3, hesitation: 0.1, 'low-power': 0.15 },
    code: 0.35,
  },
  'duct-leak': STARVED,
  'boost-leak': { owner: 0.85, says: { 'low-power': 0.65, noise: 0.2, 'limp-mode': 0.15 }, code: 0.5 },
  'turbo-underboost': { owner: 0.85, says: { 'low-power': 0.7, 'limp-mode': 0.3 }, code: 0.6 },
  'maf-dirty': STARVED,
  'maf-under': { ...STARVED, code: 0.25 },
  'maf-over': { ...RICH, code: 0.25 },
  'maf-damaged': {
    owner: 0.5,
    says: { hesitation: 0.45, 'low-power': 0.25, stall: 0.2, 'limp-mode': 0.1 },
    code: 0.35,
  },
  'maf-installation': { owner: 0.5, says: { hesitation: 0.5, 'low-power': 0.3, 'rough-idle': 0.2 } },
  'maf-circuit': {
    owner: 0.8,
    says: { stall: 0.4, 'limp-mode': 0.3, 'low-power': 0.15, 'stall-after-start': 0.15 },
    code: 0.85,
  },
  'air-filter': { owner: 0.55, says: { 'low-power': 0.8, 'high-consumption': 0.2 } },
  'exhaust-restricted': { owner: 0.8, says: { 'low-power': 0.9, hesitation: 0.1 } },
  'map-bias': { owner: 0.4, says: { hesitation: 0.5, 'high-consumption': 0.5 }, code: 0.3 },
  'map-circuit': { owner: 0.7, says: { 'limp-mode': 0.5, hesitation: 0.5 }, code: 0.9 },
  'map-port-blocked': { owner: 0.65, says: { hesitation: 0.5, 'low-power': 0.3, 'limp-mode': 0.2 }, code: 0.35 },
  'map-hose-split': { owner: 0.5, says: { 'high-consumption': 0.6, 'rough-idle': 0.4 } },
  'fuel-low': {
    owner: 0.7,
    says: { 'low-power': 0.5, hesitation: 0.35, surge: 0.08, 'hard-start-cold': 0.07 },
    code: 0.13,
  },
  'fuel-high': RICH,
  'regulator-diaphragm': DRIPS,
  'injector-restricted': { owner: 0.5, says: { 'misfire-felt': 0.4, hesitation: 0.3, 'rough-idle': 0.3 }, code: 0.2 },
  'injector-leaking': DRIPS,
  'purge-open': { owner: 0.45, says: { 'rough-idle': 0.5, 'fuel-smell': 0.35, 'stall-after-start': 0.15 }, code: 0.3 },
  'evap-leak': { owner: 0.2, says: { 'fuel-smell': 1 }, code: 0.85 },
  'fuel-in-oil': { owner: 0.35, says: { 'fuel-smell': 0.7, smoke: 0.2, 'high-consumption': 0.1 } },
  'ethanol-high': { owner: 0.3, says: { 'hard-start-cold': 0.5, 'high-consumption': 0.5 } },
  'o2-biased-lean': { owner: 0.4, says: { 'high-consumption': 0.8, 'fuel-smell': 0.2 }, code: 0.3 },
  'o2-biased-rich': { owner: 0.4, says: { hesitation: 0.7, 'rough-idle': 0.3 }, code: 0.3 },
  'o2-slow': { owner: 0.3, says: { 'high-consumption': 0.7, surge: 0.3 }, code: 0.65 },
  'o2-circuit': { owner: 0.4, says: { 'high-consumption': 0.7, hesitation: 0.3 }, code: 0.88 },
  'o2-heater': { owner: 0.15, says: { 'high-consumption': 1 }, code: 0.9 },
  'o2-crossed': { owner: 0.85, says: { 'rough-idle': 0.5, hesitation: 0.3, 'fuel-smell': 0.2 }, code: 0.6 },
  'exhaust-leak': { owner: 0.65, says: { noise: 0.9, 'fuel-smell': 0.1 } },
  'misfire-ignition': { owner: 0.8, says: { 'misfire-felt': 0.6, 'rough-idle': 0.3, 'low-power': 0.1 }, code: 0.7 },
  'compression-timing': {
    owner: 0.75,
    says: { 'low-power': 0.45, 'misfire-felt': 0.3, 'rough-idle': 0.25 },
    code: 0.25,
  },
  'ect-bias': { owner: 0.5, says: { 'hard-start-cold': 0.65, 'high-consumption': 0.35 }, code: 0.45 },
  'iat-bias': { owner: 0.15, says: { hesitation: 1 }, code: 0.5 },
  'thermostat-open': { owner: 0.4, says: { 'high-consumption': 1 }, code: 0.75 },
  'throttle-fouled': { owner: 0.75, says: { stall: 0.5, 'rough-idle': 0.3, 'stall-after-start': 0.2 }, code: 0.25 },
  'low-voltage': { owner: 0.7, says: { 'hard-start-cold': 0.85, stall: 0.15 } },
  'secondary-air': { owner: 0.3, says: { noise: 1 }, code: 0.5 },
  'cat-degraded': { owner: 0.25, says: { 'low-power': 0.6, noise: 0.2, 'fuel-smell': 0.2 }, code: 0.8 },
};

/** Share of cars whose owner speaks of it whatever is wrong, or nothing is. [house] */
export const NO_REASON: Readonly<Record<string, number>> = {
  'rough-idle': 0.03,
  hesitation: 0.03,
  'low-power': 0.03,
  'high-consumption': 0.04,
  noise: 0.03,
  stall: 0.015,
  'stall-after-start': 0.01,
  'fuel-smell': 0.015,
  'hard-start-cold': 0.02,
  'hard-start-hot': 0.01,
  'high-idle': 0.01,
  'misfire-felt': 0.015,
  'limp-mode': 0.008,
  surge: 0.015,
  smoke: 0.012,
};

/**
 * Share of diesels without power whose owner speaks of smoke too. The smoke limit holds fuel back for the air and the
 * boost that are seen: a signal that reads low costs power and makes no smoke; air that was measured and got lost, or
 * was displaced by exhaust, does. Common practice, no source; figures [house].
 */
export const DIESEL_SMOKES = {
  others: 0.1,
  faults: {
    'maf-dirty': 0.02,
    'maf-under': 0.02,
    'maf-damaged': 0.04,
    'maf-circuit': 0.04,
    'maf-installation': 0.03,
    'map-port-blocked': 0.02,
    'map-circuit': 0.03,
    'fuel-low': 0.02,
    'boost-leak': 0.45,
    'egr-stuck-open': 0.5,
    'air-filter': 0.25,
    'exhaust-restricted': 0.2,
    'turbo-underboost': 0.15,
  } as Readonly<Record<string, number>>,
};
