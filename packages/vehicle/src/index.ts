export { BENCH_TESTS, type BenchResult, benchTest, pinVoltages } from './bench/benchTests.ts';
export { type DrivenLog, driven } from './bench/driven.ts';
export {
  type Asked,
  EXAMINED_POINTS,
  type ExaminedCar,
  type ExaminedReading,
  type ExaminedRecord,
  examine,
} from './bench/examine.ts';
export { Car } from './car.ts';
export { type DriverAction, IDLE } from './driver/driver.ts';
export { BROKEN, OBEYING, type RoadScript } from './driver/scripts.ts';
export { type OnBoardResult, resultBytes, tankTest } from './ecu/onBoardTests.ts';
export { answer, supportedBy } from './ecu/services.ts';
export { type CarSpec, holeFlowGps, STEP_US, volumetricEfficiency } from './engine/index.ts';
export { canHave, type InjectedFault, SIM_FAULTS, type SimFault, typicalFor } from './faults/catalogue.ts';
export { engineCardOf } from './fleet/card.ts';
export { carById, FLEET } from './fleet/cars.ts';
export {
  candumpOf,
  carOf,
  csvOf,
  play,
  pressureAt,
  readScenario,
  type Scenario,
  type ScenarioStep,
  scenarioOf,
} from './scenario/scenario.ts';
export { type Degradation, degrade, SOUND } from './wire/degraded.ts';
export { type DelayedFrame, EcuPort } from './wire/ecuPort.ts';
export { SlcanPort } from './wire/slcanServer.ts';
export { PARTS, type Part, WORKS, type Work } from './workshop/workshop.ts';
