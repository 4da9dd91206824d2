import { DEFAULT_LIMITS, type TrimLimits } from '@just-balance/core/trims';
import { useAccount } from './session.tsx';

/** The shop's trim limits. */
export function useLimits(): TrimLimits {
  const { shop } = useAccount();
  return {
    watchPct: shop.settings.limits?.watchPct ?? DEFAULT_LIMITS.watchPct,
    actPct: shop.settings.limits?.actPct ?? DEFAULT_LIMITS.actPct,
  };
}
