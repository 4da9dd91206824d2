export { HOLE_CD, holeFlowGps, pumpedGps, volumetricEfficiency, WIDE_OPEN_MM2_PER_L } from './air.ts';
export { type FaultEffects, healthy, type PerBank } from './effects.ts';
export {
  blend,
  calibratedAfr,
  DT,
  Engine,
  type EngineInputs,
  type EngineState,
  STEP_US,
  type Surroundings,
} from './engine.ts';
export { noise, uniform } from './noise.ts';
export type { CarSpec } from './spec.ts';
