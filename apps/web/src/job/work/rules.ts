import { ROUTES } from '@just-balance/contract';
import { INSPECTION_RULES, type InspectionRule } from '@just-balance/core/readiness';
import { useRead } from '../../data/reads.ts';
import { useSession } from '../../data/session.tsx';

/** Id of the rule that holds where the shop stands, where one is set. */
export function useRuleHere(): string | undefined {
  return useSession().session?.account?.shop.settings.place?.rule;
}

/** Inspection rules, the shop's own and ours; the one that holds where the shop stands first. */
export function useRules(): InspectionRule[] {
  const { data } = useRead(ROUTES.inspectionRules);
  const here = useRuleHere();
  const own = (data ?? []).filter((p) => !p.undone).map((p) => p.procedure);
  return [...own, ...INSPECTION_RULES].sort((a, b) => Number(b.id === here) - Number(a.id === here));
}
