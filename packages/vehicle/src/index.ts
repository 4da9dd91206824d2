export { Car } from './car.ts';
export { supportedBy } from './ecu/services.ts';
export { type CarSpec, type InjectedFault, SIM_FAULTS, STEP_US } from './engine/index.ts';
export { carById, FLEET } from './fleet/cars.ts';
export { candumpOf, readScenario, type Scenario } from './scenario/scenario.ts';
export { EcuPort } from './wire/ecuPort.ts';
export { SlcanPort } from './wire/slcanServer.ts';
