export { AFR, cylinderFlow, Engine, type EngineState, STEP_US, type Surroundings } from './engine.ts';
export { type FaultEffects, HEALTHY, type InjectedFault, SIM_FAULTS, type SimFault } from './faults.ts';
export { noise } from './noise.ts';
export type { CarSpec } from './spec.ts';
