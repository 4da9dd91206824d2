export {
  absoluteLoad,
  airflowOfStrokeMg,
  airflowOfVolts,
  airPerStrokeMg,
  engineAirflowGps,
  partLoadVe,
  speedDensityGps,
} from './airflow.ts';
export { blendAfr, blendDensity, ETHANOL, ethanolTrimPct, PETROL, pressureTrimPct } from './fuel.ts';
