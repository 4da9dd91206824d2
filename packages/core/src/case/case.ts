/** The shapes of CONTRACT's case, version 1. Units stand in the names; trims in percent, + adds fuel. */

/** Where a reading may be taken, in the order of a job. */
export const OPERATING_POINTS = [
  'koeo',
  'cold-idle',
  'idle',
  'idle-ac',
  'hold-2500',
  'road-load',
  'full-load',
  'snap',
  'boost',
  'decel',
] as const;
/** One of the operating points of a reading. */
export type OperatingPoint = (typeof OPERATING_POINTS)[number];

/** A bank, as a reading names it. Bank 1 has cylinder 1 (SAE J1979). */
export type BankKey = 'bank1' | 'bank2';

/**
 * Of a vehicle, what its figures are expected and weighed by. Displacement in L, pressures in kPa over ambient, angles
 * in degrees.
 */
export interface VehicleSpec {
  fuel: 'petrol' | 'diesel';
  metering: 'maf' | 'speed-density' | 'both';
  induction?: 'na' | 'turbo';
  injection?: 'port' | 'direct';
  displacementL: number;
  cylinders: number;
  banks?: 1 | 2;
  ethanolPctCalibrated?: number;
  limits?: {
    relativeThrottleIdle?: number;
    relativeThrottleUnit?: string;
    relativeThrottleIdleDeg?: number;
    fuelPressureKPa?: number;
    fuelPressureReference?: 'fixed' | 'manifold';
  };
}

/** The surroundings: absolute pressure in kPa, or the height it is worked out from in m; air in °C. */
export interface Ambient {
  baroKPa?: number;
  altitudeM?: number;
  airC?: number;
}

/** Trims of one bank, %, + adds fuel: short and long term, or the total the tool shows. */
export interface TrimReading {
  stft?: number;
  ltft?: number;
  sd?: number;
  n?: number;
}

/** An oxygen sensor over a window: volts of the narrow-band ones, λ of the wide ones, ms, crossings in 10 s. */
export interface O2Reading {
  crossingsPer10s?: number;
  leanToRichMs?: number;
  richToLeanMs?: number;
  minV?: number;
  maxV?: number;
}

/** What was read at one operating point. Units stand in the names. */
export interface Reading {
  at: OperatingPoint;
  rpm?: number;
  mafGps?: number;
  /** The airflow sensor’s signal, V, where its curve is not known: no airflow follows from it. */
  mafV?: number;
  mapKPa?: number;
  ectC?: number;
  iatC?: number;
  /** Under which it was taken, for two readings to be held beside each other. */
  vssKmh?: number;
  baroKPa?: number;
  fuelPct?: number;
  airCon?: boolean;
  /** What the ECU had asked of exhaust recirculation: a diesel’s air below full load is known only while it is shut. */
  recirculation?: 'open' | 'shut';
  loop?: 'closed' | 'open';
  trims?: Partial<Record<BankKey, TrimReading>>;
  lambda?: Partial<Record<BankKey, number>>;
  o2V?: Partial<Record<BankKey, number>>;
  relativeThrottleDeg?: number;
  relativeThrottlePct?: number;
  o2?: Record<string, O2Reading>;
  batteryV?: number;
  /** The engine had run for a while and its coolant rose no more below warm. */
  neverWarm?: boolean;
  /** False: the throttle was snapped and manifold pressure did not follow. */
  pressureFollows?: boolean;
  sampleHz?: number;
  quantum?: Record<string, number>;
}

/** What a reading may be taken for, where it is not the trims. */
export const READ_FIGURES = ['throttle', 'crossings', 'pressure'] as const;
/** One of them. */
export type ReadFigure = (typeof READ_FIGURES)[number];

/** A trouble code with its state (SAE J2012, J1979). */
export interface CodeReading {
  code: string;
  state: 'stored' | 'pending' | 'permanent';
}

/** What a bench test showed: an outcome of its row, or figures in its units. */
export interface TestResult {
  id: string;
  outcome?: string | string[];
  values?: Record<string, number | string>;
  bank?: 1 | 2;
  part?: string;
  cylinders?: number[];
}

/** Whose make a part is that was fitted. */
export const PART_MAKES = ['original', 'copy', 'used', 'not known'] as const;

/** A part that was worked on, how many days ago, and with whose part. */
export interface RecentWork {
  part: string;
  days?: number;
  /** Of what replaced it, where it was replaced. */
  make?: (typeof PART_MAKES)[number];
}

/** All that is known of a fault, as it is weighed: vehicle, surroundings, complaint, codes, readings, tests. */
export interface Case {
  format: 'just-balance/case';
  version: 1;
  id: string;
  vehicle: VehicleSpec;
  ambient?: Ambient;
  recentWork?: RecentWork[];
  readings?: Reading[];
  codes?: CodeReading[];
  complaints?: string[];
  tests?: TestResult[];
}
