import type { OwnView } from '@just-balance/contract';
import { INSPECTION_RULES, type InspectionRule } from '@just-balance/core/readiness';
import useSWR from 'swr';
import { useAccount } from '../data/session.tsx';

/** Inspection rules, the shop's own and ours; the one that holds where the shop stands first. */
export function useRules(): InspectionRule[] {
  const { data } = useSWR<OwnView<InspectionRule>[]>('/procedures?kind=rule');
  const here = useAccount().shop.settings.place?.rule;
  const own = (data ?? []).filter((p) => !p.undone).map((p) => p.procedure);
  return [...own, ...INSPECTION_RULES].sort((a, b) => Number(b.id === here) - Number(a.id === here));
}
