/** Faults this version can inject, with what they do to the physics. Severity units as the handbook of the trade fixes them. */
export interface SimFault {
  id: string;
  label: string;
  unit: string;
  low: number;
  high: number;
  /** A size worth finding, per litre of displacement for leaks. */
  typical: number;
  twoBanksOnly?: boolean;
}

export const SIM_FAULTS: readonly SimFault[] = [
  { id: 'vac-leak', label: 'Air leak after the throttle', unit: 'g/s', low: 0.05, high: 2, typical: 0.34 },
  {
    id: 'vac-leak-bank1',
    label: 'Air leak at a bank 1 runner',
    unit: 'g/s',
    low: 0.05,
    high: 2,
    typical: 0.48,
    twoBanksOnly: true,
  },
  { id: 'fuel-low', label: 'Weak fuel delivery', unit: 'kPa', low: 10, high: 250, typical: 115 },
  { id: 'maf-under', label: 'Airflow sensor reads low', unit: '%', low: 2, high: 40, typical: 14 },
];

export interface InjectedFault {
  id: string;
  severity: number;
}

/** What faults change in the engine: areas, shares and pressures, never a displayed number. */
export interface FaultEffects {
  /** Hole into the plenum, mm². */
  plenumLeakMm2: number;
  /** Hole into a bank 1 runner, mm². */
  runner1LeakMm2: number;
  /** Rail pressure lost per g/s of fuel, kPa. */
  railDropKPaPerGps: number;
  /** Airflow signal over true flow. */
  mafGain: number;
}

export const HEALTHY: FaultEffects = { plenumLeakMm2: 0, runner1LeakMm2: 0, railDropKPaPerGps: 0, mafGain: 1 };
