/** One car of the invented fleet: what its physics and its ECU need to know. */
export interface CarSpec {
  id: string;
  label: string;
  note: string;
  year: number;
  vin: string;
  fuel: 'petrol' | 'diesel';
  metering: 'maf' | 'speed-density' | 'both';
  induction: 'na' | 'turbo';
  injection: 'port' | 'direct';
  displacementL: number;
  cylinders: number;
  banks: 1 | 2;
  /** Upstream sensor: narrow-band switches, wide-band reports λ; a diesel has none. */
  upstream: 'narrow' | 'wide' | 'none';
  idleRpm: number;
  /** Pressure across the injectors, kPa: against atmosphere (fixed) or against the manifold. */
  railKPa: number;
  railReference: 'fixed' | 'manifold';
  /** Wastegate's target above atmosphere at full load, kPa; 0 without a turbo. */
  boostKPa: number;
  ethanolCalibratedPct: number;
  /** How full of vapour the canister is, 0…1: decides whether open purge is lean or rich. */
  canisterLoad: number;
  massKg: number;
  /** Road speed per 1,000 rpm in each gear, km/h. */
  gearKmh: readonly number[];
  /** Own volumetric efficiency over the fleet's curve. */
  veFactor: number;
  calibrationId: string;
  odometerKm: number;
  /** Monitors still incomplete when the car arrives, and those it has not. */
  incomplete: readonly string[];
  unsupported: readonly string[];
  warmupsSinceClear: number;
  distanceSinceClearKm: number;
  minutesSinceClear: number;
  fuelLevelPct: number;
  /** Clearing codes leaves the learnt trims alone. */
  keepsAdaptation?: true;
  /** How its monitors want to be driven: steady cruise unless said; a diesel has its own. */
  monitorStyle?: 'cruise' | 'stations' | 'general';
}
