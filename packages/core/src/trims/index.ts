export { againstBand, againstLimit, type LimitCall } from './limit.ts';
export { type TrimCell, type TrimMap, totalChannel, totalsOver, trimMap } from './map.ts';
export { classifyMixture, type MixtureCall, type ShapeWord, shapeWord, type TrimPoint } from './shape.ts';
export {
  appliedCorrectionPct,
  BY_EYE_SD,
  DEFAULT_LIMITS,
  displayedTotal,
  HEALTHY_BAND_PCT,
  isPegged,
  TRIM_AUTHORITY_PCT,
  TRIM_LIMIT_SETS,
  type TrimLimits,
  type TrimVerdict,
  verdict,
} from './total.ts';
