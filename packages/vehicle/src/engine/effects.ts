/** Value per bank. */
export type PerBank = [number, number];

/** What faults change in the machine: areas, shares, pressures, times. Never a displayed number. */
export interface FaultEffects {
  /** Holes to outside air, mm²: into the plenum by where they are, and into a runner of each bank. */
  plenumLeakMm2: number;
  crankcaseLeakMm2: number;
  egrJointLeakMm2: number;
  runnerLeakMm2: PerBank;
  /** Share of the air that enters between sensor and throttle, 0…1. */
  ductShare: number;
  /** Hole in the charge pipe, mm²: air metered, then lost under boost. */
  chargeLeakMm2: number;
  /** Exhaust gas valve open at idle, mm². */
  egrValveMm2: number;
  /** Purge valve open, mm². */
  purgeMm2: number;
  /** Airflow sensor: gain; and dirt, which adds heat loss at low flow and insulates at high flow. */
  mafGain: number;
  mafDirtShare: number;
  mafDead: boolean;
  /** Pressure signal: offset kPa, lag s, share of the way to atmosphere. */
  mapOffsetKPa: number;
  mapLagS: number;
  mapTowardsBaro: number;
  /** Pressure lost ahead of the sensor at full-load flow, as a share of atmosphere. */
  filterDrop: number;
  /** Share of a bank's breathing lost at full-load flow. */
  exhaustLoss: PerBank;
  /** Rail pressure lost per g/s of fuel, and added at every flow, kPa. */
  railDropKPaPerGps: number;
  railOffsetKPa: number;
  /** Share of fuel an injector bank does not deliver, and fuel that drips in regardless, g/s. */
  injectorLoss: PerBank;
  dripGps: PerBank;
  /** Fuel vapour from the oil, g/s. */
  oilFuelGps: number;
  ethanolPct: number | null;
  /** Upstream sensor: λ shift (+ reads lean), own time constant s, heater dead. */
  o2Shift: PerBank;
  o2TauS: PerBank;
  o2HeaterDead: PerBank;
  /** Outside air at the exhaust ahead of the sensor at idle, share of λ. */
  exhaustLeak: PerBank;
  /** Share of firings without spark. */
  misfire: PerBank;
  /** Share of the throttle gap at idle that carbon fills. */
  throttleFouled: number;
  /** Oxygen storage left, 1 healthy. */
  storage: PerBank;
  thermostatOpen: boolean;
  /** Hole in the tank's vapour system, mm². */
  evapLeakMm2: number;
}

export function healthy(): FaultEffects {
  return {
    plenumLeakMm2: 0,
    crankcaseLeakMm2: 0,
    egrJointLeakMm2: 0,
    runnerLeakMm2: [0, 0],
    ductShare: 0,
    chargeLeakMm2: 0,
    egrValveMm2: 0,
    purgeMm2: 0,
    mafGain: 1,
    mafDirtShare: 0,
    mafDead: false,
    mapOffsetKPa: 0,
    mapLagS: 0,
    mapTowardsBaro: 0,
    filterDrop: 0,
    exhaustLoss: [0, 0],
    railDropKPaPerGps: 0,
    railOffsetKPa: 0,
    injectorLoss: [0, 0],
    dripGps: [0, 0],
    oilFuelGps: 0,
    ethanolPct: null,
    o2Shift: [0, 0],
    o2TauS: [0.04, 0.04],
    o2HeaterDead: [0, 0],
    exhaustLeak: [0, 0],
    misfire: [0, 0],
    throttleFouled: 0,
    storage: [1, 1],
    thermostatOpen: false,
    evapLeakMm2: 0,
  };
}
