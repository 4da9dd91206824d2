export { DOWNSTREAM, type DownstreamJudgement, judgeDownstream } from './downstream.ts';
export { type FittedSensor, meantSensors, type SensorLayout, sensorLayout } from './layout.ts';
export {
  FEW_CROSSINGS,
  judgeNarrow,
  type NarrowJudgement,
  SLOW_MS,
  type Switching,
  switching,
  TRANSITIONS_FROM_HZ,
} from './narrow.ts';
export { judgeWide, type WideJudgement } from './wide.ts';
