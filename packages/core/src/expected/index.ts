export {
  airflowBand,
  type Band,
  COOLANT_BAND,
  DIESEL_BOOST,
  type EngineFacts,
  manifoldBand,
  middle,
  type Provenance,
  stationPressure,
  VE_MODEL_ERROR,
} from './bands.ts';
export { type ComparedReading, compareReadings } from './compare.ts';
export {
  familyOf,
  type KnownFigure,
  layersOf,
  QUANTITIES,
  QUANTITY_LABEL,
  QUANTITY_UNIT,
  type Quantity,
} from './layers.ts';
export { type AirflowMoment, airflowOver } from './over.ts';
