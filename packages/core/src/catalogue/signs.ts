/** What a reading shows beside its trims; the hints weigh it. */
export type SignId =
  | 'never-hot'
  | 'hot'
  | 'upstream-lazy'
  | 'upstream-lively'
  | 'upstream-dead'
  | 'downstream-follows'
  | 'downstream-steady'
  | 'throttle-wide'
  | 'throttle-right'
  | 'battery-low'
  | 'battery-right'
  | 'intake-air-off'
  | 'intake-air-right'
  | 'airflow-dead'
  | 'lambda-not-held'
  | 'snap-low'
  | 'pressure-flat'
  | 'pressure-moves'
  | 'boost-low'
  | 'boost-right';

/** The test that reads the same figure as a sign does: it is not offered beside the sign, nor counted twice. */
export const SIGN_TEST: Readonly<Partial<Record<SignId, string>>> = {
  'throttle-wide': 'relative-throttle',
  'throttle-right': 'relative-throttle',
  'downstream-follows': 'downstream-compare',
  'downstream-steady': 'downstream-compare',
  'snap-low': 'snap-throttle',
  'pressure-flat': 'snap-throttle',
  'boost-low': 'boost-compare',
  'boost-right': 'boost-compare',
};
