// Air
export { absoluteLoad, engineAirflowGps, partLoadVe, speedDensityGps } from './airflow.ts';
// Fuel
export { blendAfr, blendDensity, ETHANOL, ethanolTrimPct, PETROL, pressureTrimPct } from './fuel.ts';
