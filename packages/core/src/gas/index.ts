export { airDensity, altitudeAtPressureM, pressureAtAltitudeKPa, R_AIR, SEA_LEVEL_KPA } from './atmosphere.ts';
export {
  criticalPressureRatio,
  GAMMA_AIR,
  type Hole,
  holeForFlow,
  LEAK_CD,
  LEAK_CD_INTERVAL,
  orificeFlowGps,
  relativeFlow,
} from './orifice.ts';
