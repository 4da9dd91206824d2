import { idInWords } from '../units/index.ts';
import type { OperatingPoint } from './case.ts';

const POINT_LABELS: Record<OperatingPoint, string> = {
  koeo: 'Key on, engine off',
  'cold-idle': 'Cold idle',
  idle: 'Idle',
  'idle-ac': 'Idle with A/C',
  'hold-2500': 'Hold 2,500',
  'road-load': 'Road load',
  'full-load': 'Full load',
  snap: 'Snap throttle',
  boost: 'Boost',
  decel: 'Deceleration',
};

/** The short name of an operating point, everywhere the same. */
export function pointLabel(at: OperatingPoint): string {
  return POINT_LABELS[at];
}

/** What a complaint is called. */
export function complaintLabel(id: string): string {
  return idInWords(id);
}
