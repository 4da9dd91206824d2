import type { Procedure } from '../format.ts';
import { AIRFLOW } from './airflow.ts';
import { CHECKS } from './checks.ts';
import { INTAKE } from './intake.ts';
import { OXYGEN } from './oxygen.ts';
import { PRESSURE } from './pressure.ts';
import { THROTTLE } from './throttle.ts';

/** The procedures that ship with the product, in the format a shop's own have. */
export const SHIPPED_PROCEDURES: readonly Procedure[] = [
  ...AIRFLOW,
  ...PRESSURE,
  ...OXYGEN,
  ...THROTTLE,
  ...INTAKE,
  ...CHECKS,
];
