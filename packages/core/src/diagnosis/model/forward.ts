import type { Shape } from '../../catalogue/index.ts';
import { ethanolTrimPct, pressureTrimPct } from '../../engine/index.ts';
import { relativeFlow } from '../../gas/index.ts';
import type { Evidence, PointEvidence } from '../evidence/types.ts';

/** What a fault of a given size does at one operating point. */
export interface Effect {
  /** Displayed total trim per bank, %. */
  trimPct: [number, number];
  /** ln of the airflow signal over the true expected airflow. */
  airflowLog: number;
}

/** Stoichiometric mass of air per mass of E10. Heywood, table D.4 (from memory), blended. */
const AFR_E10 = 14.1;
/** What a trim runs to with a stuck sensor, %: the ECU's usual authority. Common practice, no source. */
const STUCK_PCT = 25;

type Where = Pick<PointEvidence, 'airflowGps' | 'mapKPa' | 'iatC'> & { pressureRead?: boolean };

/**
 * A diesel’s valve passes this many times what a petrol engine’s does: wide open it takes half of the air at idle.
 * Common practice, no source; figure [house].
 */
const DIESEL_RECIRCULATES = 3;

/**
 * The forward model: conservation of mass at one point.
 * Given a shape, its severity in the fault's own unit, and the bank a per-bank fault sits on. Trims are what a tool
 * shows, unclipped (a pegged reading is compared as censored).
 */
