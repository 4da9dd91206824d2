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
export type OperatingPoint = (typeof OPERATING_POINTS)[number];

export type BankKey = 'bank1' | 'bank2';

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

export interface Ambient {
  baroKPa?: number;
  altitudeM?: number;
  airC?: number;
}

export interface TrimReading {
  stft?: number;
  ltft?: number;
  sd?: number;
  n?: number;
}

export interface O2Reading {
  crossingsPer10s?: number;
  leanToRichMs?: number;
  richToLeanMs?: number;
  minV?: number;
  maxV?: number;
}

export interface Reading {
  at: OperatingPoint;
  rpm?: number;
  mafGps?: number;
  mapKPa?: number;
  ectC?: number;
  iatC?: number;
  /** Under which it was taken, for two readings to be held beside each other. */
  vssKmh?: number;
  baroKPa?: number;
  fuelPct?: number;
  airCon?: boolean;
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

export interface CodeReading {
  code: string;
  state: 'stored' | 'pending' | 'permanent';
}

export interface TestResult {
  id: string;
  outcome?: string | string[];
  values?: Record<string, number | string>;
  bank?: 1 | 2;
  part?: string;
  cylinders?: number[];
}

export const PART_MAKES = ['original', 'copy', 'used', 'not known'] as const;

export interface RecentWork {
  part: string;
  days?: number;
  /** Of what replaced it, where it was replaced. */
  make?: (typeof PART_MAKES)[number];
}

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
