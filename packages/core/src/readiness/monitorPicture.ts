import {
  CONTINUOUS_MONITORS,
  MONITORS,
  type MonitorId,
  type MonitorState,
  type MonitorStatus,
  readinessOf,
  type TestResultRow,
} from '../obd/index.ts';

/** How far inside its limit a result was. */
export interface Margin {
  /** What was measured, such as "bank 1: test 80". */
  label: string;
  value: number;
  unit: string;
  passed: boolean;
  /** %, 0 at the limit, below 0 past it; null where no side is limited. */
  sparePct: number | null;
}

/** One monitor with everything the vehicle tells of it. */
export interface MonitorRow {
  id: MonitorId;
  name: string;
  /** Watched all the time: reads complete almost always, and proves nothing alone. */
  continuous: boolean;
  state: MonitorState;
  /** In this drive, by PID 41: `off` where the vehicle has switched it off for this drive; null where it was not read. */
  thisDrive: 'ran' | 'not-yet' | 'off' | null;
  margins: Margin[];
  /** The tightest of them; null where nothing is limited. */
  sparePct: number | null;
  /** It is the one that proves the work done. */
  proves: boolean;
  note: string;
}

/** What a complete monitor proves. Common practice, no source. */
const NOTES: Readonly<Record<MonitorId, string>> = {
  misfire: 'watched all the time: complete proves nothing alone',
  fuelSystem: 'watched all the time: the trims prove the mixture, not this',
  comprehensive: 'watched all the time: circuits in range',
  catalyst: 'the catalyst stores oxygen',
  heatedCatalyst: 'the catalyst heats up in time',
  evap: 'the tank system holds; last and hardest',
  secondaryAir: 'air is blown in after a cold start',
  acOrGpf: 'refrigerant on older cars, the particulate filter on later ones',
  o2Sensor: 'the sensors switch fast enough',
  o2Heater: 'the heaters draw current',
  egrVvt: 'recirculation or valve timing responds',
  nmhc: 'the oxidation catalyst works',
  noxScr: 'nitrogen oxides are reduced',
  boost: 'boost follows its target',
  exhaustGasSensor: 'the exhaust sensors are plausible',
  dpf: 'the filter holds soot and lets gas pass',
};

/** Read the picture. `proves`: the monitors of the work done, see `provingMonitors`. */
export function monitorPicture(
  since: MonitorStatus,
  cycle: MonitorStatus | null,
  tests: readonly TestResultRow[],
  proves: readonly MonitorId[],
): MonitorRow[] {
  return since.monitors.map(({ id, state }) => {
    const now = cycle?.monitors.find((m) => m.id === id)?.state;
    const margins = tests
      .filter((t) => readinessOf(t.monitor) === id)
      .map((t) => ({ label: t.label, value: t.value, unit: t.unit, passed: t.passed, sparePct: t.sparePct }));
    const spare = margins.flatMap((m) => (m.sparePct === null ? [] : [m.sparePct]));
    return {
      id,
      name: MONITORS[id],
      continuous: CONTINUOUS_MONITORS.includes(id),
      state,
      // Not enabled in 41 while supported in 01: switched off for this drive. SAE J1979 (from memory).
      thisDrive:
        now === undefined || state === 'unsupported'
          ? null
          : now === 'unsupported'
            ? 'off'
            : now === 'complete'
              ? 'ran'
              : 'not-yet',
      margins: state === 'unsupported' ? [] : margins,
      sparePct: state === 'unsupported' || spare.length === 0 ? null : Math.min(...spare),
      proves: proves.includes(id),
      note: NOTES[id],
    };
  });
}

/** "passed with 38 % to spare", "past its limit by 12 %". */
export function marginWords(m: Pick<Margin, 'passed' | 'sparePct'>): string {
  if (m.sparePct === null) return m.passed ? 'passed' : 'failed';
  if (!m.passed) return `past its limit by ${Math.abs(m.sparePct)} %`;
  if (m.sparePct > 100) return 'passed, far from its limit';
  return m.sparePct === 0 ? 'passed, at its limit' : `passed with ${m.sparePct} % to spare`;
}

interface Proves {
  monitor: MonitorId;
  /** Beginnings of codes, faults by id. */
  codes: readonly string[];
  faults: readonly string[];
  source: string;
}

const J2012 = 'groups of SAE J2012 (from memory)';
const TRADE = 'common practice, no source';
/** Which monitor proves which repair. A continuous one is named too: then something else proves it. */
const PROVES: readonly Proves[] = [
  {
    monitor: 'catalyst',
    codes: ['P042', 'P043'],
    faults: ['cat-degraded'],
    source: J2012,
  },
  {
    monitor: 'o2Heater',
    codes: ['P0030', 'P0031', 'P0032', 'P0036', 'P0037', 'P0038', 'P005', 'P0135', 'P0141', 'P0155', 'P0161'],
    faults: ['o2-heater'],
    source: J2012,
  },
  {
    monitor: 'o2Sensor',
    codes: ['P013', 'P014', 'P015', 'P016', 'P2195', 'P2196', 'P2197', 'P2198'],
    faults: ['o2-biased-lean', 'o2-biased-rich', 'o2-slow', 'o2-circuit', 'exhaust-leak'],
    source: J2012,
  },
  {
    monitor: 'evap',
    codes: ['P044', 'P045', 'P0496', 'P0497', 'P0498', 'P0499'],
    faults: ['purge-open', 'evap-leak'],
    source: J2012,
  },
  { monitor: 'egrVvt', codes: ['P040', 'P001', 'P002'], faults: ['egr-gasket-leak', 'egr-stuck-open'], source: J2012 },
  { monitor: 'secondaryAir', codes: ['P041', 'P049'], faults: ['secondary-air'], source: J2012 },
  { monitor: 'boost', codes: ['P0234', 'P0299'], faults: ['boost-leak', 'turbo-underboost'], source: TRADE },
  { monitor: 'dpf', codes: ['P2002', 'P2452', 'P2453', 'P2463'], faults: [], source: TRADE },
  { monitor: 'misfire', codes: ['P030', 'P031'], faults: ['misfire-ignition', 'compression-timing'], source: J2012 },
  {
    monitor: 'fuelSystem',
    codes: ['P0171', 'P0172', 'P0174', 'P0175', 'P2187', 'P2188', 'P2189', 'P2190'],
    faults: [],
    source: J2012,
  },
];

/** The monitors that prove a repair: by its codes first, most particular first, else by the fault. */
export function provingMonitors(codes: readonly string[], fault: string | null): MonitorId[] {
  const out = new Set<MonitorId>();
  for (const code of codes) {
    const best = PROVES.flatMap((p) =>
      p.codes.filter((c) => code.startsWith(c)).map((c) => [c.length, p.monitor] as const),
    );
    best.sort((a, b) => b[0] - a[0]);
    if (best[0]) out.add(best[0][1]);
  }
  if (fault !== null) for (const p of PROVES) if (p.faults.includes(fault)) out.add(p.monitor);
  return [...out];
}
