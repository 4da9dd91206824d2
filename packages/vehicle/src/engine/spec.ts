/** One car of the invented fleet. */
export interface CarSpec {
  id: string;
  label: string;
  note: string;
  year: number;
  vin: string;
  displacementL: number;
  cylinders: number;
  banks: 1 | 2;
  /** Upstream sensor: narrow-band switches, wide-band reports λ. */
  upstream: 'narrow' | 'wide';
  idleRpm: number;
  railKPa: number;
  calibrationId: string;
  odometerKm: number;
  /** Monitors still incomplete when the car arrives. */
  incomplete: readonly string[];
  unsupported: readonly string[];
  warmupsSinceClear: number;
  distanceSinceClearKm: number;
  minutesSinceClear: number;
  fuelLevelPct: number;
}
