import { type AttemptView } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { faultLabel, TEST_BY_ID } from '@just-balance/core/catalogue';
import { midSentence } from '@just-balance/core/units';

export const faultsInWords = (a: AttemptView) =>
  (a.faults ?? []).map((f) => midSentence(faultLabel(f.id))).join(' and ') || 'nothing was wrong';

export const nameOf = (kind: string, what: string) =>
  kind === 'test' ? (TEST_BY_ID.get(what)?.label ?? what) : pointLabel(what as Parameters<typeof pointLabel>[0]);
