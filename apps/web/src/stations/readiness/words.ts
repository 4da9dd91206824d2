import type { PlanCondition } from '@just-balance/core/readiness';

/** Conditions before the start as a person calls them. */
export const CALLED: Readonly<Record<PlanCondition['id'], string>> = {
  soak: 'Soak',
  'coolant-start': 'Coolant at the start',
  'coolant-to-air': 'Coolant close to the air',
  ambient: 'Outside air',
  intake: 'Intake air',
  altitude: 'Altitude',
  'fuel-level': 'Fuel level',
  lamp: 'Lamp',
  codes: 'Codes',
  battery: 'Battery',
};