export function predict(shape: Shape, severity: number, bank: 1 | 2, point: Where, ev: Evidence): Effect {
  const metered = ev.vehicle.metering !== 'speed-density';
  const two = ev.banks === 2;
  const flow = Math.max(point.airflowGps, 0.2);
  const all = (t: number, airflowLog = 0): Effect => ({ trimPct: [t, t], airflowLog });
  /** What the pressure shown makes of physics' expectation; nothing where none was read. */
  const expected = (log: number) => all(0, point.pressureRead === false ? 0 : log);
  const at = (t: number): Effect => ({ trimPct: !two || bank === 1 ? [t, 0] : [0, t], airflowLog: 0 });
  switch (shape.kind) {
    case 'none':
    case 'absent':
      return all(0);
    case 'leak': {
      const leak = leakAt(severity, point, ev);
      const log = metered ? Math.log(flow / Math.max(flow + leak, 0.2 * flow)) : 0;
      // Speed-density: the leak raises manifold pressure and the fuel follows; what enters at a runner it does not see.
      if (shape.bank === undefined || !two) return metered ? all((100 * leak) / flow, log) : all(0);
      const perBank = (100 * leak) / (flow / 2);
      const spill = shape.spill ?? 0;
      const t: [number, number] = [perBank * spill, perBank * spill];
      t[shape.bank - 1] = perBank * (1 - spill);
      return { trimPct: t, airflowLog: log };
    }
    case 'meter': {
      const read = 1 + (shape.sign * severity) / 100;
      return all(100 * (1 / read - 1), Math.log(read));
    }
    case 'skew': {
      const span = Math.log(Math.max(ev.roadFlowGps / ev.idleFlowGps, 2));
      const x = Math.log(flow / ev.idleFlowGps) / span;
      const beyond = (x - shape.crossing) / (1 - shape.crossing);
      const read = Math.min(Math.max(1 - (severity / 100) * (shape.right ? Math.max(beyond, 0) : beyond), 0.3), 1.6);
      return all(100 * (1 / read - 1), Math.log(read));
    }
    case 'sag': {
      const x = Math.min(flow / ev.roadFlowGps, 3);
      const share = shape.from === 'everywhere' ? 1 : (shape.share ?? 0);
      const load = shape.from === 'everywhere' ? 0 : Math.max(0, x - shape.from) / (1 - shape.from);
      const missing = severity * (share + (1 - share) * load);
      return all(pressureTrimPct(Math.max(1 - missing / ev.railKPa, 0.2)));
    }
    case 'overPressure':
      return all(pressureTrimPct(1 + severity / ev.railKPa));
    case 'injectors':
      return at(100 * (1 / (1 - severity / 100) - 1));
    case 'extraFuel': {
      const t = (-100 * AFR_E10 * severity) / flow;
      return shape.oneBank && two ? at(2 * t) : all(t);
    }
    case 'vapour':
      return all((100 * shape.richness * leakAt(severity, point, ev)) / flow);
    case 'ethanol':
      return all(ethanolTrimPct(Math.max(severity, ev.ethanolCalibratedPct), ev.ethanolCalibratedPct));
    case 'sensorBias':
      return at(shape.sign * severity);
    case 'crossed':
      return { trimPct: shape.lean === 1 ? [STUCK_PCT, -STUCK_PCT] : [-STUCK_PCT, STUCK_PCT], airflowLog: 0 };
    case 'sensorStuck':
      return at(shape.sign * STUCK_PCT);
    case 'falseLean': {
      const t = severity * (ev.idleFlowGps / flow) ** shape.fade;
      return shape.bothBanks ? all(t) : at(t);
    }
    case 'split': {
      const x = Math.min(flow / ev.roadFlowGps, 2);
      if (!metered) return at(-severity * (0.2 + 0.8 * x));
      if (!two) return all(0);
      const t = severity * (0.4 + 0.6 * x);
      return { trimPct: bank === 1 ? [-t, t] : [t, -t], airflowLog: 0 };
    }
    case 'mapOffset':
      // A speed-density engine fuels what the sensor says: reading high is rich, most at idle.
      // With a meter the trims stay, and physics expects too much air.
      return metered
        ? expected(-Math.log(point.mapKPa / Math.max(point.mapKPa - severity, 5)))
        : all(100 * ((point.mapKPa - severity) / point.mapKPa - 1));
    case 'mapTowardsBaro': {
      // The pressure shown has moved towards atmosphere already: the true one lies below it.
      const share = severity / 100;
      const true_ = Math.max((point.mapKPa - share * ev.baroKPa) / (1 - share), 5);
      return metered ? expected(Math.log(true_ / point.mapKPa)) : all(100 * (true_ / point.mapKPa - 1));
    }
    case 'meterDead':
      // Where the signal is dead the evidence compares no airflow; a default value is the same at every flow.
      return all(severity, ev.airflowDead ? 0 : Math.log((1.4 * ev.idleFlowGps) / flow));
    case 'boostLoss':
      return metered && point.mapKPa > 1.05 * ev.baroKPa ? all(-severity) : all(0);
    case 'recirculated': {
      const wide = ev.vehicle.fuel === 'diesel' ? DIESEL_RECIRCULATES : 1;
      return metered
        ? expected(-Math.log(1 + ((wide * severity) / 100) * (ev.idleFlowGps / flow)))
        : all((-severity * ev.idleFlowGps) / flow);
    }
    case 'chargeTemperature':
      // Shown warmer than it is: density taken too low, too little fuel, trim adds.
      return metered ? all(0) : all((100 * severity) / (273.15 + point.iatC));
  }
}

/**
 * Flow of a leak of `idleGps` at another point: constant while choked, falling as the manifold fills, and outward
 * (negative) under boost.
 */
export function leakAt(idleGps: number, point: Pick<PointEvidence, 'mapKPa'>, ev: Evidence): number {
  return idleGps * leakShare(point.mapKPa, ev);
}

/** Of one gathered evidence, by pressure: the same few points are asked for with every size of every leak. */
const SHARES = new WeakMap<Evidence, Map<number, number>>();

/** Flow of a leak at a manifold pressure over its flow at idle. */
function leakShare(mapKPa: number, ev: Evidence): number {
  let shares = SHARES.get(ev);
  if (!shares) {
    shares = new Map();
    SHARES.set(ev, shares);
  }
  let share = shares.get(mapKPa);
  if (share === undefined) {
    const atIdle = relativeFlow(ev.idleMapKPa / ev.baroKPa);
    share =
      atIdle <= 0
        ? 0
        : mapKPa > ev.baroKPa
          ? -((mapKPa / ev.baroKPa) * relativeFlow(ev.baroKPa / mapKPa)) / atIdle
          : relativeFlow(mapKPa / ev.baroKPa) / atIdle;
    shares.set(mapKPa, share);
  }
  return share;
}
