export { airDensity, altitudeAtPressureM, P0_PA, pressureAtAltitudeKPa, R_AIR } from './atmosphere.ts';
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
