import type { LogbookFilter } from '@just-balance/contract';
import { FAULT_BY_ID, faultLabel } from '@just-balance/core/catalogue';

export const FILTER_LABELS: Readonly<Record<LogbookFilter, string>> = {
  vehicle: 'Vehicle',
  family: 'Engine family',
  code: 'Code',
  cause: 'Cause',
  part: 'Part',
  person: 'Person',
  verdict: 'Verdict',
  status: 'Status',
};

/** A tag as it is read. */
export function tagLabel(kind: LogbookFilter, value: string): string {
  if (kind === 'cause') return FAULT_BY_ID.has(value) ? faultLabel(value) : value;
  if (kind === 'status') return value === 'closed' ? 'handed over' : value;
  return value;
}
