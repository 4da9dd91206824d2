import { ethanolTrimPct, pressureTrimPct } from '../engine/index.ts';
import { relativeFlow } from '../gas/index.ts';
import type { Evidence, PointEvidence } from './evidence.ts';
import type { Shape } from './faults.ts';

/** What a fault of a given size does at one operating point. */
export interface Effect {
  /** Displayed total trim per bank, %. */
  trimPct: [number, number];
  /** ln of the airflow signal over the true expected airflow. */
  airflowLog: number;
}

/** Stoichiometric mass of air per mass of E10. Handbook value (from memory). */
const AFR_E10 = 14.1;

/**
 * The forward model: conservation of mass at one point.
 * Given a shape, its severity in the fault's own unit, and the bank a per-bank fault sits on. Trims are what a tool
 * shows, unclipped (a pegged reading is compared as censored).
 */
export function predict(
  shape: Shape,
  severity: number,
  bank: 1 | 2,
  point: Pick<PointEvidence, 'airflowGps' | 'mapKPa'>,
  ev: Evidence,
): Effect {
  const metered = ev.vehicle.metering !== 'speed-density';
  const two = ev.banks === 2;
  const flow = Math.max(point.airflowGps, 0.2);
  const all = (t: number, airflowLog = 0): Effect => ({ trimPct: [t, t], airflowLog });
  const at = (t: number): Effect => ({ trimPct: !two || bank === 1 ? [t, 0] : [0, t], airflowLog: 0 });
  switch (shape.kind) {
    case 'none':
      return all(0);
    case 'leak': {
      const leak = leakAt(severity, point, ev);
      // Speed-density: the leak raises manifold pressure, the fuel follows; trims stay near normal.
      if (!metered) return all(0);
      const log = Math.log(flow / (flow + leak));
      if (shape.bank === undefined || !two) return all((100 * leak) / flow, log);
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
      const read = 1 + (severity / 100) * (1 / 3 - (4 / 3) * x);
      return all(100 * (1 / Math.max(read, 0.3) - 1), Math.log(Math.max(read, 0.3)));
    }
    case 'sag': {
      const x = Math.min(flow / ev.roadFlowGps, 3);
      const missing = severity * (shape.atIdle + (1 - shape.atIdle) * x);
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
    case 'ethanol':
      return all(ethanolTrimPct(Math.max(severity, ev.ethanolCalibratedPct), ev.ethanolCalibratedPct));
    case 'sensorBias':
      return at(shape.sign * severity);
    case 'falseLean':
      return at(severity * (ev.idleFlowGps / flow) ** shape.fade);
    case 'split': {
      if (!two || !metered) return all(0);
      const x = Math.min(flow / ev.roadFlowGps, 2);
      const t = severity * (0.4 + 0.6 * x);
      return { trimPct: bank === 1 ? [-t, t] : [t, -t], airflowLog: 0 };
    }
    case 'mapOffset':
      // A speed-density engine fuels what the sensor says: reading high is rich, most at idle.
      return metered ? all(0) : all(100 * (point.mapKPa / (point.mapKPa + severity) - 1));
    case 'mapTowardsBaro': {
      if (metered) return all(0);
      const shown = point.mapKPa + (severity / 100) * (ev.baroKPa - point.mapKPa);
      return all(100 * (point.mapKPa / shown - 1));
    }
    case 'meterDead': {
      // The ECU sees a dead signal too and goes by its own model: trims about as they were.
      if (ev.airflowDead) return all(0);
      const shown = 1.4 * ev.idleFlowGps;
      return all(100 * (flow / shown - 1) * 0.3, Math.log(shown / flow));
    }
  }
}

/** Flow of a leak of `idleGps` at another point: constant while choked, falling as the manifold fills. */
export function leakAt(idleGps: number, point: Pick<PointEvidence, 'mapKPa'>, ev: Evidence): number {
  const idle = ev.points.find((p) => p.at === 'idle');
  const atIdle = relativeFlow((idle?.mapKPa ?? 0.33 * ev.baroKPa) / ev.baroKPa);
  return atIdle > 0 ? (idleGps * relativeFlow(point.mapKPa / ev.baroKPa)) / atIdle : 0;
}
